"""Genotypes of one animal of unknown parents, searched locus by locus with proven bounds.

A prefix is a choice of states at the first loci. The mass of all genotypes that continue it is at most its chance among
captive-bred animals times, for each look, the largest likelihood that any continuation could have. Where there are more
prefixes than can be followed, those of the smallest bounds are given up, and their bounds added up: what was given up
can hold no more than that.

Source: branch and bound; the bounds on a softmax hold by monotony of each score in its pushes.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import cache, cached_property
from math import prod

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue, Condition
from eyot_core.genetics.inheritance import Genotype
from eyot_core.genetics.population import LocusStates, MergedStates, Population, merged
from eyot_core.genetics.tables import Floats
from eyot_core.identify.estimation import GROUPS, estimated
from eyot_core.identify.evidence import Evidence
from eyot_core.identify.factors import LEAST, Diluted, Factor, FactorMaker, LookFactors, States
from eyot_core.identify.scales import MOST_SHIFT
from eyot_core.identify.traits import Rules, rules_of

ALL_OF = 200_000
FOLLOWED = 1_000
FEWEST = 200
MOST_FOLLOWED = 15_000
"""Prefixes times looks that are followed at a time in one answer of many animals."""
AHEAD = 1.3
"""How many times as many prefixes are looked at as are followed, chosen by what was known before their last locus."""
GOOD_ENOUGH = 5e-2
"""What share of the mass may be given up: where it is more, what lies there is estimated."""
Bools = NDArray[np.bool_]
KindOf = Callable[[Genotype], Hashable]


@dataclass(frozen=True)
class Searched:
    """The genotypes that were found at some loci that looks tie together (a *part*), or at one that none speaks of.

    ``loci``: in the order of the search, with states that no look tells apart merged.
    ``states``: (genotypes, loci). ``prior``: their chances before looking; ``mass``: joint chance of genotype and looks; both under
    each gene load, (genotypes, loads), largest mass first. ``looks``: which looks speak of the part, with their likelihoods
    ``by_look`` (genotypes, looks).
    ``given_up``: at most so much mass lies elsewhere; ``best_given_up``: no other genotype can have more; both (loads,).
    ``draws``: where the rest was estimated, which of the genotypes only stand for it (their ``prior`` is what with the looks makes up
    the mass that they stand for); ``unlisted``: mass that is counted though its genotypes are left out here, (loads,).
    """

    loci: tuple[MergedStates, ...]
    states: States
    prior: Floats
    mass: Floats
    looks: tuple[int, ...]
    by_look: Floats
    given_up: Floats
    best_given_up: Floats
    draws: Draws | None = None
    unlisted: Floats | None = None

    @cached_property
    def total(self) -> Floats:
        """All mass that was searched or estimated, by gene load, (loads,)."""
        return np.asarray(self.mass.sum(axis=0) + (0.0 if self.unlisted is None else self.unlisted))

    @cached_property
    def found(self) -> Floats:
        """All mass whose genotypes were found, by gene load, (loads,)."""
        return np.asarray(self.mass[: self.draws.found].sum(axis=0)) if self.draws else self.total

    @cached_property
    def chances(self) -> Floats:
        """Posterior chances of what was searched under each gene load, (genotypes, loads); columns sum to 1 (or to 0)."""
        return np.divide(self.mass, self.total, out=np.zeros_like(self.mass), where=self.total > 0)

    def all_different(self) -> Searched:
        """Without the genotypes that only stand for others, though their mass is counted."""
        if self.draws is None:
            return self
        rows = slice(self.draws.found)
        own = {name: getattr(self, name)[rows] for name in ("states", "prior", "mass", "by_look")}
        return replace(self, **own, draws=None, unlisted=self.total - self.found)

    def mass_at(self, place: int) -> Floats:
        """How much mass each state of one locus has, by gene load: (states, loads)."""
        return np.asarray(self._mass_at(place, slice(None), 0, 1)[0])

    def mass_by_group(self, place: int) -> Floats:
        """The same as each group of draws alone would estimate it: (groups, states, loads); one group where nothing is estimated."""
        if self.draws is None:
            return self.mass_at(place)[np.newaxis]
        found = self.draws.found
        own = self._mass_at(place, slice(found), 0, 1)
        return np.asarray(own + GROUPS * self._mass_at(place, slice(found, None), self.draws.groups, GROUPS))

    def _mass_at(self, place: int, rows: slice, groups: NDArray[np.intp] | int, count: int) -> Floats:
        kinds = len(self.loci[place].members)
        index = groups * kinds + self.states[rows, place].astype(np.intp)
        summed = [np.bincount(index, column, count * kinds) for column in self.mass[rows].T]
        return np.asarray(np.stack(summed, axis=1), dtype=np.float64).reshape(count, kinds, -1)


@dataclass(frozen=True)
class Draws:
    """How the mass outside of what was found was estimated: the first ``found`` rows are all different, largest mass first; the others
    are draws with what they stand for. ``groups``: of which group each draw is, (drawn,)."""

    found: int
    groups: NDArray[np.intp]


@dataclass
class _Look:
    """One look during a search: bounds on its scores, masks and damping.

    They stand once for all prefixes that it can't tell apart: a row for each choice of ``states`` at the loci that it speaks of,
    (rows, loci); ``row_of``: the row of each prefix.
    """

    factors: LookFactors
    vector: Floats
    states: States
    low: Floats
    high: Floats
    row_of: NDArray[np.intp] = field(default_factory=lambda: np.zeros(1, dtype=np.intp))
    mask_low: list[Floats] = field(default_factory=list)
    mask_high: list[Floats] = field(default_factory=list)
    thin_low: list[Floats] = field(default_factory=list)
    thin_high: list[Floats] = field(default_factory=list)
    damp_low: Floats = field(default_factory=lambda: np.zeros(1))
    damp_high: Floats = field(default_factory=lambda: np.zeros(1))
    best_of_rows: Floats = field(default_factory=lambda: np.ones(1))

    @property
    def best(self) -> Floats:
        """The largest likelihood that any continuation of each prefix could have, (prefixes,)."""
        return np.asarray(self.best_of_rows[self.row_of])

    def grow(self, place: int, choice: States, choices: int) -> None:
        """Parts prefixes by what they choose at a locus that the look speaks of."""
        rows, self.row_of = np.unique(self.row_of * choices + choice, return_inverse=True)
        self._keep(rows // choices)
        self.states[:, place] = rows % choices

    def _keep(self, rows: NDArray[np.intp]) -> None:
        for name in ("states", "low", "high", "damp_low", "damp_high"):
            setattr(self, name, getattr(self, name)[rows])
        for name in ("mask_low", "mask_high", "thin_low", "thin_high"):
            setattr(self, name, [values[rows] for values in getattr(self, name)])


def searched(
    catalogue: Catalogue, among: Population, evidence: Sequence[Evidence], most: int = MOST_FOLLOWED
) -> list[Searched]:
    """The genotypes of an animal that explain what was seen, part by part.

    Parts are independent of one another given the looks and the gene load. In each, all genotypes are gone through where they are few, else
    the most probable ones: as many prefixes at a time as with the looks make up ``most``.
    """
    rules = {look.trait: rules_of(catalogue, look.trait, look.stage) for look in evidence}
    ordered = _in_order(catalogue, among.loci, rules)
    touched = [_loci_of(catalogue, rules[look.trait]) for look in evidence]
    best = []
    for names in _parts([states.locus for states in ordered], touched):
        own = tuple(states for states in ordered if states.locus in names)
        looks = [index for index, of_look in enumerate(touched) if of_look & names]
        seen = [(index, evidence[index]) for index in looks]
        best.append(_searched_part(catalogue, own, seen, rules, among.weights, most))
    nowhere = [index for index, of_look in enumerate(touched) if not of_look & {states.locus for states in ordered}]
    if nowhere:
        best.append(_searched_part(catalogue, (), [(i, evidence[i]) for i in nowhere], rules, among.weights, most))
    return best


def _loci_of(catalogue: Catalogue, rules: Rules) -> set[str]:
    return {catalogue.locus_of(condition) for condition in rules.conditions}


def _parts(loci: Sequence[str], touched: Sequence[set[str]]) -> list[set[str]]:
    """Loci that looks tie together, directly or through others."""
    parts: list[set[str]] = [{locus} for locus in loci]
    for of_look in touched:
        tied = [part for part in parts if part & of_look]
        if len(tied) > 1:
            parts = [part for part in parts if part not in tied] + [set().union(*tied)]
    return parts


def _searched_part(
    catalogue: Catalogue,
    loci: tuple[LocusStates, ...],
    evidence: Sequence[tuple[int, Evidence]],
    rules: dict[str, Rules],
    weights: Floats,
    followed: int,
) -> Searched:
    kinds = kinds_of(catalogue, [rules[look.trait] for _, look in evidence])
    whole = tuple(merged(states, kinds.get(states.locus, _all_alike)) for states in loci)
    loci = tuple(one.states for one in whole)
    maker = FactorMaker(catalogue, [(states.locus, states.genotypes) for states in loci])
    numbers = tuple(index for index, _ in evidence)
    looks = [(maker.look(look.trait, rules[look.trait]), look.vector) for _, look in evidence]
    if prod(len(states.genotypes) for states in loci) <= ALL_OF:
        return _all_of(whole, numbers, looks, weights)
    most = min(FOLLOWED, max(FEWEST, followed // max(1, len(looks))))
    if best := _Search(whole, numbers, looks, weights, most).run(GOOD_ENOUGH):
        return best
    return (
        _estimated_part(whole, numbers, looks, weights, most / FOLLOWED)
        or _Search(whole, numbers, looks, weights, most).bounded()
    )


def _estimated_part(
    whole: tuple[MergedStates, ...],
    numbers: tuple[int, ...],
    looks: Sequence[tuple[LookFactors, Floats]],
    weights: Floats,
    share: float,
) -> Searched | None:
    """What was found and what draws stand for; None where nothing was found that could show what was seen."""
    one = estimated([at.states for at in whole], looks, weights, share)
    mass = one.prior * one.by_look.prod(axis=1)[:, np.newaxis]
    if not mass[: one.found].any():
        return None
    nothing = np.zeros(len(weights))
    draws = Draws(one.found, one.groups)
    return Searched(whole, one.states, one.prior, mass, numbers, one.by_look, nothing, nothing, draws)


def _all_alike(genotype: Genotype) -> Hashable:
    return None


def kinds_of(catalogue: Catalogue, rules: Sequence[Rules]) -> dict[str, KindOf]:
    """By locus: what some looks' rules tell apart of its genotypes."""
    asked: dict[str, dict[Condition, None]] = {}
    for of_look in rules:
        for condition in of_look.conditions:
            asked.setdefault(catalogue.locus_of(condition), {})[condition] = None

    def kind_of(conditions: Sequence[Condition]) -> KindOf:
        return cache(lambda genotype: tuple(condition.holds_in(genotype) for condition in conditions))

    return {locus: kind_of(list(conditions)) for locus, conditions in asked.items()}


