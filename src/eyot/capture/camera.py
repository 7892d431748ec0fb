"""The simulated camera: photographs an egg's animal as its genotype would make it look. Stands in for a tethered camera."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone
from PIL import Image

from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.camera import Lamp, photographed
from eyot_core.identify.looks import likeliest_looks
from eyot_core.photo.picture import Picture

from eyot.bench.siblings import judged
from eyot.photos.actions import keep_picture
from eyot.photos.models import Photo
from eyot.season.models import Egg, Stage

POSES = {
    "loose": "loose bends on paper",
    "coil": "coiled up",
    "crossing": "one coil over another",
    "egg": "in the cut egg",
    "belly": "belly up",
    "head": "head close-up",
}
KINDS = {"belly": Photo.Kind.BELLY, "head": Photo.Kind.HEAD}
SIZE = (1600, 1200)


Genotype = Mapping[str, Sequence[str]]
truths: list[Callable[[Egg], Genotype | None]] = []
"""Who knows the true genotype of made-up animals; the demo enters itself here."""


def press(egg: Egg, user: AbstractBaseUser, pose: str, stage: str, at: datetime) -> Photo:
    """Takes one photo, marked as simulated. ValueError if ``pose`` is none of ``POSES`` or ``stage`` is unknown."""
    if pose not in POSES or stage not in Stage.values:
        raise ValueError(f"pose must be one of {', '.join(POSES)} and stage one of {', '.join(Stage.values)}")
    seed = 1000 * egg.pk + egg.photos.count()
    looks = likeliest_looks(builtin_catalogue(), _genotype(egg), "shed")
    taken = photographed(looks, seed, pose, stage=stage, lamp=_lamp(at), width=SIZE[0], height=SIZE[1])
    picture = Picture(Image.fromarray(taken.pixels), None)
    return keep_picture(egg, user, picture, stage, at, kind=KINDS.get(pose, Photo.Kind.BACK), simulated=True)


def _genotype(egg: Egg) -> Genotype:
    """The true genotype where it is known of made-up animals; else the likeliest combination as things stand."""
    for truth_of in truths:
        if known := truth_of(egg):
            return known
    return judged(egg.clutch).combinations(egg, 1)[0].genotype


def _lamp(at: datetime) -> Lamp:
    """The lamp of the evening: the same for all photos of one day."""
    random = np.random.default_rng(timezone.localdate(at).toordinal())
    cast = random.uniform((1.0, 0.88, 0.72), (1.2, 1.0, 0.95))
    toward = (float(random.uniform(-0.7, 0.7)), float(random.uniform(-0.6, -0.2)), 0.8)
    return Lamp(toward=toward, cast=(cast[0], cast[1], cast[2]), exposure=float(random.uniform(-0.5, 0.2)))
