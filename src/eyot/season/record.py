"""What a clutch's record shows, worked out before the template."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db.models import Max
from django.utils import timezone

from eyot_core.hatchery.days import DUE_FROM_DAY, DUE_TO_DAY
from eyot_core.hatchery.rounds import next_round, rhythm_from
from eyot_core.hatchery.temperatures import COLD_C, HOT_C, LogRead, Stretch, log_read

from eyot.collection.history import subject_of
from eyot.collection.models import Collection, Opening
from eyot.season.clutch_actions import SIGNS
from eyot.season.models import Clutch, Egg, Weighing
from eyot.season.queries import expected_of, readings_of
from eyot.shared.scales import Scale, path_through
from eyot.shared.units import short_day, temperature

PLOT_WIDTH, PLOT_HEIGHT, PLOT_LEFT, PLOT_FOOT = 620, 170, 46, 24
LOW_C, HIGH_C = 28.0, 35.0
MOST_POINTS = 400
MOST_TOLD = 4
"""Of how many stretches that were too warm, too cold or without readings each is told."""
WAY = {"hot": "up", "cold": "down"}
GAP_DAYS = timedelta(hours=3)
Point = tuple[datetime, float]


@dataclass(frozen=True)
class Due:
    """When the clutch is to be expected, and where that comes from."""

    start: date
    end: date
    source: str


@dataclass(frozen=True)
class LogPlot:
    """An incubator's log in drawing units: one path a stretch without gaps, the gaps, and the scale."""

    paths: list[str]
    gaps: list[tuple[int, int]]
    grades: list[tuple[int, str]]
    days: list[tuple[int, str]]
    band: tuple[int, int]
    width: int = PLOT_WIDTH
    height: int = PLOT_HEIGHT


@dataclass(frozen=True)
class Log:
    """What the incubator's log says of the clutch's time in it."""

    read: LogRead
    plot: LogPlot | None
    sentences: list[str]
    simulated: bool


def record_stamp(clutch: Clutch) -> str:
    """The last change of a clutch's record, as a word that differs as soon as anybody changes something: one query."""
    changes = clutch.collection.changes.filter(subject=subject_of(clutch))
    return str(changes.aggregate(last=Max("pk"))["last"] or 0)


def log_of(clutch: Clutch, now: datetime) -> Log | None:
    """The log since the laying; ``None`` without incubator, laying or readings. One query."""
    rows = readings_of(clutch, now)
    if not rows:
        return None
    points = [(at, celsius) for at, celsius, _ in rows]
    read = log_read(points)
    return Log(read, _plot(points), _sentences(read), any(simulated for _, _, simulated in rows))


def due_of(clutch: Clutch) -> Due | None:
    """The window of hatching from the day count, and from the mean temperature where a log is there."""
    if clutch.laid_on is None:
        return None
    expected = expected_of(clutch)
    source = f"day {DUE_FROM_DAY} to {DUE_TO_DAY} after the laying, common practice at {temperature(31, 0)} to {temperature(32, 0)}"
    if clutch.mean_c is not None:
        source += f"; moved for a mean of {temperature(clutch.mean_c)} by about three days per °C, a rule of thumb"
    return Due(expected.due_from, expected.due_to, source)


def _sentences(read: LogRead) -> list[str]:
    sentences = (
        [f"Mean {temperature(read.mean)} over {read.hours / 24:.0f} days of readings."] if read.mean is not None else []
    )
    for kind, words in (
        ("gap", "without readings"),
        ("hot", f"above {temperature(HOT_C, 0)}"),
        ("cold", f"below {temperature(COLD_C)}"),
    ):
        stretches = [one for one in read.stretches if one.kind == kind]
        if stretches:
            count = f"{len(stretches)} time{'s' if len(stretches) > 1 else ''} {words}"
            count += f", the last {MOST_TOLD}" if len(stretches) > MOST_TOLD else ""
            sentences.append(f"{count}: {'; '.join(map(_stretch_words, stretches[-MOST_TOLD:]))}.")
    return sentences