def _all_of(
    loci: tuple[MergedStates, ...],
    numbers: tuple[int, ...],
    looks: Sequence[tuple[LookFactors, Floats]],
    weights: Floats,
) -> Searched:
    """Every genotype there is."""
    sizes = tuple(len(one.states.genotypes) for one in loci)
    states = _product(sizes, range(len(sizes)))
    chance = np.ones((len(states), len(weights)))
    for place, locus in enumerate(loci):
        chance = chance * locus.states.chances.T[states[:, place]]
    by_look = np.ones((len(states), len(looks)))
    for index, (factors, vector) in enumerate(looks):
        touched = sorted(factors.places)
        likelihood = factors.shown(_product(sizes, touched)) @ vector
        if touched:
            own = [states[:, place].astype(np.intp) for place in touched]
            likelihood = likelihood[np.ravel_multi_index(own, [sizes[place] for place in touched])]
        by_look[:, index] = likelihood
    nothing = np.zeros(len(weights))
    return _in_descending_order(loci, states, chance, numbers, by_look, weights, (nothing, nothing))


def _in_descending_order(
    loci: tuple[MergedStates, ...],
    states: States,
    chance: Floats,
    numbers: tuple[int, ...],
    by_look: Floats,
    weights: Floats,
    left: tuple[Floats, Floats],
) -> Searched:
    mass = chance * by_look.prod(axis=1)[:, np.newaxis]
    order = np.argsort(-(mass @ weights), kind="stable")
    return Searched(loci, states[order], chance[order], mass[order], numbers, by_look[order], *left)


