"""Where things lie on the season's timeline: places in drawing units, worked out before the template."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

from eyot.season.models import Clutch
from eyot.season.queries import expected_of
from eyot.shared.scales import Scale
from eyot.shared.units import implausible

WIDTH, LEFT, TOP, ROW = 930, 190, 44, 92
MONTH_NAME_WIDTH = 80
MOST_DAYS = timedelta(days=3 * 366)


@dataclass(frozen=True)
class Glyph:
    """One sign: what it is, where, when, and whether it is still to come."""

    kind: str
    x: int
    on: date
    ahead: bool


@dataclass(frozen=True)
class TimelineRow:
    """One clutch on the timeline."""

    clutch: Clutch
    y: int
    start: int
    now: int
    end: int
    due: tuple[int, int] | None
    glyphs: list[Glyph]
    eggs: list[tuple[int, str]] = field(default_factory=list)


@dataclass(frozen=True)
class Timeline:
    """All clutches on one scale of days."""

    rows: list[TimelineRow]
    months: list[tuple[int, str]]
    today: int
    height: int
    width: int = WIDTH


def timeline_of(clutches: Sequence[Clutch], today: date) -> Timeline:
    """The timeline of some clutches, as wide as their days."""
    shown = list(clutches)
    days = sorted([day for clutch in shown for _, day in _days_of(clutch, today)] + [today])
    middle = days[len(days) // 2] if not implausible(days[len(days) // 2]) else today
    near = [
        day for day in days if abs(day - middle) <= MOST_DAYS
    ]  # a day far off is a slip, and draws nobody's season out
    first, last = min(near) - timedelta(days=8), max(near) + timedelta(days=14)
    place = Scale(first, last, LEFT, WIDTH)
    rows = [_row(clutch, TOP + index * ROW, today, place) for index, clutch in enumerate(shown)]
    return Timeline(rows, _months(first, last, place), place(today), TOP + len(rows) * ROW)


def _days_of(clutch: Clutch, today: date) -> list[tuple[str, date]]:
    if clutch.laid_on is None:
        return [("lock", met.locked_on) for met in clutch.rounds.all() if met.locked_on] + [
            ("to be laid", today + timedelta(days=21))
        ]
    expected = expected_of(clutch, today)
    return [
        ("laid", clutch.laid_on),
        ("cut", clutch.cut_on or min(max(expected.due_from, today), expected.out_on)),
        ("out", expected.out_on),
        ("blue", expected.blue_on),
        ("shed", clutch.shed_on or expected.shed_on),
    ]


def _row(clutch: Clutch, y: int, today: date, place: Scale) -> TimelineRow:
    days = _days_of(clutch, today)
    glyphs = [
        Glyph(kind, place(day), day, day > today or (kind == "cut" and clutch.cut_on is None)) for kind, day in days
    ]
    due = None
    if clutch.laid_on:
        expected = expected_of(clutch)
        due = (place(expected.due_from), place(expected.due_to))
    middle = y + ROW // 2 + 6
    eggs = [(place(days[0][1]) + 16 * index, egg.state) for index, egg in enumerate(clutch.eggs.all())]
    return TimelineRow(clutch, middle, glyphs[0].x, min(place(today), glyphs[-1].x), glyphs[-1].x, due, glyphs, eggs)


def _months(first: date, last: date, place: Scale) -> list[tuple[int, str]]:
    months, day = [], first.replace(day=1)
    while day <= last:
        if day >= first and place(day) < WIDTH - MONTH_NAME_WIDTH:
            months.append((place(day), f"{day:%B}"))
        day = (day + timedelta(days=32)).replace(day=1)
    return months
