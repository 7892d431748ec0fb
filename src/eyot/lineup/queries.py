"""Reads of the line-up: how it stands, what can be laid between, who may be added."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations

from eyot_core.catalogue import Catalogue

from eyot.bench.judgement import ClutchJudgement
from eyot.bench.queries import candidate_of
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.lineup.rows import (
    GENE,
    MEASURED,
    Axis,
    LineupRow,
    apart,
    axis_of,
    drawings_from,
    others_from,
    placed,
    rows_of,
    sorted_rows,
)
from eyot.photos.models import Photo
from eyot.photos.queries import latest_strips
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutch_of

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
    rows: list[LineupRow]
    axis: Axis

    @property
    def genes(self) -> list[tuple[str, str]]:
        """The genes that can be sorted by, with their names."""
        genes = [gene for gene, form, _ in self.judgement.forms() if form == "shown"]
        return [(f"{GENE}{gene}", self.judgement.naming.gene(gene)) for gene in dict.fromkeys(genes)]


def line_up(collection: Collection, code: str, asked: Asked) -> LineUp:
    """The line-up of a clutch as an address asks for it; 404 for an unknown clutch or drawing."""
    clutch = clutch_of(collection, code)
    judgement, catalogue = judged(clutch), catalogue_of(collection)
    genes = {gene for gene, _, _ in judgement.forms()}
    known = {measure.id for measure in MEASURED} | {f"{GENE}{gene}" for gene in genes}
    sort = asked.sort if asked.sort in known else "lightness"
    rows = rows_of(judgement, filmstrip(judgement, clutch), latest_strips(clutch, asked.stage), sort)
    rows = sorted_rows([*rows, *others_from(collection, list(asked.others), sort)])
    axis = axis_of(sort, rows, judgement.naming.gene(sort.removeprefix(GENE)) if sort.startswith(GENE) else "")
    drawn = drawings_from(catalogue, list(asked.drawings))
    rows = placed(_between(rows, drawn, list(asked.order)), list(asked.order))
    return LineUp(clutch, asked, judgement, catalogue, rows, axis)


def _between(rows: list[LineupRow], drawn: list[LineupRow], order: list[str]) -> list[LineupRow]:
    """Drawings that no order places stand below the second row, where they can be dragged from."""
    loose = [row for row in drawn if row.id not in order]
    return [*rows[:2], *loose, *rows[2:], *(row for row in drawn if row.id in order)]


def differences(rows: list[LineupRow]) -> list[tuple[str, str]]:
    """How far the mean colours of every two animals lie apart, for the page that lays one over the other."""
    words = []
    for first, second in permutations([row for row in rows if row.lab], 2):
        difference = apart(first, second)
        words.append((f"{first.id} {second.id}", f"mean colours differ by {difference:.1f} (CIEDE2000)"))
    return words


def drawable(lineup: LineUp) -> list[tuple[str, str]]:
    """Key and name of the combinations that can come, the likeliest first."""
    candidates = [candidate_of(row, lineup.judgement.naming) for row in lineup.judgement.what_can_come(CANDIDATES)]
    return [(candidate.key, candidate.label) for candidate in candidates]


def older_animals(collection: Collection, clutch: Clutch) -> list[tuple[str, str]]:
    """Hatchlings of other clutches, and other animals, that have a strip."""
    photos = Photo.objects.filter(
        egg__clutch__collection=collection, kind=Photo.Kind.BACK, strip_done__gt=0, trouble=""
    ).exclude(egg__clutch=clutch)
    eggs = Egg.objects.filter(photos__in=photos).select_related("clutch", "kept_as").distinct()
    return [(f"{egg.clutch.code}.{egg.number}", str(egg)) for egg in eggs.order_by("clutch__code", "number")]
