"""A card of known size, laid beside the animal of a simulated photo."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.drawing.noise import Floats

Mask = NDArray[np.bool_]
Box = tuple[int, int, int, int]

INSET = 0.2
"""How far inside the window its box lies, in shares of its size."""
BESIDE = 12
"""Pixels between the card and the rim of a photo of 1,000."""


@dataclass(frozen=True, eq=False)
class LaidCard:
    """``flat``: the card from straight above, shares of light (rows, columns); ``wide``: its width in millimetres; ``window``: left, top,
    right and bottom of its window, in shares of its width and height."""

    flat: Floats
    wide: float
    window: tuple[float, float, float, float]


def lay_card(ground: Floats, card: LaidCard, mm_per_pixel: float, body: Mask) -> Box:
    """Lays a card onto a scene in linear light (rows, columns, 3), into the corner where least of the animal lies; a box inside its
    window, (left, top, right, bottom)."""
    columns = round(card.wide / mm_per_pixel)
    rows = round(columns * card.flat.shape[0] / card.flat.shape[1])
    small = cv2.resize(card.flat, (columns, rows), interpolation=cv2.INTER_AREA)
    beside = max(1, round(BESIDE * ground.shape[1] / 1000))
    low, right = ground.shape[0] - rows - beside, ground.shape[1] - columns - beside
    corners = [(top, left) for top in (low, beside) for left in (right, beside)]
    top, left = min(corners, key=lambda at: int(body[at[0] : at[0] + rows, at[1] : at[1] + columns].sum()))
    ground[top : top + rows, left : left + columns] = small[..., None]
    box = np.array(card.window) * (columns, rows, columns, rows)
    inset = INSET * (box[2:] - box[:2])
    x0, y0, x1, y1 = np.concatenate([box[:2] + inset, box[2:] - inset]).round().astype(int).tolist()
    return left + x0, top + y0, left + x1, top + y1
