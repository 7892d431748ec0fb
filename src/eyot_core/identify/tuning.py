"""How strongly a look tells of genes, learned from animals whose genes were proven: one factor a look, with a floor of evidence.

Each look at a proven animal is scored by its chance given what was proven (genes that were not proven count as the parents
can give them; the animal's other looks are left aside). The factor is the one under which these scores and a prior, which
holds the catalogue's own weight to be the likeliest, are best together.

Source: the largest posterior over a grid of factors, with a log-normal prior about 1.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats, Marginals
from eyot_core.identify.evidence import Hatchling, evidence_of
from eyot_core.identify.traits import TraitModel

TIMES = (0.4, 0.55, 0.75, 1.0, 1.25, 1.5)
"""The factors that are tried; 1 is the catalogue as it stands."""
SPREAD = 0.35
"""Standard deviation of the factor's natural logarithm before any evidence."""
LEAST_HATCHLINGS = 20
"""The floor: below it nothing is offered."""
TELLS_NOTHING = 1e-9
LEAST_CHANCE = 1e-12
"""An answer that the model holds impossible counts as this unlikely, so that one slip does not outweigh all else."""


@dataclass(frozen=True)
class Tuned:
    """What proven animals say of one look. ``before``, ``after``: the mean chance (geometric) of their answers under the
    catalogue and under ``times``; ``is_enough``: does the evidence reach the floor?"""

    trait: str
    hatchlings: int
    times: float
    before: float
    after: float
    is_enough: bool


def children_proven(pairing: Pairing, copies: Mapping[str, int]) -> Marginals | None:
    """Genotypes that the parents can give and that have just these numbers of copies; ``None`` if there are none."""
    children = pairing.expected.copy()
    for gene, count in copies.items():
        if gene not in pairing.counting:
            continue
        g, counting = pairing.counting[gene]
        fits = np.asarray(counting[count], dtype=np.float64)
        children *= fits.reshape([-1 if axis == g else 1 for axis in range(children.ndim)])
    total = children.sum()
    return Marginals(children / total) if total > 0 else None


def log_scores(models: Sequence[TraitModel], copies: Mapping[str, int], hatchling: Hatchling) -> dict[str, Floats]:
    """For each look at a proven hatchling the log chance of its answer under each model, shape (models,).

    ``models``: one for each of :data:`TIMES`, over the same parents. Looks on which the factor has no bearing are left out.
    """
    children = children_proven(models[0].pairing, copies)
    scores = {}
    if children is not None:
        for evidence in evidence_of(hatchling, models[0].catalogue):
            tables = [model.table(evidence.trait, evidence.stage) for model in models]
            chances = [float((children.of(one.groups) * (one.chances @ evidence.vector)).sum()) for one in tables]
            logs = np.log(np.maximum(chances, LEAST_CHANCE))
            if np.ptp(logs) > TELLS_NOTHING:
                scores[evidence.trait] = logs
    return scores


def tuned(scores: Iterable[Mapping[str, Floats]]) -> list[Tuned]:
    """One finding for each look from the scores of many hatchlings; the most looked at first."""
    by_trait: dict[str, list[Floats]] = {}
    for one in scores:
        for trait, logs in one.items():
            by_trait.setdefault(trait, []).append(logs)
    rows = [_tuned(trait, np.array(logs)) for trait, logs in by_trait.items()]
    return sorted(rows, key=lambda one: (-one.hatchlings, one.trait))


def _tuned(trait: str, logs: Floats) -> Tuned:
    prior = -0.5 * (np.log(TIMES) / SPREAD) ** 2
    best = int((logs.sum(axis=0) + prior).argmax())
    means = np.exp(logs.mean(axis=0))
    enough = len(logs) >= LEAST_HATCHLINGS
    return Tuned(trait, len(logs), TIMES[best], float(means[TIMES.index(1.0)]), float(means[best]), enough)
