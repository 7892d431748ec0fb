"""The looks of one hatchling on the body: where it was looked at, where a look is still open, where none would tell anything."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eyot_core.drawing.body_map import Area, area_of, areas

from eyot.bench.judgement import trait_words
from eyot.bench.look_rows import LookRow

STEP = 15.0


@dataclass(frozen=True)
class RegionMark:
    """One look on the map: the number of its answer, or a ring while it is open. ``x``, ``y`` in drawing units."""

    x: float
    y: float
    number: int
    suggested: bool


@dataclass(frozen=True)
class MapArea:
    """One area with its looks. ``jump``: the look to go to, the first open one; empty where no look is worth asking."""

    area: Area
    marks: tuple[RegionMark, ...]
    jump: str
    words: str

    @property
    def is_labelled(self) -> bool:
        """Is it a box beside the animal, with its name in it?"""
        return self.area.id in ("whole", "signs")


def body_map(rows: Sequence[LookRow]) -> list[MapArea]:
    """The areas of the body with the looks that are put before the keeper."""
    by_area: dict[str, list[LookRow]] = {area.id: [] for area in areas()}
    for row in rows:
        by_area[area_of(trait_words(row.trait)["region"])].append(row)
    return [_area(area, by_area[area.id]) for area in areas()]


def _area(area: Area, rows: list[LookRow]) -> MapArea:
    middle, y = area.at
    first = middle - STEP * (len(rows) - 1) / 2
    marks = tuple(RegionMark(first + STEP * place, y, row.number, row.suggested) for place, row in enumerate(rows))
    open_rows = [row for row in rows if not row.number]
    jump = (open_rows or rows)[0].trait if rows else ""
    answered = len(rows) - len(open_rows)
    words = f"{answered} of {len(rows)} looked at" if rows else "no look here tells these hatchlings apart"
    return MapArea(area, marks, jump, f"{area.name.capitalize()}: {words}")
