"""The days of a clutch as one line, in drawing units."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from eyot.season.models import Clutch
from eyot.season.queries import expected_of
from eyot.shared.scales import Scale

DAYS_WIDTH, DAYS_LEFT = 1150, 40
DAYS_AFTER_SHED = 30
DAY_NAME_WIDTH, DAY_NAME_Y, DAY_NAME_DROP = 56, 24, 32


@dataclass(frozen=True)
class DayMark:
    """A day of the clutch on its line."""

    x: int
    name: str
    on: date
    ahead: bool
    name_y: int


@dataclass(frozen=True)
class DayLine:
    """The days of a clutch as one line."""

    marks: list[DayMark]
    due: tuple[int, int]
    today: int
    day: int
    ticks: list[tuple[int, int]]
    is_over: bool


def day_line(clutch: Clutch, today: date) -> DayLine | None:
    """The line of days, from the laying to some days past the shed; ``None`` before the laying."""
    if clutch.laid_on is None:
        return None
    laid = clutch.laid_on
    expected = expected_of(clutch, today)
    shed = clutch.shed_on or expected.shed_on
    last = max(shed, min(today, shed + timedelta(days=DAYS_AFTER_SHED)))
    span = (last - laid).days + 5
    place = Scale(laid, laid + timedelta(days=span), DAYS_LEFT, DAYS_WIDTH - DAYS_LEFT)
    known = [("laid", laid, False)]
    known += [("cut", clutch.cut_on, False)] if clutch.cut_on else []
    known += [
        ("out", clutch.out_on or expected.out_on, clutch.out_on is None),
        ("blue", expected.blue_on, expected.blue_on > today),
    ]
    known += [("shed", clutch.shed_on or expected.shed_on, clutch.shed_on is None)]
    marks: list[DayMark] = []
    for name, day, ahead in known:
        crowded = bool(marks) and place(day) - marks[-1].x < DAY_NAME_WIDTH and marks[-1].name_y == DAY_NAME_Y
        marks.append(DayMark(place(day), name, day, ahead, DAY_NAME_Y + (DAY_NAME_DROP if crowded else 0)))
    ticks = [(place(laid + timedelta(days=days)), days) for days in range(10, min(span, 55), 10)]
    due = (place(expected.due_from), place(expected.due_to))
    return DayLine(marks, due, place(min(today, last)), (today - laid).days, ticks, is_over=today > last)
