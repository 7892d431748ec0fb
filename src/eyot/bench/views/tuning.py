"""Own proven animals tune how strongly looks tell: shown before and after, taken over by the keeper, taken back at will."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from eyot_core.identify.tuning import LEAST_HATCHLINGS

from eyot.bench.tuning import MOST_CLUTCHES, give_back, take_over, tuning_rows
from eyot.collection.middleware import CollectionRequest
from eyot.shared.refusal import refusals_on


def tuning_page(request: CollectionRequest, *, refused: str = "", **look: object) -> HttpResponse:
    """What proven animals say of each look."""
    context = {
        "rows": tuning_rows(request.collection),
        "least": LEAST_HATCHLINGS,
        "most_clutches": MOST_CLUTCHES,
        "refused": refused,
        "here": "season",
    }
    return render(request, "bench/tuning.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(tuning_page)
def change(request: CollectionRequest, trait: str) -> HttpResponse:
    """One look counts as proven animals say, or as in the catalogue again."""
    if request.POST.get("use") == "catalogue":
        give_back(request.collection, trait)
    else:
        take_over(request.collection, request.member, trait)
    return redirect("tuning")
