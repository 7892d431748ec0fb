"""Weights over days as a small plot, in drawing units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eyot.season.models import Weighing
from eyot.shared.scales import Scale, path_through
from eyot.shared.units import long_day, short_day

WIDTH, HEIGHT, LEFT = 560, 150, 52


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
