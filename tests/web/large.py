"""A large collection: 3,000 animals and 400 clutches over four years, sixty of them going; or a part of that."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from eyot.bench.models import Look
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.season.models import Clutch, ClutchSire, Egg, Round, Weighing

GENES = (
    "pastel",
    "enchi",
    "mojave",
    "leopard",
    "fire",
    "yellow_belly",
    "piebald",
    "clown",
    "pinstripe",
    "cinnamon",
    "hypo",
)
ANIMALS, CLUTCHES, GOING, EGGS = 3000, 400, 60, 6


def fill(collection: Collection, member_id: int, share: int = 1) -> None:
    """Adds the animals and clutches to a collection, or one of so many shares of them."""
    today = timezone.localdate()
    animals = Animal.objects.bulk_create(
        Animal(
            collection=collection,
            name=f"N{number:04}",
            code=f"L-{number:04}",
            sex=("female", "male")[number % 2],
            hatched_on=today - timedelta(days=400 + number),
        )
        for number in range(ANIMALS // share)
    )
    CarriedGene.objects.bulk_create(
        CarriedGene(animal=animal, gene=GENES[(at * 3 + more) % len(GENES)], known="seen")
        for at, animal in enumerate(animals)
        for more in (0, 1)
    )
    Weighing.objects.bulk_create(
        Weighing(animal=animal, grams=800 + at % 900, on=today - timedelta(days=30 * back))
        for at, animal in enumerate(animals)
        for back in range(3)
    )
    clutches = Clutch.objects.bulk_create(_clutch(collection, animals, number) for number in range(CLUTCHES // share))
    ClutchSire.objects.bulk_create(
        ClutchSire(clutch=clutch, sire=animals[2 * number + 1]) for number, clutch in enumerate(clutches)
    )
    Round.objects.bulk_create(
        Round(clutch=clutch, sire=animals[2 * number + 1], introduced_on=clutch.paired_on, locked_on=clutch.paired_on)
        for number, clutch in enumerate(clutches)
        if clutch.paired_on
    )
    eggs = Egg.objects.bulk_create(
        Egg(
            clutch=clutch,
            number=number,
            state="out",
            stage="shed",
            out_on=clutch.out_on,
            shed_on=clutch.shed_on,
            across=(number % 3) / 3,
            down=number / 6,
        )
        for clutch in clutches
        if clutch.laid_on
        for number in range(1, EGGS + 1)
    )
    Look.objects.bulk_create(
        Look(egg=egg, trait="head_stamp", level="busy", stage="egg", seen_by_id=member_id, seen_at=timezone.now())
        for egg in eggs[::3]
    )


def _clutch(collection: Collection, animals: list[Animal], number: int) -> Clutch:
    """The newest sixty are going, twenty of them not laid; the others are closed, a hundred a year."""
    today = timezone.localdate()
    laid = today - timedelta(days=70 + number % 20) if number < GOING else today - timedelta(days=200 + number * 3)
    values = {
        "collection": collection,
        "code": f"L-{number:03}",
        "dam": animals[2 * number],
        "paired_on": laid - timedelta(days=80),
    }
    if number < 20:
        return Clutch(**values)
    out = laid + timedelta(days=58)
    shed = None if number < GOING and number % 2 else out + timedelta(days=11)
    closed = None if number < GOING else out + timedelta(days=90)
    return Clutch(**values, laid_on=laid, cut_on=out, out_on=out, shed_on=shed, closed_on=closed)


def a_thousand_hets(collection: Collection) -> None:
    """Adds a thousand animals of four generations: founders that are hets or possible hets, and what may have it from them."""
    made: list[Animal] = []
    for generation in range(4):
        parents = made[-250:]
        rows = Animal.objects.bulk_create(
            Animal(
                collection=collection,
                name=f"H{generation}-{number:03}",
                sex=("female", "male")[number % 2],
                dam=parents[(number * 2) % 250] if parents else None,
                sire=parents[(number * 2 + 1) % 250] if parents else None,
            )
            for number in range(250)
        )
        made += rows
    CarriedGene.objects.bulk_create(
        CarriedGene(
            animal=animal,
            gene=("clown", "piebald", "hypo", "ultramel")[at % 4],
            known="possible",
            chance=("1", "2/3", "1/2")[at % 3],
        )
        for at, animal in enumerate(made[:250])
    )
