"""What becomes of last year's hatchlings in the demo: fed, shed, priced, listed, reserved, sold, one page for buyers, and a project."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from eyot.collection.models import Collection
from eyot.homes.actions import Decision, decide, write_label
from eyot.homes.buyers import ask, make_page
from eyot.homes.models import Fate
from eyot.homes.standing import Kept, all_kept
from eyot.projects.actions import begin, hold_for
from eyot.season.models import Egg, EggEvent

S = Fate.State
MEALS, APART = 7, timedelta(days=8)
DECIDED: dict[tuple[str, int], tuple[str, dict[str, Any], int | None]] = {
    ("V-05", 1): (S.LISTED, {}, 320),
    ("V-05", 2): (S.SOLD, {"who": "keeper at Alder Row"}, 120),
    ("V-05", 4): (S.GIVEN, {"who": "school terrarium"}, None),
    ("V-05", 6): (S.LISTED, {}, 180),
    ("V-05", 7): (S.RESERVED, {"who": "keeper at Weir House"}, 260),
    ("V-06", 2): (S.LISTED, {}, 240),
    ("V-09", 2): (S.LISTED, {}, 450),
    ("V-09", 4): (S.LISTED, {}, 380),
    ("W-02", 1): (S.LISTED, {}, 260),
    ("V-06", 4): (S.SOLD, {"who": "keeper at Alder Row"}, 210),
    ("W-02", 4): (S.HELD, {"project": "enchi pinstripe", "why": "the only male here with both"}, None),
}
"""What was decided, of whom; and the price."""
REFUSING, AILING = ("V-06", 6), ("V-06", 8)
ON_PAGE = (("V-05", 1), ("V-06", 2), ("V-09", 2), ("V-09", 4), ("W-02", 1))
GROWN = ("V-05", "V-06", "V-09")


def find_homes(collection: Collection, keeper: AbstractBaseUser, today: date, now: datetime) -> None:
    """Feeds, prices and decides, as a keeper would have by today."""
    eggs = Egg.objects.filter(clutch__collection=collection, clutch__code__in=GROWN, shed_on__isnull=False)
    for egg in eggs.select_related("clutch"):
        _fed(egg, today)
    rows = {(row.egg.clutch.code, row.egg.number): row for row in all_kept(collection)}
    for key, (state, words, price) in DECIDED.items():
        row = rows[key]
        if price is not None:
            write_label(row, keeper, "", Decimal(price), (), now - timedelta(days=6), knowing=False)
        paid = Decimal(price) if price is not None and state == S.SOLD else None
        until = today + timedelta(days=9) if state == S.RESERVED else None
        on = today - timedelta(days=5)
        decide(row, keeper, Decision(state, on, until=until, price=paid, **words), now - timedelta(days=5))
    _offer(collection, keeper, [row for row in all_kept(collection) if _key(row) in ON_PAGE], now)


def _key(row: Kept) -> tuple[str, int]:
    return row.egg.clutch.code, row.egg.number


def _fed(egg: Egg, today: date) -> None:
    """The last meals, a second shed, and what is not as it should be."""
    assert egg.shed_on
    key = (egg.clutch.code, egg.number)
    days = [today - timedelta(days=2 + egg.number % 3) - APART * count for count in reversed(range(MEALS))]
    refuses = key == REFUSING
    kinds = [EggEvent.Kind.REFUSED if refuses and count > 1 else EggEvent.Kind.MEAL for count in range(len(days))]
    EggEvent.objects.bulk_create(
        EggEvent(egg=egg, kind=kind, value="rat pup", on=on) for kind, on in zip(kinds, days, strict=True)
    )
    EggEvent.objects.create(egg=egg, kind=EggEvent.Kind.SHED, on=egg.shed_on + timedelta(days=46))
    if key == AILING:
        note = "small kink near the tail, felt since hatching"
        EggEvent.objects.create(egg=egg, kind=EggEvent.Kind.AILING, note=note, on=egg.shed_on + timedelta(days=2))


def _offer(collection: Collection, keeper: AbstractBaseUser, rows: Sequence[Kept], now: datetime) -> None:
    words = "All hatched here, called by eye after the first shed and tested since. Collected, or brought to a meeting."
    page = make_page(collection, keeper, rows, "To be had at Withy Bed", words, 30, now - timedelta(days=2))
    first = rows[0]
    ask(page, first, "Somebody at the ferry", "by the link’s reply form", "Is it eating on its own?", now)


def begin_project(collection: Collection, keeper: AbstractBaseUser, now: datetime) -> None:
    """A project in its second season: what was to be held back of the first was, and the next pairing is due."""
    own = {animal.name: f"a{animal.pk}" for animal in collection.animals.filter(name__in=("Sedge", "Bittern"))}
    wanted = [
        {"gene": gene, "copies": copies} for gene, copies in (("ultramel", 2), ("gravel", 1), ("orange_dream", 1))
    ]
    first = {"id": "H1", "genes": wanted[:2], "sex": "male"}
    plan = [
        {"season": 0, "dam": own["Sedge"], "sire": own["Bittern"], "keep": first},
        {"season": 1, "dam": own["Sedge"], "sire": "H1", "keep": {"id": "H2", "genes": wanted}},
    ]
    rules = {"eggs": 6, "hatch": 0.9, "seasons": 6}
    project = begin(
        collection,
        keeper,
        "Gravel orange dream ultramel",
        {"genes": wanted},
        rules,
        {"steps": plan},
        now - timedelta(days=365),
    )
    egg = Egg.objects.get(clutch__collection=collection, clutch__code="V-09", number=3)
    hold_for(project, "H1", egg, keeper, now - timedelta(days=300))
