"""Identification of animals of unknown parents: each by itself, against what captive-bred animals carry.

Where all genotypes are few enough to be searched, every figure is exact and ``missed`` is 0. Else the most probable ones are
searched, figures are those of what was searched, and ``missed`` bounds the posterior mass of all the rest.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import prod
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.inheritance import FEMALE
from eyot_core.genetics.population import LocusStates, MergedStates, merged, population
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.identify.evidence import CONFIDENCE, Evidence, Hatchling, evidence_of
from eyot_core.identify.factors import FactorMaker, States
from eyot_core.identify.questions import ODD_BELOW, NextLook, Surprise, information_bits
from eyot_core.identify.search import KindOf, Searched, kinds_of, searched
from eyot_core.identify.traits import rules_of

USEFUL_BELOW = 0.05
MOST_CASES = 4_000
MOST_PAIRS = 200_000
MOST_CODES = 2**50
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
        return {at.whole.locus: (part, place) for part in self.parts for place, at in enumerate(part.loci)}

    def copies(self, gene: str) -> dict[str, float]:
        """Chances of 0, 1 and 2 copies of a gene."""
        part, place = self._place_of[self.catalogue.genes[gene].locus]
        locus = part.loci[place]
        shares = [locus.shares_of(lambda genotype: genotype.count(gene), kind) for kind in range(len(locus.members))]
        by_kind = np.bincount(part.states[:, place], weights=part.chances, minlength=len(shares))
        return {
            str(count): as_chance(
                sum(of.get(count, 0.0) * float(chance) for of, chance in zip(shares, by_kind, strict=True))
            )
            for count in range(3)
        }

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
        return _best([combo for row in rows for combo in _genotypes(part, int(row), top)], top)

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
        loci, states, weights = self._cases(kinds_of(self.catalogue, [rules]))
        shown = FactorMaker(self.catalogue, loci).look(trait, rules).shown(states)
        r = self.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
        return information_bits(weights, r * shown + (1 - r) / shown.shape[1])

    def _cases(self, kinds: Mapping[str, KindOf]) -> tuple[list[LocusStates], States, Floats]:
        """What the animal may have at some loci, as far as a look tells it apart: (cases, loci), with chances.

        The least probable cases are left out where there are too many.
        """
        loci: list[LocusStates] = []
        states, weights = np.zeros((1, 0), dtype=np.int8), np.ones(1)
        for part in self.parts:
            places = [place for place, at in enumerate(part.loci) if at.whole.locus in kinds]
            if places:
                told = [merged(part.loci[place].whole, kinds[part.loci[place].whole.locus]) for place in places]
                loci += [one.states for one in told]
                own, shares = _likeliest(*_told_apart(part, places, told), most=max(1, MOST_PAIRS // len(weights)))
                rows, others = np.divmod(np.arange(len(weights) * len(shares)), len(shares))
                states, weights = _likeliest(
                    np.concatenate([states[rows], own[others]], axis=1), weights[rows] * shares[others]
                )
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


def _genotypes(part: Searched, row: int, top: int) -> list[Combo]:
    """The most probable genotypes that one searched row stands for."""
    found: list[Combo] = [({}, float(part.chances[row]))]
    for at, kind in zip(part.loci, part.states[row], strict=True):
        members = list(zip(at.members[int(kind)], at.shares[int(kind)], strict=True))
        if len(members) == 1:
            found = [(_with(genotype, at.whole, members[0][0]), chance) for genotype, chance in found]
        else:
            found = _best(
                [
                    (_with(genotype, at.whole, member), chance * float(share))
                    for genotype, chance in found
                    for member, share in members
                ],
                top,
            )
    return found


def _with(genotype: Genotype, locus: LocusStates, state: int) -> Genotype:
    alleles = locus.genotypes[state]
    return genotype | {locus.locus: list(alleles)} if alleles else genotype


def _best(combos: list[Combo], top: int) -> list[Combo]:
    return sorted(combos, key=lambda row: (-round(row[1], TIE_DIGITS), sorted(row[0].items())))[:top]


def _told_apart(part: Searched, places: Sequence[int], told: Sequence[MergedStates]) -> tuple[States, Floats]:
    """A part's posterior at some of its loci, divided as another look tells states apart: (cases, places) and chances."""
    states, shares = _cases_of(*_likeliest(part.states[:, places], part.chances))
    for column, (place, finer) in enumerate(zip(places, told, strict=True)):
        at = part.loci[place]
        kind = {member: number for number, members in enumerate(finer.members) for member in members}
        position = {genotype: kind[member] for member, genotype in enumerate(at.whole.genotypes)}
        table = np.zeros((len(at.members), len(finer.members)))
        for number in range(len(at.members)):
            for found, share in at.shares_of(position.__getitem__, number).items():
                table[number, found] = share
        rows, kinds = np.nonzero(table[states[:, column]])
        weights = shares[rows] * table[states[rows, column], kinds]
        states = states[rows]
        states[:, column] = kinds
        states, shares = _likeliest(states, weights)
    return _cases_of(states, shares)


def _cases_of(states: States, weights: Floats) -> tuple[States, Floats]:
    """Equal rows added up."""
    code, size = np.zeros(len(states), dtype=np.int64), 1
    for column in states.T:
        if size > MOST_CODES:
            ranks, code = np.unique(code, return_inverse=True)
            code, size = code.reshape(-1), len(ranks)
        code = code * (int(column.max(initial=0)) + 1) + column
        size *= int(column.max(initial=0)) + 1
    _, first, which = np.unique(code, return_index=True, return_inverse=True)
    return states[first], np.asarray(np.bincount(which.reshape(-1), weights=weights), dtype=np.float64)


def _likeliest(states: States, weights: Floats, most: int = MOST_CASES) -> tuple[States, Floats]:
    if len(weights) <= most:
        return states, weights
    kept = np.sort(np.argsort(-weights, kind="stable")[:most])
    return states[kept], weights[kept] / weights[kept].sum()


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
