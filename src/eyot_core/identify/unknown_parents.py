"""Identification of animals of unknown parents: each by itself, against what captive-bred animals carry.

Where all genotypes are few enough to be searched, every figure is exact and ``missed`` is 0. Else the most probable ones are
searched, figures are those of what was searched, and ``missed`` bounds the posterior mass of all the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import prod
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.inheritance import FEMALE
from eyot_core.genetics.population import LocusStates, population
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.identify.evidence import CONFIDENCE, Evidence, Hatchling, evidence_of
from eyot_core.identify.factors import FactorMaker, States
from eyot_core.identify.questions import ODD_BELOW, NextLook, Surprise, information_bits
from eyot_core.identify.search import Searched, searched
from eyot_core.identify.traits import rules_of

USEFUL_BELOW = 0.05
MOST_CASES = 300_000
TIE_DIGITS = 12
SURE_OF_ORDER = 1e-12
Genotype = dict[str, list[str]]
Combo = tuple[Genotype, float]


@dataclass(frozen=True)
class OpenIdentification:
    """One animal of unknown parents, with the genotypes that explain it, part by part."""

    catalogue: Catalogue
    hatchling: Hatchling
    evidence: tuple[Evidence, ...]
    parts: tuple[Searched, ...]

    @staticmethod
    def of(catalogue: Catalogue, hatchling: Hatchling, loci: Sequence[LocusStates] | None = None) -> OpenIdentification:
        """Searches; ``loci``: the population, if it is at hand."""
        evidence = tuple(evidence_of(hatchling, catalogue))
        parts = searched(catalogue, loci or population(catalogue), evidence)
        return OpenIdentification(catalogue, hatchling, evidence, tuple(parts))

    @property
    def log_evidence(self) -> float:
        """Natural log of the chance of all facts and looks; where something was missed, of what was searched."""
        sex = 0.0 if self.hatchling.sex is None else float(np.log(0.5))
        return float(sum(np.log(part.mass.sum()) for part in self.parts)) + sex

    @property
    def missed(self) -> float:
        """A proven upper bound on the posterior mass of all genotypes that were not searched."""
        return 1 - prod(1 - part.missed for part in self.parts) if any(part.given_up for part in self.parts) else 0.0

    @property
    def female(self) -> float:
        """Chance that it is female; no gene says anything of that here."""
        return 0.5 if self.hatchling.sex is None else float(self.hatchling.sex == FEMALE)

    @cached_property
    def _place_of(self) -> dict[str, tuple[Searched, int]]:
        return {states.locus: (part, place) for part in self.parts for place, states in enumerate(part.loci)}

    def copies(self, gene: str) -> dict[str, float]:
        """Chances of 0, 1 and 2 copies of a gene."""
        part, place = self._place_of[self.catalogue.genes[gene].locus]
        by_state = np.array([genotype.count(gene) for genotype in part.loci[place].genotypes])
        counts = by_state[part.states[:, place]]
        return {str(count): as_chance(part.chances[counts == count].sum()) for count in range(3)}

    def combos(self, top: int) -> list[Combo]:
        """The most probable genotypes with their chances; equal ones in the order of the genotypes."""
        found: list[Combo] = [({}, 1.0)]
        for part in self.parts:
            own = self._best_of(part, top)
            both = [(genotype | more, chance * share) for genotype, chance in found for more, share in own]
            found = _best(both, top)
        return found

    def _best_of(self, part: Searched, top: int) -> list[Combo]:
        least = part.chances[min(len(part.chances), top) - 1] - 10.0**-TIE_DIGITS
        rows = np.flatnonzero(part.chances >= max(least, 1e-300))
        return _best([(_genotype(part, int(row)), float(part.chances[row])) for row in rows], top)

    def proven_combos(self, top: int) -> int:
        """How many of the first combinations are proven to be the most probable ones of all."""
        best = prod(float(part.chances[0]) for part in self.parts)
        rival = max(part.best_given_up / float(part.mass[0]) for part in self.parts) * best
        return sum(chance >= rival * (1 - SURE_OF_ORDER) for _, chance in self.combos(top))

    def looks(self, look_stage: str | None) -> list[NextLook]:
        """The traits without an observation at the stage or later, largest gain first."""
        stage = look_stage or self.hatchling.latest_stage
        done = self.hatchling.seen_from(stage)
        found = [NextLook(trait, self._gain(trait, stage)) for trait in self.catalogue.traits if trait not in done]
        return sorted(found, key=lambda look: -look.gain)

    def _gain(self, trait: str, stage: str) -> float:
        rules = rules_of(self.catalogue, trait, stage)
        named = {condition.locus or self.catalogue.genes[condition.gene or ""].locus for condition in rules.conditions}
        loci, states, weights = self._cases(named & self._place_of.keys())
        shown = FactorMaker(self.catalogue, loci).look(trait, rules).shown(states)
        r = self.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
        return information_bits(weights, r * shown + (1 - r) / shown.shape[1])

    def _cases(self, named: set[str]) -> tuple[list[LocusStates], States, Floats]:
        """What the animal may have at some loci: (cases, loci), with chances. The least probable are left out where too many."""
        loci: list[LocusStates] = []
        states, weights = np.zeros((1, 0), dtype=np.int8), np.ones(1)
        for part in self.parts:
            places = [place for place, at in enumerate(part.loci) if at.locus in named]
            if places:
                loci += [part.loci[place] for place in places]
                own, shares = _restricted(part, places)
                rows, others = np.divmod(np.arange(len(weights) * len(shares)), len(shares))
                weights = weights[rows] * shares[others]
                kept = np.sort(np.argsort(-weights, kind="stable")[:MOST_CASES])
                states = np.concatenate([states[rows[kept]], own[others[kept]]], axis=1)
                weights = weights[kept] / weights[kept].sum()
        return loci, states, weights

    def surprises(self) -> list[Surprise]:
        """Answers that the others hardly lead one to expect, the worst first."""
        found = []
        for part in self.parts:
            for column, index in enumerate(part.looks):
                ratio = 1 / float((part.chances / part.by_look[:, column]).sum())
                expected = ratio / float(self.evidence[index].vector.max())
                if expected < ODD_BELOW:
                    found.append(Surprise(self.evidence[index].trait, expected))
        return sorted(found, key=lambda surprise: surprise.expected)


def _genotype(part: Searched, row: int) -> Genotype:
    states = zip(part.loci, part.states[row], strict=True)
    return {at.locus: list(at.genotypes[int(state)]) for at, state in states if at.genotypes[int(state)]}


def _best(combos: list[Combo], top: int) -> list[Combo]:
    return sorted(combos, key=lambda row: (-round(row[1], TIE_DIGITS), sorted(row[0].items())))[:top]


def _restricted(part: Searched, places: list[int]) -> tuple[States, Floats]:
    """A part's posterior at some of its loci: (cases, places) and chances."""
    sizes = [len(part.loci[place].genotypes) for place in places]
    codes = np.ravel_multi_index([part.states[:, place].astype(np.intp) for place in places], sizes)
    cases, which = np.unique(codes, return_inverse=True)
    shares = np.bincount(which, weights=part.chances)
    states = np.stack(np.unravel_index(cases, sizes), axis=1).astype(np.int8)
    return states, np.asarray(shares)


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
    missed = one.missed
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
