"""One clutch: the box as it lies, genes by eggs, and what the clutch says of its parents."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.bench.box import BED, box_of
from eyot.bench.clutch_queries import (
    gene_rows,
    heading,
    parents_say,
    recessives_say,
    welfare_notes,
)
from eyot.bench.day_line import day_line
from eyot.bench.fathers import fathers_of, strangers_of
from eyot.bench.judgement import ClutchJudgement
from eyot.bench.live import stamp_of
from eyot.bench.queries import candidate_of
from eyot.bench.siblings import Frame, filmstrip, judged
from eyot.collection.middleware import CollectionRequest
from eyot.season.models import Clutch
from eyot.season.queries import clutch_of, clutch_of_any

MOST_TO_COME = 6


def clutch_page(request: CollectionRequest, code: str) -> HttpResponse:
    """The clutch's page."""
    clutch = clutch_of(request.collection, code)
    today = timezone.localdate()
    stamp = stamp_of(clutch)
    judgement = judged(clutch)
    frames = filmstrip(judgement, clutch)
    context = _live(clutch, judgement, frames, stamp) | {
        "heading": heading(clutch, today),
        "frames": frames,
        "parents": parents_say(judgement, clutch),
        "recessives": recessives_say(judgement),
        "fathers": fathers_of(judgement, clutch),
        "days": day_line(clutch, today),
        "first_open": next((frame.egg for frame in frames if frame.egg.is_open and not frame.call), None),
        "welfare": welfare_notes(judgement.model.pairing, judgement.naming),
    }
    return render(request, "bench/clutch.html", context)


def live(request: CollectionRequest, code: str) -> HttpResponse:
    """Box and table anew, where anybody has changed something since the page was drawn."""
    clutch = clutch_of(request.collection, code)
    stamp = stamp_of(clutch)
    if request.GET.get("seen") == stamp:
        return HttpResponse(status=204)
    judgement = judged(clutch)
    return render(request, "bench/parts/live.html", _live(clutch, judgement, filmstrip(judgement, clutch), stamp))


def stamp(request: CollectionRequest, code: str) -> HttpResponse:
    """The stamp of everything in a clutch, for a page that watches whether it is still true."""
    return HttpResponse(stamp_of(clutch_of_any(request.collection, code)), content_type="text/plain")


def strangers(request: CollectionRequest, code: str) -> HttpResponse:
    """Hatchlings that these parents hardly can have given, or one of them; asked for after the page, since it takes a while."""
    clutch = clutch_of(request.collection, code)
    answer = strangers_of(judged(clutch), clutch, request.GET.get("egg", ""))
    return render(request, "bench/parts/strangers.html", {"strangers": answer})


def _live(clutch: Clutch, judgement: ClutchJudgement, frames: list[Frame], stamp: str) -> dict[str, object]:
    to_come = [] if frames else judgement.what_can_come(MOST_TO_COME)
    return {
        "clutch": clutch,
        "stamp": stamp,
        "frames": frames,
        "box": box_of(frames),
        "bed": " ".join(map(str, BED)),
        "counted": len(judgement.eggs),
        "rows": gene_rows(judgement, frames),
        "to_come": [candidate_of(row, judgement.naming) for row in to_come],
    }
