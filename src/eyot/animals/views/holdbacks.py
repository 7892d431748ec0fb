"""A hatchling stays."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.animals.holdbacks import hold_back
from eyot.collection.middleware import CollectionRequest
from eyot.season.forms import HoldBackForm
from eyot.season.queries import clutch_of, egg_of
from eyot.season.views.egg import egg_page
from eyot.shared.forms import entered
from eyot.shared.refusal import refusals_on


@require_POST
@refusals_on(egg_page)
def held_back(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Entered as an animal."""
    egg = egg_of(clutch_of(request.collection, code), number)
    animal = hold_back(egg, request.member, entered(request, HoldBackForm)["name"], timezone.now())
    return redirect("animal", animal.pk)
