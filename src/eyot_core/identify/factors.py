"""What one look says of a genotype, as a sum of small tables over few loci, so that it can be bounded before all loci are known.

The score of a level is its base plus one table for each group of rules over the same loci. Whether a mask applies, and how far
damping goes, are tables too. Where only the first loci of a search are known, the smallest and largest entries over the
others bound every table, and with them the likelihood of what was seen.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import prod

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue, Condition, Effect, When
from eyot_core.errors import InputError
from eyot_core.genetics.population import LocusStates
from eyot_core.genetics.tables import Floats
from eyot_core.identify.scales import shifted
from eyot_core.identify.traits import Rules

LEAST = 1e-300
MOST_ENTRIES = 2_000_000
States = NDArray[np.int8]


@dataclass(frozen=True)
class Factor:
    """One table over a few loci, bounded step by step.

    ``places``: positions of its loci in the order of the search, ascending. ``low[j]``, ``high[j]``: bounds once the first j
    of them are known, shape (states of those loci …, width).
    """

    places: tuple[int, ...]
    low: tuple[Floats, ...]
    high: tuple[Floats, ...]

    @staticmethod
    def of(places: Sequence[int], table: Floats) -> Factor:
        """From a full table, shape (states of each locus …, width), loci in the order of ``places``."""
        order = np.argsort(places)
        sorted_table = table.transpose([*order, table.ndim - 1])
        count = len(places)
        rest = [tuple(range(known, count)) for known in range(count + 1)]
        return Factor(
            places=tuple(int(places[i]) for i in order),
            low=tuple(sorted_table.min(axis=axes) for axes in rest),
            high=tuple(sorted_table.max(axis=axes) for axes in rest),
        )

    def known_before(self, place: int) -> int:
        """How many of its loci stand before ``place`` in the order of the search."""
        return bisect_left(self.places, place)

    def known_with(self, place: int) -> int:
        """The same with the locus at ``place`` itself."""
        return bisect_right(self.places, place)

    def at(self, bounds: tuple[Floats, ...], known: int, states: States) -> Floats:
        """Entries of one bound for prefixes: ``states`` (prefixes, loci in the order of the search); (prefixes, width)."""
        if known == 0:
            return np.asarray(bounds[0][np.newaxis])
        index = tuple(states[:, place].astype(np.intp) for place in self.places[:known])
        return np.asarray(bounds[known][index])


@dataclass(frozen=True)
class Diluted:
    """The pushes of one gene that others dilute: ``own`` over the gene's locus, ``logs`` of what dilutes it, to be added up."""

    own: Factor
    logs: tuple[Factor, ...]

    @cached_property
    def pushing(self) -> NDArray[np.bool_]:
        """Which states of the gene's own locus have a push of it at all, (states,)."""
        return np.asarray(self.own.low[-1].any(axis=-1))

    @cached_property
    def places(self) -> set[int]:
        """All loci that have a say."""
        return {place for factor in (self.own, *self.logs) for place in factor.places}

    def at(self, states: States) -> Floats:
        """The pushes of genotypes that are known at every locus: (genotypes, levels + 1)."""
        log = np.zeros((len(states), 1))
        for factor in self.logs:
            log = log + factor.at(factor.low, len(factor.places), states)
        return np.asarray(self.own.at(self.own.low, len(self.own.places), states) * np.exp(log))


@dataclass(frozen=True)
class LookFactors:
    """Everything that decides one look at one stage.

    ``base``: (levels + 1,); as in all tables of pushes the last column is the shift along the ``scale``.
    ``scores``: tables of pushes. ``diluted``: pushes that are diluted, gene by gene.
    ``masks``: highest rank first, each with its indicator and what it shows (levels,). ``damping``: tables of the logarithm of the damping.
    """

    base: Floats
    scores: tuple[Factor, ...]
    diluted: tuple[Diluted, ...]
    masks: tuple[tuple[Factor, Floats], ...]
    damping: tuple[Factor, ...]
    scale: tuple[int, ...] = ()

    @property
    def places(self) -> set[int]:
        """All loci that have a say."""
        plain = [*self.scores, *(factor for factor, _ in self.masks), *self.damping]
        return set().union(*(factor.places for factor in plain), *(one.places for one in self.diluted))

    def shown(self, states: States) -> Floats:
        """P(level | genotype) for genotypes that are known at every locus: shape (genotypes, levels)."""
        score = np.zeros((len(states), len(self.base))) + self.base
        for factor in self.scores:
            score = score + factor.at(factor.low, len(factor.places), states)
        for one in self.diluted:
            score = score + one.at(states)
        pushed = score[:, :-1]
        chances = np.exp(pushed - pushed.max(axis=1, keepdims=True))
        chances /= chances.sum(axis=1, keepdims=True)
        chances = shifted(chances, self.scale, score[:, -1])
        for indicator, shown in reversed(self.masks):
            active = indicator.at(indicator.low, len(indicator.places), states)[:, 0] > 0
            chances = np.where(active[:, np.newaxis], shown, chances)
        kept = np.ones((len(states), 1))
        for factor in self.damping:
            kept = kept * np.exp(factor.at(factor.low, len(factor.places), states))
        kept = np.where(kept <= LEAST, 0.0, kept)
        return np.asarray(kept * chances + (1 - kept) / chances.shape[1])


