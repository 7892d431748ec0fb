"""A hatchling's life on one line of days: weights, meals taken and refused, sheds, troubles, and what was decided."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from django.utils import timezone

from eyot.homes.models import Fate
from eyot.homes.standing import Kept
from eyot.season.models import EggEvent
from eyot.shared.scales import Scale, path_through
from eyot.shared.units import long_day, short_day

WIDTH, HEIGHT, LEFT = 620, 170, 48
ROWS = {"taken": 106, "refused": 106, "shed": 128, "told": 150}
KINDS = {
    EggEvent.Kind.MEAL: "taken",
    EggEvent.Kind.REFUSED: "refused",
    EggEvent.Kind.SHED: "shed",
    EggEvent.Kind.AILING: "told",
    EggEvent.Kind.WELL: "told",
}


@dataclass(frozen=True)
class Moment:
    """Something that happened. ``kind``: taken, refused, shed, weight or told; ``x``, ``y``: its place in the drawing."""

    on: date
    kind: str
    words: str
    x: int = 0
    y: int = 0


@dataclass(frozen=True)
class Line:
    """All moments, the newest first; the weights as a path; the ends of the scales."""

    moments: list[Moment]
    path: str
    grams: list[tuple[int, str]]
    days: list[tuple[int, str]]
    width: int = WIDTH
    height: int = HEIGHT


def line_of(row: Kept) -> Line | None:
    """The life of one hatchling as far as it is kept; None where nothing is."""
    told = _told(row)
    weights = sorted((one for one in row.egg.weighings.all()), key=lambda one: (one.on, one.pk))
    days = [one.on for one in weights] + [on for on, _, _ in told]
    if not days:
        return None
    last = max(*days, timezone.localdate()) if row.is_here else max(days)
    x = Scale(min(days), last, LEFT, WIDTH - 12)
    low, high = (min(one.grams for one in weights), max(one.grams for one in weights)) if weights else (0.0, 1.0)
    y = Scale(low, high if high > low else low + 10, 84, 14)
    moments = [Moment(on, kind, words, x(on), ROWS[kind]) for on, kind, words in told]
    moments += [Moment(one.on, "weight", f"{one.grams:g} g", x(one.on), y(one.grams)) for one in weights]
    ends = sorted({min(days), last})
    return Line(
        sorted(moments, key=lambda one: one.on, reverse=True),
        path_through([(x(one.on), y(one.grams)) for one in weights]) if len(weights) > 1 else "",
        [(y(grams), f"{grams:g} g") for grams in dict.fromkeys((low, high))] if weights else [],
        [(x(day), short_day(day)) for day in ends],
    )


def _told(row: Kept) -> list[tuple[date, str, str]]:
    told = []
    for event in row.egg.events.all():
        if event.kind in KINDS:
            told.append((event.on, KINDS[EggEvent.Kind(event.kind)], event.words))
    if row.egg.shed_on:
        told.append((row.egg.shed_on, "shed", "first shed"))
    for fate in row.egg.fates.all():
        who = f" for {fate.who}" if fate.state == Fate.State.RESERVED and fate.who else ""
        told.append((fate.on, "told", f"{fate.get_state_display()}{who} ({long_day(fate.on)})"))
    return told
