"""Incubators' logs: mean, gaps, and stretches that were too hot or too cold.

Source: common practice at 31 to 32 °C; hotter risks kinks and deaths, cooler is longer (see :mod:`eyot_core.hatchery.days`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

HOT_C, COLD_C = 33.0, 29.5
GAP = timedelta(hours=3)
POSSIBLE_C = (5.0, 50.0)
Reading = tuple[datetime, float]


@dataclass(frozen=True)
class Stretch:
    """A stretch of a log that wants a look. ``kind``: gap, hot or cold; ``worst``: the extreme in °C, ``None`` for a gap."""

    kind: str
    start: datetime
    end: datetime
    worst: float | None


@dataclass(frozen=True)
class LogRead:
    """What a log says. ``mean``: over time, in °C, each reading counting until the next but never across a gap; ``hours``: covered."""

    mean: float | None
    hours: float
    stretches: tuple[Stretch, ...]


def log_read(readings: Sequence[Reading]) -> LogRead:
    """Reads a log in order of time. Readings further apart than three hours leave a gap."""
    total, weight, stretches = 0.0, 0.0, []
    for (at, celsius), (following, next_celsius) in pairwise(readings):
        span = following - at
        if span > GAP:
            stretches.append(Stretch("gap", at, following, None))
        else:
            hours = span.total_seconds() / 3600
            total += hours * (celsius + next_celsius) / 2
            weight += hours
    stretches += _stretches(readings, "hot", lambda celsius: celsius > HOT_C, max)
    stretches += _stretches(readings, "cold", lambda celsius: celsius < COLD_C, min)
    return LogRead(total / weight if weight else None, weight, tuple(sorted(stretches, key=lambda one: one.start)))


def _stretches(
    readings: Sequence[Reading], kind: str, out: Callable[[float], bool], worst: Callable[[Iterable[float]], float]
) -> list[Stretch]:
    """Runs of readings that lie out of bounds, not joined across a gap."""
    stretches: list[list[Reading]] = []
    last: datetime | None = None
    for at, celsius in readings:
        if out(celsius):
            if last is None or at - last > GAP:
                stretches.append([])
            stretches[-1].append((at, celsius))
            last = at
        else:
            last = None
    return [Stretch(kind, run[0][0], run[-1][0], worst(c for _, c in run)) for run in stretches]
