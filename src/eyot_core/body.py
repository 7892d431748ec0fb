"""The shape of a ball python's body that drawings, simulated photos and strips share.

u runs along the body (snout 0, tail tip 1), v around it (spine 0, mid-belly ±1); seen from above, v = asin(t)/π for a
place at the share t of the half-width beside the midline.

Source: the proportions are ours, after the field's descriptions of young animals; nothing is measured from them.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
import scipy
from numpy.typing import ArrayLike, NDArray

GIRTHS = 13.0
"""Length of the body in half-girths of its widest place."""


@cache
def _shape() -> Callable[[NDArray[np.float64]], NDArray[np.float64]]:
    at = [0, 0.012, 0.04, 0.085, 0.28, 0.55, 0.78, 0.905, 1]
    return scipy.interpolate.PchipInterpolator(at, [0.2, 0.43, 0.66, 0.465, 0.86, 1, 0.8, 0.42, 0.03])  # type: ignore[no-any-return]


def half_widths(u: ArrayLike, length: float) -> NDArray[np.float64]:
    """Half-widths at places ``u`` of a body of a length; in the length's unit, of the shape of ``u``.

    >>> half_widths([0.55], 13 * 3.14159).round(2).tolist()
    [1.0]
    """
    return np.asarray(_shape()(np.asarray(u, dtype=np.float64)) * length / (GIRTHS * np.pi))
