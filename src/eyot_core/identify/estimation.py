"""Genotypes of one animal of unknown parents where rules tie so many loci together that no bound says anything.

Animals carry few genes, so what explains the looks lies near the animal that carries none, or near another that explains them
well. From there genotypes are gone through best first: each is followed to all that differ from it at one locus. What is found so
has its exact mass. The rest is estimated: walks set out from what was found and go on by Gibbs steps at one locus after another,
and by steps that exchange all that is unusual of an animal for what is unusual of another, so that they stay in the posterior; how
often they stand outside what was found says how much lies there, and where they stand, what it is.

Source: best-first search; Gibbs sampling with Metropolis-Hastings steps; the standard error from independent groups of walks.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eyot_core.genetics.population import LocusStates
from eyot_core.genetics.tables import Floats
from eyot_core.identify.factors import LEAST, LookFactors, States

Codes = NDArray[np.uint64]
Places = NDArray[np.intp]
SEED = 20_261
SLOTS = 1 << 17
ROUNDS, FOLLOWED = 10, 60
"""How often genotypes are followed, and how many at a time."""
MOST_KEPT = 12_000
FAR_BELOW = 16.0
"""How far the log of a mass may lie below the best one's to be kept."""
WALKS, GROUPS = 480, 16
PASSED_OVER, RECORDED = 1, 3
"""Rounds of steps before walks are looked at, and after."""
UNUSUAL = 0.03
"""By how much looks must change a state's chance for its locus to be exchanged together with others."""
SWAPS, FLOOR = 1, 0.05
"""How often in a round one state is swapped for another, and what the population's share counts for when one is chosen."""


@dataclass(frozen=True)
class Estimated:
    """What was found, and where walks stood outside of it.

    ``states`` (rows, loci), ``prior`` (rows, loads) and ``by_look`` (rows, looks): the first ``found`` rows are all different, largest
    mass first; the others stand as often as walks stood there. ``groups``: of which group's walks each of the others is;
    ``inside``: what share of each group's walks stood in what was found, (groups,).
    """

    states: States
    prior: Floats
    by_look: Floats
    found: int
    groups: Places
    inside: Floats


