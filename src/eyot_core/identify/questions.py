"""What to ask of a posterior: where to look next, what does not fit, which gene outside the pairing would explain it.

Source: expected information gain (mutual information of an answer and the genotype), in bits.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eyot_core.catalogue.model import STAGES
from eyot_core.genetics.tables import Floats, Marginals, Table
from eyot_core.identify.evidence import Evidence
from eyot_core.identify.inference import HatchlingWork, Inference
from eyot_core.identify.traits import Extra, TraitModel, entropy_bits

ODD_BELOW = 0.05
FACTOR_FROM = 3.0
MOST_UNLISTED = 10
NOTHING_BITS = 1e-12


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
    sums = inference.posteriors[index].sums
    looks = [
        NextLook(trait, gain_bits(inference.model, sums, trait, stage))
        for trait in inference.model.catalogue.traits
        if trait not in done
    ]
    return sorted(looks, key=lambda look: -look.gain)


def gain_bits(model: TraitModel, children: Marginals, trait: str, stage: str) -> float:
    """I(answer; genotype) in bits for a sure answer at the stage: H(mean answer) − mean H(answer)."""
    sure = model.sure_answers(trait, stage)
    if not sure.groups:
        return 0.0
    weights = children.of(sure.groups).reshape(-1)
    return _but_for_rounding(float(entropy_bits(weights @ sure.answers) - weights @ sure.entropies))


def information_bits(weights: Floats, answers: Floats) -> float:
    """Mutual information in bits: ``weights`` (cases,) sum to 1, ``answers`` (cases, levels) are the chances in each case."""
    return _but_for_rounding(float(entropy_bits(weights @ answers) - weights @ entropy_bits(answers)))


def _but_for_rounding(bits: float) -> float:
    """A gain; 0 where only rounding made it more, so that looks that tell nothing keep the order of the catalogue."""
    return bits if bits > NOTHING_BITS else 0.0


@dataclass(frozen=True)
class Settling:
    """What one more look would do for the gene that it tells most of.

    ``gene``; ``before``: the chance that it is there; ``chance``: how often a sure answer would leave it at 95 % or more
    for or against; ``gain``: what the answer tells of the gene, in bits.
    """

    gene: str
    before: float
    chance: float
    gain: float


SETTLED = 0.95


def what_it_settles(inference: Inference, index: int, trait: str, stage: str) -> Settling | None:
    """The gene of which a sure answer tells most; ``None`` where the trait tells of none that the pairing gives."""
    settlings = [settling_of(inference, index, gene, trait, stage) for gene in inference.pairing.given_genes]
    return max((one for one in settlings if one), key=lambda one: one.gain, default=None)


def settling_of(inference: Inference, index: int, gene: str, trait: str, stage: str) -> Settling | None:
    """What a sure answer would do for one gene; ``None`` where the trait's table does not touch the gene's group."""
    pairing, table = inference.pairing, inference.model.table(trait, stage)
    locus = pairing.catalogue.genes[gene].locus
    g = pairing.group_of[locus][0]
    if g not in table.groups:
        return None
    answers = inference.model.sure_answers(trait, stage).answers.reshape(table.chances.shape)
    needed = 2 if pairing.catalogue.genes[gene].is_recessive else 1
    there = pairing.groups[g].copies_of(gene, locus) >= needed
    return settling_by(gene, _joint_of(inference.posteriors[index].sums, answers, table.groups, g, there))


def _joint_of(
    children: Marginals, answers: Floats, groups: tuple[int, ...], g: int, there: np.typing.NDArray[np.bool_]
) -> Floats:
    """Joint chances, shape (2, levels): gene not there or there, against the answer."""
    weights = children.of(groups)[..., np.newaxis] * answers
    axis = groups.index(g)
    by_state = weights.sum(axis=tuple(i for i in range(len(groups)) if i != axis))
    return np.stack([by_state[~there].sum(axis=0), by_state[there].sum(axis=0)])


def settling_by(gene: str, joint: Floats) -> Settling:
    """What an answer does for a gene. ``joint``: chances of not there and there against the answer, (2, levels), summing to 1."""
    answer, before = joint.sum(axis=0), joint.sum(axis=1)
    after = joint / np.where(answer > 0, answer, 1)
    gain = float(entropy_bits(before) - answer @ entropy_bits(after.T))
    settled = float(answer[after.max(axis=0) >= SETTLED].sum())
    return Settling(gene, float(before[1]), settled, gain)


@dataclass(frozen=True)
class Surprise:
    """An answer that was hardly to be expected. ``expected``: 0 to 1, how far it was."""

    trait: str
    expected: float


def surprises(inference: Inference, index: int) -> list[Surprise]:
    """Answers of one hatchling that the rest of the clutch's looks hardly lead one to expect, the worst first.

    evidence(all) / evidence(all without this trait) = E[likelihood of the trait], under what is held without it.
    """
    if inference.contradictions[index]:
        return []
    surprising = []
    for evidence in inference.own_evidence(index):
        groups, chances = inference.work[index].likelihood.tables[evidence.trait]
        ratio = float((inference.held_without(index, evidence.trait, groups) * chances).sum())
        expected = ratio / float(evidence.vector.max())
        if expected < ODD_BELOW:
            surprising.append(Surprise(evidence.trait, expected))
    return sorted(surprising, key=lambda surprise: surprise.expected)


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
    given = set(inference.pairing.given_genes)
    outside = [gene for gene in inference.model.catalogue.genes.values() if gene.id not in given]
    if not outside:
        return []
    work = inference.work[index]
    prior = inference.posteriors[index].prior
    own = prior * work.likelihood.values
    sums = Marginals(own / own.sum())
    genes = []
    for gene in outside:
        extra = Extra(gene.id, gene.locus, 2 if gene.is_recessive else 1)
        factor = _factor_of(inference, prior, work, sums, extra)
        if factor >= FACTOR_FROM:
            genes.append(Unlisted(gene.id, extra.copies, factor))
    return sorted(genes, key=lambda row: -row.factor)[:MOST_UNLISTED]


def _factor_of(inference: Inference, prior: Floats, work: HatchlingWork, own: Marginals, extra: Extra) -> float:
    """E[Π likelihood with the gene / likelihood without], under the hatchling's own posterior."""
    ratios: list[Table] = []
    for evidence in work.likelihood.evidence:
        if inference.model.speaks_of(evidence.trait, evidence.stage, extra.gene, extra.locus):
            groups, before = work.likelihood.tables[evidence.trait]
            if before.min() == 0:
                return _factor_by_sums(inference, prior, work, extra)
            ratios.append((groups, _with_extra(inference, evidence, extra) / before))
    touched = sorted({group for groups, _ in ratios for group in groups})
    weights = own.of(touched)
    for groups, ratio in ratios:
        weights = weights * ratio.reshape(
            [size if group in groups else 1 for group, size in zip(touched, weights.shape, strict=True)]
        )
    return float(weights.sum()) if ratios else 1.0


def _with_extra(inference: Inference, evidence: Evidence, extra: Extra) -> Floats:
    return np.asarray(
        inference.model.table_with(evidence.trait, evidence.stage, extra).chances @ evidence.vector, dtype=np.float64
    )


def _factor_by_sums(inference: Inference, prior: Floats, work: HatchlingWork, extra: Extra) -> float:
    """The same where a genotype without the gene makes a look impossible: both sums by themselves."""
    before, after = prior, prior
    for evidence in work.likelihood.evidence:
        groups, chances = work.likelihood.tables[evidence.trait]
        shape = [size if group in groups else 1 for group, size in enumerate(inference.pairing.shape)]
        before = before * chances.reshape(shape)
        after = after * _with_extra(inference, evidence, extra).reshape(shape)
    return float(after.sum() / before.sum())
