"""New exercises: animals made up, photos of them made ahead by a worker, and which of them come next."""

from __future__ import annotations

import io
import secrets
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import TypeVar

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from PIL import Image
from procrastinate.contrib.django import app

from eyot_core.drawing.camera import Lamp, photographed
from eyot_core.exercises.made_up import MadeUp, made_up
from eyot_core.exercises.pictures import PHOTO
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
POSES = ("loose", "coil")
LIGHTS = {"even": (-0.2, 0.15, 1.0), "dim": (-0.9, -0.5, 1.0), "warm": (-0.4, 0.0, 0.72)}
"""Of photos, each followed by the animal's seed. Of a light: from what to what it is exposed, in stops, and how much blue is left."""
LARGE, MARGIN = (1400, 1050), 60
"""Of photos, in pixels: as they are taken, and how much is left around the animal."""
SEEDS = 2**58
Kind = TypeVar("Kind")


def kept(collection: Collection, made: MadeUp, at: datetime, seed: int | None = None) -> MadeUpAnimal:
    """A made-up animal as a row."""
    return MadeUpAnimal.objects.create(
        collection=collection,
        seed=secrets.randbelow(SEEDS) if seed is None else seed,
        stage=made.stage,
        dam=made.dam,
        sire=made.sire,
        genotype=made.genotype,
        looks=made.looks,
        made_at=at,
    )


def new_animal(collection: Collection, member: AbstractBaseUser, at: datetime, stage: str = "") -> MadeUpAnimal:
    """An animal that nobody has seen; what somebody finds hard comes oftener."""
    random, hard = np.random.default_rng(secrets.randbits(64)), hardships(collection, member)
    stage = stage or _one_of(STAGES, hard.stages, random)
    made = made_up(catalogue_of(collection), random, stage, hard.genes, hard.company)
    return kept(
        collection, made, at, seed_of(_one_of(POSES, hard.poses, random), _one_of(tuple(LIGHTS), hard.lights, random))
    )


@dataclass(frozen=True)
class Hardships:
    """How many times as often something comes, the more somebody lost by it so far: stages, genes, two genes in one animal, and the
    poses and lights of photos."""

    stages: dict[str, float]
    genes: dict[str, float]
    company: dict[frozenset[str], float]
    poses: dict[str, float]
    lights: dict[str, float]


def hardships(collection: Collection, member: AbstractBaseUser) -> Hardships:
    """What somebody finds hard, by what was named so far; what says nothing yet comes as often as ever."""
    stages, poses, lights = (defaultdict[str, list[float]](list) for _ in range(3))
    genes, company = defaultdict[str, list[float]](list), defaultdict[frozenset[str], list[float]](list)
    rows = Exercise.objects.filter(collection=collection, member_id=member.pk, player="", kind=Exercise.Kind.NAME)
    for exercise in rows.filter(said__isnull=False).exclude(animal=None).select_related("animal"):
        assert exercise.animal
        stages[exercise.animal.stage].append(exercise.lost or 0.0)
        if exercise.picture == PHOTO:
            poses[pose_of(exercise.animal.seed)].append(exercise.lost or 0.0)
            lights[light_of(exercise.animal.seed)].append(exercise.lost or 0.0)
        scores = exercise.answer["scores"]
        there = [row["gene"] for row in scores if row["is_there"]]
        for row in scores:
            lost = (row["said"] - row["could"]) ** 2
            genes[row["gene"]].append(lost)
            for other in there:
                if other != row["gene"]:
                    company[frozenset({other, row["gene"]})].append(lost)
    return Hardships(
        _oftener(stages, 1.0),
        _oftener(genes, HARDER),
        _oftener(company, HARDER),
        _oftener(poses, 1.0),
        _oftener(lights, 1.0),
    )


def _oftener(lost: Mapping[Kind, Sequence[float]], by: float) -> dict[Kind, float]:
    return {one: 1 + by * sum(values) / len(values) for one, values in lost.items()}


def _one_of(every: Sequence[str], hard: Mapping[str, float], random: np.random.Generator) -> str:
    """One of some; what is hard comes oftener."""
    weights = np.array([hard.get(one, 1.0) for one in every])
    return str(random.choice(every, p=weights / weights.sum()))


def seed_of(pose: str, light: str) -> int:
    """A new seed of an animal whose photo is taken in that pose and light."""
    return POSES.index(pose) + len(POSES) * (list(LIGHTS).index(light) + len(LIGHTS) * secrets.randbelow(SEEDS))


def pose_of(seed: int) -> str:
    """How an animal of this seed lies in its photo."""
    return POSES[seed % len(POSES)]


def light_of(seed: int) -> str:
    """In what light the photo of an animal of this seed is taken."""
    return list(LIGHTS)[seed // len(POSES) % len(LIGHTS)]


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
            pose_of(photo.animal.seed),
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
    random, (least, most, blue) = np.random.default_rng(seed), LIGHTS[light_of(seed)]
    return Lamp(
        toward=(random.uniform(-0.7, 0.7), random.uniform(-0.6, -0.2), 0.8),
        cast=tuple(random.uniform((0.98, 0.94, 0.92), (1.08, 1.02, 1.02)) * (1.0, (1 + blue) / 2, blue)),
        exposure=random.uniform(least, most),
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


def look_to_ask(shown: Iterable[str], hard: dict[str, float], random: np.random.Generator) -> str:
    """One of the looks that a picture shows; those that are often misread come oftener."""
    looks = list(shown)
    weights = np.array([hard.get(look, 1.0) for look in looks])
    return str(random.choice(looks, p=weights / weights.sum()))


def animal_with(collection: Collection, genotype: Genotype, stage: str, at: datetime) -> MadeUpAnimal:
    """An animal of one genotype, of nobody's parents, for telling it from its look-alike."""
    random = np.random.default_rng(secrets.randbits(64))
    looks = drawn_looks(catalogue_of(collection), genotype, stage, random)
    return kept(collection, MadeUp([], [], {locus: list(here) for locus, here in genotype.items()}, stage, looks), at)
