"""The most probable combinations of an animal of unknown parents: products over its parts, mixed over the gene loads.

Given the gene load the parts are independent, so the chance of a whole genotype is Σ over loads of the load's posterior times the
product of its parts' chances. A partial choice is followed only while the most that its rest could add reaches the
``top``-th best whole genotype found so far; what is listed is therefore the best of everything that was searched.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import prod

import numpy as np

from eyot_core.genetics.population import MergedStates
from eyot_core.genetics.tables import Floats
from eyot_core.identify.search import Searched

TIE_DIGITS = 12
CLOSE = 1e-9
MOST_FOLLOWED = 100_000
Genotype = dict[str, list[str]]
Combo = tuple[Genotype, float]


@dataclass(frozen=True)
class _Choice:
    """A genotype at some loci; ``chances``: under each gene load, (loads,)."""

    genotype: Genotype
    chances: Floats


def best_combos(parts: Sequence[Searched], loads: Floats, top: int) -> list[Combo]:
    """The ``top`` most probable genotypes; equal ones in the order of the genotypes. ``loads``: posterior of the gene loads."""
    bounds = [part.chances * _largest_shares(part) for part in parts]
    most = [bound.max(axis=0) for bound in bounds]
    rest = [loads * _product(most[place + 1 :], len(loads)) for place in range(len(parts))]
    others = [loads * _product(most[:place] + most[place + 1 :], len(loads)) for place in range(len(parts))]
    floor = _floor(parts, bounds, loads, others, top)
    choices = [_Choice({}, np.ones(len(loads)))]
    for place, part in enumerate(parts):
        own = _choices(part, bounds[place] @ others[place], others[place], floor)
        choices = _joined(choices, own, rest[place], floor, MOST_FOLLOWED)
    whole = [(one.genotype, float(one.chances @ loads)) for one in choices]
    return sorted(whole, key=lambda row: (-round(row[1], TIE_DIGITS), sorted(row[0].items())))[:top]


def _product(factors: Sequence[Floats], loads: int) -> Floats:
    return np.asarray(prod(factors, start=np.ones(loads)))


def _largest_shares(part: Searched) -> Floats:
    """For each row the largest share that any genotype of its merged states has, (rows, loads)."""
    product = np.ones_like(part.chances)
    for place, at in enumerate(part.loci):
        largest = np.array([shares.max(axis=1) for shares in at.shares])
        product = product * largest[part.states[:, place]]
    return product


def _floor(
    parts: Sequence[Searched], bounds: Sequence[Floats], loads: Floats, others: Sequence[Floats], top: int
) -> float:
    """A chance that at least ``top`` genotypes reach: of those that greedy choices find. 0 where there are fewer. ``bounds``: what no
    genotype of a row exceeds, by part (rows, loads)."""
    choices = [_Choice({}, np.ones(len(loads)))]
    for part, bound, of_others in zip(parts, bounds, others, strict=True):
        choices = _joined(choices, _greedy(part, bound @ of_others, of_others, top), loads, 0.0, top)
    return float(choices[-1].chances @ loads) * (1 - CLOSE) if len(choices) == top else 0.0


def _greedy(part: Searched, bound: Floats, others: Floats, top: int) -> list[_Choice]:
    choices: list[_Choice] = []
    for row in np.argsort(-bound, kind="stable")[:top]:
        choices += _written(part, int(row), others, 0.0, top)
    return sorted(choices, key=lambda one: -float(one.chances @ others))[:top]


def _choices(part: Searched, bound: Floats, others: Floats, floor: float) -> list[_Choice]:
    """The genotypes of a part that can stand in a combination of at least ``floor``. ``bound``: what no genotype of a row exceeds
    beside all others, (rows,)."""
    rows = np.flatnonzero(bound >= max(floor, 1e-300))
    rows = rows[np.argsort(-bound[rows], kind="stable")][:MOST_FOLLOWED]
    return [choice for row in rows for choice in _written(part, int(row), others, floor, MOST_FOLLOWED)]


def _written(part: Searched, row: int, others: Floats, floor: float, most: int) -> list[_Choice]:
    """The genotypes that one searched row stands for, as far as they can reach the floor."""
    several: list[tuple[MergedStates, int]] = []
    alone: Genotype = {}
    for at, kind in zip(part.loci, part.states[row].tolist(), strict=True):
        if len(at.members[kind]) > 1:
            several.append((at, kind))
        else:
            alone |= _at(at, at.members[kind][0])
    choices = [_Choice(alone, part.chances[row])]
    for at, kind in several:
        own = [
            _Choice(_at(at, member), share) for member, share in zip(at.members[kind], at.shares[kind].T, strict=True)
        ]
        choices = _joined(choices, own, others, floor, most)
    return choices


def _joined(
    some: Sequence[_Choice], others: Sequence[_Choice], weights: Floats, floor: float, most: int
) -> list[_Choice]:
    """Each with each other, as far as their chances under ``weights`` reach the floor: the best first, at most ``most``."""
    if not some or not others:
        return []
    by_load = np.stack([one.chances for one in some])[:, np.newaxis] * np.stack([one.chances for one in others])
    bounds = (by_load @ weights).reshape(-1)
    order = np.argsort(-bounds, kind="stable")[:most]
    places = [divmod(int(place), len(others)) for place in order if bounds[place] >= floor]
    return [_Choice(some[i].genotype | others[j].genotype, by_load[i, j]) for i, j in places]


def _at(at: MergedStates, member: int) -> Genotype:
    alleles = at.whole.genotypes[member]
    return {at.whole.locus: list(alleles)} if alleles else {}
