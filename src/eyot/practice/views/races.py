"""The race, on one device or two."""

from __future__ import annotations

from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.practice.forms import RaceForm
from eyot.practice.models import Race
from eyot.practice.racing import EGGS, put_next, standings
from eyot.practice.racing import begin as begin_race
from eyot.practice.solution import solution_of
from eyot.practice.views.home import practice_page
from eyot.shared.forms import entered
from eyot.shared.refusal import Refused, refusals_on


@require_POST
@refusals_on(practice_page)
def begin(request: CollectionRequest) -> HttpResponse:
    """A race begins."""
    values = entered(request, RaceForm)
    race = begin_race(request.collection, request.member, values["first"], values["second"], timezone.now())
    return redirect("race", race.pk)


def race_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """Whose turn it is on this device; the solution, once all have named the animal."""
    race = get_object_or_404(Race.objects.filter(collection=request.collection), pk=number)
    rows = list(race.exercises.select_related("animal", "collection").order_by("pk"))
    current = [row for row in rows if row.animal_id == rows[-1].animal_id]
    waiting = [row for row in current if row.said is None]
    here = next((row for row in waiting if row.member_id == request.member.pk), None)
    context = {
        "race": race,
        "eggs": EGGS,
        "egg": len({row.animal_id for row in rows}),
        "turn": here,
        "waiting": waiting,
        "standings": standings(race),
        "solutions": [] if waiting else [(row, solution_of(row)) for row in current],
        "shown": next((row for row in current if row.member_id == request.member.pk), None),
        "refused": refused,
        "here": "practice",
    }
    part = request.headers.get("HX-Target") == "race"
    page = "practice/parts/race.html" if part else "practice/race.html"
    return render(request, page, context, status=422 if refused else 200)


@require_POST
@refusals_on(race_page)
def following(request: CollectionRequest, number: int) -> HttpResponse:
    """The next egg."""
    race = get_object_or_404(Race.objects.filter(collection=request.collection), pk=number)
    with transaction.atomic():
        put_next(race, timezone.now())
    return redirect("race", number)