class FactorMaker:
    """Makes the tables of looks for loci in the order of a search."""

    def __init__(self, catalogue: Catalogue, loci: Sequence[LocusStates]) -> None:
        self.catalogue = catalogue
        self.loci = list(loci)
        self.place = {states.locus: index for index, states in enumerate(loci)}

    def look(self, trait: str, rules: Rules) -> LookFactors:
        """The tables of one look; ``rules`` are those that speak of it at its stage."""
        levels, scale = self.catalogue.traits[trait].levels, self.catalogue.traits[trait].scale
        thinned = {rule.gene for rule in rules.dilutions}
        plain = [effect for effect in rules.effects if effect.own_gene not in thinned]
        masks = []
        for mask in sorted(rules.masks, key=lambda rule: -rule.rank):
            if trait in mask.decides:
                scope = self._scope(mask.when)
                shown = [mask.show[trait].get(level.id, 0.0) for level in levels] if trait in mask.show else None
                even = np.full(len(levels), 1 / len(levels))
                masks.append((Factor.of(scope, self._holds(mask.when, scope)), np.array(shown) if shown else even))
        damping = []
        for mask in rules.masks:
            if trait in mask.damp:
                scope = self._scope(mask.when)
                log = np.log(max(mask.damp[trait], LEAST))
                damping.append(Factor.of(scope, self._holds(mask.when, scope) * log))
        diluted = tuple(self._diluted(gene, rules) for gene in sorted(thinned))
        base = np.array([*(level.base for level in levels), 0.0])
        return LookFactors(base, self._summed(plain), diluted, tuple(masks), tuple(damping), scale)

    def _summed(self, effects: Sequence[Effect]) -> tuple[Factor, ...]:
        """One table for all effects over the same loci."""
        by_scope: dict[tuple[int, ...], Floats] = {}
        for effect in effects:
            scope = self._scope(effect.when)
            levels = self.catalogue.traits[effect.trait].levels
            push = np.array([*(effect.push.get(level.id, 0.0) for level in levels), effect.shift])
            by_scope[scope] = by_scope.get(scope, np.zeros(1)) + self._holds(effect.when, scope) * push
        return tuple(Factor.of(scope, table) for scope, table in by_scope.items())

    def _diluted(self, gene: str, rules: Rules) -> Diluted:
        (own,) = self._summed([effect for effect in rules.effects if effect.own_gene == gene])
        by_scope: dict[tuple[int, ...], Floats] = {}
        for rule in rules.dilutions:
            if rule.gene == gene:
                scope = self._scope(rule.when)
                log = self._holds(rule.when, scope) * np.log(max(rule.times, LEAST))
                by_scope[scope] = by_scope.get(scope, np.zeros(1)) + log
        return Diluted(own, tuple(Factor.of(scope, table) for scope, table in by_scope.items()))

    def _locus_of(self, condition: Condition) -> str:
        return self.catalogue.locus_of(condition)

    def _scope(self, when: Sequence[Condition]) -> tuple[int, ...]:
        named = {self.place[self._locus_of(condition)] for condition in when if self._locus_of(condition) in self.place}
        scope = tuple(sorted(named))
        if prod(len(self.loci[place].genotypes) for place in scope) > MOST_ENTRIES:
            raise InputError(f"rules over {len(scope)} loci at once are too many to search through", "catalogue")
        return scope

    def _holds(self, when: When, scope: tuple[int, ...]) -> Floats:
        """1 where all conditions hold, shape (states of each locus of the scope …, 1)."""
        shape = [len(self.loci[place].genotypes) for place in scope]
        holds = np.ones(shape)
        for condition in when:
            place = self.place.get(self._locus_of(condition))
            if place is None:
                holds = holds * float(0 in condition.copies)
                continue
            states = self.loci[place].genotypes
            counts = [state.count(condition.gene) if condition.gene else len(state) for state in states]
            true = np.array([float(count in condition.copies) for count in counts])
            holds = holds * true.reshape([-1 if other == place else 1 for other in scope])
        return np.asarray(holds[..., np.newaxis])
