"""One recessive gene in a whole collection: what each animal's parents, marks, breedings, tests and relatives say.

Source: Mendel's laws over the pedigree, summed exactly (:mod:`eyot_core.proof.elimination`); where a family is too tangled for
that, drawn (:mod:`eyot_core.proof.sampling`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from graphlib import TopologicalSorter
from typing import Literal

import numpy as np

from eyot_core.genetics.tables import Floats
from eyot_core.proof.carriers import Breeding
from eyot_core.proof.elimination import MOST_CELLS, TooTangled, summed
from eyot_core.proof.pedigree import Member, autosomal, factors_of
from eyot_core.proof.sampling import sampled

Three = tuple[float, float, float]
NOTHING: Three = (1.0, 1.0, 1.0)
NOT_VISUAL: Three = (1.0, 1.0, 0.0)
VISUAL: Three = (0.0, 0.0, 1.0)
CARRIES: Three = (0.0, 1.0, 1.0)
PLAIN: Three = (1.0, 0.0, 0.0)
PASSES = (0.0, 0.5, 1.0)
Basis = Literal["exact", "drawn", "own"]


@dataclass(frozen=True)
class Effort:
    """How much is done for one family. ``animals``, ``cells``: up to which it is summed exactly, see
    :func:`~eyot_core.proof.elimination.summed`; ``drawn``: animals up to which it is drawn, where it is too tangled."""

    animals: int
    cells: int
    drawn: int


AT_ONCE = Effort(animals=1_000, cells=1_000_000, drawn=0)
"""While somebody waits for a page."""
PATIENT = Effort(animals=5_000, cells=MOST_CELLS, drawn=2_000)


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
    ``basis``: all relatives counted, exactly; all counted, by draws; or the forebears' records and its own evidence alone, where
    that would be too much. ``error``: standard error of ``carrier``, where it is drawn."""

    from_parents: float
    with_marks: float
    copies: Three
    basis: Basis = "exact"
    error: float = 0.0

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


def standings(kin: Sequence[Kin], frequency: float, effort: Effort = AT_ONCE) -> list[KinStanding] | None:
    """Where each animal stands; ``None`` where the records contradict one another.

    ``frequency``: of the allele among animals of which nothing is stated.
    """
    stated = _from_parents(kin)
    rows: dict[int, KinStanding] = {}
    for family in _families(kin):
        after = _after_all(_of_family(kin, family), frequency, effort)
        if after is not None and not after.copies:
            return None
        for number, place in enumerate(family):
            copies = _by_itself(kin[place], stated[place]) if after is None else after.copies[number]
            if sum(copies) == 0:
                return None
            chance = _carries(stated[place])
            rows[place] = KinStanding(
                chance,
                _with_marks(chance, kin[place].marks),
                copies,
                "own" if after is None else "drawn" if after.errors else "exact",
                after.errors[number] if after and after.errors else 0.0,
            )
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


@dataclass(frozen=True)
class _After:
    """After everything: each animal's copies, none where the records contradict one another; their errors where they are drawn."""

    copies: list[Three]
    errors: tuple[float, ...] = ()


@lru_cache(maxsize=256)
def _after_all(kin: tuple[Kin, ...], frequency: float, effort: Effort) -> _After | None:
    """Everything together; ``None`` where that is too much."""
    known = {place: np.array(times(one.known, one.marks, one.bred, one.tests)) for place, one in enumerate(kin)}
    starts = {place: np.array(one.start) for place, one in enumerate(kin) if one.start is not None}
    factors, sizes = factors_of([one.member for one in kin], autosomal(frequency), known, starts), [3] * len(kin)
    if len(kin) <= effort.animals:
        try:
            return _After([_three(one) for one in summed(factors, sizes, effort.cells).marginals])
        except TooTangled:
            pass
    drawn = sampled(factors, sizes) if len(kin) <= effort.drawn else None
    if drawn is None:
        return None
    return _After([_three(one.mean(axis=0)) for one in drawn.means], tuple(_error(one) for one in drawn.means))


def _error(means: Floats) -> float:
    """Standard error of the chance of being het, of one that does not show it, by the means of the chains."""
    without, one, _ = means.mean(axis=0)
    if without + one == 0:
        return 0.0
    off = means[:, 1] - one / (without + one) * (means[:, 0] + means[:, 1])
    return float(off.std(ddof=1) / math.sqrt(len(means)) / (without + one))


def _by_itself(one: Kin, stated: Three) -> Three:
    """Its forebears' records with its own evidence, relatives' left aside; its own alone where the records leave that no room,
    and all 0 where it contradicts itself."""
    own = times(one.known, one.marks, one.bred, one.tests)
    together = times(stated, own)
    none, single, two = together if sum(together) > 0 else own
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
