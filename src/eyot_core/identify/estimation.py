"""Genotypes of one animal of unknown parents where rules tie so many loci together that no bound says anything.

Animals carry few genes, so what explains the looks lies near the animal that carries none, or near another that explains them
well. From there genotypes are gone through best first: each is followed to all that differ from it at one locus. What is found so
has its exact mass. The rest is estimated by draws: around some of the animals that were found, *centres*, each locus is drawn as if it
changed what is seen by itself, as it does where it alone is changed; each draw that was not found counts for its true mass over
the chance of its being drawn. Where the first draws fell, the others are aimed at.

Source: best-first search; importance sampling from a mixture whose weights are adapted once (population Monte Carlo); the draws of both
rounds count by the mixture of both (deterministic mixture); the standard error from independent groups of draws.
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
SLOTS = 1 << 15
LOGS = 600.0
ROUNDS, FOLLOWED, FEWEST = 10, 20, 10
"""How often genotypes are followed, and how many at a time; how many at least where less is done."""
MOST_KEPT = 12_000
FAR_BELOW = 16.0
"""How far the log of a mass may lie below the best one's to be kept."""
FIRST, DRAWN, GROUPS = 2_048, 10_240, 16
"""How many animals are drawn before draws are aimed, and after."""
MORE_DRAWN, SURE_ENOUGH = 3, 0.01
"""How often at most as many are drawn again, and when they need not: the root of the sum of squares of what draws count for, of all."""
CENTRES, COVERED = 24, 0.98
"""Around how many of those found is drawn at most, and what share of their mass is to lie around them."""
MORE_CENTRES, NEW = 12, 0.2
"""Around how many of the first draws is drawn besides, and how often."""
USUAL = 0.2
"""How often each locus is drawn as the population has it, whatever was seen."""


@dataclass(frozen=True)
class Estimated:
    """What was found, and what was drawn outside of it.

    ``states`` (rows, loci), ``prior`` (rows, loads) and ``by_look`` (rows, looks): the first ``found`` rows are all different, largest
    mass first; the others are draws, ``prior`` over how often they were to be drawn. ``groups``: of which group each draw is.
    """

    states: States
    prior: Floats
    by_look: Floats
    found: int
    groups: Places


