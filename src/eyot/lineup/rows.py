"""The rows of a line-up: who stands in it, in which order, and where each stands on the measure it is sorted by."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from eyot_core.catalogue import Catalogue
from eyot_core.colour import difference
from eyot_core.photo.answer import measured_from
from eyot_core.photo.measures import MEASURES, Value
from eyot_core.wording.chances import percent

from eyot.bench.judgement import ClutchJudgement
from eyot.bench.siblings import Frame
from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.photos.queries import value_words
from eyot.reference.subjects import subject_of
from eyot.season.models import Egg
from eyot.shared.scales import Scale

DRAWN, OTHER, OWN = "d", "x", "e"
OTHER_NAME = re.compile(r"([A-Za-z0-9-]+)\.(\d{1,3})")
AXIS = 200
GENE = "gene:"
MEASURED = tuple(measure for measure in MEASURES if not measure.id.endswith("_lab"))


@dataclass(frozen=True)
class LineupRow:
    """One animal or one drawing. ``value`` and ``sd`` in the unit of what is sorted by; None where it can't be had, and
    ``missing`` says why. ``id``: "e3" an egg of this clutch, "xV-09.2" of another, "dmojave.pastel" a drawing."""

    id: str
    title: str
    words: str
    photo: Photo | None = None
    egg: Egg | None = None
    key: str = ""
    value: float | None = None
    sd: float = 0.0
    value_words: str = ""
    missing: str = ""
    lab: tuple[float, ...] = ()

    @property
    def spec(self) -> str:
        """The row as a pane of what stands side by side; empty where it has no photo."""
        return f"d{self.key}" if self.key else f"e{self.photo.egg_id}.{self.photo.stage}" if self.photo else ""

    @property
    def is_drawing(self) -> bool:
        """Is it a drawing, not a photo?"""
        return bool(self.key)


@dataclass(frozen=True)
class Axis:
    """The axis of the measure that a line-up is sorted by. ``low`` and ``high``: its ends, in its unit."""

    id: str
    name: str
    unit: str
    low: float
    high: float

    def x(self, value: float) -> int:
        """Where a value stands, 0 to ``AXIS``."""
        return Scale(self.low, self.high, 0, AXIS, bounded=True)(value)

    @property
    def ticks(self) -> list[tuple[int, str]]:
        """Places and words of its ends and its middle."""
        digits = 2 if self.high - self.low < 3 else 0
        return [(self.x(value), f"{value:.{digits}f}") for value in (self.low, (self.low + self.high) / 2, self.high)]


def rows_of(judgement: ClutchJudgement, frames: list[Frame], photos: list[Photo], sort: str) -> list[LineupRow]:
    """The hatchlings of a clutch, those without a strip too, not sorted yet."""
    by_egg = {photo.egg_id: photo for photo in photos}
    rows = []
    for frame in frames:
        if frame.egg.is_open:
            name, photo = f"{OWN}{frame.egg.number}", by_egg.get(frame.egg.pk)
            row = _row(name, str(frame.egg.number), frame.words, frame.egg, photo, sort)
            rows.append(
                _by_chance(judgement, row, frame.egg, sort.removeprefix(GENE)) if sort.startswith(GENE) else row
            )
    return rows


def others_from(collection: Collection, names: list[str], sort: str) -> list[LineupRow]:
    """Chosen older animals, "V-09.2" for egg 2 of V-09, with their newest strip; unknown names are left out."""
    others = []
    for name in dict.fromkeys(names):
        read = OTHER_NAME.fullmatch(name)
        egg = (
            read
            and Egg.objects.filter(clutch__collection=collection, clutch__code=read[1], number=int(read[2]))
            .select_related("clutch", "kept_as")
            .first()
        )
        if egg:
            calls = list(egg.calls.all())
            photo = _newest_strip(egg)
            title = str(egg) if egg.clutch.elsewhere else name
            others.append(_row(f"{OTHER}{name}", title, calls[-1].label if calls else "not called", egg, photo, sort))
    return others


def _newest_strip(egg: Egg) -> Photo | None:
    photos = egg.photos.filter(kind=Photo.Kind.BACK, strip_done__gt=0, trouble="").exclude(line={})
    return photos.order_by("-taken_at").first()


def drawings_from(catalogue: Catalogue, keys: list[str]) -> list[LineupRow]:
    """Drawings of combinations, by their keys; 404 for genes that are not known."""
    subjects = [(key, subject_of(catalogue, key)) for key in dict.fromkeys(keys) if key]
    return [LineupRow(f"{DRAWN}{key}", subject.label, "drawing", key=key) for key, subject in subjects]


def _row(name: str, title: str, words: str, egg: Egg, photo: Photo | None, sort: str) -> LineupRow:
    measured = measured_from(photo.measures) if photo else {}
    measure, mean = measured.get(sort), measured.get("mean_lab")
    lab = mean.value if isinstance(mean, Value) and isinstance(mean.value, tuple) else ()
    if isinstance(measure, Value) and isinstance(measure.value, float) and isinstance(measure.sd, float):
        return LineupRow(
            name, title, words, photo, egg, "", measure.value, measure.sd, value_words(sort, measure), "", lab
        )
    reason = measure.reason if measure is not None and not isinstance(measure, Value) else "no strip yet"
    return LineupRow(name, title, words, photo, egg, missing=reason, lab=lab)


def _by_chance(judgement: ClutchJudgement, row: LineupRow, egg: Egg, gene: str) -> LineupRow:
    children = judgement.inference.posteriors[judgement.index(egg)].sums
    forms = [form for form in judgement.forms() if form[0] == gene and form[1] == "shown"]
    if not forms:
        return replace(row, value=None, missing="these parents can’t give it")
    chance = max(judgement.chance_of(children, *form) for form in forms)
    return replace(row, value=chance, value_words=percent(chance, certain=not judgement.looks[egg.pk]), missing="")


def sorted_rows(rows: list[LineupRow]) -> list[LineupRow]:
    """From high to low; what can't be had stands at the end."""
    return sorted(rows, key=lambda row: (row.value is None, -(row.value or 0.0), row.id))


def placed(rows: list[LineupRow], order: list[str]) -> list[LineupRow]:
    """Rows in a keeper's own order; those that it doesn't name stay where they stand, after those named before them."""
    if not order:
        return rows
    rank = {name: place for place, name in enumerate(order)}
    named = iter(sorted((row for row in rows if row.id in rank), key=lambda row: rank[row.id]))
    return [next(named) if row.id in rank else row for row in rows]


def axis_of(sort: str, rows: list[LineupRow], gene_name: str) -> Axis:
    """The axis that holds all values."""
    if sort.startswith(GENE):
        return Axis(sort, f"chance of {gene_name}", "", 0.0, 1.0)
    measure = next(measure for measure in MEASURED if measure.id == sort)
    values = [row.value for row in rows if row.value is not None]
    if measure.unit.startswith("share"):
        return Axis(sort, measure.name, measure.unit, 0.0, 1.0)
    low, high = min(values, default=0.0), max(values, default=1.0)
    step = 5.0 if high - low < 40 else 20.0
    low, high = step * (low // step), step * (high // step + 1)
    return Axis(sort, measure.name, measure.unit, low, high)


def apart(first: LineupRow, second: LineupRow) -> float:
    """How far the mean colours of two measured animals lie apart, CIEDE2000."""
    return float(difference(first.lab, second.lab))