def _product(sizes: Sequence[int], touched: Iterable[int]) -> States:
    """All states of the touched loci, the last running fastest; state 0 at the others."""
    places = list(touched)
    states = np.zeros((prod(sizes[place] for place in places), len(sizes)), dtype=np.int16)
    if places:
        states[:, places] = np.indices([sizes[place] for place in places], dtype=np.int16).reshape(len(places), -1).T
    return states


def _in_order(catalogue: Catalogue, loci: Sequence[LocusStates], rules: dict[str, Rules]) -> tuple[LocusStates, ...]:
    """Loci that decide much come first: those of masks, then those that many rules name."""
    weight: dict[str, float] = {states.locus: 0.0 for states in loci}
    for of_look in rules.values():
        for kind, worth in (("masks", 30.0), ("dilutions", 1.0), ("effects", 1.0)):
            for rule in getattr(of_look, kind):
                for condition in rule.when:
                    locus = catalogue.locus_of(condition)
                    if locus in weight:
                        weight[locus] += worth / len(rule.when)
    return tuple(sorted(loci, key=lambda states: -weight[states.locus]))


class _Search:
    """Keeps at most ``most`` prefixes at a time.

    ``weights``: of the gene loads; ``chance``: of each prefix under each load, (prefixes, loads).
    """

    def __init__(
        self,
        loci: tuple[MergedStates, ...],
        numbers: tuple[int, ...],
        looks: Sequence[tuple[LookFactors, Floats]],
        weights: Floats,
        most: int,
    ) -> None:
        self.loci, self.numbers, self.most = loci, numbers, most
        self.states: States = np.zeros((1, len(loci)), dtype=np.int16)
        self.weights = weights
        self.chance = np.ones((1, len(weights)))
        self.given_up = self.best_given_up = np.zeros(len(weights))
        self.looks = [self._start(factors, vector) for factors, vector in looks]

    def _start(self, factors: LookFactors, vector: Floats) -> _Look:
        base = factors.base[np.newaxis]
        look = _Look(factors, vector, np.zeros((1, len(self.loci)), dtype=np.int16), base.copy(), base.copy())
        for factor in factors.scores:
            look.low = look.low + factor.low[0]
            look.high = look.high + factor.high[0]
        for one in factors.diluted:
            look.thin_low.append(np.zeros(1) + sum(factor.low[0] for factor in one.logs))
            look.thin_high.append(np.zeros(1) + sum(factor.high[0] for factor in one.logs))
            low, high = _pushed(
                one.own.low[0][np.newaxis], one.own.high[0][np.newaxis], look.thin_low[-1], look.thin_high[-1]
            )
            look.low, look.high = look.low + low, look.high + high
        look.mask_low = [factor.low[0].reshape(1) for factor, _ in factors.masks]
        look.mask_high = [factor.high[0].reshape(1) for factor, _ in factors.masks]
        for factor in factors.damping:
            look.damp_low = look.damp_low + factor.low[0]
            look.damp_high = look.damp_high + factor.high[0]
        look.best_of_rows = _largest_likelihood(look)
        return look

    def run(self, good_enough: float) -> Searched | None:
        """Through all loci; None as soon as a larger share is given up, whatever else would be found."""
        for place in range(len(self.loci)):
            self._grow(place)
            self._prune(self.most)
            given_up = float(self.given_up @ self.weights)
            if given_up > good_enough * (float(self._bounds().sum(axis=0) @ self.weights) + given_up):
                return None
        return self._found()

    def bounded(self) -> Searched:
        """Through all loci, whatever is given up."""
        found = self.run(1.0)
        assert found is not None
        return found

    def _bounds(self) -> Floats:
        """The most mass that the continuations of each prefix can have, by gene load, (prefixes, loads)."""
        by_load = self.chance.copy()
        for look in self.looks:
            by_load *= look.best[:, np.newaxis]
        return by_load

    def _found(self) -> Searched:
        by_look = np.stack([look.best for look in self.looks], axis=1) if self.looks else np.ones((len(self.chance), 0))
        left = (self.given_up, self.best_given_up)
        return _in_descending_order(self.loci, self.states, self.chance, self.numbers, by_look, self.weights, left)

    def _grow(self, place: int) -> None:
        choices = len(self.loci[place].members)
        rows = np.repeat(np.arange(len(self.chance)), choices)
        choice = np.tile(np.arange(choices, dtype=np.int16), len(self.chance))
        self.chance = self.chance[rows] * np.tile(self.loci[place].states.chances.T, (len(self.chance), 1))
        self.states = self.states[rows]
        self.states[:, place] = choice
        for look in self.looks:
            look.row_of = look.row_of[rows]
        kept = self._prune(int(AHEAD * self.most))
        choice = choice[kept]
        for look in self.looks:
            if place in look.factors.places:
                look.grow(place, choice, choices)
                self._sharpen(look, place)
                look.best_of_rows = _largest_likelihood(look)

    def _sharpen(self, look: _Look, place: int) -> None:
        for factor in look.factors.scores:
            if place in factor.places:
                low, high = _step(look, factor, place)
                look.low, look.high = look.low + low, look.high + high
        for index, one in enumerate(look.factors.diluted):
            if place in one.places:
                self._sharpen_diluted(look, index, one, place)
        for index, (factor, _) in enumerate(look.factors.masks):
            if place in factor.places:
                known = factor.places.index(place) + 1
                look.mask_low[index] = factor.at(factor.low, known, look.states)[:, 0]
                look.mask_high[index] = factor.at(factor.high, known, look.states)[:, 0]
        for factor in look.factors.damping:
            if place in factor.places:
                low, high = _step(look, factor, place)
                look.damp_low, look.damp_high = look.damp_low + low[:, 0], look.damp_high + high[:, 0]

    def _sharpen_diluted(self, look: _Look, index: int, one: Diluted, place: int) -> None:
        """Takes the old bounds of a gene's diluted pushes away and puts the new ones in their place.

        Where the gene's own locus is known, only the rows that have a push of it are touched: they are few.
        """
        rows: slice | NDArray[np.intp] = slice(None)
        before = one.own.known_before(place)
        if before and before == len(one.own.places):
            rows = np.flatnonzero(one.pushing[look.states[:, one.own.places[0]]])
        low, high = self._diluted_bounds(look, index, one, before, rows)
        look.low[rows], look.high[rows] = look.low[rows] - low, look.high[rows] - high
        for factor in one.logs:
            if place in factor.places:
                step_low, step_high = _step(look, factor, place)
                look.thin_low[index] = look.thin_low[index] + step_low[:, 0]
                look.thin_high[index] = look.thin_high[index] + step_high[:, 0]
        low, high = self._diluted_bounds(look, index, one, one.own.known_with(place), rows)
        look.low[rows], look.high[rows] = look.low[rows] + low, look.high[rows] + high

    def _diluted_bounds(
        self, look: _Look, index: int, one: Diluted, known: int, rows: slice | NDArray[np.intp]
    ) -> tuple[Floats, Floats]:
        states = look.states[rows] if known else look.states
        low, high = one.own.at(one.own.low, known, states), one.own.at(one.own.high, known, states)
        return _pushed(low, high, look.thin_low[index][rows], look.thin_high[index][rows])

    def _prune(self, most: int) -> NDArray[np.intp] | slice:
        """Gives up all but the prefixes of the largest bounds; which are left."""
        by_load = self._bounds()
        bound = by_load @ self.weights
        kept = np.ones(len(bound), dtype=bool)
        if len(bound) > most:
            floor = np.partition(bound, -most)[-most]
            kept &= bound >= floor
            if kept.sum() > most:  # ties at the floor
                kept[np.flatnonzero(kept & (bound == floor))[most - int((bound > floor).sum()) :]] = False
        if kept.all():
            return slice(None)
        self.given_up = self.given_up + by_load[~kept].sum(axis=0)
        self.best_given_up = np.maximum(self.best_given_up, by_load[~kept].max(axis=0))
        rows = np.flatnonzero(kept)
        self.states, self.chance = self.states[rows], self.chance[rows]
        for look in self.looks:
            look.row_of = look.row_of[rows]
        return rows


