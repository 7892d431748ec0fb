"""A stronger sign must never argue against a gene: the check over a whole catalogue.

For each gene in one and two copies, each stage and each look on a scale, the ratio P(level | gene) / P(level | normal) must rise
or fall all along the scale. What a mask decides or damps is left aside: there the gene's own look is covered. Answers pass
through the eye's mistakes; of them the check asks that, from the level of normal animals outward, none speaks less for the
gene than the one before, but for looks of a clarity below ``LEAST_CLARITY``. Run by ``bin/eyot check``.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import numpy as np

from eyot_core.catalogue.model import STAGES, Catalogue, Trait
from eyot_core.genetics.tables import Floats
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.traits import Genotype, chances_of_look, rules_of

ROUNDING = 1e-9
FELT = 1e-3
"""Differences of answers' log ratios below this change no figure that anybody reads."""
LEAST_CLARITY = 0.36
"""Exception for answers: where an eye errs in two of three looks, half of its mistakes go to the next level, so that "a little"
is seen as often where there is nothing. Such looks are hardly to be judged at that stage, and the reference says so."""


@dataclass(frozen=True)
class Fault:
    """A look in which a stronger sign argues against a gene. ``ratios``: natural logs along the scale, (levels,)."""

    gene: str
    copies: int
    trait: str
    stage: str
    of_answers: bool
    ratios: tuple[float, ...]

    def __str__(self) -> str:
        kind = "answers" if self.of_answers else "levels"
        shown = ", ".join(f"{ratio:+.2f}" for ratio in self.ratios)
        return f"{self.gene} in {self.copies}, {self.trait} at {self.stage}, {kind}: {shown}"


def faults_of(catalogue: Catalogue) -> Iterator[Fault]:
    """Every look of every gene in which a stronger sign argues against the gene."""
    for trait in (one for one in catalogue.traits.values() if one.scale):
        for stage in (one for one in STAGES if trait.clarity[one] > 0):
            normal = chances_of_look(catalogue, trait.id, {}, (stage,))[0]
            for gene, copies in product(catalogue.genes.values(), (1, 2)):
                genotype = {gene.locus: [gene.id] * copies}
                if not _is_masked(catalogue, genotype, trait.id, stage):
                    own = chances_of_look(catalogue, trait.id, genotype, (stage,))[0]
                    for of_answers, ratios in _faulty(own, normal, trait, stage):
                        yield Fault(gene.id, copies, trait.id, stage, of_answers, tuple(ratios.tolist()))


def _faulty(own: Floats, normal: Floats, trait: Trait, stage: str) -> Iterator[tuple[bool, Floats]]:
    scale = list(trait.scale)
    with np.errstate(divide="ignore", invalid="ignore"):
        levels = np.log(own[scale] / normal[scale])
    steps = np.diff(levels)
    if (steps > ROUNDING).any() and (steps < -ROUNDING).any():
        yield False, levels
    if np.abs(steps).max() < ROUNDING or trait.clarity[stage] < LEAST_CLARITY:
        return
    channel = answering(trait, trait.clarity[stage] * CONFIDENCE["sure"])
    answers = np.log((own @ channel)[scale] / (normal @ channel)[scale])
    wild = int(normal[scale].argmax())
    outward = answers[wild:] if steps.sum() > 0 else answers[: wild + 1][::-1]
    if (np.diff(outward) < -FELT).any():
        yield True, answers


def _is_masked(catalogue: Catalogue, genotype: Genotype, trait: str, stage: str) -> bool:
    return any(
        all(one.holds_in(genotype.get(catalogue.locus_of(one), ())) for one in mask.when)
        for mask in rules_of(catalogue, trait, stage).masks
    )


def main() -> int:
    """Prints the faults of the built-in catalogue; the exit status is 1 where there are any."""
    from eyot_core.catalogue import builtin_catalogue

    faults = list(faults_of(builtin_catalogue()))
    for fault in faults:
        print(fault)
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
