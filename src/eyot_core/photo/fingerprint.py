"""Whether two files hold the same photo, also saved smaller or again: a small grey picture of each, compared."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]

SIDE = 48
SAME = 1.2
"""Root mean square difference of two fingerprints below which they are of one photo, in shares of 255."""


def fingerprint(photo: Pixels) -> bytes:
    """The fingerprint of an upright photo, sRGB (rows, columns, 3): grey, 48 × 48."""
    grey = cv2.cvtColor(photo, cv2.COLOR_RGB2GRAY)
    return bytes(cv2.resize(grey, (SIDE, SIDE), interpolation=cv2.INTER_AREA).tobytes())


def same_among(one: bytes, others: list[bytes]) -> int | None:
    """The place of the fingerprint among others that is of the same photo as this one; None where there is none."""
    if not others:
        return None
    known = np.frombuffer(b"".join(others), dtype=np.uint8).reshape(len(others), -1).astype(np.float32)
    apart = np.sqrt(((known - np.frombuffer(one, dtype=np.uint8)) ** 2).mean(axis=1))
    nearest = int(apart.argmin())
    return nearest if apart[nearest] < SAME else None