def _step(look: _Look, factor: Factor, place: int) -> tuple[Floats, Floats]:
    """How far one table's bounds move when one more of its loci is known."""
    known = factor.places.index(place) + 1
    low = factor.at(factor.low, known, look.states) - factor.at(factor.low, known - 1, look.states)
    high = factor.at(factor.high, known, look.states) - factor.at(factor.high, known - 1, look.states)
    return low, high


def _pushed(low: Floats, high: Floats, thin_low: Floats, thin_high: Floats) -> tuple[Floats, Floats]:
    """Bounds of pushes (rows, levels) times their dilution, given as bounds of its logarithm (rows,)."""
    least, most = np.exp(thin_low)[:, np.newaxis], np.exp(thin_high)[:, np.newaxis]
    below = low * least if low.min(initial=0) >= 0 else np.minimum(low * least, low * most)
    return below, high * most if high.min(initial=0) >= 0 else np.maximum(high * least, high * most)


def _largest_likelihood(look: _Look) -> Floats:
    """For each row the largest Σ v·P that any continuation could have; exact where everything is known."""
    undecided = np.ones(len(look.low), dtype=bool)
    largest = np.zeros(len(look.low))
    for low, high, (_, shown) in zip(look.mask_low, look.mask_high, look.factors.masks, strict=True):
        possible = undecided & (high > 0)
        largest = np.where(possible, np.maximum(largest, float(shown @ look.vector)), largest)
        undecided = undecided & ~(low > 0)
    largest = np.where(undecided, np.maximum(largest, _largest_softmax(look)), largest)
    even = float(look.vector.mean())
    kept_low, kept_high = _kept(look.damp_low), _kept(look.damp_high)
    return np.maximum(kept_low * largest + (1 - kept_low) * even, kept_high * largest + (1 - kept_high) * even)


