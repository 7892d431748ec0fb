"""What is wrong with a photo, told at once: while the animal still lies there, another is taken in a moment.

Each fault is measured where it hurts: on the animal where one is found, on the ground for the light, at the card for the card. The limits
were set on simulated photos, with and without each fault (tests/core/test_faults.py); they leave alone what strips and measures bear.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import brightest, lab, linear
from eyot_core.photo.card import PAPER, Card, place_of
from eyot_core.photo.find import CLOSE, Found, animal_in
from eyot_core.photo.sight import Sight, made_small

Pixels = NDArray[np.uint8]
Mask = NDArray[np.bool_]

FAULTS = ("dark", "burnt", "blurred", "gloss", "two-lights", "cut-off", "card-shadow", "card-uncut", "slanted")
"""In the order in which they are told: the worst first."""
BLACK, MOST_BLACK, DIM, BRIGHTEST = 24, 0.3, 110, 95
"""A pixel whose brightest channel stays below is black; so much of an animal may be. What the brightest twentieth of a photo must reach,
whatever lies in it."""
FULL, MOST_BURNT = 252, 0.05
HIGHLIGHT, PALE_CHROMA, MOST_GLOSS, WINDOW = 22.0, 14.0, 0.018, 12
"""How much lighter than its surroundings a highlight is, its largest chroma, CIELAB, how much of an animal they may cover, and how far its
surroundings reach, in pixels of the small photo."""
SHARP_SIDE, SOFT = 1400, 1.55
"""The longer side in pixels at which sharpness is looked at; how much steeper the steepest edges must be for a fine eye than a coarse."""
MOST_HUE = 9.0
"""How far the ground's colour may drift across the picture, CIELAB a* and b*."""
MOST_SHADE, MOST_SLANT = 1.7, 25.0
"""How much brighter one part of a card's paper may be than another; degrees."""


@dataclass(frozen=True)
class Fault:
    """One of :data:`FAULTS`, and by how much: its measure as a share of what is borne, above 1."""

    id: str
    times: float


def faults_of(sight: Sight, cards: Sequence[Card], found: Found) -> list[Fault]:
    """What is wrong with a photo in which cards and perhaps an animal were found."""
    photo, small, free = sight.photo, sight.small, sight.free
    part, top = animal_in(found), brightest(small)
    body = part.body if part else free
    measured = {
        "dark": max(_share(top < BLACK, body) / MOST_BLACK, _dimness(top)),
        "burnt": _share(top >= FULL, body) / (MOST_BURNT if body is not free else 0.5),
        "blurred": _softness(photo),
        "gloss": _gloss(small, body) / MOST_GLOSS if body is not free else 0.0,
        "two-lights": _drift(sight) / MOST_HUE,
        "cut-off": 2.0 if part and part.leaves and part.half_width < CLOSE else 0.0,
        "card-shadow": max((_shade(photo, card) for card in cards), default=0.0) / MOST_SHADE,
        "card-uncut": 2.0 * any(card.uncut for card in cards),
        "slanted": max((card.slant for card in cards), default=0.0) / MOST_SLANT,
    }
    return [Fault(name, round(measured[name], 2)) for name in FAULTS if measured[name] > 1]


def _dimness(top: Pixels) -> float:
    """Above 1 where nothing in a photo is bright: a pale animal is not black in the dark."""
    return DIM / max(1.0, float(np.percentile(top, BRIGHTEST)))


def _share(what: Mask, body: Mask) -> float:
    return float(what[body].mean()) if body.any() else 0.0


def _softness(photo: Pixels) -> float:
    """Above 1 where even the steepest edges are soft: how much steeper a fine eye sees them than a coarse one, against what is wanted."""
    seen = made_small(np.asarray(cv2.cvtColor(photo, cv2.COLOR_RGB2GRAY), dtype=np.uint8), SHARP_SIDE).astype(
        np.float32
    )
    fine, coarse = (_steepest(np.asarray(cv2.GaussianBlur(seen, (0, 0), sigma), np.float32)) for sigma in (1.0, 3.0))
    return SOFT * coarse / max(fine, 1e-6) if coarse > 1.0 else 0.0


def _steepest(grey: NDArray[np.float32]) -> float:
    across, down = cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)
    return float(np.percentile(cv2.magnitude(across, down), 99.7)) / 8


def _gloss(small: Pixels, body: Mask) -> float:
    """How much of an animal lies under small pale highlights."""
    seen = lab(linear(small))
    lightness = (seen[..., 0] * 2.55).clip(0, 255).astype(np.uint8)
    surroundings = cv2.medianBlur(lightness, 2 * WINDOW + 1)
    bright = (lightness.astype(int) - surroundings > 2.55 * HIGHLIGHT) & (
        np.hypot(seen[..., 1], seen[..., 2]) < PALE_CHROMA
    )
    return _share(bright, body)


def _drift(sight: Sight) -> float:
    """How far the ground's colour goes from one side of the picture to the other."""
    ground = sight.ground
    if ground is None:
        return 0.0
    rows, columns = (np.linspace(0, size - 1, 5).astype(int) for size in ground.shape[:2])
    places = ground[np.ix_(rows, columns)]
    hues = lab(places / places.max(axis=2, keepdims=True) * 0.6)[..., 1:].reshape(-1, 2)
    return float(np.hypot(*(hues[:, None] - hues[None]).transpose(2, 0, 1)).max())


def _shade(photo: Pixels, card: Card) -> float:
    """How much brighter the brightest part of a card's paper is than its darkest."""
    spots = place_of(card, PAPER).round().astype(int)
    inside = (spots >= 1).all(axis=1) & (spots < np.array(photo.shape[1::-1]) - 1).all(axis=1)
    seen = [float(linear(photo[y - 1 : y + 2, x - 1 : x + 2]).mean()) for x, y in spots[inside]]
    return max(seen) / max(min(seen), 1e-4) if len(seen) > 1 else 0.0
