"""How well calls hold once something is proven: shares with their uncertainty, and calibration.

Source: the interval of a share after Wilson, which stays within 0 and 1 for small counts.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy


@dataclass(frozen=True)
class Share:
    """A count out of a number, with the 95 % interval of the share behind it; ``low`` and ``high`` are 0 and 1 for no cases."""

    right: int
    count: int
    low: float
    high: float


def share(right: int, count: int) -> Share:
    """A share with its interval. ValueError where more are right than there are.

    >>> [round(value, 3) for value in (share(9, 10).low, share(9, 10).high)]
    [0.596, 0.982]
    """
    if not 0 <= right <= count:
        raise ValueError(f"right must be from 0 to {count}, got {right}")
    if count == 0:
        return Share(0, 0, 0.0, 1.0)
    interval = scipy.stats.binomtest(right, count).proportion_ci(0.95, method="wilson")
    return Share(right, count, float(interval.low), float(interval.high))


def counted_ratios(carriers: Share, others: Share) -> tuple[float, float]:
    """How much likelier a mark is seen in carriers than in others, and how much likelier it is not seen, as counted.

    Half a case is added on either side, so that no ratio is 0 or endless (Haldane 1956, Anscombe 1956).

    >>> [round(ratio, 2) for ratio in counted_ratios(share(8, 10), share(1, 10))]
    [5.67, 0.26]
    """

    def smoothed(count: int, total: int) -> float:
        return (count + 0.5) / (total + 1)

    seen = smoothed(carriers.right, carriers.count) / smoothed(others.right, others.count)
    unseen = [smoothed(one.count - one.right, one.count) for one in (carriers, others)]
    return seen, unseen[0] / unseen[1]


@dataclass(frozen=True)
class Bin:
    """Cases whose chance lay between two bounds: the mean chance that was held, and how many were so."""

    low: float
    high: float
    held: float
    share: Share


def calibration(chances: Sequence[float], truths: Sequence[bool], bins: int = 5) -> list[Bin]:
    """What was held against what was so, in equal bins of chance; empty bins are left out."""
    if len(chances) != len(truths):
        raise ValueError(f"each chance needs a truth, got {len(chances)} and {len(truths)}")
    values, so = np.array(chances), np.array(truths, dtype=bool)
    places = np.minimum((values * bins).astype(int), bins - 1)
    rows = []
    for place in range(bins):
        chosen = places == place
        if chosen.any():
            right = share(int(so[chosen].sum()), int(chosen.sum()))
            rows.append(Bin(place / bins, (place + 1) / bins, float(values[chosen].mean()), right))
    return rows
