"""What a clutch teaches: chances of a wanted kind in eggs to come, before anything is seen and given what has hatched.

Source: Bayes' rule over the hypotheses on the parents; eggs to come are independent given these.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from eyot_core.genetics.inheritance import FEMALE, MALE
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats
from eyot_core.hatchery.luck import spread_of_counts
from eyot_core.identify.inference import Inference

Genotype = dict[str, list[str]]
Wanted = Callable[[Genotype], bool]


@dataclass(frozen=True)
class Forecast:
    """``each``: the chance of one egg; ``spread``: of 0, 1 … n eggs, shape (n + 1,); ``at_least_one``: of n."""

    each: float
    spread: Floats

    @property
    def at_least_one(self) -> float:
        """Chance of at least one among the eggs."""
        return float(1 - self.spread[0])


def forecast(pairing: Pairing, wanted: Wanted, eggs: int) -> Forecast:
    """What ``eggs`` hatchlings of a pairing hold of a wanted kind, before anything is seen. ValueError if nothing can hatch."""
    return _forecast(pairing, pairing.prior, wanted, eggs)


def forecast_given(inference: Inference, wanted: Wanted, eggs: int) -> Forecast:
    """The same for further siblings of a clutch, given all that was seen of those that hatched."""
    return _forecast(inference.pairing, inference.hypotheses, wanted, eggs)


def _forecast(pairing: Pairing, hypotheses: Floats, wanted: Wanted, eggs: int) -> Forecast:
    if not pairing.can_hatch:
        raise ValueError("no animal of this pairing can reach hatching")
    cells = range(int(np.prod(pairing.shape)))
    chosen = np.array([1.0 if wanted(pairing.genotype_at(cell)) else 0.0 for cell in cells]).reshape(pairing.shape)
    chances = chances_by_hypothesis(pairing, chosen).reshape(-1)
    weights = hypotheses.reshape(-1)
    kept = weights > 0
    clipped = np.clip(chances[kept], 0, 1)
    return Forecast(float(clipped @ weights[kept]), spread_of_counts(clipped.tolist(), weights[kept].tolist(), eggs))


def chances_by_hypothesis(pairing: Pairing, chosen: Floats) -> Floats:
    """Chance, under each hypothesis on the parents, that a hatchling is one of the chosen children.

    ``chosen``: 0 or 1, of the pairing's shape. Shape of the answer: the layout of all (see :mod:`eyot_core.genetics.pairing`).
    """
    total = np.zeros(pairing.stated.shape)
    for sire, weight in enumerate(pairing.sire_weights):
        for sex in (FEMALE, MALE):
            total = total + weight / 2 * pairing.to_all(pairing.combined(chosen, sire, sex), sire)
    return np.asarray(total * pairing.per_survivor)
