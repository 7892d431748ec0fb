"""Incubators' logs: mean, gaps, spikes, and what the mean says of the day of hatching.

Source: common practice: 53 to 62 days at 31 to 32 °C; cooler is longer, hotter risks kinks and deaths. How much longer is a rule of
thumb: keepers report some 60 to 70 days around 29 to 30 °C, about three days for each degree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import pairwise

from eyot_core.hatchery.days import DUE_FROM_DAY, DUE_TO_DAY

USUAL_C = 31.5
DAYS_PER_DEGREE = 3.0
TRUSTED_C = (29.0, 33.0)
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
    total, weight, found = 0.0, 0.0, []
    for (at, celsius), (following, next_celsius) in pairwise(readings):
        span = following - at
        if span > GAP:
            found.append(Stretch("gap", at, following, None))
        else:
            hours = span.total_seconds() / 3600
            total += hours * (celsius + next_celsius) / 2
            weight += hours
    found += _stretches(readings, "hot", lambda celsius: celsius > HOT_C, max)
    found += _stretches(readings, "cold", lambda celsius: celsius < COLD_C, min)
    return LogRead(total / weight if weight else None, weight, tuple(sorted(found, key=lambda one: one.start)))


def _stretches(
    readings: Sequence[Reading], kind: str, out: Callable[[float], bool], worst: Callable[[Iterable[float]], float]
) -> list[Stretch]:
    """Runs of readings that lie out of bounds, not joined across a gap."""
    found: list[list[Reading]] = []
    last: datetime | None = None
    for at, celsius in readings:
        if out(celsius):
            if last is None or at - last > GAP:
                found.append([])
            found[-1].append((at, celsius))
            last = at
        else:
            last = None
    return [Stretch(kind, run[0][0], run[-1][0], worst(c for _, c in run)) for run in found]


def due_window(laid_on: date, mean: float | None) -> tuple[date, date]:
    """The window of hatching from the day count, moved by the mean temperature where one is known.

    The shift is a rule of thumb, about three days a degree, and no longer trusted outside 29 to 33 °C.

    >>> due_window(date(2026, 4, 15), None), due_window(date(2026, 4, 15), 30.5)
    ((datetime.date(2026, 6, 7), datetime.date(2026, 6, 16)), (datetime.date(2026, 6, 10), datetime.date(2026, 6, 19)))
    """
    low, high = TRUSTED_C
    shift = 0 if mean is None else round((USUAL_C - min(max(mean, low), high)) * DAYS_PER_DEGREE)
    return laid_on + timedelta(days=DUE_FROM_DAY + shift), laid_on + timedelta(days=DUE_TO_DAY + shift)
