"""Brush strokes over a photo: what the hand says is animal, and what ground."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Stroke:
    """One stroke: animal or ground, its radius and its places (n, 2), all in pixels of the photo."""

    is_animal: bool
    radius: float
    places: NDArray[np.float64]


def painted(
    strokes: Sequence[Stroke], shape: tuple[int, int], factor: float, before: NDArray[np.int8] | None = None
) -> NDArray[np.int8]:
    """Strokes over what was brushed before: 1 animal, -1 ground, 0 not brushed; (rows, columns).

    ``factor``: pixels of the answer to one of the photo. ValueError for a stroke whose places are no points.
    """
    layer = np.zeros(shape, dtype=np.int16) if before is None else before.astype(np.int16)
    for stroke in strokes:
        try:
            places = np.round(stroke.places.reshape(-1, 2) * factor).astype(np.int32)
            wide = max(1, round(2 * stroke.radius * factor))
            cv2.polylines(layer, [places], False, 1 if stroke.is_animal else -1, wide)
        except cv2.error as error:
            raise ValueError(f"a stroke that can't be painted: {error}") from None
    return layer.astype(np.int8)
