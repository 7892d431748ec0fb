"""What the demo's keeper has practised: animals named, and looks read off photos, with the mistakes of a usual eye."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
from django.contrib.auth.models import AbstractBaseUser

from eyot_core.catalogue import builtin_catalogue
from eyot_core.exercises.made_up import made_up
from eyot_core.exercises.pictures import PHOTO, STRIP
from eyot_core.exercises.scores import SAID
from eyot_core.identify.evidence import CONFIDENCE, answering

from eyot.collection.models import Collection
from eyot.practice.answering import name
from eyot.practice.knowing import could_be_known
from eyot.practice.making import kept, put_name
from eyot.practice.models import Exercise

SEED, NAMED, READ = 2_026, 12, 36
LOOKS = (("lobe_tone", 0.72), ("banding", 0.9), ("lightness", 0.55))
"""Looks that were read often enough, and how reliably."""
DULLER = 0.25
"""How far what the keeper holds likely lies from what could be known."""


def practise(collection: Collection, keeper: AbstractBaseUser, now: datetime) -> None:
    """Some weeks of practice."""
    random, catalogue = np.random.default_rng(SEED), builtin_catalogue()
    for number in range(NAMED):
        at = now - timedelta(days=2 * (NAMED - number))
        animal = kept(collection, made_up(catalogue, random, "shed"), at)
        exercise = put_name(animal, keeper, STRIP, at)
        said = {}
        for gene, chance in could_be_known(exercise).items():
            held = float(np.clip(chance + random.normal(0, DULLER), 0, 1))
            said[gene] = min(SAID, key=lambda word: abs(SAID[word] - held))
        name(exercise, said, at)
    animal = kept(collection, made_up(catalogue, random, "shed"), now)
    Exercise.objects.bulk_create(
        _read(collection, keeper, look, clarity, animal.pk, now - timedelta(days=1 + number % 20), random)
        for look, clarity in LOOKS
        for number in range(READ)
    )


def _read(
    collection: Collection,
    keeper: AbstractBaseUser,
    look: str,
    clarity: float,
    animal: int,
    at: datetime,
    random: np.random.Generator,
) -> Exercise:
    """One look read off a photo."""
    trait = builtin_catalogue().traits[look]
    true = int(random.integers(len(trait.levels)))
    channel = answering(trait, clarity * CONFIDENCE["sure"])[true]
    level = int(random.choice(len(channel), p=channel))
    said = {"level": trait.levels[level].id, "true": trait.levels[true].id, "confidence": "sure", "stage": "shed"}
    return Exercise(
        collection=collection,
        member_id=keeper.pk,
        kind=Exercise.Kind.LOOK,
        animal_id=animal,
        picture=PHOTO,
        look=look,
        asked_at=at,
        said=said,
        answered_at=at,
        is_right=level == true,
    )
