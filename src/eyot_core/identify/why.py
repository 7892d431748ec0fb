"""Why a gene stands where it stands: the balance of cues for and against it, and what would settle it when.

A hatchling's posterior is what its parents and siblings say times its own looks; divided by one look's likelihood it is exactly what
would be held without that look. From that come a look's factor on the odds of a gene, and what was to be expected of it.

Source: Bayes' rule in odds: odds after are odds before times the likelihood ratio.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import STAGES
from eyot_core.genetics.tables import Floats, Marginals
from eyot_core.identify.evidence import Evidence
from eyot_core.identify.inference import Inference
from eyot_core.identify.questions import Settling, settling_of

TOUCHES = 1.02
WORTH_BITS = 0.01


@dataclass(frozen=True)
class Cue:
    """What one answered look says of a gene.

    ``factor``: by which it multiplies the odds of the gene, all else counted; above 1 it speaks for the gene. ``with_gene``,
    ``without_gene``: chances of the levels, in the order of the trait's levels, that were to be expected of this hatchling
    before the look; each shape (levels,).
    """

    trait: str
    stage: str
    factor: float
    with_gene: Floats
    without_gene: Floats


def cues_of(inference: Inference, index: int, gene: str, copies: int) -> list[Cue]:
    """The answered looks that touch a gene in at least ``copies`` copies, the strongest first. Empty where the looks contradict.

    Factors are each look's own, with all the others counted: where looks depend on one another they do not multiply up.
    """
    if inference.contradictions[index]:
        return []
    children, cues = inference.posteriors[index].sums, []
    for evidence in inference.own_evidence(index):
        joint = _joint(inference, index, evidence, gene, copies)
        there = joint.sum(axis=1)
        after = _there_after(inference, children, gene, copies)
        if there.min() > 0 and 0 < after < 1:
            factor = (after / (1 - after)) / (there[1] / there[0])
            if max(factor, 1 / factor) >= TOUCHES:
                cues.append(Cue(evidence.trait, evidence.stage, factor, joint[1] / there[1], joint[0] / there[0]))
    return sorted(cues, key=lambda cue: -abs(np.log(cue.factor)))


@dataclass(frozen=True)
class Outlook:
    """The look that tells most of a gene at a stage, and what a sure answer to it would do."""

    stage: str
    trait: str
    settling: Settling


def outlooks(inference: Inference, index: int, gene: str, from_stage: str) -> list[Outlook]:
    """For this stage and each later one the look that tells most of the gene; stages at which none tells of it are left out."""
    best_looks = []
    for stage in STAGES[STAGES.index(from_stage) :]:
        rows = [
            (trait, settling)
            for trait in inference.model.catalogue.traits
            if (settling := settling_of(inference, index, gene, trait, stage)) is not None
        ]
        trait, best = max(rows, key=lambda row: row[1].gain, default=("", None))
        if best and best.gain > WORTH_BITS:
            best_looks.append(Outlook(stage, trait, best))
    return best_looks


def _there(inference: Inference, gene: str, copies: int) -> tuple[int, NDArray[np.bool_]]:
    pairing = inference.pairing
    locus = pairing.catalogue.genes[gene].locus
    g = pairing.group_of[locus][0]
    return g, pairing.groups[g].copies_of(gene, locus) >= copies


def _there_after(inference: Inference, children: Marginals, gene: str, copies: int) -> float:
    g, there = _there(inference, gene, copies)
    return float(children.of([g])[there].sum())


def _joint(inference: Inference, index: int, evidence: Evidence, gene: str, copies: int) -> Floats:
    """Joint chances, shape (2, levels): gene not there or there, against the level, as held without the look; they sum to 1."""
    g, there = _there(inference, gene, copies)
    table = inference.model.table(evidence.trait, evidence.stage)
    touched = sorted({g, *table.groups})
    shape = [len(inference.pairing.groups[one].children) for one in touched]
    weights = inference.held_without(index, evidence.trait, touched)
    laid = table.chances.reshape([*_laid(table.groups, touched, shape), table.chances.shape[-1]])
    by_state = (weights[..., np.newaxis] * laid).sum(axis=tuple(i for i, one in enumerate(touched) if one != g))
    return np.stack([by_state[~there].sum(axis=0), by_state[there].sum(axis=0)])


def _laid(groups: Sequence[int], touched: Sequence[int], shape: Sequence[int]) -> list[int]:
    """The shape of a table over some of the touched groups, laid out over all of them."""
    return [size if one in groups else 1 for one, size in zip(touched, shape, strict=True)]
