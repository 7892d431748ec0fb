"""What a photo shows, proposed from the pixels: an animal from above, its belly, its head, or an egg with its window.

Told by shape and by how pale the middle of a body is beside its sides; a proposal with a confidence, never a decision.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import lab, linear
from eyot_core.photo.find import CLOSE, Found, Part, animal_in
from eyot_core.photo.sight import Sight, made_small

Pixels = NDArray[np.uint8]
Mask = NDArray[np.bool_]

SHOWN = ("back", "belly", "head", "egg")
LONGEST = 320
BELLY, BELLY_LIGHTER = 0.88, 5.0
"""How much of a body's middle is pale where it lies on its back, and how much lighter than its sides, CIELAB."""
SHELL_LIGHT, SHELL_CHROMA = 12.0, 24.0
"""How much lighter than the photo's middle lightness a shell is, and its largest chroma, CIELAB."""
LEAST_SHELL, ROUND = 0.18, 0.9
LEAST_WINDOW = 0.05


@dataclass(frozen=True)
class Shown:
    """What a photo shows. ``kind``: one of :data:`SHOWN`, empty where nothing is recognised; ``confidence``: 0 to 1."""

    kind: str
    confidence: float


def shown_in(sight: Sight, found: Found) -> Shown:
    """What a photo shows, by what was found in it."""
    if has_egg(sight.small):
        return Shown("egg", 0.9)
    part = animal_in(found)
    if part is None:
        return Shown("", 0.0)
    if part.leaves and part.half_width > CLOSE:
        return Shown("head", 0.7)
    return _side_of(part)


def _side_of(part: Part) -> Shown:
    """From above or from below: a belly is pale in its middle and coloured at its sides; a white animal is pale all over."""
    if part.pale < BELLY:
        return Shown("back", float(np.clip(1 - part.pale / BELLY / 2, 0.5, 0.95)))
    if part.lighter < BELLY_LIGHTER:
        return Shown("back", 0.5)
    return Shown("belly", float(np.clip(0.5 + part.lighter / 60, 0.5, 0.9)))


def has_egg(photo: Pixels) -> bool:
    """Is there an egg with its window: one large pale oval with something darker inside?"""
    seen = lab(linear(made_small(photo, LONGEST)))
    pale = (seen[..., 0] > np.median(seen[..., 0]) + SHELL_LIGHT) & (
        np.hypot(seen[..., 1], seen[..., 2]) < SHELL_CHROMA
    )
    count, labels, stats, _ = cv2.connectedComponentsWithStats(pale.astype(np.uint8), connectivity=8)
    if count < 2:
        return False
    largest = max(range(1, count), key=lambda index: int(stats[index, cv2.CC_STAT_AREA]))
    return _is_oval_with_window(np.asarray(labels == largest))


def _is_oval_with_window(shell: Mask) -> bool:
    contours, _ = cv2.findContours(shell.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    outline = cv2.convexHull(max(contours, key=len))
    area = float(cv2.contourArea(outline))
    if area < LEAST_SHELL * shell.size or len(outline) < 5:
        return False
    _, (width, height), _ = cv2.fitEllipse(outline)
    fills = area / max(1.0, np.pi / 4 * width * height)
    inside = np.zeros(shell.shape, dtype=np.uint8)
    cv2.drawContours(inside, [outline], -1, 1, -1)
    window = float((inside.astype(bool) & ~shell).sum()) / area
    return bool(ROUND < fills < 1 / ROUND and max(width, height) < 2.2 * min(width, height) and window > LEAST_WINDOW)
