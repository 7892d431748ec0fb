"""One's own eye."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.exercises.reliability import LEAST_ANSWERS

from eyot.collection.middleware import CollectionRequest
from eyot.practice.answering import wish
from eyot.practice.eye import give_back, give_back_word, own_eye, take_over, take_over_word, wish_of
from eyot.practice.pairs import due
from eyot.season.today import Task
from eyot.shared.refusal import Refused, refusals_on


def eye_page(request: CollectionRequest, refused: Refused | None = None, **look: object) -> HttpResponse:
    """How well one sees, and what one's looks are worth."""
    context = {
        "eye": own_eye(request.collection, request.member),
        "least": LEAST_ANSWERS,
        "wish": wish_of(request.collection, request.member),
        "refused": refused,
        "here": "practice",
    }
    return render(request, "practice/eye.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(eye_page)
def change(request: CollectionRequest, look: str, stage: str) -> HttpResponse:
    """One look at one stage counts as it was measured, or as in the catalogue again."""
    if request.POST.get("use") == "catalogue":
        give_back(request.collection, look, stage)
    else:
        take_over(request.collection, request.member, look, stage)
    return redirect("own-eye")


@require_POST
@refusals_on(eye_page)
def change_word(request: CollectionRequest, word: str) -> HttpResponse:
    """A word counts as it was measured, or as usual again."""
    if request.POST.get("use") == "catalogue":
        give_back_word(request.collection, word)
    else:
        take_over_word(request.collection, request.member, word)
    return redirect("own-eye")


@require_POST
def wished(request: CollectionRequest) -> HttpResponse:
    """What somebody wants of practice."""
    on_today, shares = (name in request.POST for name in ("on_today", "shares"))
    wish(request.collection, request.member, on_today=on_today, shares=shares)
    return redirect("own-eye")


def today(request: CollectionRequest) -> HttpResponse:
    """The pairs that are due, for those who want it told."""
    tasks = []
    if wish_of(request.collection, request.member).on_today:
        count = len(due(request.collection, request.member, timezone.now()))
        if count:
            words = f"{count} pair{'' if count == 1 else 's'} of look-alikes due"
            tasks.append(Task(words, "ten minutes of practice", "Practise", reverse("practice")))
    return render(request, "homes/parts/today.html", {"tasks": tasks})
