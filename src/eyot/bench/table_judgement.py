"""What the looks say of an animal whose clutch nobody here has seen: against captive-bred animals, a parent that is known, a claim.

An animal is searched once for the same looks and the same claim, and kept: the search takes most of a second.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from eyot_core.catalogue import Catalogue
from eyot_core.genetics.animals import parent_from
from eyot_core.genetics.population import Population, population
from eyot_core.genetics.shown import shown_at
from eyot_core.identify.claims import Claim, Standing, claimed, open_cues, standings
from eyot_core.identify.evidence import Hatchling
from eyot_core.identify.questions import NextLook, Settling, Surprise
from eyot_core.identify.unknown_parents import OpenIdentification
from eyot_core.identify.why import Cue
from eyot_core.parsing import Node
from eyot_core.wording.label import Called, Part, parts_alone

from eyot.bench.judgement import Combination, GeneChances, Judgement, as_hatchling
from eyot.bench.models import Look
from eyot.collection.catalogue import catalogue_of
from eyot.season.models import Clutch, Egg
from eyot.season.queries import parent_entry

LISTED_FROM = 0.06
MOST_LISTED = 12
MOST_ASKED = 14
WORTH_ASKING_BITS = 0.02


@dataclass(frozen=True)
class Origin:
    """Where an animal may come from: its one known parent as a document, empty where none is known; what is claimed of it."""

    parent: str = ""
    is_sire: bool = False
    claims: tuple[Claim, ...] = ()
    trust: float = 0.0


@lru_cache(maxsize=64)
def _plain(catalogue: Catalogue, parent: str, is_sire: bool) -> Population:
    known = parent_from(Node(json.loads(parent)), catalogue, is_sire=is_sire) if parent else None
    return population(catalogue, parent=known)


@lru_cache(maxsize=64)
def _believed(catalogue: Catalogue, origin: Origin) -> Population:
    return claimed(_plain(catalogue, origin.parent, origin.is_sire), catalogue, origin.claims, origin.trust)


@lru_cache(maxsize=32)
def _searched(catalogue: Catalogue, origin: Origin, hatchling: Hatchling) -> OpenIdentification:
    return OpenIdentification.of(catalogue, hatchling, _believed(catalogue, origin))


@lru_cache(maxsize=64)
def _looks(catalogue: Catalogue, origin: Origin, hatchling: Hatchling, stage: str) -> tuple[NextLook, ...]:
    return tuple(_searched(catalogue, origin, hatchling).looks(stage))


class TableJudgement(Judgement):
    """What the looks say of one animal by itself."""

    def __init__(self, clutch: Clutch, egg: Egg, looks: Iterable[Look], claims: Sequence[Claim], trust: float) -> None:
        super().__init__(clutch, [egg], looks)
        self.origin = _origin_of(egg, claims, trust)
        self.hatchling = as_hatchling(egg, self.looks[egg.pk])

    @cached_property
    def catalogue(self) -> Catalogue:  # type: ignore[override]
        """The collection's catalogue."""
        return catalogue_of(self.clutch.collection)

    @cached_property
    def one(self) -> OpenIdentification:
        """The animal as it was searched; where no animal can show what was seen, as if nothing had been."""
        return _searched(self.catalogue, self.origin, self._counted)

    @cached_property
    def _counted(self) -> Hatchling:
        seen = _searched(self.catalogue, self.origin, self.hatchling)
        return self.hatchling if seen.is_possible else replace(self.hatchling, observations=())

    @property
    def _among(self) -> Population:
        """What it comes from, its claim counted in."""
        return _believed(self.catalogue, self.origin)

    @cached_property
    def given_genes(self) -> list[str]:  # type: ignore[override]
        """Every gene that captive-bred animals, or its known parent, can have."""
        loci = {states.locus: states for states in self._among.loci}
        return [
            gene.id
            for gene in self.catalogue.genes.values()
            if any(gene.id in genotype for genotype in loci[gene.locus].genotypes)
        ]

    @cached_property
    def listed_genes(self) -> list[str]:  # type: ignore[override]
        """The genes that are claimed, and those that may well show: the likeliest first."""
        own = [claim.gene for claim in self.origin.claims if claim.gene in self.given_genes]
        shown = {gene: self._after(gene, self._needed(gene)) for gene in self.given_genes if gene not in own}
        likely = sorted((gene for gene in shown if shown[gene] >= LISTED_FROM), key=lambda gene: -shown[gene])
        return list(dict.fromkeys([*own, *likely[:MOST_LISTED]]))

    def _needed(self, gene: str) -> int:
        """How many copies it takes to show."""
        return 2 if self.catalogue.genes[gene].is_recessive else 1

    def _after(self, gene: str, least: int, most: int = 2) -> float:
        copies = self.one.copies(gene)
        return sum(copies[str(count)] for count in range(least, most + 1))

    def _before(self, gene: str, least: int, most: int = 2) -> float:
        """The same before anything is seen."""
        states = next(one for one in self._among.loci if one.locus == self.catalogue.genes[gene].locus)
        counts = [least <= genotype.count(gene) <= most for genotype in states.genotypes]
        return float(self._among.weights @ states.chances @ counts)

    def worth_asking(self, stage: str) -> tuple[str, ...]:
        """The looks that tell most of it now, in the order in which keepers look: which tells most changes with every answer."""
        looks = _looks(self.catalogue, self.origin, self._counted, stage)
        telling = {look.trait for look in looks[:MOST_ASKED] if look.gain > WORTH_ASKING_BITS}
        return tuple(trait for trait in self.catalogue.traits if trait in telling)

    def genes(self, egg: Egg) -> list[GeneChances]:
        """The genes that are listed, in the forms that are claimed or likely; a chance before all looks and one after."""
        asked = {(claim.gene, claim.copies) for claim in self.origin.claims}
        rows = []
        for gene in self.listed_genes:
            if self.catalogue.genes[gene].is_recessive:
                visual = self._row(gene, "shown", 2, 2, 2)
                rows += [visual] if (gene, 1) not in asked or visual.after >= LISTED_FROM else []
                rows += [self._row(gene, "carried", 1, 1, 1)] if (gene, 1) in asked else []
            else:
                two = self._row(gene, "shown", 2, 2, 2)
                rows += [self._row(gene, "shown", 1, 1, 2)]
                rows += [two] if (gene, 2) in asked or two.after >= LISTED_FROM else []
        return rows

    def _row(self, gene: str, form: str, copies: int, least: int, most: int) -> GeneChances:
        before, after = self._before(gene, least, most), self._after(gene, least, most)
        return GeneChances(gene, form, copies, before, after, (before, after))

    def answered_otherwise(self, hatchling: Hatchling) -> TableJudgement:
        """What would be said if the looks were others; nothing is saved."""
        other = copy(self)
        for name in ("one", "_counted", "listed_genes"):
            vars(other).pop(name, None)
        other.hatchling = hatchling
        return other

    def cues(self, gene: str, copies: int) -> list[Cue]:
        """What each look says of a gene, beside the leading combination; the strongest first."""
        return open_cues(self.one, gene, copies)

    def combinations(self, egg: Egg, top: int) -> list[Combination]:
        """The most probable combinations of what shows."""
        return [
            Combination(genotype, chance, self._before_of(genotype)) for genotype, chance in self.one.shown_combos(top)
        ]

    def _before_of(self, shown: Mapping[str, Sequence[str]]) -> float:
        """How often animals of this origin show a combination."""
        chances = self._among.weights
        for states in self._among.loci:
            wanted = tuple(shown.get(states.locus, ()))
            shows = [shown_at(genotype, self.catalogue) == wanted for genotype in states.genotypes]
            chances = chances * (states.chances @ shows)
        return float(chances.sum())

    def next_looks(self, egg: Egg, stage: str) -> list[NextLook]:
        """Looks that were not answered at this stage or later, the most telling first."""
        return list(_looks(self.catalogue, self.origin, self._counted, stage))

    def settling(self, egg: Egg, trait: str, stage: str) -> Settling | None:
        """What one look would settle."""
        return self.one.settling(trait, stage, self.listed_genes)

    def gain_after_shed(self, egg: Egg, trait: str) -> float:
        """What the same look would be worth, in bits, after the first shed."""
        return next((look.gain for look in self.next_looks(egg, "shed") if look.trait == trait), 0.0)

    def surprises(self, egg: Egg) -> list[Surprise]:
        """Answers that hardly fit."""
        return self.one.surprises()

    def contradicts(self, egg: Egg) -> bool:
        """Can no animal of this origin show what was seen?"""
        return self._counted is not self.hatchling

    def shown_chances(self, egg: Egg, gene: str, copies: int) -> tuple[float, float]:
        """Chances that it shows a gene, or has two copies of it, after looking and before."""
        if gene not in self.given_genes:
            return 0.0, 0.0
        least = max(copies, self._needed(gene))
        return self._after(gene, least), self._before(gene, least)

    def label_parts(self, call: Sequence[Called], looked: Mapping[str, float], least: float) -> list[Part]:
        """The parts of a label: what was called and nothing else, since nobody knows what it may carry."""
        return parts_alone(self.catalogue, call, looked, least)

    def standings(self) -> list[Standing]:
        """How each claim stands."""
        plain = _plain(self.catalogue, self.origin.parent, self.origin.is_sire)
        return standings(self.one, plain, self._among, self.origin.claims)


def _origin_of(egg: Egg, claims: Sequence[Claim], trust: float) -> Origin:
    animal = egg.kept_as
    known = (animal.sire or animal.dam) if animal else None
    document = json.dumps(parent_entry(known), sort_keys=True) if known else ""
    return Origin(document, bool(animal and animal.sire), tuple(claims), trust)