def _kept(log: Floats) -> Floats:
    kept = np.exp(log)
    return np.where(kept <= LEAST * 2, 0.0, kept)


def _largest_softmax(look: _Look) -> Floats:
    """Largest Σ v·P with each score and the shift between their bounds: the best levels high, the others low, at the best cut.

    All levels of a scale together stand as one level more, with the largest mean of v that they can have after the shift;
    it is tried high and low at every cut.
    """
    scale = list(look.factors.scale)
    off = [int(level) for level in np.argsort(-look.vector) if level not in scale]
    low, high = look.low[:, :-1], look.high[:, :-1]
    top = high.max(axis=1, keepdims=True)
    low, high = np.exp(low - top), np.exp(high - top)
    together = [(np.zeros(len(low)), np.zeros(len(low)))]  # weight of the scale, and times its mean of v
    if scale:
        on = (low[:, scale], high[:, scale])
        best = _largest_on_scale(*on, look.low[:, -1:], look.high[:, -1:], look.vector[scale])[:, 0]
        if not off:
            return best
        together = [(weight, weight * best) for weight in (side.sum(axis=1) for side in on)]
    vector = look.vector[off]
    highs, lows = high[:, off], low[:, off]
    best = np.zeros(len(low))
    for cut in range(len(off) + 1):
        weights = np.concatenate([highs[:, :cut], lows[:, cut:]], axis=1)
        whole, mean = weights.sum(axis=1), weights @ vector
        for weight, times in together:
            best = np.maximum(best, _share(mean + times, whole + weight, float(look.vector.max())))
    return best


