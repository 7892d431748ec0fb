"""Levels that are degrees of one thing: proportional odds along a scale.

Genes *shift* a look along its scale: with q the chance of the first k levels, the new q is 1 / (1 + e^d · (1 − q) / q). The
further a level lies in the direction of the shift, the more it speaks for the gene, so a stronger sign never argues against it.

Source: the proportional odds model of ordered answers; that genes shift and do not stretch a scale is our assumption.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from eyot_core.genetics.tables import Floats

MOST_SHIFT = 500.0
"""Shifts beyond this change nothing that a float could tell, and would overflow."""


def shifted(chances: Floats, scale: Sequence[int], shift: Floats) -> Floats:
    """Chances with the levels on the scale moved by ``shift``; levels off it keep theirs.

    ``chances``: shape (levels, …), ``shift``: shape (…) or broadcastable to it.

    >>> shifted(np.array([0.5, 0.5]), (0, 1), np.array(np.log(3))).round(12).tolist()
    [0.25, 0.75]
    """
    if not len(scale) or not np.any(shift):
        return chances
    levels = list(scale)
    on = chances[levels]
    upto, beyond = np.cumsum(on, axis=0), np.cumsum(on[::-1], axis=0)[::-1]
    step = np.exp(np.clip(shift, -MOST_SHIFT, MOST_SHIFT) / 2)
    # of the differences of neighbouring q, multiplied out, so that no small chance is lost to rounding
    below, above = step * beyond, upto / step
    below[1:] += upto[:-1] / step
    above[:-1] += step * beyond[1:]
    bottom = np.multiply(below, above, out=below)
    square = upto[-1] * upto[-1]
    changed = chances.copy()
    changed[levels] = np.divide(on * square, bottom, out=np.zeros_like(bottom), where=(bottom > 0) & (on > 0))
    return changed
