"""A whole evening, and its solution."""

from __future__ import annotations

from statistics import mean

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest, inside
from eyot.practice.evenings import begin as begin_evening
from eyot.practice.evenings import let_shed, show, told
from eyot.practice.models import Evening
from eyot.practice.views.home import practice_page
from eyot.shared.refusal import Refused, refusals_on


@require_POST
@refusals_on(practice_page)
def begin(request: CollectionRequest) -> HttpResponse:
    """An evening begins, in a collection of its own."""
    collection = begin_evening(request.collection, request.member, timezone.now())
    return redirect(inside(collection, "evening"))


def evening_page(request: CollectionRequest, refused: Refused | None = None) -> HttpResponse:
    """What is to be done this evening; the truth, once it is asked for."""
    evening = get_object_or_404(Evening, collection=request.collection)
    rows = told(evening) if evening.shown_at else []
    points = [row.score.points for row in rows if row.score]
    context = {
        "evening": evening,
        "clutch": request.collection.clutches.get(),
        "rows": rows,
        "points": round(mean(points)) if points else None,
        "refused": refused,
        "here": "practice",
    }
    return render(request, "practice/evening.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(evening_page)
def shed(request: CollectionRequest) -> HttpResponse:
    """The second pass."""
    let_shed(get_object_or_404(Evening, collection=request.collection), timezone.now())
    return redirect("evening")


@require_POST
@refusals_on(evening_page)
def shown(request: CollectionRequest) -> HttpResponse:
    """The truth."""
    show(get_object_or_404(Evening, collection=request.collection), timezone.now())
    return redirect("evening")
