"""Identification of animals of unknown parents: each by itself, against what captive-bred animals carry.

Where all genotypes are few enough to be searched, every figure is exact and ``missed`` is 0. Else the most probable ones are
searched, figures are those of what was searched, and ``missed`` bounds the posterior mass of all the rest.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import prod
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue, GeneLoad
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import FEMALE
from eyot_core.genetics.population import LocusStates, MergedStates, Population, merged, population
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.identify.combinations import Combo, best_combos
from eyot_core.identify.evidence import CONFIDENCE, Evidence, Hatchling, answering, evidence_of
from eyot_core.identify.factors import FactorMaker, States
from eyot_core.identify.questions import ODD_BELOW, NextLook, Surprise, information_bits
from eyot_core.identify.search import MOST_FOLLOWED, KindOf, Searched, kinds_of, searched
from eyot_core.identify.traits import rules_of

USEFUL_BELOW = 0.05
MOST_STEPS = 1_500
MOST_CASES = 4_000
MOST_PAIRS = 200_000
MOST_CODES = 2**50
SURE_OF_ORDER = 1e-12


@dataclass(frozen=True)
class OpenIdentification:
    """One animal of unknown parents, with the genotypes that explain it, part by part. ``weights``: of the gene loads, (loads,)."""

    catalogue: Catalogue
    hatchling: Hatchling
    evidence: tuple[Evidence, ...]
    parts: tuple[Searched, ...]
    weights: Floats

    @staticmethod
    def of(
        catalogue: Catalogue, hatchling: Hatchling, among: Population | None = None, most: int = MOST_FOLLOWED
    ) -> OpenIdentification:
        """Searches; ``among``: the population that the animal comes from (left out: the catalogue's own); ``most``: how much
        is followed at a time."""
        evidence = tuple(evidence_of(hatchling, catalogue))
        among = among or population(catalogue)
        return OpenIdentification(
            catalogue, hatchling, evidence, tuple(searched(catalogue, among, evidence, most)), among.weights
        )

    @cached_property
    def _log_by_load(self) -> Floats:
        """log of the joint chance of each gene load and the looks, of what was searched, (loads,)."""
        with np.errstate(divide="ignore"):
            return np.asarray(np.log(self.weights) + sum(np.log(part.total) for part in self.parts))

    @cached_property
    def loads(self) -> Floats:
        """Posterior of the hidden gene loads, (loads,)."""
        chances = np.exp(self._log_by_load - self._log_by_load.max())
        return np.asarray(chances / chances.sum())

    @property
    def is_possible(self) -> bool:
        """Was any genotype found that could show what was seen?"""
        return all(part.total.any() for part in self.parts) and bool((self._log_by_load > -np.inf).any())

    @property
    def log_evidence(self) -> float:
        """Natural log of the chance of all facts and looks; where something was missed, of what was searched."""
        sex = 0.0 if self.hatchling.sex is None else float(np.log(0.5))
        top = float(self._log_by_load.max())
        return top + float(np.log(np.exp(self._log_by_load - top).sum())) + sex

    @property
    def missed(self) -> float:
        """A proven upper bound on the posterior mass of all genotypes that were not searched."""
        if not any(part.given_up.any() for part in self.parts):
            return 0.0
        with np.errstate(divide="ignore"):
            logs = np.log(self.weights) + sum(np.log(part.total + part.given_up) for part in self.parts)
        top = float(logs.max())
        return 1 - float(np.exp(self._log_by_load - top).sum() / np.exp(logs - top).sum())

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
        by_kind = np.zeros((len(shares), len(self.loads)))
        np.add.at(by_kind, part.states[:, place], part.chances)
        return {
            str(count): as_chance(
                sum(
                    float((of[count] * chance) @ self.loads)
                    for of, chance in zip(shares, by_kind, strict=True)
                    if count in of
                )
            )
            for count in range(3)
        }

    def combos(self, top: int) -> list[Combo]:
        """The most probable genotypes with their chances; equal ones in the order of the genotypes."""
        return best_combos(self.parts, self.loads, top)

    def proven_combos(self, top: int) -> int:
        """How many of the first combinations are proven to be the most probable ones of all."""
        most = [part.mass.max(axis=0) for part in self.parts]
        rivals = np.zeros(len(self.weights))
        for place, part in enumerate(self.parts):
            others = [np.maximum(mass, other.best_given_up) for mass, other in zip(most, self.parts, strict=True)]
            rivals = np.maximum(rivals, prod([*others[:place], part.best_given_up, *others[place + 1 :]]))
        rival = float(rivals @ self.weights) / float(np.exp(self._log_by_load).sum())
        return sum(chance >= rival * (1 - SURE_OF_ORDER) for _, chance in self.combos(top))

    def looks(self, look_stage: str | None) -> list[NextLook]:
        """The traits without an observation at the stage or later, largest gain first."""
        stage = look_stage or self.hatchling.latest_stage
        done = self.hatchling.seen_from(stage)
        looks = [NextLook(trait, self._gain(trait, stage)) for trait in self.catalogue.traits if trait not in done]
        return sorted(looks, key=lambda look: -look.gain)

    def _gain(self, trait: str, stage: str) -> float:
        rules = rules_of(self.catalogue, trait, stage)
        loci, states, weights = self._cases(kinds_of(self.catalogue, [rules]))
        shown = FactorMaker(self.catalogue, loci).look(trait, rules).shown(states)
        r = self.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
        return information_bits(weights, shown @ answering(self.catalogue.traits[trait], r))

    def _cases(self, kinds: Mapping[str, KindOf]) -> tuple[list[LocusStates], States, Floats]:
        """What the animal may have at some loci, as far as a look tells it apart: (cases, loci), with chances.

        The least probable cases are left out where there are too many.
        """
        loci: list[LocusStates] = []
        states, weights = np.zeros((1, 0), dtype=np.int8), np.ones((1, len(self.loads)))
        for part in self.parts:
            places = [place for place, at in enumerate(part.loci) if at.whole.locus in kinds]
            if places:
                finer_loci = [merged(part.loci[place].whole, kinds[part.loci[place].whole.locus]) for place in places]
                loci += [one.states for one in finer_loci]
                own, shares = self._likeliest(
                    *self._told_apart(part, places, finer_loci), max(1, MOST_PAIRS // len(weights))
                )
                rows, others = np.divmod(np.arange(len(weights) * len(shares)), len(shares))
                states, weights = self._likeliest(
                    np.concatenate([states[rows], own[others]], axis=1), weights[rows] * shares[others]
                )
        return loci, states, weights @ self.loads / float((weights @ self.loads).sum())

    def _told_apart(
        self, part: Searched, places: Sequence[int], finer_loci: Sequence[MergedStates]
    ) -> tuple[States, Floats]:
        """A part's posterior at some of its loci, divided as another look tells states apart: (cases, places), (cases, loads)."""
        states, shares = _cases_of(*self._likeliest(part.states[:, places], part.chances))
        for column, (place, finer) in enumerate(zip(places, finer_loci, strict=True)):
            at = part.loci[place]
            kind = {member: number for number, members in enumerate(finer.members) for member in members}
            position = {genotype: kind[member] for member, genotype in enumerate(at.whole.genotypes)}
            table = np.zeros((len(at.members), len(finer.members), len(self.loads)))
            for number in range(len(at.members)):
                for answer, share in at.shares_of(position.__getitem__, number).items():
                    table[number, answer] = share
            rows, kinds = np.nonzero(np.any(table, axis=2)[states[:, column].astype(np.intp)])
            weights = shares[rows] * table[states[rows, column], kinds]
            states = states[rows]
            states[:, column] = kinds
            states, shares = self._likeliest(states, weights)
        return _cases_of(states, shares)

    def _likeliest(self, states: States, weights: Floats, most: int = MOST_CASES) -> tuple[States, Floats]:
        """The cases that are most probable over all loads, where there are more than ``most``; ``weights``: (cases, loads)."""
        if len(weights) <= most:
            return states, weights
        kept = np.sort(np.argsort(-(weights @ self.loads), kind="stable")[:most])
        return states[kept], weights[kept]

    def surprises(self) -> list[Surprise]:
        """Answers that the others hardly lead one to expect, the worst first."""
        surprising = []
        for part in self.parts:
            for column, index in enumerate(part.looks):
                ratio = self._expected(part, column)
                expected = ratio / float(self.evidence[index].vector.max())
                if expected < ODD_BELOW:
                    surprising.append(Surprise(self.evidence[index].trait, expected))
        return sorted(surprising, key=lambda surprise: surprise.expected)

    def _expected(self, part: Searched, column: int) -> float:
        """(evidence of all looks) / (evidence without one of them), among what was searched."""
        others = np.delete(part.by_look, column, axis=1).prod(axis=1)
        without = (part.prior * others[:, np.newaxis]).sum(axis=0)
        rest = [other.total for other in self.parts if other is not part]
        return float(self.weights @ prod([part.total, *rest]) / (self.weights @ prod([without, *rest])))


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
    summed = np.zeros((len(first), weights.shape[1]))
    np.add.at(summed, which.reshape(-1), weights)
    return states[first], summed


def open_answer(
    catalogue: Catalogue,
    hatchlings: Sequence[Hatchling],
    top: int,
    look_stage: str | None,
    loads: Sequence[GeneLoad] = (),
) -> dict[str, Any]:
    """The JSON answer for animals of unknown parents, unrelated to one another. ``loads``: another population than the catalogue's.

    InputError where so many are asked for at once that it would take too long.
    """
    _check_effort(catalogue, hatchlings)
    among, most, answers = population(catalogue, loads), MOST_FOLLOWED // max(1, len(hatchlings)), []
    for hatchling in hatchlings:
        one = OpenIdentification.of(catalogue, hatchling, among, most)
        answer = _answer_of(one, top, look_stage) if one.is_possible else _contradiction(one, among, top, look_stage)
        answers.append(answer)
    evidence = [answer["log_evidence"] for answer in answers]
    return {"log_evidence": None if None in evidence else float(sum(evidence)), "hatchlings": answers}


def _check_effort(catalogue: Catalogue, hatchlings: Sequence[Hatchling]) -> None:
    looks, most = (
        sum(len(hatchling.observations) for hatchling in hatchlings),
        MOST_STEPS // max(1, len(catalogue.loci)),
    )
    if len(hatchlings) > 1 and len(hatchlings) + looks > most:
        raise InputError(
            f"{len(hatchlings)} animals of unknown parents with {looks} looks are too many at once; animals and looks together "
            f"may be {most}. Each is judged by itself, so nothing is lost by asking for a few at a time",
            "hatchlings",
        )


def _contradiction(one: OpenIdentification, among: Population, top: int, look_stage: str | None) -> dict[str, Any]:
    """What is said where no animal was found that could show what was seen: the population back, and that it is a contradiction.

    Where the search gave something up, it is not proven to be one: then everything was missed.
    """
    stage = look_stage or one.hatchling.latest_stage
    unseen = OpenIdentification.of(one.catalogue, replace(one.hatchling, observations=()), among)
    answer = _answer_of(unseen, top, stage) | {"log_evidence": None}
    given_up = any(part.given_up.any() for part in one.parts)
    answer |= {"missed": 1.0, "proven_combos": 0, "bound_is_useful": False} if given_up else {"contradiction": True}
    done = one.hatchling.seen_from(stage)
    return {key: value for key, value in answer.items() if key != "odd"} | {
        "looks": [look for look in answer["looks"] if look["trait"] not in done]
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
