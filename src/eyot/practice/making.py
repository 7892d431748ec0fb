"""New exercises: animals made up, photos of them made ahead by a worker, and which of them come next."""

from __future__ import annotations

import io
import secrets
from collections import defaultdict
from datetime import datetime

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from PIL import Image
from procrastinate.contrib.django import app

from eyot_core.catalogue import Catalogue
from eyot_core.drawing.camera import Lamp, photographed
from eyot_core.exercises.made_up import MadeUp, made_up
from eyot_core.exercises.pictures import PHOTO, SHOWN
from eyot_core.identify.looks import drawn_looks
from eyot_core.identify.traits import Genotype

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.practice.models import Exercise, MadeUpAnimal, MadeUpPhoto
from eyot.season.models import Egg, Stage

JOB = "practice.photograph"
AHEAD = 6
"""So many photos lie ready that nobody has seen."""
STAGES = (Stage.WET, Stage.SHED, Stage.SHED, Stage.SHED, Stage.MONTHS, Stage.ADULT)
"""At which stages animals are made up: mostly after the first shed."""
HARDER = 6.0
POSES = ("loose", "loose", "coil")
LARGE, MARGIN = (1400, 1050), 60
"""Of photos, in pixels: as they are taken, and how much is left around the animal."""
SEEDS = 2**62


def kept(collection: Collection, made: MadeUp, at: datetime) -> MadeUpAnimal:
    """A made-up animal as a row."""
    return MadeUpAnimal.objects.create(
        collection=collection,
        seed=secrets.randbelow(SEEDS),
        stage=made.stage,
        dam=made.dam,
        sire=made.sire,
        genotype=made.genotype,
        looks=made.looks,
        made_at=at,
    )


def new_animal(collection: Collection, member: AbstractBaseUser, at: datetime, stage: str = "") -> MadeUpAnimal:
    """An animal that nobody has seen; what somebody finds hard comes oftener."""
    random = np.random.default_rng(secrets.randbits(64))
    stage = stage or _stage(collection, member, random)
    hard = hard_genes(collection, member)
    return kept(collection, made_up(catalogue_of(collection), random, stage, hard), at)


def _stage(collection: Collection, member: AbstractBaseUser, random: np.random.Generator) -> str:
    """A stage; the more somebody lost at one, the oftener it comes."""
    lost: dict[str, list[float]] = defaultdict(list)
    rows = Exercise.objects.filter(collection=collection, member_id=member.pk, player="", kind=Exercise.Kind.NAME)
    for stage, value in rows.filter(lost__isnull=False).values_list("animal__stage", "lost"):
        lost[stage].append(value or 0.0)
    weights = np.array([1 + sum(lost[stage]) / max(1, len(lost[stage])) for stage in STAGES])
    return str(random.choice(STAGES, p=weights / weights.sum()))


def hard_genes(collection: Collection, member: AbstractBaseUser) -> dict[str, float]:
    """By gene how many times as often it comes, the more somebody lost by it so far."""
    lost: dict[str, list[float]] = defaultdict(list)
    for exercise in Exercise.objects.filter(
        collection=collection, member_id=member.pk, player="", kind=Exercise.Kind.NAME, said__isnull=False
    ):
        for row in exercise.answer["scores"]:
            lost[row["gene"]].append((row["said"] - row["could"]) ** 2)
    return {gene: 1 + HARDER * sum(values) / len(values) for gene, values in lost.items()}


def name_it(
    collection: Collection, member: AbstractBaseUser, picture: str, at: datetime, *, is_given: bool
) -> Exercise:
    """An animal to be named. A photo is one that lies ready; where none does, a drawing stands in for it."""
    animal = ready_photo(collection, member) if picture == PHOTO else None
    if animal is None and picture == PHOTO:
        picture = "strip"
    animal = animal or new_animal(collection, member, at)
    exercise = put_name(animal, member, picture, at, is_given=is_given)
    order_photos(collection, member, at)
    return exercise


def ready_photo(collection: Collection, member: AbstractBaseUser) -> MadeUpAnimal | None:
    """An animal with a photo that somebody was not asked about."""
    seen = Exercise.objects.filter(collection=collection, member_id=member.pk).values("animal")
    ready = collection.made_up.filter(photo__failed=False).exclude(photo__jpeg=b"")
    return ready.exclude(pk__in=seen.exclude(animal=None)).order_by("pk").first()