def _share(part: Floats, whole: Floats, otherwise: float) -> Floats:
    return np.asarray(np.divide(part, whole, out=np.full_like(whole, otherwise), where=whole > 0))


def _largest_on_scale(low: Floats, high: Floats, least: Floats, most: Floats, vector: Floats) -> Floats:
    """Largest mean of v over the levels of a scale: ``low``, ``high`` their weights, shape (rows, levels in order).

    ``least``, ``most``: bounds of the shift, (rows, 1). Each share of the first k levels is bounded by itself: it is largest
    with the first levels high, the others low, and the least shift. Exact where everything is known. (rows, 1).
    """
    largest = np.full((len(low), 1), vector[-1])
    for count in range(1, len(vector)):
        rise = vector[count] - vector[count - 1]
        if rise == 0:
            continue
        first, rest, shift = (high, low, least) if rise < 0 else (low, high, most)
        upto = first[:, :count].sum(axis=1, keepdims=True)
        beyond = rest[:, count:].sum(axis=1, keepdims=True) * np.exp(np.clip(shift, -MOST_SHIFT, MOST_SHIFT))
        whole = upto + beyond
        share = np.divide(upto, whole, out=np.full_like(whole, float(rise < 0)), where=whole > 0)
        largest = largest - rise * share
    mean: Floats = np.minimum(largest, vector.max())
    return mean
