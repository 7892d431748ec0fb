"""The line-up's page, its pictures, and looks ticked for several siblings at once."""

from __future__ import annotations

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import conditional_page, require_POST

from eyot_core.wording.chances import percent

from eyot.bench.judgement import plain, trait_words
from eyot.bench.queries import candidate_of
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.lineup import pictures
from eyot.lineup.actions import note_for_all
from eyot.lineup.panes import MOST
from eyot.lineup.queries import Asked, differences, drawable, line_up, older_animals
from eyot.lineup.rows import MEASURED
from eyot.lineup.series import series_of
from eyot.photos.models import Photo
from eyot.photos.queries import progress_of
from eyot.season.models import Egg, Stage
from eyot.season.queries import clutch_of, egg_of
from eyot.shared.refusal import Refused

MOST_ADDED = 6


def _asked(request: CollectionRequest) -> Asked:
    given = request.GET
    stage = given.get("stage", "")
    return Asked(
        stage if stage in Stage.values else "",
        given.get("sort", "lightness"),
        "photos" if given.get("as") == "photos" else "strips",
        tuple(given.getlist("with"))[:MOST_ADDED],
        tuple(given.getlist("draw"))[:MOST_ADDED],
        tuple(filter(None, given.get("order", "").split(","))),
    )


def lineup_page(request: CollectionRequest, code: str) -> HttpResponse:
    """The line-up of a clutch."""
    lineup = line_up(request.collection, code, _asked(request))
    photos = list(Photo.objects.filter(egg__clutch=lineup.clutch))
    context = {
        "lineup": lineup,
        "clutch": lineup.clutch,
        "asked": lineup.asked,
        "rows": lineup.rows,
        "axis": lineup.axis,
        "pairs": differences(lineup.rows),
        "measures": MEASURED,
        "stages": [stage for stage in Stage.choices if any(photo.stage == stage[0] for photo in photos)],
        "progress": progress_of(photos),
        "choices": drawable(lineup),
        "older": older_animals(request.collection, lineup.clutch),
        "traits": [(trait, trait_words(trait)["name"]) for trait in lineup.catalogue.traits],
        "query": request.GET.urlencode(),
        "beside": urlencode([("pane", row.spec) for row in lineup.rows if row.spec][:MOST], doseq=True),
    }
    return render(request, "lineup/page.html", context)


def series_page(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """One animal's strips over time."""
    clutch = clutch_of(request.collection, code)
    egg, judgement = egg_of(clutch, number), judged(clutch)
    likeliest = judgement.combinations(egg, 1)[0]
    context = {
        "clutch": clutch,
        "egg": egg,
        "series": series_of(catalogue_of(request.collection), egg, likeliest.genotype),
        "expected": candidate_of(likeliest, judgement.naming),
        "chance": percent(likeliest.chance),
    }
    return render(request, "lineup/series.html", context)


def picture(request: CollectionRequest, code: str) -> HttpResponse:
    """The line-up as it stands, as one picture to save."""
    lineup = line_up(request.collection, code, _asked(request))
    title = f"{request.collection.name}: line-up of {lineup.clutch.code}, by {lineup.axis.name}"
    png = pictures.one_picture(lineup.catalogue, lineup.rows, lineup.axis, title, lineup.asked.stage or "shed")
    headers = {"Content-Disposition": f'attachment; filename="{lineup.clutch.code}-line-up.png"'}
    return HttpResponse(png, content_type="image/png", headers=headers)


@conditional_page
def drawn(request: CollectionRequest, key: str) -> HttpResponse:
    """A combination drawn in the window of a photo strip."""
    stage = request.GET.get("stage", "shed")
    png = pictures.drawn_window(catalogue_of(request.collection), key, stage if stage in Stage.values else "shed")
    return HttpResponse(png, content_type="image/png", headers={"Cache-Control": "private, no-cache"})


def progress(request: CollectionRequest, code: str) -> HttpResponse:
    """How far the photos are; when all are made, the page is asked to show itself anew."""
    clutch = clutch_of(request.collection, code)
    state = progress_of(list(Photo.objects.filter(egg__clutch=clutch)))
    if not state.is_under_way:
        return HttpResponse(headers={"HX-Refresh": "true"})
    return render(request, "lineup/parts/progress.html", {"clutch": clutch, "progress": state})


def levels(request: CollectionRequest, code: str) -> HttpResponse:
    """The answers to one look, to be ticked for several."""
    clutch_of(request.collection, code)
    trait = request.GET.get("trait", "")
    known = catalogue_of(request.collection).traits
    choices = [(level.id, plain(level.id)) for level in known[trait].levels] if trait in known else []
    return render(request, "lineup/parts/levels.html", {"trait": trait, "levels": choices})


@require_POST
def tick(request: CollectionRequest, code: str) -> HttpResponse:
    """One look answered alike for several siblings."""
    clutch, given = clutch_of(request.collection, code), request.POST
    numbers = {int(name[1:]) for name in given.getlist("row") if name.startswith("e") and name[1:].isdecimal()}
    eggs = list(clutch.eggs.filter(number__in=numbers))
    trait, level = given.get("trait", ""), given.get("level", "")
    try:
        note_for_all(eggs, request.member, trait, level, given.get("stage", ""), timezone.now())
    except Refused as reason:
        messages.error(request, str(reason))
    else:
        messages.success(request, _ticked_words(eggs, trait, level))
    return redirect(f"{reverse('line-up', args=[clutch.code])}?{given.get('query', '')}")


def _ticked_words(eggs: list[Egg], trait: str, level: str) -> str:
    if not eggs:
        return "Pick at least one hatchling of this clutch first; nothing was changed."
    numbers = ", ".join(str(egg.number) for egg in eggs)
    return f"{trait_words(trait)['name']}: {plain(level)}, noted for {numbers}."
