"""The line-up's page, its pictures, and looks ticked for several siblings at once."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations
from uuid import uuid4

from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import conditional_page, require_POST

from eyot_core.catalogue import Catalogue

from eyot.bench.actions import Answer, Refused, record_look
from eyot.bench.judgement import ClutchJudgement, plain, trait_words
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.lineup import pictures
from eyot.lineup.rows import (
    GENE,
    MEASURED,
    Axis,
    Row,
    apart,
    axis_of,
    drawings_from,
    others_from,
    placed,
    rows_of,
    sorted_rows,
)
from eyot.photos.models import Photo
from eyot.photos.queries import latest_strips, progress_of
from eyot.season.models import Clutch, Egg, Stage
from eyot.season.queries import clutch_of

MOST_ADDED = 6
CANDIDATES = 12


@dataclass(frozen=True)
class Asked:
    """What an address asks for: how the line-up stands."""

    stage: str
    sort: str
    shown_as: str
    others: tuple[str, ...]
    drawings: tuple[str, ...]
    order: tuple[str, ...]


@dataclass(frozen=True)
class LineUp:
    """A line-up as it stands: its rows in order, its axis, and what it was made from."""

    clutch: Clutch
    asked: Asked
    judgement: ClutchJudgement
    catalogue: Catalogue
    rows: list[Row]
    axis: Axis

    @property
    def genes(self) -> list[tuple[str, str]]:
        """The genes that can be sorted by, with their names."""
        found = [gene for gene, form, _ in self.judgement.forms() if form == "shown"]
        return [(f"{GENE}{gene}", self.judgement.naming.gene(gene)) for gene in dict.fromkeys(found)]


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


def _line_up(request: CollectionRequest, code: str) -> LineUp:
    clutch, asked = clutch_of(request.collection, code), _asked(request)
    judgement, catalogue = judged(clutch), catalogue_of(request.collection)
    genes = {gene for gene, _, _ in judgement.forms()}
    known = {measure.id for measure in MEASURED} | {f"{GENE}{gene}" for gene in genes}
    sort = asked.sort if asked.sort in known else "lightness"
    rows = rows_of(judgement, filmstrip(judgement, clutch), latest_strips(clutch, asked.stage), sort)
    rows = sorted_rows([*rows, *others_from(request.collection, list(asked.others), sort)])
    axis = axis_of(sort, rows, judgement.naming.gene(sort.removeprefix(GENE)) if sort.startswith(GENE) else "")
    drawn = drawings_from(catalogue, list(asked.drawings))
    rows = placed(_between(rows, drawn, list(asked.order)), list(asked.order))
    return LineUp(clutch, asked, judgement, catalogue, rows, axis)


def _between(rows: list[Row], drawn: list[Row], order: list[str]) -> list[Row]:
    """Drawings that no order places stand below the second row, where they can be dragged from."""
    loose = [row for row in drawn if row.id not in order]
    return [*rows[:2], *loose, *rows[2:], *(row for row in drawn if row.id in order)]


def page(request: CollectionRequest, code: str) -> HttpResponse:
    """The line-up of a clutch."""
    found = _line_up(request, code)
    photos = list(Photo.objects.filter(egg__clutch=found.clutch))
    context = {
        "found": found,
        "clutch": found.clutch,
        "asked": found.asked,
        "rows": found.rows,
        "axis": found.axis,
        "pairs": _pairs(found.rows),
        "measures": MEASURED,
        "stages": [stage for stage in Stage.choices if any(photo.stage == stage[0] for photo in photos)],
        "progress": progress_of(photos),
        "choices": _drawable(found),
        "older": _older(request, found.clutch),
        "traits": [(trait, trait_words(trait)["name"]) for trait in found.catalogue.traits],
        "query": request.GET.urlencode(),
        "troubles": request.session.pop("photo_troubles", []),
        "told": request.session.pop("line_up_told", ""),
    }
    return render(request, "lineup/page.html", context)


def _pairs(rows: list[Row]) -> list[tuple[str, str]]:
    """How far the mean colours of every two animals lie apart, for the page that lays one over the other."""
    found = []
    for first, second in permutations([row for row in rows if row.lab], 2):
        difference = apart(first, second)
        found.append((f"{first.id} {second.id}", f"mean colours differ by {difference:.1f} (CIEDE2000)"))
    return found


def _drawable(found: LineUp) -> list[tuple[str, str]]:
    """Key and name of the combinations that can come, the likeliest first."""
    named = []
    for row in found.judgement.what_can_come(CANDIDATES):
        key = ".".join(sorted(allele for alleles in row.genotype.values() for allele in alleles)) or "normal"
        named.append((key, found.judgement.naming.label(row.genotype)))
    return named


def _older(request: CollectionRequest, clutch: Clutch) -> list[tuple[str, str]]:
    """Hatchlings of other clutches that have a strip."""
    photos = Photo.objects.filter(
        egg__clutch__collection=request.collection, kind=Photo.Kind.BACK, strip_done__gt=0, trouble=""
    ).exclude(egg__clutch=clutch)
    eggs = Egg.objects.filter(photos__in=photos).select_related("clutch").distinct().order_by("clutch__code", "number")
    return [(f"{egg.clutch.code}.{egg.number}", f"{egg.clutch.code} egg {egg.number}") for egg in eggs]


def picture(request: CollectionRequest, code: str) -> HttpResponse:
    """The line-up as it stands, as one picture to save."""
    found = _line_up(request, code)
    title = f"{request.collection.name}: line-up of {found.clutch.code}, by {found.axis.name}"
    png = pictures.one_picture(found.catalogue, found.rows, found.axis, title, found.asked.stage or "shed")
    headers = {"Content-Disposition": f'attachment; filename="{found.clutch.code}-line-up.png"'}
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
    found = progress_of(list(Photo.objects.filter(egg__clutch=clutch)))
    if not found.is_under_way:
        return HttpResponse(headers={"HX-Refresh": "true"})
    return render(request, "lineup/parts/progress.html", {"clutch": clutch, "progress": found})


def levels(request: CollectionRequest, code: str) -> HttpResponse:
    """The answers to one look, to be ticked for several."""
    clutch_of(request.collection, code)
    trait = request.GET.get("trait", "")
    known = catalogue_of(request.collection).traits
    found = [(level.id, plain(level.id)) for level in known[trait].levels] if trait in known else []
    return render(request, "lineup/parts/levels.html", {"trait": trait, "levels": found})


@require_POST
def tick(request: CollectionRequest, code: str) -> HttpResponse:
    """One look answered alike for several siblings: for all of them, or for none where one is refused."""
    clutch = clutch_of(request.collection, code)
    given, now = request.POST, timezone.now()
    numbers = {int(name[1:]) for name in given.getlist("row") if name.startswith("e") and name[1:].isdigit()}
    eggs = list(clutch.eggs.filter(number__in=numbers))
    trait, level = given.get("trait", ""), given.get("level", "")
    try:
        with transaction.atomic():
            for egg in eggs:
                key = uuid4()
                answer = Answer(trait, level, given.get("stage") or egg.stage, given.get("confidence", "sure"), key)
                record_look(egg, request.user, answer, now)  # type: ignore[arg-type]
    except Refused as reason:
        request.session["photo_troubles"] = [str(reason)]
    else:
        request.session["line_up_told"] = _told(eggs, trait, level)
    return redirect(f"{request.path.removesuffix('tick/')}?{given.get('query', '')}")


def _told(eggs: list[Egg], trait: str, level: str) -> str:
    if not eggs:
        return "Pick at least one hatchling of this clutch first; nothing was changed."
    numbers = ", ".join(str(egg.number) for egg in eggs)
    return f"{trait_words(trait)['name']}: {plain(level)}, noted for {numbers}."
