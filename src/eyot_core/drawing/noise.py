"""Lattice noise from a hash: a seed gives the same animal on every machine and at every size.

Source: value noise on a lattice, smoothed by 3t² − 2t³; the hash multiplies by large primes and folds the bits.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]
"""In double precision, or in single, which is enough for a picture of bytes and takes two thirds of the time."""


def hashed(x: NDArray[np.int64], y: NDArray[np.int64], seed: int) -> Floats:
    """A number from 0 to 1 for every lattice point; 32-bit arithmetic that wraps round on purpose."""
    n = x.astype(np.uint32) * np.uint32(374761393) + y.astype(np.uint32) * np.uint32(668265263)
    n += np.uint32(seed * 2246822519 & 0xFFFFFFFF)
    n ^= n >> np.uint32(13)
    n *= np.uint32(1274126177)
    n ^= n >> np.uint32(16)
    return np.asarray(n / 0xFFFFFFFF, dtype=np.float64)


def smooth_noise(x: Floats, y: Floats, seed: int) -> Floats:
    """Value noise from −1 to 1 with a period of one unit in x and y."""
    x0, y0 = np.floor(x), np.floor(y)
    fx, fy = _eased(x - x0), _eased(y - y0)
    left, low = int(x0.min()), int(y0.min())
    wide, high = int(x0.max()) - left + 2, int(y0.max()) - low + 2
    lattice = (
        hashed(*np.meshgrid(np.arange(left, left + wide), np.arange(low, low + high)), seed).ravel().astype(x.dtype)
    )
    to_next = np.diff(lattice, append=lattice[:1])
    above = ((y0 - low) * wide + (x0 - left)).astype(np.intp)
    below = above + wide
    top = lattice.take(above) + to_next.take(above) * fx
    bottom = lattice.take(below) + to_next.take(below) * fx
    return np.asarray(2 * (top + (bottom - top) * fy) - 1)


def noise_on_grid(x: Floats, y: Floats, seed: int) -> Floats:
    """The same noise at every x (columns,) and y (rows,), shape (rows, columns): each row of the lattice is followed once."""
    left, low = math.floor(x.min()), math.floor(y.min())
    x0, y0 = (np.floor(along).astype(np.intp) - first for along, first in ((x, left), (y, low)))
    fx, fy = _eased(x - np.floor(x)), _eased(y - np.floor(y))[:, np.newaxis]
    wide, high = np.meshgrid(np.arange(left, left + x0.max() + 2), np.arange(low, low + y0.max() + 2))
    lattice = hashed(wide, high, seed).astype(x.dtype)
    rows = lattice[:, x0] + (lattice[:, x0 + 1] - lattice[:, x0]) * fx
    top = rows[y0]
    return np.asarray(2 * (top + (rows[y0 + 1] - top) * fy) - 1)


def noise_along(x: Floats, y: float, seed: int) -> Floats:
    """The same noise along one line of the lattice: ``x`` of any shape, y the same for all."""
    x0, y0 = np.floor(x), math.floor(y)
    left, share = int(x0.min()), y - y0
    above, below = hashed(*np.meshgrid(np.arange(left, int(x0.max()) + 2), np.arange(y0, y0 + 2)), seed)
    line = (above + (below - above) * (share * share * (3 - 2 * share))).astype(x.dtype)
    at = (x0 - left).astype(np.intp)
    return np.asarray(2 * (line.take(at) + np.diff(line, append=line[:1]).take(at) * _eased(x - x0)) - 1)


def _eased(share: Floats) -> Floats:
    return np.asarray(share * share * (3 - 2 * share))


def smoothstep(low: float, high: float, x: Floats) -> Floats:
    """0 below ``low``, 1 above ``high``, smooth between."""
    t = np.asarray(x - low)
    t /= high - low
    np.clip(t, 0, 1, out=t)
    slope = 3 - 2 * t
    t *= t
    t *= slope
    return t
