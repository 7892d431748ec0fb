"""Pages on the animals."""

from django.http import HttpResponse
from django.shortcuts import render

from eyot.collection.middleware import CollectionRequest
from eyot.collection.queries import animals_of


def animals(request: CollectionRequest) -> HttpResponse:
    """Who is here."""
    return render(request, "collection/animals.html", {"animals": animals_of(request.collection)})
