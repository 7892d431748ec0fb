"""What needs doing today, as sentences with one action each; what is late stands first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from django.urls import reverse

from eyot_core.hatchery.days import BLUE_AFTER_DAYS, LAYING_AFTER_PRELAY_DAYS

from eyot.collection.models import Collection, Opening
from eyot.season.models import Clutch, Egg
from eyot.season.queries import expected_of
from eyot.season.record import next_round_of
from eyot.shared.units import spelled_day

LATE_ROUND_DAYS = 2


@dataclass(frozen=True)
class Task:
    """One thing to do: what, where and why, the link that leads there, and whether it is late."""

    title: str
    why: str
    action: str
    url: str
    late: bool = False


def tasks_of(clutches: Sequence[Clutch], today: date, open_calls: dict[int, int]) -> list[Task]:
    """The tasks of today over all clutches that are not closed, the late ones first. ``open_calls``: by clutch."""
    tasks = [
        task
        for clutch in clutches
        if clutch.closed_on is None
        for task in _tasks_of_clutch(clutch, today, open_calls.get(clutch.pk, 0))
    ]
    return sorted(tasks, key=lambda task: not task.late)


def lost_photos(eggs: Sequence[Egg]) -> list[Task]:
    """What to do about eggs of which a photo's file is not there any more."""
    return [
        Task(
            f"A photo of {egg} has lost its file",
            "the picture as it was taken is not in the store; get it back from a backup, or take the photo away",
            "Open",
            reverse("bench", args=[egg.clutch.code, egg.number]),
            late=True,
        )
        for egg in eggs
    ]


def _tasks_of_clutch(clutch: Clutch, today: date, open_calls: int) -> list[Task]:
    if clutch.laid_on is None:
        return [_before_laying(clutch, today)]
    shut = [egg for egg in clutch.eggs.all() if egg.is_shut]
    page, record = reverse("clutch", args=[clutch.code]), reverse("record", args=[clutch.code])
    if shut and (clutch.cut_on or not any(egg.is_open for egg in clutch.eggs.all())):
        return [_of_shut_eggs(clutch, shut, today)]
    if clutch.out_on and not clutch.shed_on and (today - clutch.out_on).days >= BLUE_AFTER_DAYS - 1:
        shed = expected_of(clutch).shed_on
        if today > shed + timedelta(days=7):
            why = f"first shed was expected about {spelled_day(shed)}; enter it when it came"
            return [Task(f"Look for sheds in {clutch.code}", why, "Open the record", record, late=True)]
        shed = expected_of(clutch, today).shed_on
        why = f"in the blue: colours are not to be trusted before about {spelled_day(shed)}"
        return [Task(f"Leave {clutch.code} alone", why, "Open", page)]
    if open_calls and clutch.shed_on:
        hatchlings = f"{open_calls} hatchling{'s' if open_calls > 1 else ''}"
        return [
            Task(f"Call {hatchlings} of {clutch.code}", "after the first shed: the moment for the call", "Open", page)
        ]
    return []


def _before_laying(clutch: Clutch, today: date) -> Task:
    """The next round by the keeper's school, or what is waited for."""
    record = reverse("record", args=[clutch.code])
    locks = sum(met.locked_on is not None for met in clutch.rounds.all())
    so_far = f"{clutch.code} · locked {locks} times, not laid yet"
    if clutch.prelay_shed_on:
        due = clutch.prelay_shed_on + timedelta(days=LAYING_AFTER_PRELAY_DAYS)
        late = today > due + timedelta(days=10)
        return Task(
            f"Look for eggs of {clutch.own_dam.name}",
            f"{clutch.code} · laying expected about {spelled_day(due)}",
            "Open the record",
            record,
            late,
        )
    if clutch.ovulated_on:
        return Task(
            f"Look for {clutch.own_dam.name}’s pre-lay shed",
            f"{clutch.code} · ovulated {spelled_day(clutch.ovulated_on)}",
            "Open the record",
            record,
        )
    following = next_round_of(clutch, clutch.collection)
    if following and following <= today:
        sire = list(clutch.rounds.all())[-1].sire.name
        late = (today - following).days >= LATE_ROUND_DAYS
        when = f"due {spelled_day(following)}" if late else "due now, by your school"
        return Task(f"Introduce {sire} to {clutch.own_dam.name}", f"{so_far} · {when}", "Open the record", record, late)
    why = f"{so_far} · next round {spelled_day(following)}" if following else so_far
    return Task(f"Look in on {clutch.own_dam.name}", why, "Open the record", record)


def _of_shut_eggs(clutch: Clutch, shut: list[Egg], today: date) -> Task:
    """What the keeper's school of opening eggs asks for."""
    collection: Collection = clutch.collection
    expected = expected_of(clutch)
    cutting, record = reverse("cutting", args=[clutch.code]), reverse("record", args=[clutch.code])
    if clutch.cut_on and collection.opening != Opening.NEVER:
        why = f"{clutch.code} · {len(shut)} still shut; leave an egg shut if in doubt"
        return Task(f"Cut {listed([egg.number for egg in shut])}", why, "To the cutting", cutting)
    if today > expected.due_to:
        why = f"due until {spelled_day(expected.due_to)}: look for ready signs, and ask before helping"
        return Task(f"Look over the eggs of {clutch.code}", why, "Open the record", record, late=True)
    from_day = expected.due_from
    if collection.opening == Opening.BEFORE_DUE:
        from_day -= timedelta(days=collection.opening_days)
        if today >= from_day:
            return Task(
                f"Cut {clutch.code}",
                f"by your school, {collection.opening_days} days before the due date",
                "To the cutting",
                cutting,
            )
    if today < from_day:
        return Task(
            f"Leave {clutch.code} alone",
            f"due from {spelled_day(expected.due_from)}, in {(expected.due_from - today).days} days",
            "Open",
            record,
        )
    return Task(f"Look for a first pip in {clutch.code}", "the first eggs are due", "Open the record", record)


def listed(numbers: Sequence[int]) -> str:
    """Eggs by number, in words."""
    if len(numbers) == 1:
        return f"egg {numbers[0]}"
    return f"eggs {', '.join(map(str, numbers[:-1]))} and {numbers[-1]}"
