"""The closing sheet, and its offers taken over."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.bench.closing import came_rows, offers, sheet_rows
from eyot.bench.closing_actions import take_over
from eyot.bench.clutch_queries import heading
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of
from eyot.shared.refusal import refusals_on


def closing_page(request: CollectionRequest, code: str, refused: str = "") -> HttpResponse:
    """All that came of a clutch."""
    clutch = clutch_of(request.collection, code)
    judgement = judged(clutch)
    frames = filmstrip(judgement, clutch)
    context = {
        "clutch": clutch,
        "heading": heading(clutch, timezone.localdate()),
        "rows": sheet_rows(judgement, frames),
        "came": came_rows(judgement, frames),
        "offers": offers(judgement, clutch),
        "refused": refused,
    }
    return render(request, "bench/closing.html", context, status=422 if refused else 200)


@require_POST
@refusals_on(closing_page)
def taken_over(request: CollectionRequest, code: str) -> HttpResponse:
    """An offer goes into a parent's record."""
    clutch = clutch_of(request.collection, code)
    number = request.POST.get("animal", "")
    animal_id = int(number) if number.isdecimal() else 0
    take_over(offers(judged(clutch), clutch), animal_id, request.POST.get("gene", ""), request.member, timezone.now())
    return redirect("closing", code)
