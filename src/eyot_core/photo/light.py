"""The light of a photo, from what lies in it: a grey card, white paper or a chart of 24 patches.

Cast and exposure are taken away in linear light. A card gives one gain a channel, as a camera's own white balance does
(von Kries in the camera's channels; a cone-space adaptation would put back part of a cast that the camera made channel by
channel). A chart gives a 3 × 3 matrix, fitted by least squares. Mixed light stays mixed.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import brightest, linear, to_srgb

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float64]
CARDS = {"grey card": 0.18, "white paper": 0.8}
"""What is marked with one tap, and the share of light that it throws back."""
CHART = "colour chart"
PATCHES = np.array(
    [
        [(115, 82, 68), (194, 150, 130), (98, 122, 157), (87, 108, 67), (133, 128, 177), (103, 189, 170)],
        [(214, 126, 44), (80, 91, 166), (193, 90, 99), (94, 60, 108), (157, 188, 64), (224, 163, 46)],
        [(56, 61, 150), (70, 148, 73), (175, 54, 60), (231, 199, 31), (187, 86, 149), (8, 133, 161)],
        [(243, 243, 242), (200, 200, 200), (160, 160, 160), (122, 122, 121), (85, 85, 85), (52, 52, 52)],
    ],
    dtype=np.uint8,
)
"""The usual chart of four rows of six patches, nominal sRGB."""
REACH = 0.015
PATCH_REACH = 0.22
LEAST_PIXELS = 6
CLIPPED_FROM = 251
DARK_BELOW = 14
MOST_SPOILT = 0.05
MOST_SPREAD = 0.16
MOST_GAIN = 8.0
MOST_CHART_ERROR = 0.06


ROWS_AT_ONCE = 256


@dataclass(frozen=True)
class Light:
    """The light of a photo: what was marked, and what each channel of linear light is multiplied by.

    ``place``: where the card lies, in pixels of the photo, or None if the light was taken from another photo. ``mix``: for
    a chart, the nine numbers of the matrix that turns the photo's linear RGB into the true one; ``gains`` then are its
    rows' sums, what it makes of grey.
    """

    card: str
    gains: tuple[float, float, float]
    place: tuple[float, float] | None = None
    mix: tuple[float, ...] = ()

    def on(self, light: NDArray[np.float32]) -> NDArray[np.float32]:
        """Linear RGB (…, 3) in this light."""
        if self.mix:
            return np.asarray(light @ np.array(self.mix, dtype=np.float32).reshape(3, 3).T)
        return np.asarray(light * np.array(self.gains, dtype=np.float32))

    def elsewhere(self) -> Light:
        """The same light for another photo, in which no card lies."""
        return Light(self.card, self.gains, None, self.mix)


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
    if not (0 <= x <= 1 and 0 <= y <= 1):
        return NoLight("the place lies outside the photo")
    reach = max(LEAST_PIXELS, round(REACH * columns))
    left, top = max(0, round(x * columns) - reach), max(0, round(y * rows) - reach)
    return light_in(pixels, (left, top, left + 2 * reach, top + 2 * reach), card, CARDS[card])


def light_in(
    pixels: Pixels, box: tuple[float, float, float, float], card: str, reflectance: float | Floats
) -> Light | NoLight:
    """The light from a card of a known reflectance (0 to 1; of all light, or of red, green and blue) that fills a box, (left, top, right,
    bottom) in pixels."""
    left, top, right, bottom = (round(edge) for edge in box)
    patch = pixels[max(0, top) : max(0, bottom), max(0, left) : max(0, right)].reshape(-1, 3)
    if len(patch) == 0:
        return NoLight("the place lies outside the photo")
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
    gains = reflectance / np.maximum(middle, 1e-6)
    if gains.max() > MOST_GAIN or gains.min() < 1 / MOST_GAIN:
        return NoLight(f"no {card} looks like that. Point at the {card} itself")
    return Light(card, (float(gains[0]), float(gains[1]), float(gains[2])), ((left + right) / 2, (top + bottom) / 2))


def light_of_chart(pixels: Pixels, corners: Floats) -> Light | NoLight:
    """The light from a chart of 24 patches; ``corners``: the middles of its four corner patches in pixels, (4, 2), in the
    order brown, bluish green, black, white (round the chart)."""
    flat = np.array([[0, 0], [5, 0], [5, 3], [0, 3]], dtype=np.float32)
    turn = cv2.getPerspectiveTransform(flat, corners.astype(np.float32))
    grid = np.stack(np.meshgrid(np.arange(6), np.arange(4)), axis=-1).reshape(-1, 1, 2).astype(np.float32)
    middles = cv2.perspectiveTransform(grid, turn)[:, 0]
    reach = max(1.0, PATCH_REACH * float(np.hypot(*(middles[1] - middles[0]))))
    if (middles < reach).any() or (middles + reach > np.array(pixels.shape[1::-1])).any():
        return NoLight("the chart lies outside the photo")
    seen = np.stack([_patch(pixels, middle, reach) for middle in middles])
    usable = (seen.max(axis=1) < CLIPPED_FROM) & (seen.max(axis=1) > DARK_BELOW)
    if usable.sum() < 16:
        return NoLight("too many of the chart's patches are burnt out or black. Take the photo again in another light")
    measured, true = linear(seen)[usable], linear(PATCHES.reshape(-1, 3))[usable]
    mix = np.linalg.lstsq(measured, true, rcond=None)[0].T
    error = float(np.sqrt(np.mean((measured @ mix.T - true) ** 2)))
    if error > MOST_CHART_ERROR or (mix.sum(axis=1) <= 0).any():
        return NoLight(
            "these patches don't fit the chart. Tap the middles of its corner patches: brown, bluish green, black, white"
        )
    gains = mix.sum(axis=1)
    middle = corners.mean(axis=0)
    return Light(
        CHART,
        (float(gains[0]), float(gains[1]), float(gains[2])),
        (float(middle[0]), float(middle[1])),
        tuple(float(number) for number in mix.ravel()),
    )


def _patch(pixels: Pixels, middle: Floats, reach: float) -> Floats:
    left, top = np.floor(middle - reach).astype(int)
    size = max(2, round(2 * reach))
    return np.asarray(np.median(pixels[top : top + size, left : left + size].reshape(-1, 3), axis=0))


def in_light(pixels: Pixels, light: Light) -> Pixels:
    """The photo as it would be in even, neutral light; sRGB of the same shape. One table a channel where gains are enough."""
    if light.mix:  # some rows at a time: a large photo in decimals fills a worker's memory
        parts = np.array_split(pixels, max(1, len(pixels) // ROWS_AT_ONCE))
        return np.concatenate([to_srgb(light.on(linear(part).astype(np.float32))) for part in parts])
    steps = linear(np.arange(256))
    corrected = np.empty_like(pixels)
    for channel, gain in enumerate(light.gains):
        corrected[..., channel] = to_srgb(steps * gain)[pixels[..., channel]]
    return corrected


def spoilt(pixels: Pixels) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Where a photo is burnt out in some channel, and where it is too dark for its colour to be told; (rows, columns)."""
    top = brightest(pixels)
    return top >= CLIPPED_FROM, top <= DARK_BELOW // 3