def estimated(
    loci: Sequence[LocusStates], looks: Sequence[tuple[LookFactors, Floats]], weights: Floats, share: float = 1.0
) -> Estimated:
    """The genotypes that explain some looks. ``looks``: each with P(answer | level), (levels,); ``weights``: of the gene loads;
    ``share``: how much of the usual work is done."""
    space = _Space.of(loci, looks, weights)
    found, followed, beside = _found(space, max(FEWEST, int(FOLLOWED * share)))
    outside, often, groups = _drawn(space, _Mixture.around(space, followed, beside), found, share)
    return Estimated(
        np.concatenate([found.states, outside.states]),
        np.exp(np.concatenate([found.prior, outside.prior - often[:, np.newaxis]])),
        np.exp(np.concatenate([found.logs, outside.logs])),
        len(found.code),
        groups,
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

    def only(self, which: NDArray[np.bool_] | Places | slice) -> _Animals:
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

    def logs_beside(self, animals: _Animals) -> Floats:
        """Log of the chance of all looks, of each animal with one column in place of its own one at that locus, (animals, columns)."""
        logs = np.repeat(animals.logs.sum(axis=1)[:, np.newaxis], len(self.locus_of), axis=1)
        for index in range(len(self.looks)):
            look = self.looks[index]
            more = self._look_beside(index, animals, look.columns) - animals.logs[:, index, np.newaxis]
            logs += np.concatenate([more, np.zeros((len(more), 1))], axis=1)[:, look.like]
        return logs

    def mass_beside(self, animals: _Animals, logs: Floats) -> Floats:
        """Log of the mass of the same, (animals, columns)."""
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


def _found(space: _Space, followed: int) -> tuple[_Animals, _Animals, Floats]:
    """The genotypes of the largest masses, as far as they are come by best first; largest first. Those of them that were followed, and
    the logs of the chance of all looks beside each of these, (followed, columns)."""
    found = space.animals((space.usual() - space.first)[np.newaxis].astype(np.int16))
    is_open = np.ones(1, dtype=bool)
    around: list[tuple[_Animals, Floats]] = []
    for _ in range(ROUNDS):
        masses = space.mass_of(found)
        best = np.flatnonzero(is_open)[:followed]
        if not len(best):
            break
        is_open[best] = False
        animals = found.only(best)
        around.append((animals, space.logs_beside(animals)))
        more = _new_beside(space, animals, around[-1][1], found.code, float(masses[0]))
        found, is_open = found.with_more(more), np.concatenate([is_open, np.ones(len(more.code), dtype=bool)])
        masses = space.mass_of(found)
        order = np.argsort(-masses, kind="stable")[:MOST_KEPT]
        order = order[masses[order] > masses[order[0]] - FAR_BELOW]
        found, is_open = found.only(order), is_open[order]
    whole = around[0][0]
    for animals, _ in around[1:]:
        whole = whole.with_more(animals)
    return found, whole, np.concatenate([logs for _, logs in around])


def _new_beside(space: _Space, animals: _Animals, logs: Floats, known: Codes, best: float) -> _Animals:
    """What differs from some animals at one locus, is not known yet, and is not far below the best."""
    masses = space.mass_beside(animals, logs).reshape(-1)
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
class _Mixture:
    """Animals whose loci are drawn independently of one another, around one centre and under one gene load in each *kind* of draw.

    ``logs``: log of the chance of each column at its locus, (kinds, columns); ``weights``: how often each kind is drawn, (kinds,).
    """

    logs: Floats
    weights: Floats

    @classmethod
    def around(cls, space: _Space, animals: _Animals, beside: Floats) -> _Mixture:
        """Around as few of some animals as hold most of their mass. ``beside``: of each, as :meth:`_Space.logs_beside`."""
        masses = space.mass_of(animals)
        masses = np.exp(masses - masses.max())
        logs: list[Floats] = []
        weights: list[Floats] = []
        covered = np.zeros(len(masses))
        while len(logs) < CENTRES:
            missing = np.maximum(0.0, masses - covered)
            if missing.sum() <= (1 - COVERED) * masses.sum():
                break
            centre = int(missing.argmax())
            of_loads, whole = _around(space, beside[centre] - float(animals.logs[centre].sum()))
            near = of_loads[:, animals.columns].sum(axis=2) + whole[:, np.newaxis]
            near = np.exp(near - near[:, centre].max()).sum(axis=0)
            more = np.minimum(missing, near / near[centre] * masses[centre])
            logs.append(of_loads)
            weights.append(more.sum() * np.exp(whole - whole.max()) / np.exp(whole - whole.max()).sum())
            covered = np.maximum(covered, near / near[centre] * masses[centre])
        made = np.concatenate(weights)
        return cls(np.concatenate(logs), made / made.sum())

    def draw(self, space: _Space, count: int, rng: np.random.Generator) -> States:
        """Some animals, of each kind as many as its weight says, (count, loci)."""
        upto = np.cumsum(self.weights)
        kinds = np.searchsorted(upto, (np.arange(count) + rng.random()) / count * upto[-1])
        kinds = np.minimum(kinds, len(upto) - 1)
        counts = np.bincount(kinds, minlength=len(upto))
        first, many = (np.cumsum(counts) - counts)[kinds], counts[kinds]
        states = np.empty((count, len(space.first)), dtype=np.int16)
        ends = [*space.first[1:], len(space.locus_of)]
        for place, (start, end) in enumerate(zip(space.first, ends, strict=True)):
            upto = np.cumsum(np.exp(self.logs[:, start:end]), axis=1)
            ranks = np.empty(count)
            ranks[np.argsort(kinds + rng.random(count))] = np.arange(count)
            drawn = (ranks - first + rng.random(count)) / many
            states[:, place] = (upto[kinds, :-1] < drawn[:, np.newaxis] * upto[kinds, -1:]).sum(axis=1)
        return states

    def aimed(self, space: _Space, draws: _Animals, often: Floats) -> _Mixture:
        """Kinds drawn as often as draws that were not found were of them, each counted for its mass; and new ones around those
        draws that count for most. ``often``: log of how often each was to be drawn."""
        if not len(draws.code):
            return self
        logs = self.logs_of(draws.columns)
        counts = space.mass_of(draws) - often
        counts = np.exp(counts - counts.max())
        most = draws.only(np.sort(np.argsort(-counts, kind="stable")[:MORE_CENTRES]))
        more = _Mixture.around(space, most, space.logs_beside(most))
        weights = counts @ (np.exp(logs - _log_sum(logs, self.weights)[:, np.newaxis]) * self.weights)
        held = np.concatenate([weights / weights.sum() * (1 - NEW) + USUAL * self.weights, NEW * more.weights])
        return _Mixture(np.concatenate([self.logs, more.logs]), held / held.sum())

    def logs_of(self, columns: Places) -> Floats:
        """Log of the chance of some animals in each kind of draw: ``columns`` (animals, loci); (animals, kinds)."""
        has = np.zeros((len(columns), self.logs.shape[1]))
        np.put_along_axis(has, columns, 1.0, axis=1)
        return np.asarray(has @ self.logs.T)


def _around(space: _Space, ratios: Floats) -> tuple[Floats, Floats]:
    """What is drawn around one animal under each load: log of each column's chance at its locus, (loads, columns), and log of how
    much lies there in all, but for what all animals share, (loads,). ``ratios``: logs, how much more readily the looks are
    answered so with each column in place of the animal's own one."""
    joint = np.exp(np.clip(ratios[:, np.newaxis] + space.chances, -LOGS, LOGS))
    sums = np.add.reduceat(joint, space.first, axis=0)
    usual = np.exp(space.chances)
    usual = usual / np.add.reduceat(usual, space.first, axis=0)[space.locus_of]
    shares = (1 - USUAL) * joint / sums[space.locus_of] + USUAL * usual
    return np.log(np.maximum(shares, LEAST)).T, np.log(sums).sum(axis=0) + space.weights


def _drawn(space: _Space, mixture: _Mixture, found: _Animals, share: float) -> tuple[_Animals, Floats, Places]:
    """Draws that were not found, the log of how often each was to be drawn, and of which group each is."""
    rng = np.random.default_rng(SEED)
    masses = space.mass_of(found)
    best, of_found = masses.max(), np.exp(masses - masses.max()).sum()
    animals, groups, often = found.only(slice(0, 0)), np.zeros(0, dtype=np.intp), np.zeros(0)
    hoped = np.zeros(len(mixture.weights))
    for turn, drawn in enumerate((FIRST, DRAWN, *[DRAWN] * MORE_DRAWN)):
        if turn:
            mixture = mixture.aimed(space, animals, often)
        count = max(GROUPS, int(drawn * share) // GROUPS * GROUPS)
        more, of_groups = _outside(space, mixture.draw(space, count, rng), found)
        animals, groups = animals.with_more(more), np.concatenate([groups, of_groups])
        hoped = count * mixture.weights + np.append(hoped, np.zeros(len(mixture.weights) - len(hoped)))
        often = _log_sum(mixture.logs_of(animals.columns), hoped)
        counts = np.exp(space.mass_of(animals) - best - often)
        if turn and np.sqrt((counts**2).sum()) < SURE_ENOUGH * (of_found + counts.sum()):
            break
    return animals, often, groups


def _outside(space: _Space, states: States, found: _Animals) -> tuple[_Animals, Places]:
    """Those of some draws that were not found, and of which group each is."""
    codes = space.marks[states + space.first].sum(axis=1, dtype=np.uint64)
    new = np.flatnonzero(~np.isin(codes, found.code))
    return space.animals(states[new]), new % GROUPS


def _log_sum(logs: Floats, weights: Floats) -> Floats:
    """Log of a weighted sum, from ``logs`` (…, kinds) and ``weights`` (kinds,): (…)."""
    top = logs.max(axis=-1, keepdims=True)
    return np.asarray(top[..., 0] + np.log(np.exp(logs - top) @ weights))
