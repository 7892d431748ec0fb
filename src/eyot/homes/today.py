"""What homes add to what needs doing today."""

from __future__ import annotations

from datetime import date

from django.urls import reverse

from eyot.collection.models import Collection
from eyot.homes.buyers import waiting_for
from eyot.homes.models import Fate
from eyot.homes.standing import Kept, kept_here
from eyot.season.today import Task
from eyot.shared.units import short_day, spelled_day

NAMED = 4


def tasks_of_homes(collection: Collection, today: date) -> list[Task]:
    """What was asked for, what is ready to go, what is reserved no longer, and where old words stand."""
    rows = kept_here(collection)
    homes = reverse("homes")
    tasks = [
        Task(
            f"{asked.name} asks for {asked.egg.code}",
            f"on {asked.page.title}, {short_day(asked.asked_at)}; answer to {asked.answer_to}",
            "Answer",
            f"{_of(asked.egg.clutch.code, asked.egg.number)}#asked",
        )
        for asked in waiting_for(collection)
    ]
    for row in rows:
        fate = row.fate
        if fate and fate.state == Fate.State.RESERVED and fate.until and fate.until < today and row.is_here:
            why = f"for {fate.who}, until {spelled_day(fate.until)}"
            tasks.append(Task(f"{row.name} is reserved no longer", why, "Decide", home_of(row), late=True))
    if ready := [row for row in rows if row.is_here and row.is_ready and row.state == Fate.State.OPEN]:
        tasks.append(
            Task(f"{_named(ready)} ready to go", "by your own rule; not decided yet", "Decide", f"{homes}?state=ready")
        )
    if old := [row for row in rows if row.outdated]:
        kinds = sorted({one.get_kind_display() for row in old for one in row.outdated})
        tasks.append(
            Task(
                f"Old words stand on {_named(old)}",
                f"the call has changed since: {', '.join(kinds)}",
                "Look",
                home_of(old[0]) if len(old) == 1 else f"{homes}?sort=label",
                late=True,
            )
        )
    return tasks


def home_of(row: Kept) -> str:
    """The address of one hatchling's page."""
    return _of(row.egg.clutch.code, row.egg.number)


def _of(code: str, number: int) -> str:
    return reverse("home", args=[code, number])


def _named(rows: list[Kept]) -> str:
    names = ", ".join(row.name for row in rows[:NAMED])
    return f"{names} and {len(rows) - NAMED} more" if len(rows) > NAMED else names
