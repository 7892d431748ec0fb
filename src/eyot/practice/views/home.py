"""Where practice begins, and a member's own exercises."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone

from eyot.collection.middleware import CollectionRequest
from eyot.practice.forms import BeginForm, RaceForm
from eyot.practice.models import Exercise
from eyot.practice.own import next_own
from eyot.practice.pairs import due
from eyot.shared.forms import as_sent
from eyot.shared.refusal import Refused


def practice_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """What can be practised, and what was left open."""
    now = timezone.now()
    own = Exercise.objects.filter(collection=request.collection, member_id=request.member.pk)
    context = {
        "form": as_sent(refused, BeginForm),
        "race_form": as_sent(refused, RaceForm),
        "open": own.filter(said__isnull=True, race=None).order_by("-pk").first(),
        "answered": own.filter(said__isnull=False).count(),
        "due": len(due(request.collection, request.member, now)),
        "has_own": next_own(request.collection, request.member) is not None,
        "refused": refused,
        "here": "practice",
    }
    return render(request, "practice/practice.html", context, status=422 if refused else 200)


def exercise_of(request: CollectionRequest, number: int) -> Exercise:
    """A member's own exercise."""
    rows = Exercise.objects.select_related("animal", "egg__clutch", "collection", "race")
    return get_object_or_404(rows, pk=number, collection=request.collection, member_id=request.member.pk)
