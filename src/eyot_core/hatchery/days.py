"""Expected days of a clutch, counted from the laying.

Source: common practice at 31 to 32 °C (hatching after 53 to 62 days; first shed 7 to 14 days after leaving the egg;
laying about a month after the pre-lay shed). How much
longer cooler eggs take is a rule of thumb: keepers report some 60 to 70 days around 29 to 30 °C, about three days a degree.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

DUE_FROM_DAY, DUE_TO_DAY = 53, 62
OUT_AFTER_CUT_DAYS = 2
BLUE_AFTER_DAYS, SHED_AFTER_DAYS = 5, 11
LAYING_AFTER_PRELAY_DAYS = 30
USUAL_C, DAYS_PER_DEGREE, TRUSTED_C = 31.5, 3.0, (29.0, 33.0)


@dataclass(frozen=True)
class Expected:
    """Days on which things are to be expected.

    ``due_from`` to ``due_to`` is the window of hatching. ``out_on`` is the middle of the window unless it is known.
    """

    due_from: date
    due_to: date
    out_on: date
    blue_on: date
    shed_on: date


def expected_days(
    laid_on: date,
    *,
    cut_on: date | None = None,
    out_on: date | None = None,
    today: date | None = None,
    mean_c: float | None = None,
) -> Expected:
    """The days to expect of a clutch, from what has happened so far.

    Hatchlings leave cut eggs by themselves within about two days; with ``today`` given, what is still to come never
    lies before tomorrow. ``mean_c``: the incubator's mean temperature, where it is known.

    >>> expected_days(date(2026, 4, 15)).due_from
    datetime.date(2026, 6, 7)
    >>> expected_days(date(2026, 4, 15), cut_on=date(2026, 6, 12)).out_on
    datetime.date(2026, 6, 14)
    """
    first, last = due_window(laid_on, mean_c)
    tomorrow = today + timedelta(days=1) if today else laid_on
    out = out_on or _expected_out(first, last, cut_on, tomorrow)
    shed = out + timedelta(days=SHED_AFTER_DAYS)
    return Expected(first, last, out, out + timedelta(days=BLUE_AFTER_DAYS), max(shed, tomorrow))


def _expected_out(first: date, last: date, cut_on: date | None, tomorrow: date) -> date:
    if cut_on:
        return max(cut_on + timedelta(days=OUT_AFTER_CUT_DAYS), tomorrow)
    return max(first + (last - first) // 2 + timedelta(days=1), tomorrow)


def due_window(laid_on: date, mean: float | None) -> tuple[date, date]:
    """The window of hatching from the day count, moved by the mean temperature where one is known.

    The shift is a rule of thumb, about three days a degree, and no longer trusted outside 29 to 33 °C.

    >>> due_window(date(2026, 4, 15), None), due_window(date(2026, 4, 15), 30.5)
    ((datetime.date(2026, 6, 7), datetime.date(2026, 6, 16)), (datetime.date(2026, 6, 10), datetime.date(2026, 6, 19)))
    """
    low, high = TRUSTED_C
    shift = 0 if mean is None else round((USUAL_C - min(max(mean, low), high)) * DAYS_PER_DEGREE)
    return laid_on + timedelta(days=DUE_FROM_DAY + shift), laid_on + timedelta(days=DUE_TO_DAY + shift)
