"""The same marginals by a general-purpose library for Bayesian networks, side by side with ours, in one run.

The library is installed by ``bin/eyot bench`` alone. Each locus is a variable with its chances from the parents, each look a
yes-or-no child of the loci that touch it, seen as "yes", whose chance is the likelihood of what was seen.
"""

from __future__ import annotations

import logging
import random
import warnings
from typing import Any

import numpy as np

from eyot_core.genetics.pairing import Pairing
from eyot_core.identify.evidence import Hatchling
from eyot_core.identify.inference import Inference
from eyot_core.identify.traits import TraitModel

from tests.core_benchmarks import milliseconds, paired, seen, segregating

Marginals = list[np.typing.NDArray[np.float64]]


def network(inference: Inference) -> tuple[Any, dict[str, int]]:
    """The network of one hatchling, and what was seen of it."""
    from pgmpy.factors.discrete import TabularCPD
    from pgmpy.models import DiscreteBayesianNetwork

    pairing: Pairing = inference.pairing
    likelihood = inference.work[0].likelihood
    edges = [(f"L{g}", trait) for trait, (groups, _) in likelihood.tables.items() for g in groups]
    model = DiscreteBayesianNetwork(edges)
    model.add_nodes_from([f"L{g}" for g in range(len(pairing.groups))])
    for g, size in enumerate(pairing.shape):
        model.add_cpds(TabularCPD(f"L{g}", size, pairing.expected_sums.of([g]).reshape(-1, 1)))
    for trait, (groups, chances) in likelihood.tables.items():
        yes = (chances / chances.max()).reshape(-1)
        sizes = [pairing.shape[g] for g in groups]
        model.add_cpds(TabularCPD(trait, 2, np.stack([1 - yes, yes]), [f"L{g}" for g in groups], sizes))
    return model, dict.fromkeys(likelihood.tables, 1)


def by_library(model: Any, shown: dict[str, int], groups: int) -> Marginals:
    """Posterior of every locus by variable elimination."""
    from pgmpy.inference import VariableElimination

    elimination = VariableElimination(model)
    return [elimination.query([f"L{g}"], evidence=shown, show_progress=False).values for g in range(groups)]


def by_eyot(model: TraitModel, clutch: list[Hatchling]) -> Marginals:
    """The same by the computation of Eyot."""
    sums = Inference(model.pairing, clutch, model).posteriors[0].sums
    return [sums.of([g]) for g in range(len(model.pairing.groups))]


def compared() -> tuple[float, float, float]:
    """Milliseconds of Eyot and of the library for all marginals of 12 loci, and the largest difference."""
    logging.disable(logging.INFO)
    warnings.simplefilter("ignore")
    case = segregating(12, 2, 5)
    model = TraitModel(paired(case))
    clutch = [Hatchling("1", seen(case[2], random.Random(7)))]
    net, shown = network(Inference(model.pairing, clutch, model))
    groups = len(model.pairing.groups)
    ours, theirs = by_eyot(model, clutch), by_library(net, shown, groups)
    difference = max(float(np.abs(a - b).max()) for a, b in zip(ours, theirs, strict=True))
    own = milliseconds(lambda: by_eyot(model, clutch))
    return own, milliseconds(lambda: by_library(net, shown, groups), 3), difference


if __name__ == "__main__":
    own, library, difference = compared()
    row = f"Eyot {own:.1f} ms | library {library:.0f} ms | ratio {library / own:.0f} | largest difference {difference:.0e}"
    print(f"| all marginals of 12 loci | {row} |")