def order_photos(collection: Collection, member: AbstractBaseUser, at: datetime) -> None:
    """Has photos made, until enough lie ready that somebody has not seen."""
    seen = Exercise.objects.filter(collection=collection, member_id=member.pk).exclude(animal=None).values("animal")
    waiting = collection.made_up.filter(photo__failed=False).exclude(pk__in=seen).count()
    for _ in range(max(0, AHEAD - waiting)):
        with transaction.atomic():
            animal = new_animal(collection, member, at)
            MadeUpPhoto.objects.create(animal=animal)
            app.configure_task(JOB, queue="photos", priority=-5).defer(number=animal.pk)


def photograph(number: int) -> None:
    """Makes the simulated photo of an animal."""
    photo = MadeUpPhoto.objects.select_related("animal").filter(animal=number, jpeg=b"", failed=False).first()
    if photo is None:
        return
    try:
        taken = photographed(
            photo.animal.looks,
            photo.animal.seed % 2**31,
            POSES[photo.animal.seed % len(POSES)],
            stage=photo.animal.stage,
            lamp=lamp_of(photo.animal.seed),
            width=LARGE[0],
            height=LARGE[1],
        )
    except ValueError:
        photo.failed = True
    else:
        held, (rows, columns) = io.BytesIO(), np.nonzero(taken.body)
        top, left = max(0, rows.min() - MARGIN), max(0, columns.min() - MARGIN)
        near = taken.pixels[top : rows.max() + MARGIN, left : columns.max() + MARGIN]
        Image.fromarray(near).save(held, "JPEG", quality=84)
        photo.jpeg = held.getvalue()
    photo.save()


def lamp_of(seed: int) -> Lamp:
    """The light of a photo: another one for every animal."""
    random = np.random.default_rng(seed)
    return Lamp(
        toward=(random.uniform(-0.7, 0.7), random.uniform(-0.6, -0.2), 0.8),
        cast=tuple(random.uniform((0.98, 0.9, 0.78), (1.12, 1.02, 0.98))),
        exposure=random.uniform(-0.5, 0.15),
    )


def put_name(
    animal: MadeUpAnimal, member: AbstractBaseUser, picture: str, at: datetime, *, is_given: bool = True
) -> Exercise:
    """A made-up animal, to be named."""
    return Exercise.objects.create(
        collection=animal.collection,
        member_id=member.pk,
        kind=Exercise.Kind.NAME,
        animal=animal,
        picture=picture,
        is_given=is_given,
        asked_at=at,
    )


def put_own(egg: Egg, member: AbstractBaseUser, at: datetime) -> Exercise:
    """One of the collection's own animals, to be named."""
    return Exercise.objects.create(
        collection=egg.clutch.collection,
        member_id=member.pk,
        kind=Exercise.Kind.OWN,
        egg=egg,
        picture=PHOTO,
        asked_at=at,
    )


def put_look(
    collection: Collection, member: AbstractBaseUser, animal: MadeUpAnimal, picture: str, look: str, at: datetime
) -> Exercise:
    """One look, to be read."""
    return Exercise.objects.create(
        collection=collection,
        member_id=member.pk,
        kind=Exercise.Kind.LOOK,
        animal=animal,
        picture=picture,
        look=look,
        asked_at=at,
    )


def look_to_ask(catalogue: Catalogue, picture: str, hard: dict[str, float], random: np.random.Generator) -> str:
    """A look that a picture shows; those that are often misread come oftener."""
    looks = SHOWN[picture]
    weights = np.array([hard.get(look, 1.0) for look in looks if look in catalogue.traits])
    return str(random.choice([look for look in looks if look in catalogue.traits], p=weights / weights.sum()))


def animal_with(collection: Collection, genotype: Genotype, stage: str, at: datetime) -> MadeUpAnimal:
    """An animal of one genotype, of nobody's parents, for telling it from its look-alike."""
    random = np.random.default_rng(secrets.randbits(64))
    looks = drawn_looks(catalogue_of(collection), genotype, stage, random)
    return kept(collection, MadeUp([], [], {locus: list(here) for locus, here in genotype.items()}, stage, looks), at)
