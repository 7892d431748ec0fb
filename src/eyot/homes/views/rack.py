"""A whole rack fed at once, by thumb."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.homes.actions import feed
from eyot.homes.forms import FeedingForm
from eyot.homes.standing import Kept, kept_here
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

TOOK, REFUSED = "took", "refused"


def rack_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """All that are here, each with when it last ate; what was tapped stays where something was refused."""
    rows = _rows(request)
    tapped = {row.egg.pk: request.POST.get(f"egg-{row.egg.pk}", "") for row in rows}
    context = {
        "rows": [(row, tapped[row.egg.pk], max(row.meals, key=lambda meal: meal.on, default=None)) for row in rows],
        "form": as_sent(refused, FeedingForm),
        "refused": refused,
        "here": "homes",
    }
    return render(request, "homes/rack.html", context, status=422 if refused else 200)


def _rows(request: CollectionRequest) -> list[Kept]:
    """All that are here, those that hatched elsewhere last."""
    return sorted(kept_here(request.collection), key=lambda row: row.egg.clutch.elsewhere)


@require_POST
@refusals_on(rack_page)
def fed(request: CollectionRequest) -> HttpResponse:
    """Who took the meal and who refused it."""
    values = entered(request, FeedingForm)
    rows = _rows(request)
    said = {row.egg: request.POST.get(f"egg-{row.egg.pk}", "") for row in rows}
    took = {egg: answer == TOOK for egg, answer in said.items() if answer in (TOOK, REFUSED)}
    feed(request.collection, request.member, took, values["what"], values["on"], timezone.now())
    messages.success(request, f"Kept: {sum(took.values())} took it, {len(took) - sum(took.values())} refused.")
    return redirect("rack")
