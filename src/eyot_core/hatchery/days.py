"""Expected days of a clutch, counted from the laying.

Source: common practice at 31 to 32 °C (hatching after 53 to 62 days; first shed 7 to 14 days after leaving the egg).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

DUE_FROM_DAY, DUE_TO_DAY = 53, 62
BLUE_AFTER_DAYS, SHED_AFTER_DAYS = 5, 11


@dataclass(frozen=True)
class Expected:
    """Days on which things are to be expected. ``out_on`` is the middle of the window unless it is known."""

    due_from: date
    due_to: date
    out_on: date
    blue_on: date
    shed_on: date


def expected_days(laid_on: date, out_on: date | None = None) -> Expected:
    """The days to expect of a clutch.

    >>> expected_days(date(2026, 4, 15)).due_from
    datetime.date(2026, 6, 7)
    """
    first, last = laid_on + timedelta(days=DUE_FROM_DAY), laid_on + timedelta(days=DUE_TO_DAY)
    out = out_on or laid_on + timedelta(days=(DUE_FROM_DAY + DUE_TO_DAY) // 2 + 1)
    return Expected(first, last, out, out + timedelta(days=BLUE_AFTER_DAYS), out + timedelta(days=SHED_AFTER_DAYS))
