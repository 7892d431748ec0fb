"""An animal's photos, its place on the table, and whom it turns out to be."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.animals.forms import AnimalPhotosForm, ParentsForm, SameAsForm
from eyot.animals.individuals import individual_of, merge, photograph
from eyot.animals.parent_actions import name_parents
from eyot.animals.queries import animal_of, hatchling_named
from eyot.animals.views.pages import animal as animal_page
from eyot.collection.middleware import CollectionRequest
from eyot.shared.forms import entered
from eyot.shared.refusal import refusals_on


@require_POST
@refusals_on(animal_page)
def photos(request: CollectionRequest, number: int) -> HttpResponse:
    """Pictures of an animal are added; what can't be taken is told by name, the others are kept."""
    one, given = animal_of(request.collection, number), entered(request, AnimalPhotosForm)
    files = request.FILES.getlist("photos")
    troubles = photograph(one, request.member, files, given["stage"], given["kind"], given["on"], timezone.now())
    for trouble in troubles:
        messages.error(request, trouble)
    return redirect("animal", one.pk)


@require_POST
@refusals_on(animal_page)
def parents(request: CollectionRequest, number: int) -> HttpResponse:
    """The parents of an animal that did not hatch here are entered."""
    one, given = animal_of(request.collection, number), entered(request, ParentsForm)
    name_parents(one, request.member, given["dam"], given["sire"], timezone.now())
    return redirect("animal", one.pk)


@require_POST
def to_table(request: CollectionRequest, number: int) -> HttpResponse:
    """An animal is put on the table, or back on it."""
    egg = individual_of(animal_of(request.collection, number))
    return redirect("bench", egg.clutch.code, egg.number)


@require_POST
@refusals_on(animal_page)
def same_as(request: CollectionRequest, number: int) -> HttpResponse:
    """An animal turns out to be a hatchling of the record."""
    one = animal_of(request.collection, number)
    egg = hatchling_named(request.collection, entered(request, SameAsForm)["hatchling"])
    merge(one, egg, request.member, timezone.now())
    return redirect("animal", one.pk)
