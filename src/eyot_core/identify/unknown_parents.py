"""Identification of animals of unknown parents: each by itself, against what captive-bred animals carry.

Where all genotypes are few enough to be searched, every figure is exact and ``missed`` is 0. Else the most probable ones are
searched, figures are those of what was searched, and ``missed`` bounds the posterior mass of all the rest. Where that bound would say
little, the rest is estimated and counted in, and ``missed`` is the estimate of what was not found (:mod:`eyot_core.identify.estimation`).
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from math import prod
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue, Gene, GeneLoad
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import FEMALE, Genotype
from eyot_core.genetics.population import MergedStates, Population, members_of, population
from eyot_core.genetics.shown import shown_at
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.identify.combinations import Combo, best_combos
from eyot_core.identify.evidence import CONFIDENCE, Evidence, Hatchling, answering, evidence_of
from eyot_core.identify.factors import FactorMaker, LookFactors, Places, States
from eyot_core.identify.questions import ODD_BELOW, NextLook, Settling, Surprise, information_bits, settling_by
from eyot_core.identify.search import MOST_FOLLOWED, KindOf, Searched, kinds_of, searched
from eyot_core.identify.traits import rules_of

USEFUL_BELOW = 0.05
MOST_STEPS = 4_000
ALL_CASES, FEW_CASES = 60_000, 1_500
"""How many cases are told apart to reckon what a look would tell; how many where not all was searched."""
DRAWN = 2_048
"""How many animals are drawn from the posterior where there are more."""
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
        """A proven upper bound on the posterior mass of all genotypes that were not searched; where it was estimated, the estimate."""
        if not any(part.given_up.any() or part.draws for part in self.parts):
            return 0.0
        with np.errstate(divide="ignore"):
            logs = np.log(self.weights) + sum(np.log(part.total + part.given_up) for part in self.parts)
            found = np.log(self.weights) + sum(np.log(part.found) for part in self.parts)
        top = float(logs.max())
        return max(0.0, 1 - float(np.exp(found - top).sum() / np.exp(logs - top).sum()))

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
        by_kind = part.mass_at(place) / np.where(part.total > 0, part.total, 1.0)
        chances = self._chances_of(gene, by_kind, self.loads)
        return {str(count): as_chance(chance) for count, chance in enumerate(chances)}

    def _chances_of(self, gene: str, by_kind: Floats, loads: Floats) -> Floats:
        """Chances of 0, 1 and 2 copies, (…, 3): ``by_kind`` of the states of its locus under each load, (…, states, loads);
        ``loads`` (…, loads)."""
        part, place = self._place_of[self.catalogue.genes[gene].locus]
        shares = part.loci[place].shares_by(lambda genotype: genotype.count(gene), 3)
        return np.asarray(np.einsum("...kl,ckl,...l->...c", by_kind, shares, loads))

    @cached_property
    def standard_error(self) -> float:
        """The largest of the genes' chances, where a part was estimated: from groups of draws that know nothing of one another."""
        totals = [part.mass_by_group(0).sum(axis=1) if part.loci else part.total[np.newaxis] for part in self.parts]
        with np.errstate(divide="ignore"):
            logs = np.asarray(np.log(self.weights) + sum(np.log(total) for total in totals))
        loads = np.exp(logs - logs.max(axis=1, keepdims=True))
        loads /= loads.sum(axis=1, keepdims=True)
        by_kind = {
            at.whole.locus: part.mass_by_group(place) / np.where(total > 0, total, 1.0)[:, np.newaxis]
            for part, total in zip(self.parts, totals, strict=True)
            for place, at in enumerate(part.loci)
        }
        chances = [self._chances_of(gene.id, by_kind[gene.locus], loads) for gene in self.catalogue.genes.values()]
        return float(np.std(chances, axis=1, ddof=1).max() / np.sqrt(len(loads)))

    def combos(self, top: int) -> list[Combo]:
        """The most probable genotypes with their chances; equal ones in the order of the genotypes."""
        return best_combos([part.all_different() for part in self.parts], self.loads, top)

    @cached_property
    def leading(self) -> dict[str, list[str]] | None:
        """The most probable genotype, ``None`` where none can show what was seen."""
        first = self.combos(1)
        return first[0][0] if first else None

    def shown_combos(self, top: int) -> list[Combo]:
        """The most probable combinations of what shows, hets left aside; chances to within a hundredth: of animals drawn from the
        posterior."""
        columns = {}
        for locus, drawn in self._drawn.items():
            part, place = self._place_of[locus]
            shown = [shown_at(genotype, self.catalogue) for genotype in part.loci[place].whole.genotypes]
            kinds = list(dict.fromkeys(shown))
            columns[locus] = (kinds, np.array([kinds.index(one) for one in shown])[drawn])
        rows, counts = np.unique(np.stack([own for _, own in columns.values()], axis=1), axis=0, return_counts=True)
        best = np.argsort(-counts, kind="stable")[:top]
        return [
            (
                {
                    locus: list(kinds[kind])
                    for (locus, (kinds, _)), kind in zip(columns.items(), rows[row], strict=True)
                    if kinds[kind]
                },
                float(counts[row] / DRAWN),
            )
            for row in best
        ]

    def proven_combos(self, top: int) -> int:
        """How many of the first combinations are proven to be the most probable ones of all; none where any were estimated."""
        if self.is_estimated:
            return 0
        most = [part.mass.max(axis=0) for part in self.parts]
        rivals = np.zeros(len(self.weights))
        for place, part in enumerate(self.parts):
            others = [np.maximum(mass, other.best_given_up) for mass, other in zip(most, self.parts, strict=True)]
            rivals = np.maximum(rivals, prod([*others[:place], part.best_given_up, *others[place + 1 :]]))
        rival = float(rivals @ self.weights) / float(np.exp(self._log_by_load).sum())
        return sum(chance >= rival * (1 - SURE_OF_ORDER) for _, chance in self.combos(top))

    @property
    def is_estimated(self) -> bool:
        """Was anything of it estimated by draws?"""
        return any(part.draws for part in self.parts)

    def looks(self, look_stage: str | None) -> list[NextLook]:
        """The traits without an observation at the stage or later, largest gain first."""
        stage = look_stage or self.hatchling.latest_stage
        done = self.hatchling.seen_from(stage)
        looks = [NextLook(trait, self._gain(trait, stage)) for trait in self.catalogue.traits if trait not in done]
        return sorted(looks, key=lambda look: -look.gain)

    def _gain(self, trait: str, stage: str) -> float:
        _, weights, answers = self._cases(trait, stage)
        return information_bits(weights, answers)

    def settling(self, trait: str, stage: str, among: Collection[str]) -> Settling | None:
        """Of some genes the one of which a sure answer to a look tells most; ``None`` where the look tells of none."""
        finer, weights, answers = self._cases(trait, stage)
        settlings = [
            settling_by(gene.id, np.stack([weights * (1 - there), weights * there]) @ answers)
            for locus, (one, kinds) in finer.items()
            for gene in self.catalogue.genes_at(locus)
            if gene.id in among and (there := self._has(gene, one)[kinds]).any()
        ]
        return max(settlings, key=lambda one: one.gain, default=None)

    def _has(self, gene: Gene, at: MergedStates) -> Floats:
        """For each kind of state the chance that it shows the gene, by the loads as they are held now, (kinds,)."""
        needed = 2 if gene.is_recessive else 1
        table = at.shares_by(lambda genotype: int(genotype.count(gene.id) >= needed), 2)
        return np.asarray(table[1] @ self.loads)

    def _cases(self, trait: str, stage: str) -> tuple[dict[str, tuple[MergedStates, NDArray[np.intp]]], Floats, Floats]:
        """The cases that a look tells apart: by locus its kinds of states and which each case has, (cases,); chances (cases,);
        chances of a sure eye's answers in each, (cases, levels)."""
        touched = _kinds_of_look(self.catalogue, trait, stage)
        places = {
            locus: self._place_of[locus] for locus in sorted(touched) if locus in self._place_of
        }  # one order, whatever was seen
        wholes = {locus: part.loci[place].whole for locus, (part, place) in places.items()}
        finer = {
            locus: MergedStates(whole, _members_of_look(self.catalogue, trait, stage, locus, whole.genotypes))
            for locus, whole in wholes.items()
        }
        is_all = prod(len(one.members) for one in finer.values()) <= (FEW_CASES if self.missed else ALL_CASES)
        states, weights = self._all_cases(finer) if is_all else self._drawn_cases(finer)
        named = tuple((locus, one.genotypes) for locus, one in finer.items())
        shown = _factors_of(self.catalogue, trait, stage, named).shown(states)
        r = self.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
        loci = {locus: (one, states[:, column].astype(np.intp)) for column, (locus, one) in enumerate(finer.items())}
        return loci, weights, shown @ answering(self.catalogue.traits[trait], r)

    def _all_cases(self, finer: Mapping[str, MergedStates]) -> tuple[States, Floats]:
        """All that the animal may have at some loci, as far as a look tells it apart: (cases, loci), with chances (cases,)."""
        states, weights = np.zeros((1, 0), dtype=np.int16), np.ones((1, len(self.loads)))
        order: list[str] = []
        for part in self.parts:
            places = [place for place, at in enumerate(part.loci) if at.whole.locus in finer]
            if places:
                names = [part.loci[place].whole.locus for place in places]
                own, shares = self._told_apart(part, places, [finer[name] for name in names])
                rows, others = np.divmod(np.arange(len(weights) * len(shares)), len(shares))
                states, weights = np.concatenate([states[rows], own[others]], axis=1), weights[rows] * shares[others]
                order += names
        return states[:, [order.index(name) for name in finer]], weights @ self.loads

    def _told_apart(
        self, part: Searched, places: Sequence[int], finer_loci: Sequence[MergedStates]
    ) -> tuple[States, Floats]:
        """A part's posterior at some of its loci, divided as another look tells states apart: (cases, places), (cases, loads)."""
        states, shares = _cases_of(part.states[:, places], part.chances)
        for column, (place, finer) in enumerate(zip(places, finer_loci, strict=True)):
            at = part.loci[place]
            kind = {member: number for number, members in enumerate(finer.members) for member in members}
            position = {genotype: kind[member] for member, genotype in enumerate(at.whole.genotypes)}
            table = at.shares_by(position.__getitem__, len(finer.members)).swapaxes(0, 1)
            rows, kinds = np.nonzero(np.any(table, axis=2)[states[:, column].astype(np.intp)])
            weights = shares[rows] * table[states[rows, column], kinds]
            states = states[rows]
            states[:, column] = kinds
            states, shares = _cases_of(states, weights)
        return states, shares

    def _drawn_cases(self, finer: Mapping[str, MergedStates]) -> tuple[States, Floats]:
        """The same where there are too many: of animals drawn from the posterior."""
        columns = []
        for locus, one in finer.items():
            kind = np.zeros(len(one.whole.genotypes), dtype=np.int16)
            for number, members in enumerate(one.members):
                kind[list(members)] = number
            columns.append(kind[self._drawn[locus]])
        states = np.stack(columns, axis=1)
        first, _, counts = _different(states, [len(one.members) for one in finer.values()])
        return states[first], counts / DRAWN

    @cached_property
    def _drawn(self) -> dict[str, NDArray[np.intp]]:
        """Animals drawn from the posterior: by locus which of its genotypes each has, (animals,)."""
        rng = np.random.default_rng(DRAWN)
        load = _drawn_evenly(rng, self.loads, DRAWN)
        found = {at.whole.locus: np.zeros(DRAWN, dtype=np.intp) for part in self.parts for at in part.loci}
        for number in np.unique(load):
            own = np.flatnonzero(load == number)
            for part in self.parts:
                rows = _drawn_evenly(rng, part.chances[:, number], len(own))
                for place, at in enumerate(part.loci):
                    states = part.states[rows, place]
                    for kind in np.unique(states):
                        has = own[states == kind]
                        members = _drawn_evenly(rng, at.shares[kind][number], len(has))
                        found[at.whole.locus][has] = np.array(at.members[kind])[members]
        return found

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


