"""One's own eye."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from eyot_core.exercises.reliability import LEAST_ANSWERS

from eyot.collection.middleware import CollectionRequest
from eyot.practice.eye import give_back, own_eye, take_over
from eyot.shared.refusal import Refused, refusals_on


def eye_page(request: CollectionRequest, refused: Refused | None = None, **look: object) -> HttpResponse:
    """How well one sees, and what one's looks are worth."""
    context = {
        "eye": own_eye(request.collection, request.member),
        "least": LEAST_ANSWERS,
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
