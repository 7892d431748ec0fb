"""Grown animals of the demo: photos of some parents, and one that was bought, with what it was sold as."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime, timedelta

import numpy as np
from django.contrib.auth.models import AbstractBaseUser

from eyot.animals.individuals import individual_of
from eyot.bench.claim_actions import make_claim
from eyot.collection.models import Animal, Collection
from eyot.demo.scenario import BOUGHT, GROWN
from eyot.demo.shooting import SEED, Pictures, keep_taken, look_at
from eyot.photos.models import Photo
from eyot.season.models import Stage

Order = tuple[str, str, str, int, str]
LIGHT_OF_GROWN = 900
"""The number of the evening, as the lamp counts them, on which the grown animals were photographed."""
TAKEN_BEFORE = timedelta(days=35)
MISREAD = 8
"""Which mistakes the keeper makes at the table."""


def grown_orders() -> dict[tuple[str, int, str, str], Order]:
    """What is to be drawn: kind, stage, genotype, seed and no card, by the animal's name, 0, stage and kind."""
    kinds = dict.fromkeys(GROWN, (Photo.Kind.BACK, Photo.Kind.BELLY)) | {
        BOUGHT.name: (Photo.Kind.BACK, Photo.Kind.BELLY, Photo.Kind.HEAD)
    }
    truths = GROWN | {BOUGHT.name: BOUGHT.truth}
    return {
        (name, 0, Stage.ADULT, kind): (kind, Stage.ADULT, truths[name], SEED + 100 * LIGHT_OF_GROWN + place, "")
        for place, name in enumerate(kinds)
        for kind in kinds[name]
    }


def keep_grown(animals: Mapping[str, Animal], pictures: Pictures, keeper: AbstractBaseUser, now: datetime) -> None:
    """The photos of grown parents."""
    for (name, _, stage, kind), taken in pictures.items():
        if name in GROWN:
            egg = individual_of(animals[name])
            keep_taken(egg, keeper, taken, stage, kind, now - TAKEN_BEFORE, marked=True)


def put_on_the_table(
    collection: Collection, pictures: Pictures, keeper: AbstractBaseUser, today: date, now: datetime
) -> None:
    """The animal that was bought: its record, photos, looks, and what it was sold as."""
    born = today - timedelta(days=365 * BOUGHT.age)
    animal = Animal.objects.create(
        collection=collection, name=BOUGHT.name, sex=BOUGHT.sex, hatched_on=born, note=BOUGHT.note
    )
    egg = individual_of(animal)
    make_claim(egg, keeper, BOUGHT.claim, str(BOUGHT.trust), now - timedelta(days=2))
    for (name, _, stage, kind), taken in pictures.items():
        if name == BOUGHT.name:
            keep_taken(egg, keeper, taken, stage, kind, now - timedelta(days=2), marked=True)
    look_at(
        egg, keeper, BOUGHT.truth, BOUGHT.looked_at, np.random.default_rng([SEED, MISREAD]), now - timedelta(days=1)
    )
