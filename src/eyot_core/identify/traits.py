"""What each genotype shows: P(level | genotype, stage) as small tables over the groups that touch a trait.

Source: a softmax of scores that add up over rules; the scores are the catalogue's, judged in docs/judgement.md.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import prod
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue, Condition, Dilution, Effect, Mask, When
from eyot_core.genetics.inheritance import Group
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.scales import shifted

Bools = NDArray[np.bool_]
Genotype = Mapping[str, Sequence[str]]
MOST_CELLS_WITH = 12_000_000


@dataclass(frozen=True)
class TraitTable:
    """``groups``: the groups that touch the trait. ``chances``: shape (children of each of them …, levels), rows sum to 1."""

    groups: tuple[int, ...]
    chances: Floats


@dataclass(frozen=True)
class SureAnswers:
    """What a sure answer to a look would be: ``answers`` (genotypes of the groups that touch it, levels), with their entropies."""

    groups: tuple[int, ...]
    answers: Floats
    entropies: Floats


def entropy_bits(chances: Floats) -> Floats:
    """Entropy in bits along the last axis; 0·log 0 = 0."""
    logs = np.log2(chances, out=np.zeros_like(chances), where=chances > 0)
    return np.asarray(-(chances * logs).sum(axis=-1))


@dataclass(frozen=True)
class Extra:
    """One more gene than the pairing gives: added to every genotype that has room at its locus."""

    gene: str
    locus: str
    copies: int


Asked = tuple[Condition, Extra | None]


@dataclass(frozen=True)
class Rules:
    """The rules that speak of one trait at one stage."""

    effects: list[Effect]
    dilutions: list[Dilution]
    masks: list[Mask]

    def __iter__(self) -> Iterator[Sequence[Effect] | Sequence[Dilution] | Sequence[Mask]]:
        return iter((self.effects, self.dilutions, self.masks))

    @property
    def conditions(self) -> Iterator[Condition]:
        whens = [rule.when for rule in self.effects] + [rule.when for rule in self.dilutions]
        for when in (*whens, *(rule.when for rule in self.masks)):
            yield from when


@lru_cache(maxsize=4096)
def rules_of(catalogue: Catalogue, trait: str, stage: str) -> Rules:
    """The rules of a catalogue that speak of a trait at a stage."""
    effects = [rule for rule in catalogue.effects_on[trait] if stage in rule.stages]
    pushed = {rule.own_gene for rule in effects}
    dilutions = [rule for rule in catalogue.dilutions_on[trait] if stage in rule.stages and rule.gene in pushed]
    masks = [rule for rule in catalogue.masks_on[trait] if stage in rule.stages]
    return Rules(effects, dilutions, masks)


@lru_cache(maxsize=4096)
def loci_of(catalogue: Catalogue, trait: str, stage: str) -> frozenset[str]:
    """The loci that those rules look at."""
    return frozenset(catalogue.locus_of(one) for one in rules_of(catalogue, trait, stage).conditions)


def chances_of_look(catalogue: Catalogue, trait: str, genotype: Genotype, stages: Sequence[str]) -> list[Floats]:
    """P(level | genotype) of one known genotype (non-wild alleles by locus) at some stages, shape (levels,) each."""
    animal = _OneAnimal(catalogue, genotype)
    possible = catalogue.by_needed_locus[trait]
    held = [rule for locus in ("", *genotype) for rule in possible.get(locus, ()) if animal.has(rule.when)]
    effects = [rule for rule in held if isinstance(rule, Effect)]
    pushed = {rule.own_gene for rule in effects}
    dilutions = [rule for rule in held if isinstance(rule, Dilution) and rule.gene in pushed]
    masks = [rule for rule in held if isinstance(rule, Mask)]
    made: dict[tuple[int, ...], Floats] = {}
    chances = []
    for stage in stages:
        now = Rules(*([rule for rule in kind if stage in rule.stages] for kind in (effects, dilutions, masks)))  # type: ignore[arg-type]
        key = tuple(id(rule) for kind in (now.effects, now.dilutions, now.masks) for rule in kind)
        if key not in made:
            made[key] = _chances(catalogue, trait, now, animal)
        chances.append(made[key])
    return chances


class Room(Protocol):
    """The genotypes over which one table is made; answers where conditions hold."""

    @property
    def shape(self) -> tuple[int, ...]:
        """How many states each group has."""

    def holds(self, when: When) -> Bools:
        """Where all conditions hold: broadcastable to the table without its levels."""


@dataclass(frozen=True)
class _OneAnimal:
    catalogue: Catalogue
    genotype: Genotype
    shape: tuple[int, ...] = ()

    def has(self, when: When) -> bool:
        return all(one.holds_in(self.genotype.get(self.catalogue.locus_of(one), ())) for one in when)

    def holds(self, when: When) -> Bools:
        return np.asarray(self.has(when), dtype=bool)


class TraitModel:
    """The tables of one pairing, made when first asked for and kept.

    ``catalogue``: another than the pairing's, with the same genes and traits, whose looks tell otherwise.
    """

    def __init__(self, pairing: Pairing, catalogue: Catalogue | None = None) -> None:
        self.pairing = pairing
        self.catalogue: Catalogue = catalogue or pairing.catalogue
        self._tables: dict[tuple[str, str], TraitTable] = {}
        self._rules: dict[tuple[str, str], list[list[tuple[Any, str | None]]]] = {}
        self._named: dict[tuple[str, str, str], set[str | None]] = {}
        self._held: dict[Asked, Bools] = {}
        self._touched: dict[tuple[str, str], list[int]] = {}
        self._sure: dict[tuple[str, str], SureAnswers] = {}
        self._cells_with = 0
        self._with: dict[tuple[str, str, Extra], TraitTable] = {}

    def table(self, trait: str, stage: str) -> TraitTable:
        """P(level | genotype, stage) of one trait."""
        key = (trait, stage)
        if key not in self._tables:
            self._tables[key] = self._made(trait, stage, None)
        return self._tables[key]

    def sure_answers(self, trait: str, stage: str) -> SureAnswers:
        """The answers that a sure eye would give, by genotype."""
        key = (trait, stage)
        if key not in self._sure:
            table = self.table(trait, stage)
            levels = table.chances.shape[-1]
            r = self.catalogue.traits[trait].clarity[stage] * CONFIDENCE["sure"]
            answers = table.chances.reshape(-1, levels) @ answering(self.catalogue.traits[trait], r)
            self._sure[key] = SureAnswers(table.groups, answers, entropy_bits(answers))
        return self._sure[key]

    def table_with(self, trait: str, stage: str, extra: Extra) -> TraitTable:
        """The same for animals that have one more gene; the last ones are kept, as many as are small enough together."""
        key = (trait, stage, extra)
        if key not in self._with:
            made = self._made(trait, stage, extra)
            self._cells_with += made.chances.size
            if self._cells_with > MOST_CELLS_WITH:
                self._with.clear()
                self._cells_with = made.chances.size
            self._with[key] = made
        return self._with[key]

    def speaks_of(self, trait: str, stage: str, gene: str, locus: str) -> bool:
        """Does any rule of this trait and stage that can hold look at the gene or at its locus?"""
        key = (trait, stage, locus)
        if key not in self._named:
            conditions = self._rules_with(trait, stage, locus).conditions
            self._named[key] = {condition.gene or condition.locus for condition in conditions}
        return gene in self._named[key] or locus in self._named[key]

    def _rules_with(self, trait: str, stage: str, extra: str | None) -> Rules:
        """The rules that can hold in an animal of this pairing that has one more gene, at the locus ``extra``."""
        kinds = ([rule for rule, needed in kind if needed in (None, extra)] for kind in self._possible(trait, stage))
        return Rules(*kinds)  # type: ignore[arg-type]

    def _possible(self, trait: str, stage: str) -> list[list[tuple[Any, str | None]]]:
        """The rules, by kind, that can hold in the pairing's animals with at most one more gene, each with the locus that the
        one more gene must have."""
        key = (trait, stage)
        if key not in self._rules:
            kinds = [
                [(rule, self._needed(rule.when)) for rule in kind] for kind in rules_of(self.catalogue, trait, stage)
            ]
            self._rules[key] = [
                [(rule, next(iter(needed), None)) for rule, needed in kind if len(needed) < 2] for kind in kinds
            ]
        return self._rules[key]

    def _needed(self, when: When) -> set[str]:
        """The loci that the pairing does not touch and at which a condition asks for something."""
        outside = [one for one in when if 0 not in one.copies]
        return {locus for one in outside if (locus := self.catalogue.locus_of(one)) not in self.pairing.group_of}

    def cells_of(self, trait: str, stage: str) -> int:
        """How many genotypes the table of a trait at a stage tells apart; nothing is made for it."""
        return prod(self.pairing.shape[g] for g in self._touched_by(trait, stage))

    def _touched_by(self, trait: str, stage: str) -> list[int]:
        key = (trait, stage)
        if key not in self._touched:
            group_of = self.pairing.group_of
            self._touched[key] = sorted(
                {group_of[at][0] for at in loci_of(self.catalogue, trait, stage) & group_of.keys()}
            )
        return self._touched[key]

    def _made(self, trait: str, stage: str, extra: Extra | None) -> TraitTable:
        groups = self._touched_by(trait, stage)
        room = _Room(self.pairing, groups, extra, self._held)
        rules = self._rules_with(trait, stage, extra.locus if extra else None)
        return TraitTable(tuple(groups), _chances(self.catalogue, trait, rules, room))


class _Room:
    """The child states over which one table is made; answers where conditions hold. ``held``: answers that were worked out
    before, by condition and the one more gene at its locus; they serve all tables of a pairing."""

    def __init__(self, pairing: Pairing, groups: Sequence[int], extra: Extra | None, held: dict[Asked, Bools]) -> None:
        self.pairing = pairing
        self._held = held
        self.groups = list(groups)
        self.extra = extra
        self.shape = tuple(len(pairing.groups[g].children) for g in groups)

    def holds(self, when: When) -> Bools:
        """Where all conditions hold: broadcastable to the table without its levels."""
        holds: Bools = np.ones([1] * len(self.shape), dtype=bool)
        for condition in when:
            holds = holds & self._holds_one(condition)
        return holds

    def _holds_one(self, condition: Condition) -> Bools:
        locus = self.pairing.catalogue.locus_of(condition)
        place = self.pairing.group_of.get(locus)
        if place is None:
            return np.full([1] * len(self.shape), self._copies_outside(condition, locus) in condition.copies)
        key = (condition, self.extra if self.extra is not None and self.extra.locus == locus else None)
        holds = self._held.get(key)
        if holds is None:
            copies = self._copies(self.pairing.groups[place[0]], condition, locus)
            holds = self._held[key] = np.array([count in condition.copies for count in copies])
        axis = self.groups.index(place[0])
        return holds.reshape([-1 if i == axis else 1 for i in range(len(self.shape))])

    def _copies(self, group: Group, condition: Condition, locus: str) -> list[int]:
        position = group.loci.index(locus)
        genotypes = [child[position] for child in group.children]
        if self.extra is not None and self.extra.locus == locus:
            added = (self.extra.gene,) * self.extra.copies
            genotypes = [genotype + added if len(genotype) + len(added) <= 2 else genotype for genotype in genotypes]
        return [genotype.count(condition.gene) if condition.gene else len(genotype) for genotype in genotypes]

    def _copies_outside(self, condition: Condition, locus: str) -> int:
        """Copies at a locus that the pairing does not touch: wild type, but for the extra gene."""
        if self.extra is None or self.extra.locus != locus or condition.gene not in (None, self.extra.gene):
            return 0
        return self.extra.copies


def _chances(catalogue: Catalogue, trait_id: str, rules: Rules, room: Room) -> Floats:
    """Softmax of base and diluted pushes, shifted along the scale, then what the deciding mask shows, then damping."""
    trait = catalogue.traits[trait_id]
    count, levels_first = len(trait.levels), (slice(None), *([np.newaxis] * len(room.shape)))
    chances = np.zeros((count, *room.shape)) + np.array([level.base for level in trait.levels])[levels_first]
    shift = np.zeros(room.shape)
    held = [(effect, holds) for effect in rules.effects if (holds := room.holds(effect.when)).any()]
    dilutions = _dilution_factors(rules, room, {effect.own_gene for effect, _ in held})
    for effect, holds in held:
        strength = holds * dilutions.get(effect.own_gene or "", np.ones([1] * len(room.shape)))
        for level, push in effect.push.items():
            chances[trait.level_index[level]] += push * strength
        if effect.shift:
            shift = shift + effect.shift * strength
    chances -= chances.max(axis=0)
    np.exp(chances, out=chances)
    chances /= chances.sum(axis=0)
    chances = shifted(chances, trait.scale, shift)
    for mask in sorted(rules.masks, key=lambda rule: rule.rank):
        if trait_id in mask.decides:
            active = np.broadcast_to(room.holds(mask.when), room.shape)
            chances[:, active] = _shown_by(mask, trait_id, trait.level_index)[:, np.newaxis]
    for mask in rules.masks:
        if trait_id in mask.damp:
            factor = np.where(room.holds(mask.when), mask.damp[trait_id], 1.0)
            chances = factor * chances + (1 - factor) / count
    return np.ascontiguousarray(np.moveaxis(chances, 0, -1))


def _dilution_factors(rules: Rules, room: Room, genes: set[str | None]) -> dict[str, Floats]:
    factors: dict[str, Floats] = {}
    for dilution in rules.dilutions:
        if dilution.gene not in genes:
            continue
        factor = np.where(room.holds(dilution.when), dilution.times, 1.0)
        factors[dilution.gene] = factors.get(dilution.gene, np.ones([1] * len(room.shape))) * factor
    return factors


def _shown_by(mask: Mask, trait: str, index: dict[str, int]) -> Floats:
    if trait in mask.hide:
        return np.full(len(index), 1 / len(index))
    shown = np.zeros(len(index))
    for level, chance in mask.show[trait].items():
        shown[index[level]] = chance
    return shown
