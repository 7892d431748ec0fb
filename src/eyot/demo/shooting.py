"""The demo's simulated photos and looks: drawn from a true genotype, kept as a keeper would have taken and answered them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from PIL import Image

from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.camera import Lamp, Taken, photographed
from eyot_core.drawing.laid_card import LaidCard
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.looks import drawn_looks, likeliest_looks
from eyot_core.photo.card import WIDTH
from eyot_core.photo.card_flat import WINDOW_IN_SHARES, card_flat
from eyot_core.photo.picture import Picture

from eyot.bench.models import Look
from eyot.demo.truth import genotype_in
from eyot.photos.actions import draw_line, keep_picture, mark_light
from eyot.photos.models import Photo
from eyot.season.models import Egg

SEED = 20260
Pictures = dict[tuple[str, int, str, str], Taken]
"""By clutch and egg, or the name of a grown animal and 0; stage and kind."""
SHOTS = {Photo.Kind.BACK: "loose", Photo.Kind.BELLY: "belly", Photo.Kind.HEAD: "head"}


def look_at(
    egg: Egg, keeper: AbstractBaseUser, truth: str, traits: Sequence[str], random: np.random.Generator, at: datetime
) -> None:
    """Answers some looks: drawn from what the genotype shows, misread as often as the stage is unclear."""
    catalogue = builtin_catalogue()
    for trait_id in traits:
        trait = catalogue.traits[trait_id]
        true = drawn_looks(catalogue, genotype_in(truth), egg.stage, random)[trait_id]
        confidence = "likely" if trait.clarity[egg.stage] < 0.7 else "sure"
        channel = answering(trait, trait.clarity[egg.stage] * CONFIDENCE[confidence])
        level = trait.levels[int(random.choice(len(channel), p=channel[trait.level_index[true]]))].id
        Look.objects.create(
            egg=egg,
            trait=trait_id,
            level=level,
            stage=egg.stage,
            confidence=confidence,
            light="lamp",
            seen_by_id=keeper.pk,
            seen_at=at,
        )


def keep_taken(
    egg: Egg, keeper: AbstractBaseUser, taken: Taken, stage: str, kind: str, at: datetime, *, marked: bool
) -> None:
    """Keeps a simulated photo with its line and, where somebody has marked it, its light."""
    photo = keep_picture(
        egg, keeper, Picture(Image.fromarray(taken.pixels), None), stage, at, kind=kind, simulated=True
    )
    if marked:
        _mark(photo, taken)
    draw_line(photo, taken.line.tolist(), taken.start, taken.end)


def _mark(photo: Photo, taken: Taken) -> None:
    assert taken.card is not None
    left, top, right, bottom = taken.card
    mark_light(photo, (left + right) / 2 / photo.width, (top + bottom) / 2 / photo.height, "grey card")


def drawn(kind: str, stage: str, truth: str, seed: int, card: str) -> Taken:
    """One simulated photo, with a printed card beside it where one is named; touches no row."""
    looks = likeliest_looks(builtin_catalogue(), genotype_in(truth), "shed")
    shot = {"egg": "egg", "wet": "coil"}.get(stage, SHOTS[Photo.Kind(kind)])
    beside = LaidCard(card_flat(card), WIDTH, WINDOW_IN_SHARES) if card else None
    return photographed(looks, seed, shot, stage=stage, lamp=_lamp(seed // 100, stage), beside=beside)


def _lamp(clutch: int, stage: str) -> Lamp:
    """The light of one evening: one for a clutch and stage, as it would be."""
    random = np.random.default_rng([clutch, len(stage)])
    cast = random.uniform((0.98, 0.9, 0.74), (1.16, 1.02, 0.98))
    toward = (random.uniform(-0.7, 0.7), random.uniform(-0.6, -0.2), 0.8)
    return Lamp(
        toward=toward, cast=tuple(cast), exposure=random.uniform(-0.6, 0.15), gloss=((0.05, 15.0), (0.12, 70.0))
    )
