"""What each genotype shows: P(level | genotype, stage) as small tables over the groups that touch a trait.

Source: a softmax of scores that add up over rules; the scores are the catalogue's, judged in docs/judgement.md.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

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
MOST_WITH = 600


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


@dataclass(frozen=True)
class Rules:
    """The rules that speak of one trait at one stage."""

    effects: list[Effect]
    dilutions: list[Dilution]
    masks: list[Mask]

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
        self._rules: dict[tuple[str, str], Rules] = {}
        self._sure: dict[tuple[str, str], SureAnswers] = {}
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
        """The same for animals that have one more gene; the last few hundred are kept."""
        key = (trait, stage, extra)
        if key not in self._with:
            if len(self._with) >= MOST_WITH:
                self._with.clear()
            self._with[key] = self._made(trait, stage, extra)
        return self._with[key]

    def speaks_of(self, trait: str, stage: str, gene: str, locus: str) -> bool:
        """Does any rule of this trait and stage look at the gene or at its locus?"""
        return any(
            condition.gene == gene or condition.locus == locus for condition in self._rules_of(trait, stage).conditions
        )

    def _rules_of(self, trait: str, stage: str) -> Rules:
        key = (trait, stage)
        if key not in self._rules:
            self._rules[key] = rules_of(self.catalogue, trait, stage)
        return self._rules[key]

    def _made(self, trait: str, stage: str, extra: Extra | None) -> TraitTable:
        rules = self._rules_of(trait, stage)
        groups = sorted({g for condition in rules.conditions for g in self._groups_of(condition)})
        room = _Room(self.pairing, groups, extra)
        return TraitTable(tuple(groups), _chances(self.catalogue, trait, rules, room))

    def _groups_of(self, condition: Condition) -> list[int]:
        locus = self.catalogue.locus_of(condition)
        place = self.pairing.group_of.get(locus)
        return [place[0]] if place else []


class _Room:
    """The child states over which one table is made; answers where conditions hold."""

    def __init__(self, pairing: Pairing, groups: Sequence[int], extra: Extra | None) -> None:
        self.pairing = pairing
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
        group = self.pairing.groups[place[0]]
        copies = self._copies(group, condition, locus)
        axis = self.groups.index(place[0])
        return np.isin(copies, list(condition.copies)).reshape([-1 if i == axis else 1 for i in range(len(self.shape))])

    def _copies(self, group: Group, condition: Condition, locus: str) -> NDArray[np.int64]:
        position = group.loci.index(locus)
        genotypes = [child[position] for child in group.children]
        if self.extra is not None and self.extra.locus == locus:
            added = (self.extra.gene,) * self.extra.copies
            genotypes = [genotype + added if len(genotype) + len(added) <= 2 else genotype for genotype in genotypes]
        counts = [genotype.count(condition.gene) if condition.gene else len(genotype) for genotype in genotypes]
        return np.array(counts, dtype=np.int64)

    def _copies_outside(self, condition: Condition, locus: str) -> int:
        """Copies at a locus that the pairing does not touch: wild type, but for the extra gene."""
        if self.extra is None or self.extra.locus != locus or condition.gene not in (None, self.extra.gene):
            return 0
        return self.extra.copies


def _chances(catalogue: Catalogue, trait_id: str, rules: Rules, room: Room) -> Floats:
    """Softmax of base and diluted pushes, shifted along the scale, then what the deciding mask shows, then damping."""
    trait = catalogue.traits[trait_id]
    count = len(trait.levels)
    score = np.zeros((*room.shape, count)) + np.array([level.base for level in trait.levels])
    shift = np.zeros(room.shape)
    held = [(effect, holds) for effect in rules.effects if (holds := room.holds(effect.when)).any()]
    dilutions = _dilution_factors(rules, room, {effect.own_gene for effect, _ in held})
    for effect, holds in held:
        strength = holds * dilutions.get(effect.own_gene or "", np.ones([1] * len(room.shape)))
        for level, push in effect.push.items():
            score[..., trait.level_index[level]] += push * strength
        if effect.shift:
            shift = shift + effect.shift * strength
    score -= score.max(axis=-1, keepdims=True)
    chances = np.exp(score)
    chances /= chances.sum(axis=-1, keepdims=True)
    chances = shifted(chances, trait.scale, shift)
    for mask in sorted(rules.masks, key=lambda rule: rule.rank):
        if trait_id in mask.decides:
            active = np.broadcast_to(room.holds(mask.when), room.shape)
            chances[active] = _shown_by(mask, trait_id, trait.level_index)
    for mask in rules.masks:
        if trait_id in mask.damp:
            factor = np.where(room.holds(mask.when), mask.damp[trait_id], 1.0)[..., np.newaxis]
            chances = factor * chances + (1 - factor) / count
    return np.asarray(chances)


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
