"""The values of a catalogue. All of them are frozen; a catalogue never changes once it is read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

STAGES = ("egg", "wet", "blue", "shed", "months", "adult")
INHERITANCES = ("recessive", "incomplete_dominant", "dominant")


@dataclass(frozen=True)
class Locus:
    """A place in the genome. ``recombination``: for a sex locus, the chance that a sire's allele changes between X and Y."""

    id: str
    on_sex_chromosome: bool = False
    recombination: float = 0.0


@dataclass(frozen=True)
class Linkage:
    """Two autosomal loci that are passed on together but for a share ``recombination`` of 0 to 1/2."""

    loci: tuple[str, str]
    recombination: float


@dataclass(frozen=True)
class Gene:
    """One allele of one locus. ``viability[n]``: chance to reach hatching with n copies."""

    id: str
    locus: str
    inheritance: str
    viability: tuple[float, float, float] = (1.0, 1.0, 1.0)
    frequency: float = 0.01

    @property
    def is_recessive(self) -> bool:
        """Is it seen in two copies only, by the word that the field uses for it?"""
        return self.inheritance == "recessive"


@dataclass(frozen=True)
class Level:
    """One answer to a trait's question; ``base`` in natural-log units.

    ``mistaken``: how readily an eye that errs answers this level, against 1 for an ordinary one.
    """

    id: str
    base: float = 0.0
    mistaken: float = 1.0


@dataclass(frozen=True)
class Trait:
    """Something to look at. ``clarity[stage]``: 0 to 1, how far the look can be relied on at that stage.

    ``scale``: the positions of levels that are degrees of one thing, from least to most; empty where the levels have no order.
    ``sureness``: what words for how sure the eye was are worth, where it was measured; else as usual.
    """

    id: str
    levels: tuple[Level, ...]
    clarity: dict[str, float]
    region: str = ""
    scale: tuple[int, ...] = ()
    sureness: dict[str, float] = field(default_factory=dict)

    @cached_property
    def level_index(self) -> dict[str, int]:
        """Position of each level by its id."""
        return {level.id: index for index, level in enumerate(self.levels)}


@dataclass(frozen=True)
class Condition:
    """Holds where the number of copies of a gene, or of non-wild alleles at a locus, is one of ``copies``."""

    copies: frozenset[int]
    gene: str | None = None
    locus: str | None = None

    def holds_in(self, genotype: Sequence[str]) -> bool:
        """Does it hold for these alleles at its locus?"""
        return (genotype.count(self.gene) if self.gene else len(genotype)) in self.copies


When = tuple[Condition, ...]


@dataclass(frozen=True)
class Effect:
    """Adds ``push`` (natural-log units, by level) and ``shift`` (along the trait's scale) where all conditions hold."""

    when: When
    trait: str
    push: dict[str, float]
    stages: frozenset[str]
    shift: float = 0.0

    @property
    def own_gene(self) -> str | None:
        """The gene whose own effect this is (one condition, on a gene), if any."""
        return self.when[0].gene if len(self.when) == 1 else None


@dataclass(frozen=True)
class Dilution:
    """Multiplies a gene's own pushes by ``times``, on ``traits`` (``None``: all)."""

    when: When
    gene: str
    traits: frozenset[str] | None
    times: float
    stages: frozenset[str]


@dataclass(frozen=True)
class Mask:
    """Decides traits outright (``show``, ``hide``) by rank, and damps others."""

    when: When
    rank: float
    show: dict[str, dict[str, float]]
    hide: frozenset[str]
    damp: dict[str, float]
    stages: frozenset[str]

    @property
    def decides(self) -> frozenset[str]:
        """The traits that it shows or hides."""
        return self.hide | self.show.keys()


@dataclass(frozen=True)
class GeneLoad:
    """A hidden level of gene load among captive-bred animals: a share ``weight`` of them (in proportion) has every gene's
    frequency multiplied by ``times``."""

    weight: float
    times: float


