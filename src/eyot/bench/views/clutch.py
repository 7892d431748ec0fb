"""One clutch: the box as it lies, genes by eggs, and what the clutch says of its parents."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.bench.clutch_queries import box_of, day_line, gene_rows, heading, parents_say, recessives_say, welfare_notes
from eyot.bench.queries import candidate_of
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of

MOST_TO_COME = 6


def page(request: CollectionRequest, code: str) -> HttpResponse:
    """The clutch's page."""
    clutch = clutch_of(request.collection, code)
    today = timezone.localdate()
    judgement = judged(clutch)
    frames = filmstrip(judgement, clutch)
    context = {
        "clutch": clutch,
        "heading": heading(clutch, today),
        "frames": frames,
        "box": box_of(frames),
        "counted": len(judgement.eggs),
        "rows": gene_rows(judgement, frames),
        "parents": parents_say(judgement, clutch),
        "recessives": recessives_say(judgement),
        "days": day_line(clutch, today),
        "first_open": next((frame.egg for frame in frames if frame.egg.is_open and not frame.call), None),
        "welfare": welfare_notes(judgement),
        "to_come": []
        if frames
        else [candidate_of(row, judgement.naming) for row in judgement.what_can_come(MOST_TO_COME)],
    }
    return render(request, "bench/clutch.html", context)
