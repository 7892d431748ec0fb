"""What needs doing today, as sentences with one action each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from django.urls import reverse

from eyot_core.hatchery.days import BLUE_AFTER_DAYS, expected_days

from eyot.season.models import Clutch, Egg


@dataclass(frozen=True)
class Task:
    """One thing to do: what, where and why, and the link that leads there."""

    title: str
    why: str
    action: str
    url: str


def tasks_of(clutches: Sequence[Clutch], today: date, open_calls: dict[int, int]) -> list[Task]:
    """The tasks of today over all clutches that are not closed. ``open_calls``: by clutch."""
    found = []
    for clutch in clutches:
        if clutch.closed_on is None:
            found += _tasks_of_clutch(clutch, today, open_calls.get(clutch.pk, 0))
    return found


def _tasks_of_clutch(clutch: Clutch, today: date, open_calls: int) -> list[Task]:
    page = reverse("clutch", args=[clutch.code])
    eggs = list(clutch.eggs.all())
    shut = [egg for egg in eggs if egg.is_shut]
    if clutch.laid_on is None:
        return [
            Task(
                f"Look in on {clutch.dam.name}",
                f"{clutch.code} · locked {clutch.matings.count()} times, not laid yet",
                "Open",
                page,
            )
        ]
    if clutch.cut_on and shut:
        numbers = _listed([egg.number for egg in shut])
        return [
            Task(
                f"Cut {numbers}",
                f"{clutch.code} · {len(shut)} still shut; leave an egg shut if in doubt",
                "Open the clutch",
                page,
            )
        ]
    if not clutch.cut_on and any(egg.state == Egg.State.SHUT for egg in eggs):
        due = expected_days(clutch.laid_on).due_from
        if today < due:
            return [
                Task(
                    f"Leave {clutch.code} alone",
                    f"due from {due.day} {due:%B}, in {(due - today).days} days",
                    "Open",
                    page,
                )
            ]
        return [Task(f"Look for a first pip in {clutch.code}", "the first eggs are due", "Open", page)]
    if clutch.out_on and not clutch.shed_on and (today - clutch.out_on).days >= BLUE_AFTER_DAYS - 1:
        shed = expected_days(clutch.laid_on, out_on=clutch.out_on, today=today).shed_on
        return [
            Task(
                f"Leave {clutch.code} alone",
                f"in the blue: colours are not to be trusted before about {shed.day} {shed:%B}",
                "Open",
                page,
            )
        ]
    if open_calls:
        return [
            Task(
                f"Call {open_calls} hatchling{'s' if open_calls > 1 else ''} of {clutch.code}",
                "after the first shed: the moment for the call",
                "Open",
                page,
            )
        ]
    return []


def _listed(numbers: list[int]) -> str:
    if len(numbers) == 1:
        return f"egg {numbers[0]}"
    return f"eggs {', '.join(map(str, numbers[:-1]))} and {numbers[-1]}"
