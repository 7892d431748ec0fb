"""What one look says of a genotype, as a sum of small tables over few loci, so that it can be bounded before all loci are known.

The score of a level is its base plus one table for each group of rules over the same loci. Whether a mask applies, and how far
damping goes, are tables too. Where only the first loci of a search are known, the smallest and largest entries over the
others bound every table, and with them the likelihood of what was seen.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import prod

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue, Condition, Effect, When
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import Genotype
from eyot_core.genetics.tables import Floats
from eyot_core.identify.scales import shifted
from eyot_core.identify.traits import Rules

LEAST = 1e-300
MOST_ENTRIES = 2_000_000
States = NDArray[np.int16]
Places = NDArray[np.intp]


@dataclass(frozen=True, eq=False)
class Factor:
    """One table over a few loci, bounded step by step.

    ``places``: positions of its loci in the order of the search, ascending; ``table``: (states of each of these loci …, width).
    """

    places: tuple[int, ...]
    table: Floats

    @cached_property
    def low(self) -> tuple[Floats, ...]:
        """Lower bounds once the first j of its loci are known, for each j: (states of those loci …, width)."""
        return tuple(self.table.min(axis=axes) for axes in self._rest)

    @cached_property
    def high(self) -> tuple[Floats, ...]:
        """Upper bounds, as :attr:`low`."""
        return tuple(self.table.max(axis=axes) for axes in self._rest)

    @property
    def _rest(self) -> list[tuple[int, ...]]:
        count = len(self.places)
        return [tuple(range(known, count)) for known in range(count + 1)]

    def known_before(self, place: int) -> int:
        """How many of its loci stand before ``place`` in the order of the search."""
        return bisect_left(self.places, place)

    def known_with(self, place: int) -> int:
        """The same with the locus at ``place`` itself."""
        return bisect_right(self.places, place)

    @property
    def sizes(self) -> dict[int, int]:
        """How many states each of its loci has."""
        return dict(zip(self.places, self.table.shape, strict=False))

    def given(self, states: Mapping[int, Places], count: int) -> Floats:
        """A table of width 1 for some genotypes of whom the states at some loci are known, (genotypes,) each: (genotypes, states of
        the other loci …)."""
        known = [axis for axis, place in enumerate(self.places) if place in states]
        table = np.moveaxis(self.table[..., 0], known, range(len(known)))
        if known:
            return np.asarray(table[tuple(states[self.places[axis]] for axis in known)])
        return np.broadcast_to(table, (count, *table.shape))

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
        return np.asarray(self.own.table.any(axis=-1))

    @cached_property
    def places(self) -> set[int]:
        """All loci that have a say."""
        return {place for factor in (self.own, *self.logs) for place in factor.places}


@dataclass(frozen=True)
class _Stack:
    """Some tables over few loci beside one another, so that all are read at once. ``entries``: (entries of all of them, width);
    ``first``: where each begins, (tables,); ``places`` and ``strides``: its loci and how far one state leads on, (arity, tables)."""

    entries: Floats
    first: Places
    places: Places
    strides: Places

    @classmethod
    def of(cls, factors: Sequence[Factor], width: int) -> _Stack:
        arity = max((len(factor.places) for factor in factors), default=0)
        places, strides = (np.zeros((arity, len(factors)), dtype=np.intp) for _ in range(2))
        entries, first = [np.zeros((0, width))], [0]
        for column, factor in enumerate(factors):
            table = factor.table
            for axis, place in enumerate(factor.places):
                places[axis, column], strides[axis, column] = place, prod(table.shape[axis + 1 : -1])
            entries.append(table.reshape(-1, width))
            first.append(first[-1] + len(entries[-1]))
        return cls(np.concatenate(entries), np.array(first[:-1], dtype=np.intp), places, strides)

    def index(self, states: States) -> Places:
        """Which entry of each table a genotype has, (genotypes, tables)."""
        index = self.first + np.zeros((len(states), 1), dtype=np.intp)
        for places, strides in zip(self.places, self.strides, strict=True):
            index += states[:, places] * strides
        return index

    @cached_property
    def any(self) -> NDArray[np.bool_]:
        """Which entries are anything but zeros, (entries of all tables,)."""
        return np.asarray(self.entries.any(axis=1))

    def is_any(self, states: States) -> NDArray[np.bool_]:
        """Has the entry of each table anything but zeros? (genotypes, tables)."""
        return np.asarray(self.any[self.index(states)])

    def sums(self, states: States) -> Floats:
        """The sum over all tables for genotypes that are known at every locus: (genotypes, width)."""
        index = self.index(states)
        total = np.zeros((len(states), self.entries.shape[1]))
        rows, columns = np.nonzero(self.any[index])
        np.add.at(total, rows, self.entries[index[rows, columns]])
        return total

    def sums_of_runs(self, states: States, first: Places, counts: Places) -> Floats:
        """The sums over some tables of width 1 that stand beside one another, for each genotype another run of them: its ``first`` one and
        their number ``counts``, (genotypes,) each; (genotypes,)."""
        ends = np.cumsum(counts)
        rows = np.repeat(np.arange(len(states)), counts)
        columns = np.repeat(first - (ends - counts), counts) + np.arange(len(rows))
        sums = np.bincount(rows, self.entries[self._index_of(states, rows, columns), 0], len(states))
        return np.asarray(sums, dtype=np.float64)

    def _index_of(self, states: States, rows: Places, columns: Places) -> Places:
        index = self.first[columns]
        for places, strides in zip(self.places, self.strides, strict=True):
            step = strides[columns]
            some = np.flatnonzero(step)
            index[some] += states[rows[some], places[columns[some]]] * step[some]
        return index


@dataclass(frozen=True)
class _Dilution:
    """Pushes of genes that others dilute, with what dilutes them: few genotypes have any one of these genes.

    ``own``: the tables of the pushes, one a gene; ``kind_of``: which row of ``logs`` each entry has. ``logs``: what each state of
    each locus adds to the logarithm of the dilution, (kinds, columns), with ``always`` what is added whatever the animal has,
    (kinds,); ``places``: the loci with their ``first`` columns. ``rest``: tables over two loci beside the gene's own, of which
    each gene has a run: ``first_rest`` and ``counts``, (genes,).
    """

    own: _Stack
    kind_of: Places
    logs: Floats
    always: Floats
    places: Places
    first: Places
    rest: _Stack
    first_rest: Places
    counts: Places

    @classmethod
    def of(cls, diluted: Sequence[Diluted], width: int) -> _Dilution:
        own = _Stack.of([one.own for one in diluted], width)
        factors = [factor for one in diluted for factor in (one.own, *one.logs)]
        sizes = {place: size for factor in factors for place, size in factor.sizes.items()}
        places = sorted(sizes)
        first = dict(zip(places, np.cumsum([0, *(sizes[place] for place in places)]).tolist(), strict=False))
        kind_of = np.cumsum(own.any) - 1
        logs, always = np.zeros((own.any.sum(), sum(sizes.values()))), np.zeros(own.any.sum())
        rest: list[list[Factor]] = []
        for start, one in zip(own.first, diluted, strict=True):
            pushing = np.flatnonzero(one.own.table.any(axis=-1))
            kinds = kind_of[start + pushing]
            at = dict(zip(one.own.places, np.unravel_index(pushing, one.own.table.shape[:-1]), strict=True))
            rest.append([])
            for factor in one.logs:
                beside = [place for place in factor.places if place not in at]
                if len(beside) > 1:
                    rest[-1].append(factor)
                elif beside:
                    columns = np.arange(sizes[beside[0]]) + first[beside[0]]
                    logs[np.ix_(kinds, columns)] += factor.given(at, len(pushing))
                else:
                    always[kinds] += factor.given(at, len(pushing))
        counts = np.array([len(some) for some in rest], dtype=np.intp)
        others = _Stack.of([factor for some in rest for factor in some], 1)
        columns = np.array([first[place] for place in places], dtype=np.intp)
        loci = np.array(places, dtype=np.intp)
        return cls(own, kind_of, logs, always, loci, columns, others, np.cumsum(counts) - counts, counts)

    def pushes(self, states: States) -> Floats:
        """The pushes of all genes, added up: (genotypes, levels + 1)."""
        entries = self.own.index(states)
        rows, genes = np.nonzero(self.own.any[entries])
        entries = entries[rows, genes]
        kinds, having = self.kind_of[entries], states[rows]
        logs = self.always[kinds] + self.logs[kinds[:, np.newaxis], having[:, self.places] + self.first].sum(axis=1)
        if self.counts.any():
            logs += self.rest.sums_of_runs(having, self.first_rest[genes], self.counts[genes])
        total = np.zeros((len(states), self.own.entries.shape[1]))
        np.add.at(total, rows, self.own.entries[entries] * np.exp(logs)[:, np.newaxis])
        return total


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

    def told_of(self, place: int, states: int) -> list[bytes]:
        """What all tables together say of each state at a locus: equal where nothing tells two of them apart."""
        plain = [*self.scores, *(factor for factor, _ in self.masks), *self.damping]
        told = [b""] * states
        for factor in (*plain, *(factor for one in self.diluted for factor in (one.own, *one.logs))):
            if place in factor.places:
                table = np.moveaxis(factor.table, factor.places.index(place), 0)
                told = [said + table[state].tobytes() for state, said in enumerate(told)]
        return told

    @cached_property
    def _stacks(self) -> tuple[_Stack, _Stack, _Stack]:
        """Pushes that nothing dilutes, whether masks hold, and damping."""
        masks = [indicator for indicator, _ in self.masks]
        return _Stack.of(self.scores, len(self.base)), _Stack.of(masks, 1), _Stack.of(self.damping, 1)

    @cached_property
    def _dilution(self) -> _Dilution:
        return _Dilution.of(self.diluted, len(self.base))

    def shown(self, states: States) -> Floats:
        """P(level | genotype) for genotypes that are known at every locus: shape (genotypes, levels)."""
        plain, masks, damping = self._stacks
        score = plain.sums(states).T + self.base[:, np.newaxis]
        if self.diluted:
            score = score + self._dilution.pushes(states).T
        chances = np.exp(score[:-1] - score[:-1].max(axis=0))
        chances /= chances.sum(axis=0)
        chances = shifted(chances, self.scale, score[-1])
        holds = masks.is_any(states)
        for number in reversed(np.flatnonzero(holds.any(axis=0))):
            chances[:, holds[:, number]] = self.masks[number][1][:, np.newaxis]
        kept = np.exp(damping.sums(states)[:, 0])
        kept = np.where(kept <= LEAST, 0.0, kept)
        return np.asarray((kept * chances + (1 - kept) / len(chances)).T)


class FactorMaker:
    """Makes the tables of looks for loci with their states, in the order of a search."""

    def __init__(self, catalogue: Catalogue, loci: Sequence[tuple[str, tuple[Genotype, ...]]]) -> None:
        self.catalogue = catalogue
        self.genotypes = [genotypes for _, genotypes in loci]
        self.place = {locus: index for index, (locus, _) in enumerate(loci)}
        self._true: dict[Condition, Floats] = {}

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
                masks.append((Factor(scope, self._holds(mask.when, scope)), np.array(shown) if shown else even))
        damping = []
        for mask in rules.masks:
            if trait in mask.damp:
                scope = self._scope(mask.when)
                log = np.log(max(mask.damp[trait], LEAST))
                damping.append(Factor(scope, self._holds(mask.when, scope) * log))
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
        return tuple(Factor(scope, table) for scope, table in by_scope.items())

    def _diluted(self, gene: str, rules: Rules) -> Diluted:
        (own,) = self._summed([effect for effect in rules.effects if effect.own_gene == gene])
        by_scope: dict[tuple[int, ...], Floats] = {}
        for rule in rules.dilutions:
            if rule.gene == gene:
                scope = self._scope(rule.when)
                log = self._holds(rule.when, scope) * np.log(max(rule.times, LEAST))
                by_scope[scope] = by_scope.get(scope, np.zeros(1)) + log
        return Diluted(own, tuple(Factor(scope, table) for scope, table in by_scope.items()))

    def _scope(self, when: Sequence[Condition]) -> tuple[int, ...]:
        loci = {self.catalogue.locus_of(condition) for condition in when}
        scope = tuple(sorted(self.place[locus] for locus in loci if locus in self.place))
        if prod(len(self.genotypes[place]) for place in scope) > MOST_ENTRIES:
            raise InputError(f"rules over {len(scope)} loci at once are too many to search through", "catalogue")
        return scope

    def _holds(self, when: When, scope: tuple[int, ...]) -> Floats:
        """1 where all conditions hold, shape (states of each locus of the scope …, 1)."""
        if len(when) == 1 and scope:
            return self._where(when[0], scope[0])[:, np.newaxis]
        holds = np.ones([len(self.genotypes[place]) for place in scope])
        for condition in when:
            place = self.place.get(self.catalogue.locus_of(condition))
            if place is None:
                holds = holds * float(0 in condition.copies)
            else:
                holds = holds * self._where(condition, place).reshape([-1 if other == place else 1 for other in scope])
        return np.asarray(holds[..., np.newaxis])

    def _where(self, condition: Condition, place: int) -> Floats:
        """1 where a condition holds, (states of its locus,)."""
        if condition not in self._true:
            self._true[condition] = np.array([float(condition.holds_in(state)) for state in self.genotypes[place]])
        return self._true[condition]
