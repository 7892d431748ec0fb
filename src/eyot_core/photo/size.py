"""How long and how thick an animal is, by a card of known size beside it in the photo."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, pi, radians

import numpy as np

from eyot_core.photo.outline import Outline

ABOVE = 0.03
"""The back lies nearer to the camera than the card, and the line is never quite the middle: shares of the length."""
EDGES = 0.06
"""Of the girth beside that: a body that lies is no cylinder, and its edges are found to a pixel or two."""
MIDDLE = (0.45, 0.55)


@dataclass(frozen=True)
class Size:
    """Centimetres, each with its standard deviation; ``length`` is None where the line does not cover the whole body."""

    length: float | None
    length_sd: float
    girth: float
    girth_sd: float


def size_of(outline: Outline, mm_per_pixel: float, slant: float) -> Size | None:
    """The size of an animal that lies beside a card. ``mm_per_pixel``: of the photo at the card, of what is not slanted; ``slant``: of
    the ground, in degrees: what runs along the tilt looks shorter. None where the middle of the body is not seen."""
    tilted = cos(radians(slant))
    mm = mm_per_pixel / ((1 + tilted) / 2) / outline.scale
    off = hypot(ABOVE, (1 - tilted) / 2 / 3**0.5)
    u = outline.spine.u
    middle = (u >= MIDDLE[0]) & (u <= MIDDLE[1]) & outline.sure
    if not middle.any():
        return None
    girth = pi * 2 * float(np.median(outline.half_widths[middle])) * mm / 10
    is_whole = u[0] <= 0.01 and u[-1] >= 0.99
    length = outline.spine.length * mm / 10 if is_whole else None
    return Size(length, off * (length or 0.0), girth, hypot(off, EDGES) * girth)
