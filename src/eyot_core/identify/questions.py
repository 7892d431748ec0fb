"""What to ask of a posterior: where to look next, what does not fit, which gene outside the pairing would explain it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eyot_core.catalogue.model import STAGES
from eyot_core.genetics.pairing import Floats
from eyot_core.identify.evidence import CONFIDENCE
from eyot_core.identify.inference import HatchlingWork, Inference, aligned, marginal
from eyot_core.identify.traits import Extra, TraitModel

ODD_BELOW = 0.05
FACTOR_FROM = 3.0
MOST_UNLISTED = 10


@dataclass(frozen=True)
class NextLook:
    """A trait that was not looked at yet, and the mutual information in bits between its answer and the genotype."""

    trait: str
    gain: float


def next_looks(inference: Inference, index: int, look_stage: str | None = None) -> list[NextLook]:
    """The traits without an observation at the stage or later, largest gain first."""
    hatchling = inference.hatchlings[index]
    stage = look_stage or hatchling.latest_stage
    if stage not in STAGES:
        raise ValueError(f"look_stage must be one of {', '.join(STAGES)}, got {stage!r}")
    done = hatchling.seen_from(stage)
    children = inference.posteriors[index].children
    found = [
        NextLook(trait, gain_bits(inference.model, children, trait, stage))
        for trait in inference.model.catalogue.traits
        if trait not in done
    ]
    return sorted(found, key=lambda look: -look.gain)


def gain_bits(model: TraitModel, children: Floats, trait: str, stage: str) -> float:
    """I(answer; genotype) in bits for a sure answer at the stage: H(mean answer) − mean H(answer)."""
    table = model.table(trait, stage)
    if not table.groups:
        return 0.0
    r = model.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
    levels = table.chances.shape[-1]
    answers = (r * table.chances + (1 - r) / levels).reshape(-1, levels)
    return information_bits(marginal(children, table.groups).reshape(-1), answers)


def information_bits(weights: Floats, answers: Floats) -> float:
    """Mutual information in bits: ``weights`` (cases,) sum to 1, ``answers`` (cases, levels) are the chances in each case."""
    return max(0.0, float(_entropy(weights @ answers) - weights @ _entropy(answers)))


def _entropy(chances: Floats) -> Floats:
    """Entropy in bits along the last axis; 0·log 0 = 0."""
    logs = np.log2(chances, out=np.zeros_like(chances), where=chances > 0)
    return np.asarray(-(chances * logs).sum(axis=-1))


@dataclass(frozen=True)
class Settling:
    """What one more look would do for the gene that it tells most of.

    ``gene``; ``before``: the chance that it is there; ``chance``: how often a sure answer would leave it at 95 % or more
    for or against.
    """

    gene: str
    before: float
    chance: float


SETTLED = 0.95


def what_it_settles(inference: Inference, index: int, trait: str, stage: str) -> Settling | None:
    """The gene of which a sure answer tells most; ``None`` where the trait tells of none that the pairing gives."""
    pairing, children = inference.pairing, inference.posteriors[index].children
    table = inference.model.table(trait, stage)
    r = inference.model.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
    answers = r * table.chances + (1 - r) / table.chances.shape[-1]
    best: tuple[float, Settling] | None = None
    for gene in pairing.given_genes:
        locus = pairing.catalogue.genes[gene].locus
        g = pairing.group_of[locus][0]
        if g in table.groups:
            needed = 2 if pairing.catalogue.genes[gene].is_recessive else 1
            there = pairing.groups[g].copies_of(gene, locus) >= needed
            joint = _joint_of(children, answers, table.groups, g, there)
            settling = _settling(gene, joint)
            if best is None or settling[0] > best[0]:
                best = settling
    return best[1] if best else None


def _joint_of(
    children: Floats, answers: Floats, groups: tuple[int, ...], g: int, there: np.typing.NDArray[np.bool_]
) -> Floats:
    """Joint chances, shape (2, levels): gene not there or there, against the answer."""
    weights = marginal(children, groups)[..., np.newaxis] * answers
    axis = groups.index(g)
    by_state = weights.sum(axis=tuple(i for i in range(len(groups)) if i != axis))
    return np.stack([by_state[~there].sum(axis=0), by_state[there].sum(axis=0)])


def _settling(gene: str, joint: Floats) -> tuple[float, Settling]:
    answer, before = joint.sum(axis=0), joint.sum(axis=1)
    after = joint / np.where(answer > 0, answer, 1)
    gain = float(_entropy(before) - answer @ _entropy(after.T))
    settled = float(answer[after.max(axis=0) >= SETTLED].sum())
    return gain, Settling(gene, float(before[1]), settled)


@dataclass(frozen=True)
class Surprise:
    """An answer that was hardly to be expected. ``expected``: 0 to 1, how far it was."""

    trait: str
    expected: float


def surprises(inference: Inference, index: int) -> list[Surprise]:
    """Answers of one hatchling that the rest of the clutch's looks hardly lead one to expect, the worst first.

    evidence(all) / evidence(all without this trait) = 1 / E[1 / likelihood of the trait], under the posterior.
    """
    if inference.contradictions[index]:
        return []
    work, children = inference.work[index], inference.posteriors[index].children
    found = []
    for evidence in work.likelihood.evidence:
        groups, chances = work.likelihood.tables[evidence.trait]
        ratio = 1 / float((marginal(children, groups) / chances).sum())
        expected = ratio / float(evidence.vector.max())
        if expected < ODD_BELOW:
            found.append(Surprise(evidence.trait, expected))
    return sorted(found, key=lambda surprise: surprise.expected)


@dataclass(frozen=True)
class Unlisted:
    """A gene that the pairing cannot give, and by how much it would make the looks more likely."""

    gene: str
    copies: int
    factor: float


def unlisted_genes(inference: Inference, index: int) -> list[Unlisted]:
    """Catalogue genes outside the pairing that would explain this hatchling's own looks at least three times better."""
    if inference.contradictions[index]:
        return []
    work, catalogue = inference.work[index], inference.model.catalogue
    own = inference.posteriors[index].prior * work.likelihood.values
    own = own / own.sum()
    given = set(inference.pairing.given_genes)
    found = []
    for gene in catalogue.genes.values():
        if gene.id not in given:
            extra = Extra(gene.id, gene.locus, 2 if gene.is_recessive else 1)
            factor = _factor_of(inference, work, own, extra)
            if factor >= FACTOR_FROM:
                found.append(Unlisted(gene.id, extra.copies, factor))
    return sorted(found, key=lambda row: -row.factor)[:MOST_UNLISTED]


def _factor_of(inference: Inference, work: HatchlingWork, own: Floats, extra: Extra) -> float:
    """E[Π likelihood with the gene / likelihood without], under the hatchling's own posterior."""
    shape = inference.pairing.shape
    touched: set[int] = set()
    ratios = []
    for evidence in work.likelihood.evidence:
        if inference.model.speaks_of(evidence.trait, evidence.stage, extra.gene, extra.locus):
            groups, before = work.likelihood.tables[evidence.trait]
            after = inference.model.table_with(evidence.trait, evidence.stage, extra).chances @ evidence.vector
            ratios.append((after / before).reshape(aligned(groups, shape)))
            touched |= set(groups)
    if not ratios:
        return 1.0
    kept = tuple(axis for axis in range(len(shape)) if axis not in touched)
    weights = own.sum(axis=kept, keepdims=True)
    for ratio in ratios:
        weights = weights * ratio
    return float(weights.sum())
