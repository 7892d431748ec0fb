"""The light of a photo, from a grey card or white paper that lies in it: cast and exposure taken away in linear light.

Each channel is multiplied so that the card comes out neutral and as bright as it is. That is enough for one lamp; it is
no full chromatic adaptation, and mixed light stays mixed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import linear, to_srgb

Pixels = NDArray[np.uint8]
CARDS = {"grey card": 0.18, "white paper": 0.8}
"""What is marked, and the share of light that it throws back."""
REACH = 0.015
LEAST_PIXELS = 6
CLIPPED_FROM = 251
DARK_BELOW = 14
MOST_SPOILT = 0.05
MOST_SPREAD = 0.16
MOST_GAIN = 8.0


@dataclass(frozen=True)
class Light:
    """The light of a photo: what was marked, and what each channel of linear light is multiplied by."""

    card: str
    gains: tuple[float, float, float]


@dataclass(frozen=True)
class NoLight:
    """Why the light can't be had from this place; falsy."""

    reason: str

    def __bool__(self) -> bool:
        return False


def light_at(pixels: Pixels, x: float, y: float, card: str) -> Light | NoLight:
    """The light from a card around a place, (x, y) in shares of width and height; ``pixels``: sRGB, (rows, columns, 3).

    ValueError if ``card`` is none of ``CARDS``.
    """
    if card not in CARDS:
        raise ValueError(f"card must be one of {', '.join(CARDS)}, got {card!r}")
    rows, columns = pixels.shape[:2]
    reach = max(LEAST_PIXELS, round(REACH * columns))
    if not (0 <= x <= 1 and 0 <= y <= 1):
        return NoLight("the place lies outside the photo")
    top, left = max(0, round(y * rows) - reach), max(0, round(x * columns) - reach)
    patch = pixels[top : top + 2 * reach, left : left + 2 * reach].reshape(-1, 3)
    return _light_of(patch, card)


def _light_of(patch: Pixels, card: str) -> Light | NoLight:
    if (patch.max(axis=1) >= CLIPPED_FROM).mean() > MOST_SPOILT:
        return NoLight(
            f"the {card} is too bright there: its colour is lost in white. Take the photo again with less light on it"
        )
    if (patch.max(axis=1) <= DARK_BELOW).mean() > MOST_SPOILT:
        return NoLight(f"the {card} is too dark there to tell its colour. Take the photo again with more light")
    light = linear(patch)
    middle = np.median(light, axis=0)
    spread = np.percentile(light.mean(axis=1), (10, 90))
    if float(spread[1] - spread[0]) > MOST_SPREAD * 2 * float(middle.mean()):
        return NoLight(
            f"there is more than one tone there. Point at the middle of the {card}, away from edges and shadows"
        )
    gains = CARDS[card] / np.maximum(middle, 1e-6)
    if gains.max() > MOST_GAIN or gains.min() < 1 / MOST_GAIN:
        return NoLight(f"no {card} looks like that. Point at the {card} itself")
    return Light(card, (float(gains[0]), float(gains[1]), float(gains[2])))


def in_light(pixels: Pixels, gains: tuple[float, float, float]) -> Pixels:
    """The photo as it would be in even, neutral light; sRGB of the same shape. One table a channel, so any size is quick."""
    steps = linear(np.arange(256))
    found = np.empty_like(pixels)
    for channel, gain in enumerate(gains):
        found[..., channel] = to_srgb(steps * gain)[pixels[..., channel]]
    return found
