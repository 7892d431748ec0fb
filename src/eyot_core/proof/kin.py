"""One recessive gene in a whole collection: what each animal's parents, marks, breedings, tests and relatives say, exactly.

Source: Mendel's laws over the pedigree, summed exactly (:mod:`eyot_core.proof.elimination`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from graphlib import TopologicalSorter

import numpy as np

from eyot_core.genetics.tables import Floats
from eyot_core.proof.carriers import Breeding
from eyot_core.proof.elimination import Summed, TooTangled
from eyot_core.proof.pedigree import Member, autosomal, over_pedigree

Three = tuple[float, float, float]
NOTHING: Three = (1.0, 1.0, 1.0)
NOT_VISUAL: Three = (1.0, 1.0, 0.0)
VISUAL: Three = (0.0, 0.0, 1.0)
CARRIES: Three = (0.0, 1.0, 1.0)
PLAIN: Three = (1.0, 0.0, 0.0)
PASSES = (0.0, 0.5, 1.0)
MOST_TOGETHER = 5_000


@dataclass(frozen=True)
class Kin:
    """One animal. ``start``: chances of 0, 1 and 2 copies that its own record states, where its parents' records don't say;
    ``known``, ``marks``, ``bred``, ``tests``: likelihoods for 0, 1 and 2 copies of what is certain or shows, of marks, of
    breedings outside the record, and of tests."""

    member: Member = field(default_factory=Member)
    start: Three | None = None
    known: Three = NOTHING
    marks: Three = NOTHING
    bred: Three = NOTHING
    tests: Three = NOTHING


@dataclass(frozen=True)
class KinStanding:
    """``from_parents``: chance of being het for one that does not show it, from what its forebears' records state alone (the
    trade's figure); ``with_marks``: the same with its own marks; ``copies``: chances of 0, 1, 2 copies after everything.
    ``is_exact``: else the pedigree is too large or too tangled, and ``copies`` holds what the forebears' records and its own
    evidence say."""

    from_parents: float
    with_marks: float
    copies: Three
    is_exact: bool = True

    @property
    def carrier(self) -> float:
        """Chance of carrying it after everything, of one that does not show it; 1 for one that certainly does."""
        without, one, _ = self.copies
        return one / (without + one) if without + one > 0 else 1.0


def breeding_likelihood(breeding: Breeding) -> Three:
    """Likelihood of a breeding's visuals and others for 0, 1 and 2 copies of the animal; the partner is in one state throughout."""
    partners = (
        [(PASSES[2], 1.0)]
        if breeding.het_chance is None
        else [(PASSES[1], breeding.het_chance), (PASSES[0], 1 - breeding.het_chance)]
    )
    others = breeding.hatchlings - breeding.visuals
    likelihood = [
        sum(share * (own * passes) ** breeding.visuals * (1 - own * passes) ** others for passes, share in partners)
        for own in PASSES
    ]
    return likelihood[0], likelihood[1], likelihood[2]


def times(*likelihoods: Three) -> Three:
    """Several likelihoods together."""
    none, one, two = NOTHING
    for first, second, third in likelihoods:
        none, one, two = none * first, one * second, two * third
    return none, one, two


def standings(kin: Sequence[Kin], frequency: float) -> list[KinStanding] | None:
    """Where each animal stands; ``None`` where the records contradict one another.

    ``frequency``: of the allele among animals of which nothing is stated.
    """
    stated = _from_parents(kin)
    rows: dict[int, KinStanding] = {}
    for family in _families(kin):
        after = _after_all(_of_family(kin, family), frequency)
        if after is not None and after.log is None:
            return None
        for number, place in enumerate(family):
            copies = _by_itself(kin[place], stated[place]) if after is None else _three(after.marginals[number])
            if sum(copies) == 0:
                return None
            chance = _carries(stated[place])
            rows[place] = KinStanding(chance, _with_marks(chance, kin[place].marks), copies, after is not None)
    return [rows[place] for place in range(len(kin))]


