"""The printed card as it looks from straight above, for simulated photos: see :mod:`eyot_core.photo.card`."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.colour import to_srgb
from eyot_core.photo.card import CODE, CORNERS, CUT_OUT, HEIGHT, MARKER, WIDTH, WINDOW, code_rows, marker_rows

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

PER_MM = 10
PAPER, INK, GREY = 0.84, 0.04, 0.18
"""What each throws back of the light."""
TABLE, WOOD = (750, 1000), (0.12, 0.08, 0.05)
"""Rows and columns of a photo of a card alone, and what the wood throws back."""
WINDOW_IN_SHARES = (WINDOW[0] / WIDTH, WINDOW[1] / HEIGHT, WINDOW[2] / WIDTH, WINDOW[3] / HEIGHT)


def card_alone(number: str) -> NDArray[np.uint8]:
    """A photo of a card alone, on dark wood: sRGB."""
    rows, columns = TABLE
    scene = np.full((rows, columns, 3), WOOD) * (1 + 0.05 * np.sin(np.arange(rows) / 9.0))[:, None, None]
    flat = card_flat(number)
    top, left = (rows - flat.shape[0]) // 2, (columns - flat.shape[1]) // 2
    scene[top : top + flat.shape[0], left : left + flat.shape[1]] = flat[..., None]
    return to_srgb(scene)


@cache
def card_flat(number: str) -> Floats:
    """A card with a grey card under its window, as shares of light (rows, columns), 10 pixels to the millimetre; ``number``: as on its
    code, or empty."""
    flat = np.full((round(HEIGHT * PER_MM), round(WIDTH * PER_MM)), PAPER)
    for marker, (left, top) in zip(CUT_OUT, CORNERS, strict=True):
        _stamp(flat, np.array(marker_rows(marker)), left, top, MARKER)
    if number:
        _stamp(flat, np.array(code_rows(number)), *CODE)
        size, _ = cv2.getTextSize(number, cv2.FONT_HERSHEY_DUPLEX, 2.0, 4)
        letters, place = np.zeros(flat.shape, dtype=np.uint8), ((flat.shape[1] - size[0]) // 2, round(41 * PER_MM))
        cv2.putText(letters, number, place, cv2.FONT_HERSHEY_DUPLEX, 2.0, 255, 4, cv2.LINE_AA)
        flat += (INK - flat) * (letters / 255.0)
    left, top, right, bottom = (round(value * PER_MM) for value in WINDOW)
    flat[top:bottom, left:right] = GREY
    return flat


def _stamp(flat: Floats, dark: Mask, left: float, top: float, side: float) -> None:
    size = round(side * PER_MM)
    cells = cv2.resize(dark.astype(np.uint8), (size, size), interpolation=cv2.INTER_NEAREST)
    x, y = round(left * PER_MM), round(top * PER_MM)
    flat[y : y + size, x : x + size][cells > 0] = INK
