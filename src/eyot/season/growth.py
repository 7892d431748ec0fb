"""Growth: weights over days as a small plot, in drawing units; weights beside sizes by day."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date

from eyot.season.models import Egg, Weighing
from eyot.shared.scales import Scale, path_through
from eyot.shared.units import long_day, short_day

WIDTH, HEIGHT, LEFT = 560, 150, 52


@dataclass(frozen=True)
class Grown:
    """What was weighed and measured on one day. ``length`` and ``girth``: in words, with their uncertainty; ``shown_at``: where that can be
    seen, an address."""

    on: date
    grams: float | None = None
    by_scale: bool = False
    length: str = ""
    girth: str = ""
    shown_at: str = ""


sizes: list[Callable[[Egg], Iterable[Grown]]] = []
"""Who knows how long and thick a hatchling was; the app of photos enters itself here."""


def grown_of(weighings: Iterable[Weighing], egg: Egg | None) -> list[Grown]:
    """Weights, and of a hatchling its sizes, by day: the newest first. A weight and a size of one day stand in one row."""
    by_day = [row for source in sizes for row in source(egg)] if egg else []
    for weighing in weighings:
        row = Grown(weighing.on, weighing.grams, by_scale=weighing.source == Weighing.Source.SCALE)
        same = next((at for at, one in enumerate(by_day) if one.on == row.on and one.grams is None), None)
        if same is None:
            by_day.append(row)
        else:
            by_day[same] = replace(by_day[same], grams=row.grams, by_scale=row.by_scale)
    return sorted(by_day, key=lambda row: row.on, reverse=True)


@dataclass(frozen=True)
class Plot:
    """The line, its points with words, and the marks of the scale."""

    path: str
    points: list[tuple[int, int, str]]
    grams: list[tuple[int, int]]
    days: list[tuple[int, str]]
    width: int = WIDTH
    height: int = HEIGHT


def plot_of(weighings: Sequence[Weighing]) -> Plot | None:
    """Growth as a line; ``None`` for weights on fewer than two days."""
    rows = sorted(weighings, key=lambda row: (row.on, row.pk))
    if len({row.on for row in rows}) < 2:
        return None
    first, last = rows[0].on, rows[-1].on
    low, high = _round_span([row.grams for row in rows])
    x, y = Scale(first, last, LEFT, WIDTH - 14), Scale(low, high, HEIGHT - 26, 18)
    points = [(x(row.on), y(row.grams), f"{row.grams:g} g on {long_day(row.on)}") for row in rows]
    path = path_through([(left, top) for left, top, _ in points])
    ends = [(x(day), short_day(day) if (last - first).days < 200 else f"{day:%b %Y}") for day in (first, last)]
    return Plot(path, points, [(y(low), low), (y(high), high)], ends)


def _round_span(values: list[float]) -> tuple[int, int]:
    step = 10 if max(values) < 300 else 100
    low, high = int(min(values) // step) * step, int(-(-max(values) // step)) * step
    return (low, high) if high > low else (low, low + step)
