"""What parts two or more combinations that are mistaken for one another: look by look, stage by stage.

Source: mutual information of an answer and the candidate, in bits; the chance to name the right one is a mean over simulated
animals, each candidate as likely before.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np

from eyot_core.catalogue.model import STAGES, Catalogue
from eyot_core.genetics.genotypes import genotype_from
from eyot_core.genetics.tables import Floats
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.traits import Genotype, chances_of_look, entropy_bits
from eyot_core.parsing import Node

DRAWS = 300
MOST = 4
WORTH_WAITING = 0.04
SETTLED = 0.9
UNTOLD = 0.003
COVERED = 1.3
TELLING = 0.2
STRENGTHS = ((0.4, "near-certain"), (0.18, "strong"), (0.07, "usual"), (0.02, "weak hint"))


@dataclass(frozen=True)
class _Look:
    """One look at all stages: what is shown and what a sure eye answers, (stages, candidates, levels); bits (stages,)."""

    shown: Floats
    answers: Floats
    bits: Floats


@dataclass(frozen=True)
class Difference:
    """One look at one stage: ``bits`` that a sure answer tells of which candidate it is; the likeliest level of each."""

    trait: str
    stage: str
    bits: float
    levels: tuple[str, ...]
    shares: tuple[float, ...]

    @property
    def strength(self) -> str:
        """The bits in keepers' words; empty where the look does not separate."""
        return strength_of(self.bits)


def strength_of(bits: float) -> str:
    """Bits of a look in keepers' words; empty where they are too few."""
    return next((word for least, word in STRENGTHS if bits >= least), "")


@dataclass(frozen=True)
class Comparison:
    """Two to four genotypes, each as likely before a look as the others."""

    catalogue: Catalogue
    genotypes: tuple[Genotype, ...]

    @cached_property
    def _shown(self) -> tuple[dict[str, list[Floats]], ...]:
        """What each candidate shows, by trait and stage."""
        return tuple(shown_at_all_stages(self.catalogue, genotype) for genotype in self.genotypes)

    @cached_property
    def _kept(self) -> dict[str, _Look]:
        return {}

    @cached_property
    def _differences(self) -> dict[tuple[str, str], Difference]:
        return {}

    def _look(self, trait: str) -> _Look:
        """One look at all stages; worked out when first asked for."""
        if trait not in self._kept:
            shown = np.stack([one[trait] for one in self._shown], axis=1)
            one = self.catalogue.traits[trait]
            channels = [answering(one, one.clarity[stage] * CONFIDENCE["sure"]) for stage in STAGES]
            answers = shown @ np.stack(channels)
            bits = entropy_bits(answers.mean(axis=1)) - entropy_bits(answers).mean(axis=1)
            self._kept[trait] = _Look(shown, answers, np.maximum(bits, 0.0))
        return self._kept[trait]

    def difference(self, trait: str, stage: str) -> Difference:
        """What one look tells at one stage."""
        if (trait, stage) not in self._differences:
            look, number = self._look(trait), STAGES.index(stage)
            ids = [level.id for level in self.catalogue.traits[trait].levels]
            telling = self._telling(look.shown[number])
            shares = tuple(look.shown[number][range(len(telling)), telling].tolist())
            levels = tuple(ids[i] for i in telling)
            self._differences[trait, stage] = Difference(trait, stage, float(look.bits[number]), levels, shares)
        return self._differences[trait, stage]

    def bits(self, trait: str, stage: str) -> float:
        """How much a look tells at a stage."""
        return float(self._look(trait).bits[STAGES.index(stage)])

    @staticmethod
    def _telling(shown: Floats) -> list[int]:
        """For each candidate the level that stands out against the others; the likeliest where none does."""
        mean = shown.mean(axis=0)
        weight = shown * np.log(np.maximum(shown, 1e-12) / np.maximum(mean, 1e-12))
        telling = weight.argmax(axis=1)
        enough = (weight.max(axis=1) > 0.02) & (shown[range(len(shown)), telling] >= TELLING)
        best = np.where(enough, telling, shown.argmax(axis=1))
        return [int(level) for level in best]

    def differences(self, stage: str) -> list[Difference]:
        """All looks at a stage, those that separate most first."""
        ordered = sorted(self.catalogue.traits, key=lambda trait: -self.bits(trait, stage))
        return [self.difference(trait, stage) for trait in ordered]

    def covered(self, trait: str, stage: str) -> bool:
        """Is the look covered in any candidate, as likely one way as another?"""
        shown = self._look(trait).shown[STAGES.index(stage)]
        return bool((shown.max(axis=1) <= COVERED / shown.shape[1]).any())

    @cached_property
    def told_apart(self) -> dict[str, float]:
        """By stage, the chance to name the right one when every look is answered, by ``DRAWS`` simulated animals of each."""
        return {stage: self.told_apart_at(stage) for stage in STAGES}

    def told_apart_at(self, stage: str) -> float:
        """The same at one stage."""
        random = np.random.default_rng(7)
        number = STAGES.index(stage)
        telling = [trait for trait in self.catalogue.traits if self.bits(trait, stage) >= UNTOLD]
        answers_by_look = [self._look(trait).answers[number] for trait in telling]
        right = 0.0
        for truth in range(len(self.genotypes)):
            logs = np.zeros((DRAWS, len(self.genotypes)))
            for answers in answers_by_look:
                cumulated = answers[truth].cumsum()
                seen = np.minimum(np.searchsorted(cumulated, random.random(DRAWS)), len(cumulated) - 1)
                logs += np.log(answers[:, seen]).T
            weights = np.exp(logs - logs.max(axis=1, keepdims=True))
            right += float((weights[:, truth] / weights.sum(axis=1)).mean())
        return right / len(self.genotypes)

    @property
    def best_stage(self) -> str:
        """The earliest stage at which no later one is worth waiting for."""
        most = max(self.told_apart.values())
        return next(stage for stage in STAGES if self.told_apart[stage] >= most - WORTH_WAITING)

    @property
    def looks_settle_it(self) -> bool:
        """Do looks alone name the right one in nine of ten, at the best stage?"""
        return self.told_apart[self.best_stage] >= SETTLED


