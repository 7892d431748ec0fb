"""Identification of animals of unknown parents: each by itself, against what captive-bred animals carry.

Where all genotypes are few enough to be searched, every figure is exact and ``missed`` is 0. Else the most probable ones are
searched, figures are those of what was searched, and ``missed`` bounds the posterior mass of all the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.pairing import FEMALE, Floats
from eyot_core.genetics.population import LocusStates, population
from eyot_core.identify.evidence import CONFIDENCE, Evidence, Hatchling, evidence_of
from eyot_core.identify.factors import FactorMaker
from eyot_core.identify.questions import ODD_BELOW, NextLook, Surprise, information_bits
from eyot_core.identify.search import Searched, searched
from eyot_core.identify.traits import rules_of

USEFUL_BELOW = 0.05
MOST_FOR_LOOKS = 20_000
TIE_DIGITS = 12
SURE_OF_ORDER = 1e-12


@dataclass(frozen=True)
class OpenIdentification:
    """One animal of unknown parents, with the genotypes that explain it."""

    catalogue: Catalogue
    hatchling: Hatchling
    found: Searched
    evidence: tuple[Evidence, ...]

    @staticmethod
    def of(catalogue: Catalogue, hatchling: Hatchling, loci: Sequence[LocusStates] | None = None) -> OpenIdentification:
        """Searches; ``loci``: the population, if it is at hand."""
        evidence = tuple(evidence_of(hatchling, catalogue))
        return OpenIdentification(
            catalogue, hatchling, searched(catalogue, loci or population(catalogue), evidence), evidence
        )

    @cached_property
    def chances(self) -> Floats:
        """Posterior chances of the genotypes that were searched; they sum to 1."""
        return np.asarray(self.found.mass / self.found.mass.sum())

    @property
    def log_evidence(self) -> float:
        """Natural log of the chance of all facts and looks; where something was missed, of what was searched."""
        sex = 0.0 if self.hatchling.sex is None else float(np.log(0.5))
        return float(np.log(self.found.mass.sum())) + sex

    @property
    def female(self) -> float:
        """Chance that it is female; no gene says anything of that here."""
        return 0.5 if self.hatchling.sex is None else float(self.hatchling.sex == FEMALE)

    def copies(self, gene: str) -> dict[str, float]:
        """Chances of 0, 1 and 2 copies of a gene."""
        locus = self.catalogue.genes[gene].locus
        place = next(i for i, states in enumerate(self.found.loci) if states.locus == locus)
        by_state = np.array([genotype.count(gene) for genotype in self.found.loci[place].genotypes])
        counts = by_state[self.found.states[:, place]]
        return {str(count): float(self.chances[counts == count].sum()) for count in range(3)}

    def combos(self, top: int) -> list[tuple[dict[str, list[str]], float]]:
        """The most probable genotypes with their chances; equal ones in the order of the genotypes."""
        count = min(len(self.chances), top)
        least = self.chances[count - 1] - 10.0**-TIE_DIGITS if count else 0.0
        rows = [
            (self._genotype(int(i)), float(self.chances[i]))
            for i in np.flatnonzero(self.chances >= max(least, 0))
            if self.chances[i] > 0
        ]
        rows.sort(key=lambda row: (-round(row[1], TIE_DIGITS), sorted(row[0].items())))
        return rows[:top]

    def proven_combos(self, top: int) -> int:
        """How many of the first combinations are proven to be the most probable ones of all."""
        mass = self.found.mass[:top]
        return int((mass >= self.found.best_given_up * (1 - SURE_OF_ORDER)).sum()) if self.found.given_up else len(mass)

    def _genotype(self, row: int) -> dict[str, list[str]]:
        states = zip(self.found.loci, self.found.states[row], strict=True)
        named = {locus.locus: list(locus.genotypes[int(state)]) for locus, state in states}
        return {locus: named[locus] for locus in self.catalogue.loci if named.get(locus)}

    def looks(self, look_stage: str | None) -> list[NextLook]:
        """The traits without an observation at the stage or later, largest gain first."""
        stage = look_stage or self.hatchling.latest_stage
        done = self.hatchling.seen_from(stage)
        maker = FactorMaker(self.catalogue, self.found.loci)
        weights = self.chances[:MOST_FOR_LOOKS] / self.chances[:MOST_FOR_LOOKS].sum()
        states = self.found.states[:MOST_FOR_LOOKS]
        if not self.found.given_up:
            weights, states = self.chances, self.found.states
        found = []
        for trait, entry in self.catalogue.traits.items():
            if trait not in done:
                shown = maker.look(trait, rules_of(self.catalogue, trait, stage)).shown(states)
                r = entry.clarity[stage] * CONFIDENCE["sure"]
                found.append(NextLook(trait, information_bits(weights, r * shown + (1 - r) / shown.shape[1])))
        return sorted(found, key=lambda look: -look.gain)

    def surprises(self) -> list[Surprise]:
        """Answers that the others hardly lead one to expect, the worst first."""
        found = []
        for index, look in enumerate(self.evidence):
            ratio = 1 / float((self.chances / self.found.by_look[:, index]).sum())
            expected = ratio / float(look.vector.max())
            if expected < ODD_BELOW:
                found.append(Surprise(look.trait, expected))
        return sorted(found, key=lambda surprise: surprise.expected)


def open_answer(
    catalogue: Catalogue, hatchlings: Sequence[Hatchling], top: int, look_stage: str | None
) -> dict[str, Any]:
    """The JSON answer for animals of unknown parents, unrelated to one another."""
    loci = population(catalogue)
    found = [OpenIdentification.of(catalogue, hatchling, loci) for hatchling in hatchlings]
    return {
        "log_evidence": float(sum(one.log_evidence for one in found)),
        "hatchlings": [_answer_of(one, top, look_stage) for one in found],
    }


def _answer_of(one: OpenIdentification, top: int, look_stage: str | None) -> dict[str, Any]:
    missed = one.found.missed
    answer = {
        "id": one.hatchling.id,
        "log_evidence": one.log_evidence,
        "female": one.female,
        "genes": [{"gene": gene, "copies": one.copies(gene)} for gene in one.catalogue.genes],
        "combos": [{"genotype": genotype, "probability": chance} for genotype, chance in one.combos(top)],
        "looks": [{"trait": look.trait, "gain": look.gain} for look in one.looks(look_stage)],
        "odd": [{"trait": row.trait, "expected": row.expected} for row in one.surprises()],
        "missed": missed,
    }
    if missed == 0:
        return answer
    return answer | {"proven_combos": one.proven_combos(top), "bound_is_useful": missed < USEFUL_BELOW}
