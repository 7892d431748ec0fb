"""How reliably an eye reads a look at a stage, from answers whose truth is known; and what it takes for what.

The eye errs as in :func:`eyot_core.identify.evidence.answering`: right with clarity × confidence, else by how readily levels are
mistaken. Measured is the clarity under which the answers and a prior about the catalogue's own are best together.

Source: the largest posterior over a grid, with a Beta prior worth :data:`PRIOR` answers.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from eyot_core.catalogue.model import Trait
from eyot_core.identify.evidence import CONFIDENCE, mistakes

GRID = np.linspace(0.02, 0.99, 98)
PRIOR = 8.0
LEAST_ANSWERS = 30
"""The floor: below it nothing is offered."""
WITHIN = 0.9


@dataclass(frozen=True)
class Reading:
    """One answer whose truth is known, and how sure the eye was."""

    true: str
    read: str
    confidence: str = "sure"


@dataclass(frozen=True)
class Figure:
    """What answers say of an eye. ``before``: what is held of every eye, ``after``: its own, within ``low`` to ``high`` at 90 %."""

    answers: int
    before: float
    after: float
    low: float
    high: float

    @property
    def bounds(self) -> tuple[float, float]:
        """Between which figures the eye's own lies."""
        return self.low, self.high

    @property
    def is_enough(self) -> bool:
        """Do the answers reach the floor?"""
        return self.answers >= LEAST_ANSWERS


@dataclass(frozen=True)
class Reliability(Figure):
    """How reliably one look is read at one stage; ``before``: the catalogue's clarity."""

    look: str
    stage: str


def measured(trait: Trait, stage: str, readings: Sequence[Reading]) -> Reliability:
    """How reliably an eye reads a look at a stage."""
    before, errs = trait.clarity[stage], mistakes(trait)
    logs = PRIOR * (before * np.log(GRID) + (1 - before) * np.log(1 - GRID))
    for one in readings:
        true, read = trait.level_index[one.true], trait.level_index[one.read]
        right = GRID * CONFIDENCE[one.confidence]
        logs = logs + np.log(np.maximum(right * (true == read) + (1 - right) * errs[true, read], 1e-12))
    low, high, best = _within(logs)
    return Reliability(len(readings), before, best, low, high, trait.id, stage)


@dataclass(frozen=True)
class Worth(Figure):
    """What a word for how sure an eye was is worth."""

    word: str


def worth_of(word: str, readings: Sequence[tuple[Trait, float, Reading]]) -> Worth:
    """What a word is worth, from (look, the eye's clarity of it, answer) of all answers that were given with it."""
    before = CONFIDENCE[word]
    logs = PRIOR * (before * np.log(GRID) + (1 - before) * np.log(1 - GRID))
    own = [(trait, clarity, one) for trait, clarity, one in readings if one.confidence == word]
    for trait, clarity, one in own:
        true, read = trait.level_index[one.true], trait.level_index[one.read]
        right = clarity * GRID
        logs = logs + np.log(np.maximum(right * (true == read) + (1 - right) * mistakes(trait)[true, read], 1e-12))
    low, high, best = _within(logs)
    return Worth(len(own), before, best, low, high, word)


def _within(logs: np.ndarray) -> tuple[float, float, float]:
    """Of a posterior over the grid its interval, and where it is largest."""
    weights = np.exp(logs - logs.max())
    sums = np.cumsum(weights) / weights.sum()
    low, high = (float(GRID[int(np.searchsorted(sums, share))]) for share in ((1 - WITHIN) / 2, (1 + WITHIN) / 2))
    return low, high, float(GRID[int(weights.argmax())])


@dataclass(frozen=True)
class Taken:
    """How often a true level was read as another, of all times that it was seen."""

    true: str
    read: str
    count: int
    of: int

    @property
    def interval(self) -> tuple[float, float]:
        """Between which shares the true one lies, at 90 % (Wilson)."""
        low, high = scipy.stats.binomtest(self.count, self.of).proportion_ci(WITHIN, method="wilson")
        return float(low), float(high)


def taken_for(readings: Sequence[Reading]) -> list[Taken]:
    """What an eye took for what, the commonest mistakes first."""
    seen = Counter(one.true for one in readings)
    wrong = Counter((one.true, one.read) for one in readings if one.true != one.read)
    rows = [Taken(true, read, count, seen[true]) for (true, read), count in wrong.items()]
    return sorted(rows, key=lambda row: (-row.count / row.of, -row.count, row.true, row.read))