def estimated(
    loci: Sequence[LocusStates], looks: Sequence[tuple[LookFactors, Floats]], weights: Floats, share: float = 1.0
) -> Estimated:
    """The genotypes that explain some looks. ``looks``: each with P(answer | level), (levels,); ``weights``: of the gene loads;
    ``share``: how much of the usual work is done."""
    space = _Space.of(loci, looks, weights)
    found = _found(space, max(20, int(FOLLOWED * share)))
    walks = max(2 * GROUPS, int(WALKS * share) // GROUPS * GROUPS)
    records = list(_walked(space, found, walks))
    inside = np.array([np.isin(one.code, found.code) for one in records])
    outside = [one.only(~within) for one, within in zip(records, inside, strict=True)]
    groups = np.arange(walks) % GROUPS
    by_group = inside.mean(axis=0).reshape(-1, GROUPS).mean(axis=0)
    whole = [found, *outside]
    return Estimated(
        np.concatenate([one.states for one in whole]),
        np.exp(np.concatenate([one.prior for one in whole])),
        np.exp(np.concatenate([one.logs for one in whole])),
        len(found.code),
        np.concatenate([groups[~within] for within in inside]),
        by_group,
    )


@dataclass
class _Animals:
    """Some animals: ``states`` (animals, loci), the same as ``columns`` of the space; logs of the chance under each load ``prior``
    (animals, loads) and of each look ``logs`` (animals, looks); the sum of the marks of their states, of all loci ``code`` (animals,)
    and of those that each look speaks of ``codes`` (looks, animals)."""

    states: States
    columns: Places
    prior: Floats
    logs: Floats
    code: Codes
    codes: Codes

    def only(self, which: NDArray[np.bool_] | Places) -> _Animals:
        """Some of them."""
        own = (self.states[which], self.columns[which], self.prior[which], self.logs[which], self.code[which])
        return _Animals(*own, self.codes[:, which])

    def with_more(self, more: _Animals) -> _Animals:
        """These and others."""
        return _Animals(
            np.concatenate([self.states, more.states]),
            np.concatenate([self.columns, more.columns]),
            np.concatenate([self.prior, more.prior]),
            np.concatenate([self.logs, more.logs]),
            np.concatenate([self.code, more.code]),
            np.concatenate([self.codes, more.codes], axis=1),
        )


class _Look:
    """One look's likelihood. ``columns``: one for each state that it tells apart at the loci that it speaks of; ``like``: which of them
    each column of the space is like, -1 for those of other loci. What was worked out before is kept by the sum of ``marks``."""

    def __init__(self, factors: LookFactors, vector: Floats, marks: Codes, first: Places, sizes: Sequence[int]) -> None:
        self.factors, self.vector = factors, vector
        columns: list[int] = []
        self.like = np.full(len(marks), -1, dtype=np.intp)
        for place in sorted(factors.places):
            kinds: dict[Hashable, int] = {}
            for state, told in enumerate(factors.told_of(place, sizes[place])):
                if told not in kinds:
                    kinds[told] = len(columns)
                    columns.append(int(first[place]) + state)
                self.like[first[place] + state] = kinds[told]
        self.columns = np.array(columns, dtype=np.intp)
        self.marks = np.append(marks[self.columns], np.uint64(0))[self.like]
        self._codes = np.zeros(SLOTS, dtype=np.uint64)
        self._logs = np.full(SLOTS, np.nan)

    def logs(self, codes: Codes, states_at: Callable[[Places], States]) -> Floats:
        """Natural logs of the likelihoods by code; ``states_at`` gives the animals that stand at some places of the flattened codes."""
        flat = codes.reshape(-1)
        slots = (flat & np.uint64(SLOTS - 1)).astype(np.intp)
        logs = self._logs[slots]
        unknown = np.flatnonzero((self._codes[slots] != flat) | np.isnan(logs))
        if len(unknown):
            _, first, which = np.unique(flat[unknown], return_index=True, return_inverse=True)
            rows = unknown[first]
            made = np.log(np.maximum(self.factors.shown(states_at(rows)) @ self.vector, LEAST))
            logs[unknown] = made[which.reshape(-1)]
            self._codes[slots[rows]], self._logs[slots[rows]] = flat[rows], made
        return logs.reshape(codes.shape)


@dataclass(frozen=True)
class _Space:
    """All states of all loci as *columns*: ``first`` column of each locus, ``locus_of`` each column, ``chances``: logs (columns, loads)."""

    first: Places
    locus_of: Places
    chances: Floats
    marks: Codes
    weights: Floats
    looks: tuple[_Look, ...]
    looks_at: tuple[tuple[int, ...], ...]

    @classmethod
    def of(cls, loci: Sequence[LocusStates], looks: Sequence[tuple[LookFactors, Floats]], weights: Floats) -> _Space:
        sizes = [len(one.genotypes) for one in loci]
        locus_of = np.repeat(np.arange(len(loci)), sizes)
        chances = np.log(np.maximum(np.concatenate([one.chances.T for one in loci]), LEAST))
        first = np.cumsum([0, *sizes[:-1]])
        marks = np.random.default_rng(SEED).integers(0, 2**64, len(locus_of), dtype=np.uint64)
        made = tuple(_Look(factors, vector, marks, first, sizes) for factors, vector in looks)
        looks_at = tuple(
            tuple(index for index, (factors, _) in enumerate(looks) if place in factors.places)
            for place in range(len(loci))
        )
        return cls(first, locus_of, chances, marks, np.log(np.maximum(weights, LEAST)), made, looks_at)

    def animals(self, states: States) -> _Animals:
        """Some animals, (animals, loci)."""
        columns = states + self.first
        codes = np.stack([look.marks[columns].sum(axis=1, dtype=np.uint64) for look in self.looks])
        logs = [look.logs(code, states.__getitem__) for look, code in zip(self.looks, codes, strict=True)]
        code = self.marks[columns].sum(axis=1, dtype=np.uint64)
        return _Animals(states, columns, self.chances[columns].sum(axis=1), np.stack(logs, axis=1), code, codes)

    def mass(self, prior: Floats, logs: Floats) -> Floats:
        """Log of the mass over all loads: ``prior`` (…, loads), and ``logs`` (…) of all looks."""
        by_load = prior + self.weights
        top = by_load.max(axis=-1)
        return np.asarray(top + np.log(np.exp(by_load - top[..., np.newaxis]).sum(axis=-1)) + logs)

    def mass_of(self, animals: _Animals) -> Floats:
        """Log of the mass of each."""
        return self.mass(animals.prior, animals.logs.sum(axis=1))

    def usual(self) -> Places:
        """The column of each locus that most animals have, (loci,)."""
        chances = np.exp(self.chances + self.weights).sum(axis=1)
        return np.array([np.where(self.locus_of == place, chances, -1).argmax() for place in range(len(self.first))])

    def shares_in(self, animals: _Animals) -> Floats:
        """What share of their mass has each column, (columns,)."""
        masses = self.mass_of(animals)
        shares, mass = np.zeros(len(self.locus_of)), np.exp(masses - masses.max())
        np.add.at(shares, animals.columns, (mass / mass.sum())[:, np.newaxis])
        return shares

    def beside(self, animals: _Animals) -> Floats:
        """Log of the mass of each animal with one column in place of its own one at that locus, (animals, columns)."""
        logs = np.repeat(animals.logs.sum(axis=1)[:, np.newaxis], len(self.locus_of), axis=1)
        for index in range(len(self.looks)):
            look = self.looks[index]
            more = self._look_beside(index, animals, look.columns) - animals.logs[:, index, np.newaxis]
            logs += np.concatenate([more, np.zeros((len(more), 1))], axis=1)[:, look.like]
        own = self.chances[animals.columns][:, self.locus_of]
        return self.mass(animals.prior[:, np.newaxis] - own + self.chances, logs)

    def _look_beside(self, index: int, animals: _Animals, columns: Places) -> Floats:
        """The logs of a look with one of some columns in place of each animal's own one, (animals, columns)."""
        look, loci = self.looks[index], self.locus_of[columns]
        codes = animals.codes[index][:, np.newaxis] - look.marks[animals.columns[:, loci]] + look.marks[columns]

        def states_at(places: Places) -> States:
            rows, which = np.divmod(places, len(columns))
            states = animals.states[rows]
            states[np.arange(len(rows)), loci[which]] = (columns - self.first[loci])[which]
            return states

        return look.logs(codes, states_at)

    def step(self, animals: _Animals, place: int, drawn: Floats) -> None:
        """Each animal's state at one locus drawn anew, given all others. ``drawn``: numbers between 0 and 1, (animals,)."""
        columns = np.flatnonzero(self.locus_of == place)
        old = animals.columns[:, place].copy()
        beside = {}
        for index in self.looks_at[place]:
            like = self.looks[index].like[columns]
            kinds, which = np.unique(like, return_inverse=True)
            beside[index] = self._look_beside(index, animals, self.looks[index].columns[kinds])[:, which]
        prior = animals.prior[:, np.newaxis] - self.chances[old][:, np.newaxis] + self.chances[columns]
        masses = self.mass(prior, np.asarray(sum(beside.values(), np.zeros(1))))
        upto = np.cumsum(np.exp(masses - masses.max(axis=1, keepdims=True)), axis=1)
        choice = (upto < drawn[:, np.newaxis] * upto[:, -1:]).sum(axis=1)
        new, rows = columns[choice], np.arange(len(old))
        animals.states[:, place], animals.columns[:, place], animals.prior = choice, new, prior[rows, choice]
        animals.code = animals.code - self.marks[old] + self.marks[new]
        for index, logs in beside.items():
            animals.logs[:, index] = logs[rows, choice]
            animals.codes[index] += self.looks[index].marks[new] - self.looks[index].marks[old]


def _found(space: _Space, followed: int) -> _Animals:
    """The genotypes of the largest masses, as far as they are come by best first; largest first."""
    found = space.animals((space.usual() - space.first)[np.newaxis].astype(np.int16))
    is_open = np.ones(1, dtype=bool)
    for _ in range(ROUNDS):
        masses = space.mass_of(found)
        best = np.flatnonzero(is_open)[:followed]
        if not len(best):
            break
        is_open[best] = False
        more = _new_beside(space, found.only(best), found.code, float(masses[0]))
        found, is_open = found.with_more(more), np.concatenate([is_open, np.ones(len(more.code), dtype=bool)])
        masses = space.mass_of(found)
        order = np.argsort(-masses, kind="stable")[:MOST_KEPT]
        order = order[masses[order] > masses[order[0]] - FAR_BELOW]
        found, is_open = found.only(order), is_open[order]
    return found


def _new_beside(space: _Space, animals: _Animals, known: Codes, best: float) -> _Animals:
    """What differs from some animals at one locus, is not known yet, and is not far below the best."""
    masses = space.beside(animals).reshape(-1)
    near = np.flatnonzero(masses > max(best, float(masses.max())) - FAR_BELOW)
    rows, columns = np.divmod(near, len(space.locus_of))
    places = space.locus_of[columns]
    codes, first = np.unique(
        animals.code[rows] - space.marks[animals.columns[rows, places]] + space.marks[columns], return_index=True
    )
    first = first[~np.isin(codes, known)]
    if len(first) > MOST_KEPT:
        first = first[np.argpartition(-masses[near[first]], MOST_KEPT)[:MOST_KEPT]]
    states = animals.states[rows[first]]
    states[np.arange(len(first)), places[first]] = (columns - space.first[places])[first]
    return space.animals(states)


@dataclass(frozen=True)
class _Exchange:
    """What was found at the loci that looks change most: patterns (patterns, loci), their codes in order, and log shares of the mass."""

    loci: Places
    patterns: States
    codes: Codes
    shares: Floats

    @classmethod
    def of(cls, space: _Space, found: _Animals) -> _Exchange:
        mass = np.exp(space.mass_of(found) - space.mass_of(found).max())
        changed = np.abs(space.shares_in(found) - np.exp(space.chances + space.weights).sum(axis=1)) > UNUSUAL
        loci = np.unique(space.locus_of[changed])
        codes = space.marks[found.columns[:, loci]].sum(axis=1, dtype=np.uint64)
        codes, first, which = np.unique(codes, return_index=True, return_inverse=True)
        shares = np.bincount(which.reshape(-1), mass / mass.sum(), len(codes))
        return cls(loci, found.states[np.ix_(first, loci)], codes, np.log(shares))

    def step(self, space: _Space, animals: _Animals, rng: np.random.Generator) -> _Animals:
        """Each animal with another pattern at these loci, or as it was; by Metropolis and Hastings."""
        count = len(animals.code)
        chosen = rng.choice(len(self.codes), count, p=np.exp(self.shares) / np.exp(self.shares).sum())
        own = space.marks[animals.columns[:, self.loci]].sum(axis=1, dtype=np.uint64)
        at = np.minimum(np.searchsorted(self.codes, own), len(self.codes) - 1)
        states = animals.states.copy()
        states[:, self.loci] = self.patterns[chosen]
        other = space.animals(states)
        worth = space.mass_of(other) - space.mass_of(animals) + self.shares[at] - self.shares[chosen]
        taken = (self.codes[at] == own) & (np.log(rng.random(count)) < worth)
        both = animals.with_more(other)
        return both.only(np.where(taken, np.arange(count) + count, np.arange(count)))


@dataclass(frozen=True)
class _Swap:
    """One thing that an animal has for another: ``usual``: the column of each locus that it has before it has anything; ``shares``: how
    readily each column is taken instead, (columns,)."""

    usual: Places
    shares: Floats

    @classmethod
    def of(cls, space: _Space, found: _Animals) -> _Swap:
        usual = space.usual()
        now = space.shares_in(found) + FLOOR * np.exp(space.chances + space.weights).sum(axis=1)
        now[usual] = 0.0
        return cls(usual, now / now.sum())

    def step(self, space: _Space, animals: _Animals, rng: np.random.Generator) -> _Animals:
        """Each animal with one of the states that it has gone, and another in its stead at another locus; by Metropolis and Hastings."""
        count = len(animals.code)
        rows = np.arange(count)
        has = animals.columns != self.usual
        gone = np.argmax(has * rng.random(has.shape), axis=1)
        come = rng.choice(len(self.shares), count, p=self.shares)
        at = space.locus_of[come]
        states = animals.states.copy()
        states[rows, gone] = (self.usual - space.first)[gone]
        states[rows, at] = come - space.first[at]
        other = space.animals(states)
        ratio = np.log(self.shares[animals.columns[rows, gone]] + LEAST) - np.log(self.shares[come])
        worth = space.mass_of(other) - space.mass_of(animals) + ratio
        can = has.any(axis=1) & ~has[rows, at]
        return animals.with_more(other).only(rows + count * (can & (np.log(rng.random(count)) < worth)))


def _evenly(rng: np.random.Generator, walks: int) -> Floats:
    """Numbers between 0 and 1, one a walk, those of each group spread evenly: fewer chances of one group's walks fall together."""
    each = walks // GROUPS
    strata = rng.permuted(np.tile(np.arange(each), (GROUPS, 1)), axis=1).T
    return np.asarray(((strata + rng.random((each, GROUPS))) / each).reshape(-1))


def _walked(space: _Space, found: _Animals, walks: int) -> list[_Animals]:
    """Where walks stand after each round of steps, once the first rounds have passed."""
    rng = np.random.default_rng(SEED)
    masses = space.mass_of(found)
    upto = np.cumsum(np.exp(masses - masses.max()))
    starts = np.searchsorted(upto, (np.arange(walks) + rng.random()) / walks * upto[-1])
    animals = found.only(np.minimum(starts, len(upto) - 1))
    exchange, swap = _Exchange.of(space, found), _Swap.of(space, found)
    records = []
    for round_ in range(PASSED_OVER + RECORDED):
        if len(exchange.loci):
            animals = exchange.step(space, animals, rng)
        for _ in range(SWAPS):
            animals = swap.step(space, animals, rng)
        for place in rng.permutation(len(space.first)):
            space.step(animals, int(place), _evenly(rng, walks))
        if round_ >= PASSED_OVER:
            records.append(animals.only(np.arange(walks)))
    return records
