"""sRGB and linear light: the one place where the transfer curve stands (IEC 61966-2-1)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def linear(srgb: ArrayLike) -> Floats:
    """Linear light, 0 to 1, of sRGB values of 0 to 255; any shape.

    >>> [round(float(value), 3) for value in linear((0, 128, 255))]
    [0.0, 0.216, 1.0]
    """
    value = np.asarray(srgb, dtype=np.float64) / 255
    return np.asarray(np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4))


def to_srgb(light: Floats) -> NDArray[np.uint8]:
    """8-bit sRGB of linear light, clipped; any shape."""
    value = np.clip(light, 0, 1)
    coded = np.where(value <= 0.0031308, 12.92 * value, 1.055 * value ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(coded * 255), dtype=np.uint8)
