"""Animals as far as a project is about them: their states at its loci, what their young are like, and what can be told of young.

A *genome* has the state of each group of loci (see :mod:`eyot_core.genetics.inheritance`); of a hatchling all of it is known by the chance
that it is so, X or Y and phase too, since each half came from one parent.

Source: Mendel's laws, group by group; viability as the catalogue has it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product
from typing import Any

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.animals import Parent, linked_states
from eyot_core.genetics.inheritance import FEMALE, MALE, gametes, grouped_loci

Genome = tuple[Any, ...]
Young = dict[tuple[int, Genome], float]
"""By sex and genome, the chance that an egg becomes such a hatchling, all that live summing to at most 1."""


@dataclass(frozen=True)
class Wanted:
    """Genes with at least so many copies, and the sex if it matters; ``is_pair``: of either sex one."""

    genes: Mapping[str, int]
    sex: int | None = None
    is_pair: bool = False


@dataclass
class Room:
    """The loci that a project is about, and what passes on at them."""

    catalogue: Catalogue
    groups: tuple[tuple[str, ...], ...]
    _young: dict[tuple[Genome, Genome], Young] = field(default_factory=dict)
    _copies: dict[tuple[Genome, str], int] = field(default_factory=dict)

    @classmethod
    def about(cls, catalogue: Catalogue, genes: Iterable[str]) -> Room:
        """The loci of some genes, with those that are linked to them."""
        loci = {catalogue.genes[gene].locus for gene in genes}
        return cls(catalogue, tuple(group for group in grouped_loci(catalogue) if loci & {*group}))

    def of_parent(self, parent: Parent) -> dict[Genome, float]:
        """What an animal may be at these loci, with the chance of each."""
        by_group = [
            parent.states_at(group[0]) if len(group) == 1 else linked_states(parent, (group[0], group[1]))
            for group in self.groups
        ]
        genomes: dict[Genome, float] = {}
        for states in product(*(list(one.items()) for one in by_group)):
            chance = 1.0
            for _, share in states:
                chance *= share
            genome = tuple(
                self._canonical(group, state, MALE if parent.is_sire else FEMALE)
                for group, (state, _) in zip(self.groups, states, strict=True)
            )
            if chance > 0:
                genomes[genome] = genomes.get(genome, 0.0) + chance
        return genomes

    def young(self, dam: Genome, sire: Genome) -> Young:
        """What the eggs of two animals become; kept for the next time."""
        if (dam, sire) not in self._young:
            self._young[dam, sire] = self._made(dam, sire)
        return self._young[dam, sire]

    def _made(self, dam: Genome, sire: Genome) -> Young:
        young: Young = {}
        for sex in (FEMALE, MALE):
            by_group = [self._at(group, dam[place], sire[place], sex) for place, group in enumerate(self.groups)]
            for states in product(*(list(one.items()) for one in by_group)):
                chance = 0.5
                for _, share in states:
                    chance *= share
                if chance > 0:
                    genome = tuple(state for state, _ in states)
                    young[sex, genome] = young.get((sex, genome), 0.0) + chance
        return young

    def _at(self, group: tuple[str, ...], dam: Any, sire: Any, sex: int) -> dict[Any, float]:
        made: dict[Any, float] = {}
        eggs = gametes(self.catalogue, group, dam, False, sex)
        cells = gametes(self.catalogue, group, sire, True, sex)
        for (egg, of_egg), (cell, of_cell) in product(eggs.items(), cells.items()):
            chance = of_egg * of_cell
            for pair in zip(egg, cell, strict=True):
                alleles = [allele for allele in pair if allele]
                for gene in set(alleles):
                    chance *= self.catalogue.genes[gene].viability[alleles.count(gene)]
            state = (egg[0], cell[0]) if len(group) == 1 else (egg, cell)
            state = self._canonical(group, state, sex)
            if chance > 0:
                made[state] = made.get(state, 0.0) + chance
        return made

    def _canonical(self, group: tuple[str, ...], state: Any, sex: int) -> Any:
        """The state in one order, where the order says nothing: all but X and Y of a male."""
        if len(group) == 1 and self.catalogue.loci[group[0]].on_sex_chromosome and sex == MALE:
            return state
        return tuple(sorted(state, key=lambda half: (half is None, str(half))))

    def copies(self, genome: Genome, gene: str) -> int:
        """How many copies of a gene a genome has."""
        if (genome, gene) not in self._copies:
            self._copies[genome, gene] = self._counted(genome, gene)
        return self._copies[genome, gene]

    def _counted(self, genome: Genome, gene: str) -> int:
        locus = self.catalogue.genes[gene].locus
        for group, state in zip(self.groups, genome, strict=True):
            if locus in group:
                halves = state if len(group) == 1 else [half[group.index(locus)] for half in state]
                return sum(allele == gene for allele in halves)
        return 0

    def has(self, genome: Genome, sex: int, wanted: Wanted) -> bool:
        """Is an animal what is wanted?"""
        if wanted.sex is not None and sex != wanted.sex:
            return False
        return all(self.copies(genome, gene) >= copies for gene, copies in wanted.genes.items())


def least_copies(genomes: Mapping[Genome, float], room: Room, gene: str) -> int:
    """So many copies of a gene an animal has for certain."""
    return min(room.copies(genome, gene) for genome in genomes)


def cannot_be(catalogue: Catalogue, genes: Mapping[str, int]) -> str:
    """Why no animal can have these genes; empty where one can."""
    by_locus: dict[str, list[str]] = {}
    for gene, copies in genes.items():
        by_locus.setdefault(catalogue.genes[gene].locus, []).extend([gene] * copies)
        if catalogue.genes[gene].viability[copies] == 0:
            return f"an animal with {copies} of {gene} does not live"
    for locus, alleles in by_locus.items():
        if len(alleles) > 2:
            return f"{', '.join(sorted(set(alleles)))} are alleles of one place ({locus}), which has room for two"
    return ""


def told_by_sight(catalogue: Catalogue, gene: str, copies: int) -> bool:
    """Can a hatchling with at least so many copies be told from one with fewer by looking?

    A recessive shows in two copies, any other gene in one; whether it has a second shows where that makes another form.
    """
    kind = catalogue.genes[gene].inheritance
    if kind == "recessive":
        return copies == 2
    return copies == 1 or kind != "dominant"


def can_be_told(catalogue: Catalogue, gene: str, copies: int, parents: Sequence[int]) -> bool:
    """Can a hatchling with so many copies be told from its siblings, or have they all? ``parents``: copies that each has for certain."""
    return told_by_sight(catalogue, gene, copies) or certain_from(parents, copies)


def certain_from(parents: Sequence[int], copies: int) -> bool:
    """Do all young have at least so many copies, from the copies that each parent has for certain?"""
    return sum(count == 2 for count in parents) >= copies