def _families(kin: Sequence[Kin]) -> list[list[int]]:
    """Animals that are related in the record, directly or through others: their places, ascending."""
    near: list[set[int]] = [set(one.member.parents) for one in kin]
    for place, one in enumerate(kin):
        for parent in one.member.parents:
            near[parent].add(place)
    families, seen = [], set[int]()
    for start in range(len(kin)):
        if start in seen:
            continue
        family, waiting = {start}, [start]
        while waiting:
            found = near[waiting.pop()] - family
            family |= found
            waiting += found
        seen |= family
        families.append(sorted(family))
    return families


def _of_family(kin: Sequence[Kin], family: Sequence[int]) -> tuple[Kin, ...]:
    """The animals of one family, their parents' places counted among themselves."""
    number: dict[int | None, int | None] = {place: at for at, place in enumerate(family)} | {None: None}

    def of(member: Member) -> Member:
        one_of = tuple((at, weight) for sire, weight in member.one_of if (at := number[sire]) is not None)
        return Member(number[member.dam], number[member.sire], one_of)

    return tuple(replace(kin[place], member=of(kin[place].member)) for place in family)


@lru_cache(maxsize=256)
def _after_all(kin: tuple[Kin, ...], frequency: float) -> Summed | None:
    """Everything together; ``None`` where that is too tangled, or too much."""
    if len(kin) > MOST_TOGETHER:
        return None
    known = {place: np.array(times(one.known, one.marks, one.bred, one.tests)) for place, one in enumerate(kin)}
    starts = {place: np.array(one.start) for place, one in enumerate(kin) if one.start is not None}
    try:
        return over_pedigree([one.member for one in kin], autosomal(frequency), known, starts)
    except TooTangled:
        return None


def _by_itself(one: Kin, stated: Three) -> Three:
    """Its forebears' records with its own evidence, relatives' left aside; all 0 where the two contradict one another."""
    none, single, two = times(stated, one.known, one.marks, one.bred, one.tests)
    total = none + single + two
    return (none / total, single / total, two / total) if total > 0 else (0.0, 0.0, 0.0)


def _from_parents(kin: Sequence[Kin]) -> list[Three]:
    """Down the generations, each animal by its parents' records alone; one of which nothing is stated counts as without it."""
    parents = {place: one.member.parents for place, one in enumerate(kin)}
    held: dict[int | None, Three] = {None: PLAIN}
    stated = [PLAIN] * len(kin)
    for place in TopologicalSorter(parents).static_order():
        one = kin[place]
        of_one = one.start or _child_of(held[one.member.dam], _sire_of(one.member, held))
        stated[place] = of_one
        seen = times(of_one, one.known)
        total = sum(seen)
        held[place] = (seen[0] / total, seen[1] / total, seen[2] / total) if total > 0 else of_one
    return stated


def _carries(stated: Three) -> float:
    """Chance of being het, of one that does not show it."""
    not_visual = stated[0] + stated[1]
    return stated[1] / not_visual if not_visual > 0 else 0.0


def _sire_of(member: Member, held: Mapping[int | None, Three]) -> Three:
    """The sire's copies; of several the mean by weight."""
    if not member.one_of:
        return held[member.sire]
    total = sum(weight for _, weight in member.one_of)
    mean = np.sum([np.array(held[sire]) * weight / total for sire, weight in member.one_of], axis=0)
    return _three(mean)


def _child_of(dam: Three, sire: Three) -> Three:
    """A child's copies by those of its parents, taken as unrelated."""
    first, second = dam[1] / 2 + dam[2], sire[1] / 2 + sire[2]
    return (1 - first) * (1 - second), first * (1 - second) + second * (1 - first), first * second


def _with_marks(chance: float, marks: Three) -> float:
    carrier, other = chance * marks[1], (1 - chance) * marks[0]
    return carrier / (carrier + other) if carrier + other > 0 else chance


def _three(values: Floats) -> Three:
    first, second, third = values.tolist()
    return first, second, third
