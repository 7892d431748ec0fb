"""The belly's own drawing: where its edge runs, the flames that rise from it, and its marks on a grid of cells; one rule for plates and for
the skins of photos.

Around the body a place is ``off``: how far beyond the midline of the belly it lies, in v; below 0 on the one side, above 0 on the other.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eyot_core.drawing.noise import Floats, hashed, smooth_noise
from eyot_core.drawing.pattern import LENGTH

BELLY_FROM = 0.86
"""Where the belly begins around the body, in |v|."""
MARKED = 0.8
"""How much of the ground's colour a mark has; the rest is the belly's."""
DEEP = {"jagged": 0.07, "flecked": 0.03, "clean": 0.0, "plain": 0.012}
FIRST, LAST = 0.9, LENGTH - 0.3
"""Between which places along the body marks lie."""


FLAMES = {"none": (0.0, 0.0), "some": (0.22, 0.5), "strong": (0.42, 0.95)}
"""By look: how high flames rise at most, in v, and of how many of their places there are any."""
TO_A_FLAME = 0.42
"""How far apart the places of flames are, in units of length."""


@dataclass(frozen=True)
class _Marks:
    """``along``: cells to a unit of length; ``across``: cells from the midline to the belly's edge; ``low``, ``high``: between which shares
    of that way marks lie; ``share``: how many of the cells there are marked; ``every_other``: is only every other cell one of them."""

    along: int
    across: int
    low: float
    high: float
    share: float
    every_other: bool = False


MARKS = {
    "normal": _Marks(10, 6, 0.6, 1.0, 0.34),
    "checkered": _Marks(10, 2, 0.0, 1.0, 0.86, every_other=True),
    "tracks": _Marks(10, 7, 0.3, 0.55, 0.6),
    "flecked": _Marks(14, 6, 0.0, 1.0, 0.2),
}
"""By look; a look that is not among them has no marks."""


def belly_edge(looks: Mapping[str, str], seed: int, x: Floats, side: Floats) -> Floats:
    """Where the belly begins, in |v|, at some places along the body. ``side``: −1 or 1, of the shape of ``x``."""
    speed = 9.0 if looks["belly_edge"] == "jagged" else 3.0
    return np.asarray(BELLY_FROM + DEEP[looks["belly_edge"]] * smooth_noise(x * speed, 3.0 * side, seed + 61))


def flames(looks: Mapping[str, str], seed: int, x: Floats, v: Floats) -> Floats:
    """How far inside a pale flame a place lies, in v; below 0 outside. ``v`` may go on past the midline of the belly."""
    high, share = FLAMES[looks["flank_flames"]]
    side, y = np.where((v < 0) | (v > 1), -1, 1), 1 - np.abs(np.abs(v) - 1)
    place = x / TO_A_FLAME + 0.4 * smooth_noise(x * 1.3, 3.0 * side.astype(x.dtype), seed + 5)
    number = np.floor(place).astype(np.int64)
    is_there = hashed(number, side, seed + 8) < share
    rises = (high * (0.55 + 0.45 * hashed(number, side, seed + 7)) * is_there).astype(x.dtype)
    bent = np.clip(place - number + 0.25 * (BELLY_FROM - y), 0, 1)
    # Broad at the foot and pointed: the sides of a flame bend inwards.
    return np.asarray(y - BELLY_FROM - 0.02 + rises * (1 - np.abs(2 * bent - 1)) ** 1.4)


def is_marked(looks: Mapping[str, str], seed: int, x: Floats, off: Floats) -> NDArray[np.bool_]:
    """Does a mark lie there? ``x``, ``off`` and the result have one shape."""
    marks = MARKS.get(looks["belly_marks"])
    if marks is None:
        return np.zeros(x.shape, dtype=bool)
    rows = np.floor(off * marks.across / (1 - BELLY_FROM)).astype(np.int64)
    return _cells(marks, seed, np.floor(x * marks.along).astype(np.int64), rows) & (x > FIRST) & (x < LAST)


def belly_marks(looks: Mapping[str, str], seed: int) -> Iterator[tuple[float, float, float, float]]:
    """The marks as boxes, neighbours along the body joined: from and to along the body, from and to in ``off``."""
    marks = MARKS.get(looks["belly_marks"])
    if marks is None:
        return
    columns = np.arange(round(FIRST * marks.along), round(LAST * marks.along))
    high = (1 - BELLY_FROM) / marks.across
    for row in range(-marks.across, marks.across):
        cells = _cells(marks, seed, columns, np.full_like(columns, row)).astype(int)
        starts, ends = (np.flatnonzero(np.diff(cells, prepend=0, append=0) == step) for step in (1, -1))
        for start, end in zip(starts, ends, strict=True):
            first = int(columns[0])
            yield (first + int(start)) / marks.along, (first + int(end)) / marks.along, row * high, (row + 1) * high


def _cells(marks: _Marks, seed: int, columns: NDArray[np.int64], rows: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which cells are marked."""
    outward = np.abs(rows + 0.5) / marks.across
    marked = (hashed(columns, rows, seed + 67) < marks.share) & (outward > marks.low) & (outward < marks.high)
    return np.asarray(marked & ((columns + rows) % 2 == 0) if marks.every_other else marked)
