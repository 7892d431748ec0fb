"""Counts against odds: what to expect of n eggs, and whether a count was luck.

Siblings share their parents' state, so counts of a clutch are a mixture of binomials over the hypotheses on the parents,
never one binomial. How unusual a count is (luck) and what it says of a parent's copies are two questions with two answers.

Source: the exact two-sided binomial test (sums of all counts that are no likelier); Bayes' rule for a parent's copies.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import comb

import numpy as np

from eyot_core.genetics.tables import Floats

TIE = 1e-9
PLACES = 14


def at_least_one(chance: float, eggs: int) -> float:
    """Chance that at least one of ``eggs`` independent hatchlings is of a kind that has ``chance`` each.

    >>> at_least_one(0.25, 2)
    0.4375
    """
    _check(chance, eggs)
    return 1 - (1 - chance) ** eggs


def spread_of_counts(chances: Sequence[float], weights: Sequence[float], eggs: int) -> Floats:
    """Chances of 0, 1 … ``eggs`` hatchlings of a kind; shape (eggs + 1,).

    ``chances``: of the kind in each egg, under each hypothesis on the parents; ``weights``: of the hypotheses, summing to 1.

    >>> [round(float(chance), 4) for chance in spread_of_counts([0.25, 0.0], [2 / 3, 1 / 3], 2)]
    [0.7083, 0.25, 0.0417]
    """
    if len(chances) != len(weights):
        raise ValueError(f"each hypothesis needs a chance and a weight, got {len(chances)} and {len(weights)}")
    if abs(sum(weights) - 1) > TIE:
        raise ValueError(f"the weights must sum to 1, they sum to {sum(weights):g}")
    return np.asarray(sum(w * binomial(chance, eggs) for chance, w in zip(chances, weights, strict=True)))


def distinct(chances: Floats, weights: Floats) -> tuple[Floats, Floats]:
    """Hypotheses under which a kind is equally likely (to the fourteenth place), taken together: their chances and weights."""
    held = weights > 0
    kept, places = np.unique(np.round(np.clip(chances[held], 0, 1), PLACES), return_inverse=True)
    return np.asarray(kept), np.bincount(places, weights=weights[held], minlength=len(kept)).astype(np.float64)


def none_of(chances: Floats, weights: Floats, eggs: int) -> float:
    """Chance that none of ``eggs`` siblings is of a kind; ``chances`` and ``weights`` as in :func:`spread_of_counts`."""
    return float(weights @ (1 - chances) ** eggs)


def fewest_for(chances: Floats, weights: Floats, wanted: float, most: int) -> int | None:
    """The fewest siblings of which at least one is of a kind with the chance ``wanted``; ``None`` if not even of ``most``."""
    misses = weights @ (1 - chances)[:, np.newaxis] ** np.arange(most + 1)
    enough = np.flatnonzero(1 - misses >= wanted)
    return int(enough[0]) if len(enough) else None


def binomial(chance: float, eggs: int) -> Floats:
    """Chances of 0 … ``eggs`` successes; shape (eggs + 1,)."""
    _check(chance, eggs)
    return np.array([comb(eggs, k) * chance**k * (1 - chance) ** (eggs - k) for k in range(eggs + 1)])


def eggs_needed(chance: float, wanted: float = 0.95) -> int | None:
    """The fewest eggs that give at least one with the chance ``wanted``; ``None`` where it can't come.

    >>> eggs_needed(1 / 16), eggs_needed(0.0)
    (47, None)
    """
    _check(chance, 0)
    if not 0 <= wanted < 1:
        raise ValueError(f"wanted must be from 0 to below 1, got {wanted}")
    if chance == 0:
        return None
    if chance == 1:
        return 1
    return max(1, int(np.ceil(np.log1p(-wanted) / np.log1p(-chance))))


def luck(came: int, eggs: int, chance: float) -> float:
    """How often a clutch lies at least as far from its odds as this one: exact, two-sided.

    The sum of the chances of all counts that are no likelier than the one that came (equal ones count).

    >>> luck(7, 7, 0.5)
    0.015625
    """
    _check(chance, eggs)
    if not 0 <= came <= eggs:
        raise ValueError(f"came must be from 0 to {eggs}, got {came}")
    chances = binomial(chance, eggs)
    return min(1.0, float(chances[chances <= chances[came] * (1 + TIE)].sum()))


@dataclass(frozen=True)
class CopiesFromCount:
    """What a count says of a parent: ``factor`` by which it favours two copies, ``two`` the chance of two after it."""

    factor: float
    two: float


def copies_from_count(came: int, eggs: int, two_before: float, one_gives: float = 0.5) -> CopiesFromCount:
    """The evidence that a parent carries two copies: each child then has the gene; with one copy ``one_gives`` of them.

    One child without the gene rules two copies out. ``two_before``: the chance of two copies as stated.

    >>> copies_from_count(7, 7, 0.2)
    CopiesFromCount(factor=128.0, two=0.9696969696969697)
    """
    _check(one_gives, eggs)
    if not 0 <= came <= eggs:
        raise ValueError(f"came must be from 0 to {eggs}, got {came}")
    if not 0 <= two_before <= 1:
        raise ValueError(f"two_before must be from 0 to 1, got {two_before}")
    with_two = 1.0 if came == eggs else 0.0
    with_one = one_gives**came * (1 - one_gives) ** (eggs - came)
    if with_one == 0:
        raise ValueError(f"one copy that gives {one_gives} can't give {came} of {eggs}")
    total = two_before * with_two + (1 - two_before) * with_one
    return CopiesFromCount(with_two / with_one, two_before * with_two / total)


def _check(chance: float, eggs: int) -> None:
    if not 0 <= chance <= 1:
        raise ValueError(f"chance must be from 0 to 1, got {chance}")
    if eggs < 0:
        raise ValueError(f"eggs must be 0 or more, got {eggs}")
