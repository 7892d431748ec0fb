"""A pedigree and one locus on it: what is known of each animal, carried through parents and offspring, exactly.

States of an animal are copies (0, 1, 2) at an autosomal locus. At a sex locus they are the seven states of :data:`SEXED`: a
female's copies on her two X, a male's copy on X and on Y.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

from eyot_core.genetics.tables import Floats
from eyot_core.proof.elimination import Factor, Summed, summed

FEMALE_STATES, MALE_STATES = (0, 1, 2), ((0, 0), (0, 1), (1, 0), (1, 1))
SEXED: tuple[int | tuple[int, int], ...] = (*FEMALE_STATES, *MALE_STATES)
SEXED_COPIES = np.array([0, 1, 2, 0, 1, 1, 2])
SEXED_FEMALE = np.array([True] * 3 + [False] * 4)


@dataclass(frozen=True)
class Member:
    """One animal of a pedigree. ``dam``, ``sire``: places of its parents in the list, ``None`` where not listed.

    ``one_of``: sires of which one it is, each with its weight; ``sire`` is ``None`` then.
    """

    dam: int | None = None
    sire: int | None = None
    one_of: tuple[tuple[int, float], ...] = ()

    @property
    def parents(self) -> list[int]:
        """The places of all that are or may be its parents."""
        return [place for place in (self.dam, self.sire, *(sire for sire, _ in self.one_of)) if place is not None]


@dataclass(frozen=True)
class Locus:
    """How one locus is passed on. ``founder``: chances of the states of an animal of unknown parents, shape (states,);
    ``child``: chances of a child's states, shape (dam's states, sire's states, child's states)."""

    founder: Floats
    child: Floats

    @property
    def states(self) -> int:
        """How many states an animal has."""
        return len(self.founder)

    def child_of_dam(self) -> Floats:
        """A child of a known dam and a sire that is a founder, shape (dam's states, child's states)."""
        return _normed(np.einsum("dsc,s->dc", self.child, self.founder))

    def child_of_sire(self) -> Floats:
        """A child of a known sire and a dam that is a founder, shape (sire's states, child's states)."""
        return _normed(np.einsum("dsc,d->sc", self.child, self.founder))


def _normed(table: Floats) -> Floats:
    """Rows that sum to 1; rows of parents of the wrong sex stay 0."""
    totals = table.sum(axis=-1, keepdims=True)
    return np.asarray(np.divide(table, totals, out=np.zeros_like(table), where=totals > 0))


@lru_cache(maxsize=64)
def autosomal(frequency: float) -> Locus:
    """An autosomal locus; founders in Hardy-Weinberg proportions at an allele frequency from 0 to 1."""
    q = frequency
    passes = np.array([0.0, 0.5, 1.0])
    child = np.zeros((3, 3, 3))
    for dam, sire in product(range(3), repeat=2):
        a, b = passes[dam], passes[sire]
        child[dam, sire] = [(1 - a) * (1 - b), a * (1 - b) + b * (1 - a), a * b]
    return Locus(np.array([(1 - q) ** 2, 2 * q * (1 - q), q * q]), child)


@lru_cache(maxsize=64)
def sex_linked(frequency: float, recombination: float) -> Locus:
    """A sex locus: a dam passes either X with 1/2; a sire passes X to daughters and Y to sons, but for ``recombination``.

    Sexes are half and half; a founder's chromosomes carry the allele independently.
    """
    q, r = frequency, recombination
    founder = np.zeros(len(SEXED))
    founder[:3] = np.array([(1 - q) ** 2, 2 * q * (1 - q), q * q]) / 2
    founder[3:] = [(q if x else 1 - q) * (q if y else 1 - q) / 2 for x, y in MALE_STATES]
    child = np.zeros((len(SEXED),) * 3)
    for dam, (place, (x, y)) in product(FEMALE_STATES, enumerate(MALE_STATES, start=3)):
        from_dam = dam / 2
        to_daughter, to_son = (1 - r) * x + r * y, (1 - r) * y + r * x
        a, b = from_dam, to_daughter
        child[dam, place, :3] = np.array([(1 - a) * (1 - b), a * (1 - b) + b * (1 - a), a * b]) / 2
        for other, (own_x, own_y) in enumerate(MALE_STATES, start=3):
            chance = (a if own_x else 1 - a) * (to_son if own_y else 1 - to_son)
            child[dam, place, other] = chance / 2
    return Locus(founder, child)


def over_pedigree(members: Sequence[Member], locus: Locus, known: Mapping[int, Floats]) -> Summed:
    """Evidence and each animal's distribution over states, given what is known of some; see :func:`factors_of`.

    Raises :class:`~eyot_core.proof.elimination.TooTangled`.
    """
    return summed(factors_of(members, locus, known, {}), [locus.states] * len(members))


def factors_of(
    members: Sequence[Member], locus: Locus, known: Mapping[int, Floats], starts: Mapping[int, Floats]
) -> list[Factor]:
    """What each animal has of its parents, and what is known of it, as factors over the animals' states.

    ``known``: by place, the likelihood of what is known for each state, shape (states,); ``starts``: chances of states that
    are stated of an animal itself, whatever its parents. A parent that is not listed while the other is known counts as a
    founder of its own.
    """
    factors = [
        Factor((place,), np.asarray(starts[place])) if place in starts else _passed_on(place, member, locus)
        for place, member in enumerate(members)
    ]
    return factors + [Factor((place,), np.asarray(likelihood)) for place, likelihood in known.items()]


def _passed_on(place: int, member: Member, locus: Locus) -> Factor:
    if member.one_of:
        return _by_one_of(place, member, locus)
    if member.dam is not None and member.sire is not None:
        return Factor((member.dam, member.sire, place), locus.child)
    if member.dam is not None:
        return Factor((member.dam, place), locus.child_of_dam())
    if member.sire is not None:
        return Factor((member.sire, place), locus.child_of_sire())
    return Factor((place,), locus.founder)


def _by_one_of(place: int, member: Member, locus: Locus) -> Factor:
    """A child of one of several sires: the mean of what each gives, by weight."""
    dams = [] if member.dam is None else [member.dam]
    variables = (*dams, *(sire for sire, _ in member.one_of), place)
    table = locus.child if dams else locus.child_of_sire()
    values = np.zeros([locus.states] * len(variables))
    total = sum(weight for _, weight in member.one_of)
    for number, (_, weight) in enumerate(member.one_of, start=len(dams)):
        shape = [1] * len(variables)
        for axis in (*range(len(dams)), number, len(variables) - 1):
            shape[axis] = locus.states
        values = values + weight / total * table.reshape(shape)
    return Factor(variables, values)