@lru_cache(maxsize=512)
def _kinds_of_look(catalogue: Catalogue, trait: str, stage: str) -> dict[str, KindOf]:
    return kinds_of(catalogue, [rules_of(catalogue, trait, stage)])


@lru_cache(maxsize=8192)
def _members_of_look(
    catalogue: Catalogue, trait: str, stage: str, locus: str, genotypes: tuple[Genotype, ...]
) -> tuple[tuple[int, ...], ...]:
    return members_of(genotypes, _kinds_of_look(catalogue, trait, stage)[locus])


@lru_cache(maxsize=512)
def _factors_of(
    catalogue: Catalogue, trait: str, stage: str, loci: tuple[tuple[str, tuple[Genotype, ...]], ...]
) -> LookFactors:
    """The tables of a look at loci with these states; the same for all animals of whom the same is asked."""
    return FactorMaker(catalogue, loci).look(trait, rules_of(catalogue, trait, stage))


def _drawn_evenly(rng: np.random.Generator, weights: Floats, count: int) -> NDArray[np.intp]:
    """Numbers from 0, each as often as its weight says, but for one time, in no order."""
    upto = np.cumsum(weights)
    at = np.searchsorted(upto, (np.arange(count) + rng.random()) / count * upto[-1])
    return rng.permutation(np.minimum(at, len(weights) - 1))


def _cases_of(states: States, weights: Floats) -> tuple[States, Floats]:
    """Equal rows added up."""
    first, which, _ = _different(states, (states.max(axis=0, initial=0) + 1).tolist())
    summed = np.zeros((len(first), weights.shape[1]))
    np.add.at(summed, which, weights)
    return states[first], summed


def _different(states: States, sizes: Sequence[int]) -> tuple[Places, Places, Places]:
    """The first of each kind of rows, which kind each row is of, and how many there are of each. ``sizes``: numbers in each column."""
    code, size = np.zeros(len(states), dtype=np.int64), 1
    for column, most in zip(states.T, sizes, strict=True):
        if size > MOST_CODES:
            ranks, code = np.unique(code, return_inverse=True)
            code, size = code.reshape(-1), len(ranks)
        code = code * most + column
        size *= most
    _, first, which, counts = np.unique(code, return_index=True, return_inverse=True, return_counts=True)
    return first, which.reshape(-1), counts


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
    if one.is_estimated:
        return answer | {"estimated": {"standard_error": one.standard_error}}
    if missed == 0:
        return answer
    return answer | {"proven_combos": one.proven_combos(top), "bound_is_useful": missed < USEFUL_BELOW}
