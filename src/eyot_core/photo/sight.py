"""A photo made as small as an animal is sought in it, and its ground: worked out once for all that look at it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import brightest, linear

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
Pixels = NDArray[np.uint8]
Box = tuple[int, int, int, int]

LONGEST = 640
"""The longer side in pixels of the photo in which the animal is sought."""
GROUND_TERMS = 6
EVEN, LEAST_GROUND = 0.05, 0.5
"""Median deviation in logs that an even ground keeps below, and the least share of the photo that it fills."""


@dataclass(frozen=True)
class Sight:
    """An upright photo, sRGB (rows, columns, 3). ``small``: the same made smaller by ``factor``; ``free``: what of the small one is no
    card, (rows, columns)."""

    photo: Pixels
    small: Pixels
    factor: float
    free: Mask

    @classmethod
    def of(cls, photo: Pixels, cards: Sequence[Box] = ()) -> Sight:
        """``cards``: what is known to be cards, (left, top, right, bottom) in pixels of the photo."""
        factor = min(1.0, LONGEST / max(photo.shape[:2]))
        small = made_small(photo, LONGEST)
        return cls(photo, small, factor, _beside_cards(small.shape[:2], cards, factor))

    @cached_property
    def light(self) -> Floats:
        """Linear RGB of the small photo, (rows, columns, 3)."""
        return np.maximum(linear(self.small), 2e-4)

    @cached_property
    def ground(self) -> Floats | None:
        """Linear RGB of the bare ground at every pixel of the small photo, or None where it is not even."""
        return _ground_of(self.light, self.free)


def made_small(photo: Pixels, longest: int) -> Pixels:
    """A picture whose longer side has so many pixels at most."""
    factor = min(1.0, longest / max(photo.shape[:2]))
    if factor == 1:
        return photo
    shape = max(2, round(photo.shape[0] * factor)), max(2, round(photo.shape[1] * factor))
    return np.asarray(cv2.resize(photo, shape[::-1], interpolation=cv2.INTER_AREA), dtype=np.uint8)


def _beside_cards(shape: tuple[int, ...], cards: Sequence[Box], factor: float) -> Mask:
    """What of a photo that was made smaller by a factor is no card."""
    free = np.ones(shape, dtype=bool)
    for card in cards:
        left, top, right, bottom = (round(value * factor) for value in card)
        free[max(0, top - 4) : bottom + 5, max(0, left - 4) : right + 5] = False
    return free


def _ground_of(light: Floats, free: Mask) -> Floats | None:
    """Linear RGB of the bare ground at every pixel, or None where it is not even."""
    rows, columns = np.nonzero(free)
    if not len(rows):
        return None
    pick = np.linspace(0, len(rows) - 1, min(len(rows), 9000)).astype(int)
    rows, columns = rows[pick], columns[pick]
    logs = np.log(light[rows, columns])
    known = quadratic(columns / light.shape[1] - 0.5, rows / light.shape[0] - 0.5)
    kept = brightest(np.abs(logs - _commonest(logs))) < 0.45
    terms = np.zeros((GROUND_TERMS, 3))
    for limit in (0.3, 0.18, 0.12, 0.09):
        if kept.mean() < 0.2:
            return None
        terms = np.linalg.lstsq(known[kept], logs[kept], rcond=None)[0]
        kept = brightest(np.abs(logs - known @ terms)) < limit
    left = np.abs(logs - known @ terms)[kept]
    if kept.mean() < LEAST_GROUND or float(np.median(left)) > EVEN:
        return None
    yy, xx = np.ogrid[0 : light.shape[0], 0 : light.shape[1]]
    return np.asarray(np.exp(quadratic(xx / light.shape[1] - 0.5, yy / light.shape[0] - 0.5) @ terms))


def quadratic(x: Floats, y: Floats) -> Floats:
    """1, x, y, x², xy and y² at each place, (…, terms); x and y of shapes that go together."""
    terms = np.empty((*np.broadcast_shapes(x.shape, y.shape), GROUND_TERMS))
    for place, term in enumerate((1.0, x, y, x * x, x * y, y * y)):
        terms[..., place] = term
    return terms


def _commonest(logs: Floats) -> Floats:
    """The colour that most pixels have about, as logs of linear RGB."""
    steps = np.round(logs / 0.25).astype(int)
    steps -= steps.min(axis=0)
    red, green, blue = steps.T
    most = steps.max(axis=0) + 1
    as_one = (red * most[1] + green) * most[2] + blue
    _, which, counts = np.unique(as_one, return_inverse=True, return_counts=True)
    return np.asarray(np.median(logs[which == counts.argmax()], axis=0))
