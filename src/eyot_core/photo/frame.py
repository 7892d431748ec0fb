"""Bellies, vents, tails and heads: no strip, but a crop to a standard frame, so that siblings stand alike beside one another."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import ArrayLike

from eyot_core.colour import linear, to_srgb
from eyot_core.photo.light import Light, Pixels
from eyot_core.photo.spine import BadLine

FRAMES = {"head": (800, 600), "belly": (1200, 300), "vent": (800, 400), "tail": (1000, 300)}
"""Width and height of the frame of each kind, in pixels."""
ENDS = {"head": (0.12, 0.78), "belly": (0.04, 0.96), "vent": (0.15, 0.85), "tail": (0.05, 0.95)}
"""Where the two marked places come to lie, in shares of the width."""
LEAST = 24.0


def is_framed(kind: str, points: int) -> bool:
    """Is a photo of a kind, in which so many places are marked, cut to a frame? A belly with a line along it is unrolled to a strip."""
    return kind in FRAMES and (kind != "belly" or points == 2)


def framed(photo: Pixels, ends: ArrayLike, kind: str, light: Light | None = None) -> Pixels | BadLine:
    """The crop between two marked places (2, 2), the one nearer the snout first, turned so that it lies to the left.

    sRGB of the frame of its ``kind``; what lies outside the photo is grey. A reason where the places tell nothing.
    """
    first, last = np.asarray(ends, dtype=np.float64).reshape(-1, 2)[[0, -1]]
    length = float(np.hypot(*(last - first)))
    if length < LEAST:
        return BadLine("the two places lie too close together; mark the two ends of what the photo shows")
    if (np.minimum(first, last) < 0).any() or (np.maximum(first, last) > np.array(photo.shape[1::-1])).any():
        return BadLine("a place lies outside the photo")
    width, height = FRAMES[kind]
    left, right = ENDS[kind]
    scale = (right - left) * width / length
    along = (last - first) / length * scale
    turn = np.array([[along[0], along[1]], [-along[1], along[0]]])
    shift = np.array([left * width, height / 2]) - turn @ first
    cropped = cv2.warpAffine(
        photo, np.column_stack([turn, shift]), (width, height), flags=cv2.INTER_AREA, borderValue=(198, 198, 198)
    )
    pixels = np.asarray(cropped, dtype=np.uint8)
    return to_srgb(light.on(linear(pixels).astype(np.float32))) if light else pixels