def _stretch_words(stretch: Stretch) -> str:
    start = timezone.localtime(stretch.start)
    minutes = (stretch.end - stretch.start).total_seconds() / 60
    length = (
        f" for {minutes / 60:.0f} h" if minutes >= 60 else f" for {minutes:.0f} min" if minutes else ", one reading"
    )
    words = f"{short_day(start)} {start:%H:%M}{length}"
    return words if stretch.worst is None else f"{words}, {WAY[stretch.kind]} to {temperature(stretch.worst)}"


def _plot(points: Sequence[Point]) -> LogPlot | None:
    first, last = points[0][0], points[-1][0]
    if last - first < timedelta(hours=2):
        return None
    x = Scale(first, last, PLOT_LEFT, PLOT_WIDTH - 8)
    y = Scale(HIGH_C, LOW_C, 8, PLOT_HEIGHT - PLOT_FOOT, bounded=True)
    runs: list[list[Point]] = [[points[0]]]
    gaps = []
    for before, point in itertools.pairwise(points):
        if point[0] - before[0] > GAP_DAYS:
            gaps.append((x(before[0]), max(2, x(point[0]) - x(before[0]))))
            runs.append([])
        runs[-1].append(point)
    paths = [path_through([(x(at), y(celsius)) for at, celsius in _thinned(run, len(points))]) for run in runs]
    grades = [(y(celsius), temperature(celsius, 0)) for celsius in (29.0, 31.0, 33.0, 35.0)]
    days = [(x(at), short_day(timezone.localtime(at))) for at in (first, first + (last - first) / 2, last)]
    return LogPlot(paths, gaps, grades, days, (y(32.0), y(31.0) - y(32.0)))


def _thinned(run: Sequence[Point], total: int) -> list[Point]:
    """Of each few readings the one furthest from the middle of the band, so that no spike is lost."""
    step = max(1, total // MOST_POINTS)
    return [max(run[at : at + step], key=lambda point: abs(point[1] - 31.5)) for at in range(0, len(run), step)]


@dataclass(frozen=True)
class Sign:
    """A ready sign and whether it was seen."""

    id: str
    words: str
    seen: bool


def signs_of(clutch: Clutch) -> list[Sign]:
    """The checklist of ready signs; a pipped sibling is read off the eggs."""
    pipped = any(egg.is_open for egg in clutch.eggs.all())
    return [
        Sign(name, words, name in clutch.ready_signs or (name == "sibling_pipped" and pipped))
        for name, words in SIGNS.items()
    ]


def next_round_of(clutch: Clutch, collection: Collection) -> date | None:
    """The day of the next introduction by the keeper's school; ``None`` before the first and after the laying."""
    if clutch.laid_on or clutch.closed_on or clutch.ovulated_on:
        return None
    return next_round([met.introduced_on for met in clutch.rounds.all()], rhythm_from(collection.rounds_days))


def opening_words(collection: Collection, due: Due | None) -> str:
    """What the keeper's school says of opening these eggs."""
    if collection.opening == Opening.NEVER:
        return "Your way: never cut. Hatchlings open their eggs themselves."
    if collection.opening == Opening.AFTER_PIP:
        return "Your way: cut once the first has pipped."
    day = f", from {due.start - timedelta(days=collection.opening_days):%-d %B} on" if due else ""
    return f"Your way: cut all {collection.opening_days} days before the due date{day}."


@dataclass(frozen=True)
class EggRow:
    """One egg of the record: its state since when, sex, last weight, days."""

    egg: Egg
    since: date | None
    found: str
    weight: Weighing | None


def egg_rows(clutch: Clutch) -> list[EggRow]:
    """The eggs with their latest state and weight: two more queries."""
    rows = []
    for egg in clutch.eggs.prefetch_related("events", "weighings"):
        states = [event for event in egg.events.all() if event.kind == "state" and event.value == egg.state]
        weights = list(egg.weighings.all())
        rows.append(
            EggRow(
                egg,
                states[-1].on if states else None,
                states[-1].note if states else "",
                weights[-1] if weights else None,
            )
        )
    return rows


def happened(egg: Egg) -> list[tuple[date, str]]:
    """What happened to an egg or hatchling, with its days, the earliest first."""
    told = [(event.on, event.words) for event in egg.events.all()]
    told += [(on, words) for on, words in ((egg.blue_on, "in the blue"), (egg.shed_on, "first shed")) if on]
    return sorted(told, key=lambda one: one[0])
