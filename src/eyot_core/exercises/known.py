"""What could be known of an animal from its picture: the exact chance of every gene, and what each look said of it.

The looks of a made-up animal are known, not read; so the chances are those of the model itself, without an eye's errors.

Source: Bayes' rule over all genotypes that the parents can give.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import chain

import numpy as np

from eyot_core.catalogue import Catalogue
from eyot_core.catalogue.overlay import FORMAT, overlaid
from eyot_core.exercises.pictures import SHOWN
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats, Marginals
from eyot_core.identify.evidence import Evidence
from eyot_core.identify.inference import likelihood_from
from eyot_core.identify.looks import chances_of_looks
from eyot_core.identify.questions import gain_bits
from eyot_core.identify.traits import Genotype, TraitModel
from eyot_core.parsing import Node

LEAST = 1e-12
CLEAR = 0.995


@dataclass(frozen=True)
class Cue:
    """What one look says of a gene: ``weight``: the logarithm of how many times likelier this level is in siblings with the gene."""

    look: str
    level: str
    weight: float


@lru_cache(maxsize=8)
def clearly_read(catalogue: Catalogue, stage: str) -> Catalogue:
    """The catalogue for an eye that takes every look of a stage for what it is, but for one in two hundred."""
    clear = [{"kind": "clarity", "trait": look, "stage": stage, "clarity": 1.0} for look in catalogue.traits]
    sure = {"kind": "sureness", "word": "sure", "worth": CLEAR}
    return overlaid(catalogue, Node({"format": FORMAT, "opinions": [*clear, sure]})).catalogue


def overlap(catalogue: Catalogue, one: Genotype, other: Genotype, stage: str) -> float:
    """How alike two genotypes are in all looks that drawings show: 1 where each level comes as often in both, 0 where no animal could be
    either. Bhattacharyya's coefficient; looks are independent in the model."""
    each, shown = (
        [chances_of_looks(catalogue, genotype, stage) for genotype in (one, other)],
        set(chain(*SHOWN.values())),
    )
    return math.prod(float(np.sqrt(each[0][look] * each[1][look]).sum()) for look in sorted(shown))


@dataclass(frozen=True)
class Known:
    """One picture of one animal of known parents. ``looks``: the levels that the picture shows, by look."""

    pairing: Pairing
    looks: Mapping[str, str]
    stage: str

    @cached_property
    def _model(self) -> TraitModel:
        return TraitModel(self.pairing)

    @cached_property
    def genes(self) -> list[str]:
        """The genes that the parents can give and that can show: recessives only where both copies can come."""
        shown = []
        for gene in self.pairing.given_genes:
            if self._prior(gene) > LEAST:
                shown.append(gene)
        return shown

    @cached_property
    def chances(self) -> dict[str, float]:
        """How likely each gene shows in the animal, the picture seen."""
        joint = np.asarray(self.pairing.expected * self._told)
        total = float(joint.sum())
        children = Marginals(joint / total) if total > 0 else self.pairing.expected_sums
        return {gene: self._share(children, gene) for gene in self.genes}

    @cached_property
    def priors(self) -> dict[str, float]:
        """How likely each gene shows before the picture is seen."""
        return {gene: self._prior(gene) for gene in self.genes}

    def worth_seeing(self, count: int) -> list[str]:
        """The looks of the picture that tell siblings apart most, by how much they tell before anything is seen; so they betray nothing."""
        sums = self.pairing.expected_sums
        gains = {look: gain_bits(self._model, sums, look, self.stage) for look in self.looks}
        return [look for look in sorted(gains, key=lambda one: -gains[one])[:count] if gains[look] > LEAST]

    def cues(self, gene: str) -> list[Cue]:
        """What each look that the picture shows says of a gene, the heaviest first; each by itself, over siblings with and without it."""
        with_it, without = (self._children(gene, there) for there in (True, False))
        found = []
        for evidence in self._evidence:
            table = self._model.table(evidence.trait, evidence.stage)
            chances = [
                float((children.of(table.groups) * (table.chances @ evidence.vector)).sum())
                for children in (with_it, without)
            ]
            weight = float(np.log(max(chances[0], LEAST) / max(chances[1], LEAST)))
            found.append(Cue(evidence.trait, self.looks[evidence.trait], weight))
        return sorted(found, key=lambda cue: -abs(cue.weight))

    @cached_property
    def _evidence(self) -> list[Evidence]:
        traits = self.pairing.catalogue.traits
        return [
            Evidence(look, self.stage, np.eye(len(traits[look].levels))[traits[look].level_index[level]])
            for look, level in self.looks.items()
        ]

    @cached_property
    def _told(self) -> Floats:
        """How likely these looks are for each genotype, at most 1."""
        return likelihood_from(self._evidence, self._model).values

    def _visible(self, gene: str) -> tuple[int, Floats]:
        """The group of a gene's locus, and 1 for its states in which the gene shows."""
        group, counting = self.pairing.counting[gene]
        least = 2 if self.pairing.catalogue.genes[gene].is_recessive else 1
        return group, np.asarray(counting[least:].sum(axis=0))

    def _share(self, children: Marginals, gene: str) -> float:
        group, visible = self._visible(gene)
        return float(children.of([group]) @ visible)

    def _prior(self, gene: str) -> float:
        return self._share(self.pairing.expected_sums, gene)

    def _children(self, gene: str, there: bool) -> Marginals:
        """The young that have a gene visibly, or have it not, before they are seen."""
        group, visible = self._visible(gene)
        chosen = visible if there else 1 - visible
        shape = [-1 if axis == group else 1 for axis in range(self.pairing.expected.ndim)]
        children = self.pairing.expected * chosen.reshape(shape)
        total = float(children.sum())
        return Marginals(children / total) if total > 0 else self.pairing.expected_sums


def shows(genotype: Mapping[str, Iterable[str]], gene: str, is_recessive: bool) -> bool:
    """Does a gene show in an animal?"""
    copies = sum(allele == gene for alleles in genotype.values() for allele in alleles)
    return copies > (1 if is_recessive else 0)
