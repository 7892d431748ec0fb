"""Reads of the inbox: what waits, in the runs in which it was taken; what was filed lately; how far the rest is."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from hashlib import sha256
from itertools import groupby, pairwise
from uuid import UUID

from django.db.models import Count
from django.shortcuts import get_object_or_404
from procrastinate.contrib.django.models import ProcrastinateJob

from eyot_core.photo.filing import PAUSE

from eyot.collection.models import Collection
from eyot.inbox.models import InboxPhoto
from eyot.inbox.tasks import LOOK
from eyot.photos.models import Photo
from eyot.photos.queries import UNDER_WAY
from eyot.season.models import Clutch, Egg

State = InboxPhoto.State
SHOWN = 120
"""How many photos that wait are shown at once."""
LATELY = timedelta(hours=36)


@dataclass(frozen=True)
class Run:
    """Photos that wait and were taken one after another for one reason."""

    photos: list[InboxPhoto]

    @property
    def first(self) -> InboxPhoto:
        """The first of them."""
        return self.photos[0]


@dataclass(frozen=True)
class FiledWith:
    """What was filed lately with one hatchling."""

    egg: Egg
    rows: list[InboxPhoto]

    @property
    def doubtful(self) -> list[InboxPhoto]:
        """Those whose kind is hardly more than a guess."""
        return [row for row in self.rows if row.filed_by != InboxPhoto.By.HAND and row.kind_sure < SURE_OF_KIND]


SURE_OF_KIND = 0.6


@dataclass(frozen=True)
class Inbox:
    """The inbox as it stands. ``count``: of files lately, by state; ``stuck``: photos that no job looks at any more."""

    count: Counter[str]
    waiting: int
    runs: list[Run]
    filed: list[FiledWith]
    refused: list[InboxPhoto]
    known: list[InboxPhoto]
    left_out: list[InboxPhoto]
    stuck: list[InboxPhoto]

    @property
    def total(self) -> int:
        """All files that came lately."""
        return sum(self.count.values())

    @property
    def to_look_at(self) -> int:
        """How many a worker still looks at."""
        return self.count[State.SENT] - len(self.stuck)

    @property
    def stamp(self) -> str:
        """Changes when something of it does."""
        shown = " ".join(f"{row.pk}{row.why}{row.named}" for run in self.runs for row in run.photos)
        counts = "-".join(str(self.count[state]) for state in State)
        return f"{sha256(shown.encode()).hexdigest()[:12]}-{counts}-{len(self.stuck)}"


def inbox_of(collection: Collection, now: datetime) -> Inbox:
    """The inbox of a collection: a fixed number of queries."""
    rows = InboxPhoto.objects.filter(collection=collection)
    lately = rows.filter(came_at__gte=now - LATELY)
    count = Counter(dict(lately.values_list("state").annotate(Count("pk")).order_by()))
    waits = rows.filter(state=State.WAITS).select_related("same_as", "stands_as__egg__clutch").defer("fingerprint")
    count[State.WAITS] = waits.count()
    filed = lately.filter(state=State.FILED, photo__isnull=False).select_related("photo__egg__clutch")
    others = lately.filter(state__in=(State.REFUSED, State.KNOWN, State.LEFT_OUT)).select_related(
        "same_as__photo__egg__clutch"
    )
    by_state = {state: [row for row in others if row.state == state] for state in State}
    return Inbox(
        count,
        count[State.WAITS],
        list(_runs(list(waits[:SHOWN]))),
        list(_by_egg(list(filed.defer("fingerprint", "looked")))),
        by_state[State.REFUSED],
        by_state[State.KNOWN],
        by_state[State.LEFT_OUT],
        _stuck(rows),
    )


def _runs(rows: Sequence[InboxPhoto]) -> Iterator[Run]:
    """Rows in the order taken, parted where the reason, the camera or the person changes, or a pause lies between."""
    for _, alike in groupby(
        sorted(rows, key=lambda row: (row.added_by_id, row.camera)), lambda row: (row.added_by_id, row.camera, row.why)
    ):
        run = list(alike)
        start = 0
        for place, (one, other) in enumerate(pairwise(run), 1):
            if _at(other) - _at(one) > PAUSE:
                yield Run(run[start:place])
                start = place
        yield Run(run[start:])


def _at(row: InboxPhoto) -> datetime:
    return row.taken_at or row.came_at


def _by_egg(rows: Sequence[InboxPhoto]) -> Iterator[FiledWith]:
    def egg_of(row: InboxPhoto) -> Egg:
        assert row.photo is not None
        return row.photo.egg

    ordered = sorted(rows, key=lambda row: (egg_of(row).clutch.code, egg_of(row).number, _at(row)))
    for _, own in groupby(ordered, key=lambda row: egg_of(row).pk):
        mine = list(own)
        yield FiledWith(egg_of(mine[0]), mine)


def _stuck(rows: object) -> list[InboxPhoto]:
    """Photos to be looked at for which there is no job any more: it failed several times."""
    sent = list(rows.filter(state=State.SENT).defer("fingerprint", "looked"))  # type: ignore[attr-defined]
    if not sent:
        return []
    jobs = ProcrastinateJob.objects.filter(task_name=LOOK, status__in=UNDER_WAY)
    ordered = {args.get("photo") for args in jobs.values_list("args", flat=True)}
    idle = [row.pk for row in sent if str(row.pk) not in ordered]
    return list(InboxPhoto.objects.filter(pk__in=idle, state=State.SENT).defer("fingerprint", "looked")) if idle else []


def to_file_with(collection: Collection) -> list[Clutch]:
    """The clutches whose hatchlings photos may be filed with: those that are laid and not closed, with eggs."""
    clutches = Clutch.objects.filter(collection=collection, closed_on=None, eggs__isnull=False).distinct()
    return list(clutches.prefetch_related("eggs").order_by("code"))


def proposed_clutch(inbox: Inbox, clutches: Sequence[Clutch]) -> Clutch | None:
    """Whose eggs are offered first: the clutch that a waiting photo's card names, else the one that was filed with last."""
    codes = {clutch.code: clutch for clutch in clutches}
    named = next((codes[run.first.named] for run in inbox.runs if run.first.named in codes), None)
    last = inbox.filed[-1].egg.clutch.code if inbox.filed else ""
    return named or codes.get(last) or (clutches[0] if clutches else None)


def row_of(collection: Collection, number: UUID) -> InboxPhoto:
    """One photo of this collection's inbox; 404 where it has none."""
    return get_object_or_404(InboxPhoto, pk=number, collection=collection)


def egg_chosen(collection: Collection, number: str) -> Egg | None:
    """The egg that was chosen on the page; None where nothing, or another collection's, was."""
    eggs = Egg.objects.filter(clutch__collection=collection).select_related("clutch")
    return eggs.filter(pk=int(number)).first() if number.isdecimal() and len(number) < 10 else None


def kinds() -> list[tuple[str, str]]:
    """What a photo may be said to show."""
    return list(Photo.Kind.choices)