def shown_at_all_stages(catalogue: Catalogue, genotype: Genotype) -> dict[str, list[Floats]]:
    """P(level | genotype) by trait, one array for each stage; kept, since pages compare the same animals again and again."""
    return _shown_at_all_stages(
        catalogue, tuple(sorted((locus, tuple(alleles)) for locus, alleles in genotype.items()))
    )


@lru_cache(maxsize=512)
def _shown_at_all_stages(
    catalogue: Catalogue, genotype: tuple[tuple[str, tuple[str, ...]], ...]
) -> dict[str, list[Floats]]:
    return {trait: chances_of_look(catalogue, trait, dict(genotype), STAGES) for trait in catalogue.traits}


def test_partner(catalogue: Catalogue, locus: str, first: str, second: str) -> tuple[str, float] | None:
    """The allele of a complex that, paired with either of two others, gives the most different looks; with the part of
    its animals that the most telling look parts (0 to 1).

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> test_partner(builtin_catalogue(), "fire", "fire", "vanilla")[0]
    'fire'
    """
    partners: list[tuple[float, str]] = []
    for gene in catalogue.genes_at(locus):
        pairs = [sorted([gene.id, allele]) for allele in (first, second)]
        if all(catalogue.genes[name].viability[pair.count(name)] > 0 for pair in pairs for name in pair):
            tables = [
                [chances_of_look(catalogue, trait, {locus: pair}, ("shed",))[0] for trait in catalogue.traits]
                for pair in pairs
            ]
            partners.append((max(float(np.abs(a - b).sum()) / 2 for a, b in zip(*tables, strict=True)), gene.id))
    return (max(partners)[1], max(partners)[0]) if partners else None


def compare_document(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The answer of ``compare`` for a document; :class:`~eyot_core.errors.InputError` where it is wrong."""
    node.object(["genotypes"], ["genotypes", "stage", "catalogue"])
    entries = node.child("genotypes").entries()
    if not 2 <= len(entries) <= MOST:
        raise node.child("genotypes").wrong(f"two to {MOST} genotypes can be compared, got {len(entries)}")
    stage = node.child("stage").choice(STAGES) if node.has("stage") else "shed"
    return compare_answer(Comparison(catalogue, tuple(genotype_from(entry, catalogue) for entry in entries)), stage)


def compare_answer(comparison: Comparison, stage: str) -> dict[str, Any]:
    """What separates the candidates at a stage, and how far looks can settle it at each."""
    rows = [row for row in comparison.differences(stage) if row.strength]
    return {
        "stage": stage,
        "separates": [
            {
                "trait": row.trait,
                "bits": row.bits,
                "strength": row.strength,
                "levels": list(row.levels),
                "shares": list(row.shares),
            }
            for row in rows
        ],
        "told_apart": comparison.told_apart,
        "best_stage": comparison.best_stage,
        "looks_settle_it": comparison.looks_settle_it,
    }
