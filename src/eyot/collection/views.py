"""Pages on the animals."""

from django.http import HttpResponse
from django.shortcuts import render

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.queries import animals_of


def animals(request: CollectionRequest) -> HttpResponse:
    """Who is here."""
    naming = Naming(catalogue_of(request.collection))
    context = {"animals": animals_of(request.collection), "naming": naming, "here": "animals"}
    return render(request, "collection/animals.html", context)