@dataclass(frozen=True, eq=False)
class Catalogue:
    """Everything that is known of genes and of what they show. Two catalogues are the same only if they are one object.

    ``document`` is the JSON form it was read from (with the words, welfare notes and standing that only people read).
    """

    loci: dict[str, Locus]
    linkages: tuple[Linkage, ...]
    genes: dict[str, Gene]
    traits: dict[str, Trait]
    effects: tuple[Effect, ...]
    dilutions: tuple[Dilution, ...]
    masks: tuple[Mask, ...]
    population: tuple[GeneLoad, ...] = ()
    document: dict[str, Any] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def linkage_of(self) -> dict[str, Linkage]:
        """The linkage entry in which a locus stands."""
        return {locus: linkage for linkage in self.linkages for locus in linkage.loci}

    @cached_property
    def tested_genes(self) -> frozenset[str]:
        """The genes of which a DNA test tells a carrier."""
        entries = self.document.get("genes", [])
        return frozenset(entry["id"] for entry in entries if str(entry.get("dna_test", "")).startswith("yes"))

    @cached_property
    def effects_on(self) -> dict[str, list[Effect]]:
        """The effects on each trait."""
        by_trait: dict[str, list[Effect]] = {trait: [] for trait in self.traits}
        for effect in self.effects:
            by_trait[effect.trait].append(effect)
        return by_trait

    @cached_property
    def dilutions_on(self) -> dict[str, list[Dilution]]:
        """The dilutions that touch a push on each trait."""
        pushed: dict[str, set[str | None]] = {trait: set() for trait in self.traits}
        for effect in self.effects:
            pushed[effect.trait].add(effect.own_gene)
        by_trait: dict[str, list[Dilution]] = {trait: [] for trait in self.traits}
        for dilution in self.dilutions:
            for trait in self.traits if dilution.traits is None else dilution.traits:
                if dilution.gene in pushed[trait]:
                    by_trait[trait].append(dilution)
        return by_trait

    @cached_property
    def masks_on(self) -> dict[str, list[Mask]]:
        """The masks that decide or damp each trait."""
        return {
            trait: [rule for rule in self.masks if trait in rule.decides or trait in rule.damp] for trait in self.traits
        }

    @cached_property
    def by_needed_locus(self) -> dict[str, dict[str, list[Effect | Dilution | Mask]]]:
        """The rules on each trait under a locus at which they need an allele; under "" those that need none."""
        by_trait: dict[str, dict[str, list[Effect | Dilution | Mask]]] = {trait: {} for trait in self.traits}
        for trait, rules in by_trait.items():
            speaking: list[Effect | Dilution | Mask] = [*self.effects_on[trait], *self.dilutions_on[trait]]
            speaking += self.masks_on[trait]
            for rule in speaking:
                needed = next((self.locus_of(one) for one in rule.when if 0 not in one.copies), "")
                rules.setdefault(needed, []).append(rule)
        return by_trait

    @cached_property
    def looks_at(self) -> dict[str, int]:
        """How many looks each locus has a say in."""
        traits_at: dict[str, set[str]] = {locus: set() for locus in self.loci}
        rules: list[tuple[When, frozenset[str]]] = [(rule.when, frozenset([rule.trait])) for rule in self.effects]
        rules += [(rule.when, rule.traits or frozenset(self.traits)) for rule in self.dilutions]
        rules += [(rule.when, rule.decides | rule.damp.keys()) for rule in self.masks]
        for when, traits in rules:
            for condition in when:
                traits_at[self.locus_of(condition)] |= traits
        return {locus: len(traits) for locus, traits in traits_at.items()}

    def locus_of(self, condition: Condition) -> str:
        """The locus that a condition speaks of."""
        return condition.locus or self.genes[condition.gene or ""].locus

    def genes_at(self, locus: str) -> list[Gene]:
        """The alleles of a locus, in the catalogue's order."""
        return [gene for gene in self.genes.values() if gene.locus == locus]
