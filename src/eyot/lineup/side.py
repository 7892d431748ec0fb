"""Side by side: the page, and looks answered there and then."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.body_places import BY_ID, PLACES, place_of
from eyot_core.wording.chances import percent

from eyot.bench.actions import record_look
from eyot.bench.blind import Sight, sight_of
from eyot.bench.judgement import Judgement, trait_words
from eyot.bench.look_rows import LookRow, look_rows
from eyot.bench.siblings import judged_one
from eyot.bench.views.hatchling import answer_from, stage_of_page
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.lineup.panes import (
    MOST,
    OWN,
    choices_for,
    drawing_typed,
    first_panes,
    panes_of,
    parents_beside,
    parents_of,
    place_asked,
    unpictured_parents,
)
from eyot.season.models import Egg, Stage
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.devices import entered_at
from eyot.shared.refusal import Refused

LEAST_TOLD = 0.005


@dataclass(frozen=True)
class Placed:
    """A look with the place at which it is seen; whether the page shows it there from the start, and first of all."""

    row: LookRow
    place: str
    is_here: bool
    is_first: bool


def side_by_side(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """One animal beside others at one place on the body."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    stage = stage_of_page(request, egg)
    judgement = judged_one(clutch) if egg.is_open else None
    sight = sight_of(egg, request.member, stage)
    seen = None if sight.blind else judgement
    specs = _specs(request) or (first_panes(egg, seen) if seen else [OWN])
    beside_parents = request.GET.get("with") == "parents"
    if beside_parents:
        specs = [OWN, *parents_beside(egg)]
    eggs = [other.number for other in clutch.eggs.all() if other.is_open]
    context = _page(request, specs, egg, stage, seen) | {
        "clutch": clutch,
        "egg": egg,
        "without_parents": beside_parents and not parents_of(egg),
        "unpictured": unpictured_parents(egg) if beside_parents else [],
        "previous": max((one for one in eggs if one < number), default=None),
        "next": min((one for one in eggs if one > number), default=None),
    }
    if judgement:
        context |= _asked(judgement, egg, stage, request.member.pk, sight, context["place"], context["look"])
    return render(request, "lineup/side.html", context)


def drawings_side_by_side(request: CollectionRequest) -> HttpResponse:
    """Photos, animals and drawings beside one another, without one of them being looked at."""
    stage = request.GET.get("stage", "")
    stage = stage if stage in Stage.values else Stage.SHED
    return render(request, "lineup/side.html", _page(request, _specs(request), None, stage, None))


def _specs(request: CollectionRequest) -> list[str]:
    """The panes that the address asks for; a drawing may be typed as genes."""
    specs = [spec for spec in request.GET.getlist("pane") if spec][:MOST]
    typed = drawing_typed(request.collection, request.GET.get("genes", ""))
    return [*specs[: MOST - 1], typed] if typed and typed not in specs else specs


def _page(
    request: CollectionRequest, specs: list[str], egg: Egg | None, stage: str, judgement: Judgement | None
) -> dict[str, Any]:
    look = request.GET.get("look", "")
    known = look in catalogue_of(request.collection).traits
    place = place_asked(request.GET.get("place", ""), _place_of_look(look) if known else "")
    panes = panes_of(request.collection, specs, egg, stage)
    typed = request.GET.get("genes", "")
    return {
        "panes": [(pane, pane.at.get(place)) for pane in panes],
        "choices": choices_for(request.collection, egg, stage, judgement),
        "may_add": len(panes) < MOST,
        "places": PLACES,
        "place": place,
        "place_name": BY_ID[place].name,
        "look": look if known else "",
        "stage": stage,
        "stages": Stage.choices,
        "query": _query(request.GET, panes=[pane.spec for pane in panes]),
        "not_understood": typed if typed and not drawing_typed(request.collection, typed) else "",
    }


def _query(given: QueryDict, panes: list[str]) -> str:
    """What the next hatchling keeps: panes and stage; the place is added by the page."""
    kept = QueryDict(mutable=True)
    kept.setlist("pane", panes)
    if stage := given.get("stage"):
        kept["stage"] = str(stage)
    return kept.urlencode()


def _place_of_look(trait: str) -> str:
    return place_of(trait, trait_words(trait)["region"])


def _asked(
    judgement: Judgement, egg: Egg, stage: str, reader: int, sight: Sight, place: str = "", look: str = ""
) -> dict[str, Any]:
    """The looks with their places, and how the genes stand where the reader may see it; without a place, the page's script shows those of
    the place that it is at."""
    rows = sight.rows(look_rows(judgement, judgement.looks[egg.pk], stage, reader, "", lambda _: True))
    genes = [] if sight.blind else [line for line in judgement.genes(egg) if line.form == "shown"]
    places = [_place_of_look(row.trait) for row in rows]
    return {
        "rows": [
            Placed(row, at, not place or at == place, bool(look) and row.trait == look)
            for row, at in zip(rows, places, strict=True)
        ],
        "none_here": bool(place) and place not in places,
        "standing": [
            (judgement.naming.copies(line.gene, line.copies), percent(line.after))
            for line in genes
            if line.after > LEAST_TOLD
        ],
    }


@require_POST
def answered(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """A look is answered side by side. What a device had kept and sends later is answered without a page."""
    clutch = clutch_of_any(request.collection, code)
    egg = egg_of(clutch, number)
    refused = ""
    try:
        record_look(egg, request.member, answer_from(request), entered_at(request.POST, timezone.now()))
    except Refused as reason:
        if request.headers.get("X-Outbox") or not egg.is_open:
            return HttpResponse(str(reason), status=422, content_type="text/plain; charset=utf-8")
        refused = str(reason)
    if request.headers.get("X-Outbox"):
        return HttpResponse(status=204)
    if not request.headers.get("HX-Request"):
        return redirect(reverse("side-by-side", args=[code, number]))
    stage = stage_of_page(request, egg)
    sight = sight_of(egg, request.member, stage)
    context = _asked(judged_one(clutch_of_any(request.collection, code)), egg, stage, request.member.pk, sight)
    context |= {"refused": refused, "egg": egg}
    return render(request, "lineup/parts/asked.html", context, status=422 if refused else 200)
