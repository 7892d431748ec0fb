"""Animals of unknown parents: what each locus holds among captive-bred animals, in Hardy-Weinberg proportions.

Source: Hardy-Weinberg proportions at each locus, loci independent given the gene load; frequencies stand in the catalogue.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue, GeneLoad
from eyot_core.errors import InputError
from eyot_core.genetics.animals import Parent
from eyot_core.genetics.inheritance import SEXES, Genotype, gametes
from eyot_core.genetics.tables import Floats

TOLERANCE = 1e-9


ONE_LOAD = (GeneLoad(1.0, 1.0),)
Alleles = dict[str, float]


@dataclass(frozen=True)
class LocusStates:
    """What an animal can have at one locus: sorted non-wild alleles, with their chances among the living.

    ``chances``: shape (levels of gene load, genotypes); rows sum to 1, or to 0 where an animal of that load can't live.
    """

    locus: str
    genotypes: tuple[Genotype, ...]
    chances: Floats


@dataclass(frozen=True)
class MergedStates:
    """A locus whose states that nothing tells apart are one. ``members[k]``: the positions in ``whole.genotypes`` of the k-th kind."""

    whole: LocusStates
    members: tuple[tuple[int, ...], ...]

    @cached_property
    def states(self) -> LocusStates:
        """One genotype of each kind, with the chances of the kind."""
        chances = np.stack([self.whole.chances[:, list(places)].sum(axis=1) for places in self.members], axis=1)
        return LocusStates(self.whole.locus, self.genotypes, chances)

    @cached_property
    def genotypes(self) -> tuple[Genotype, ...]:
        """One genotype of each kind."""
        return tuple(self.whole.genotypes[places[0]] for places in self.members)

    @cached_property
    def shares(self) -> tuple[Floats, ...]:
        """What each member has of its kind under each gene load, (loads, members) for each kind, summing to 1."""
        return tuple(
            np.divide(
                own := self.whole.chances[:, list(places)],
                total,
                out=np.full(own.shape, 1 / len(places)),
                where=total > 0,
            )
            for places, total in zip(self.members, self.states.chances.T[..., np.newaxis], strict=True)
        )

    def shares_of(self, counted: Callable[[Genotype], int], kind: int) -> dict[int, Floats]:
        """How a kind is divided by some number that its genotypes have: shares by gene load, shape (loads,)."""
        shares: dict[int, Floats] = {}
        for member, share in zip(self.members[kind], self.shares[kind].T, strict=True):
            key = counted(self.whole.genotypes[member])
            shares[key] = shares.get(key, np.zeros(len(share))) + share
        return shares

    def shares_by(self, counted: Callable[[Genotype], int], numbers: int) -> Floats:
        """The same for all kinds, by number from 0: (numbers, kinds, loads)."""
        table = np.zeros((numbers, len(self.members), len(self.whole.chances)))
        for kind in range(len(self.members)):
            for number, share in self.shares_of(counted, kind).items():
                table[number, kind] = share
        return table


def merged(states: LocusStates, kind_of: Callable[[Genotype], Hashable]) -> MergedStates:
    """The states of a locus with those of one kind merged."""
    return MergedStates(states, members_of(states.genotypes, kind_of))


def members_of(genotypes: Sequence[Genotype], kind_of: Callable[[Genotype], Hashable]) -> tuple[tuple[int, ...], ...]:
    """The positions of the genotypes of each kind, kinds in the order of their first ones."""
    kinds: dict[Hashable, list[int]] = {}
    for place, genotype in enumerate(genotypes):
        kinds.setdefault(kind_of(genotype), []).append(place)
    return tuple(tuple(places) for places in kinds.values())


@dataclass(frozen=True)
class Population:
    """Captive-bred animals: loci are independent given the hidden gene load. ``weights``: of the loads among the living, (loads,)."""

    loci: tuple[LocusStates, ...]
    weights: Floats


def population(catalogue: Catalogue, loads: Sequence[GeneLoad] = (), parent: Parent | None = None) -> Population:
    """Every locus of a catalogue that has a gene, in its order; viability is counted in.

    ``loads``: hidden levels of gene load; left out, the catalogue's own, else one level that changes nothing. The prior is the
    weighted sum of the levels' priors, each times the survivors' viability, rescaled once: so a level under which fewer live
    weighs less. Raises :class:`~eyot_core.errors.InputError` where frequencies exceed 1, or where nothing could live.

    ``parent``: one parent of whom something is known; the animal has one allele of each locus from it, the other from the
    population. Linked loci of that parent count as unlinked, and its sex chromosomes as they are passed on to young of either sex.
    """
    loads = [load for load in loads or catalogue.population or ONE_LOAD if load.weight > 0]
    weights = np.array([load.weight for load in loads]) / sum(load.weight for load in loads)
    loci = []
    for locus in catalogue.loci:
        if catalogue.genes_at(locus):
            states, living = _states_of(catalogue, locus, loads, _passed_on(catalogue, locus, parent))
            loci.append(states)
            weights = weights * living
    if not weights.sum() > 0:
        raise InputError("no animal could live with what stands in this catalogue", "catalogue.genes")
    return Population(tuple(loci), weights / weights.sum())


def _passed_on(catalogue: Catalogue, locus: str, parent: Parent | None) -> Alleles | None:
    """The chances of the allele that a known parent gives at a locus, the wild type as ``""``."""
    if parent is None:
        return None
    given: Alleles = {}
    for state, chance in parent.states_at(locus).items():
        for sex in range(len(SEXES)):
            for (allele,), share in gametes(catalogue, (locus,), state, parent.is_sire, sex).items():
                given[allele or ""] = given.get(allele or "", 0.0) + chance * share / len(SEXES)
    return given


def _states_of(
    catalogue: Catalogue, locus: str, loads: Sequence[GeneLoad], given: Alleles | None
) -> tuple[LocusStates, Floats]:
    """The states of one locus under each load, and the share that lives of each load, (loads,)."""
    rows = [_living_of(catalogue, locus, load, given) for load in loads]
    genotypes = tuple(dict.fromkeys(genotype for row in rows for genotype, chance in row.items() if chance > 0))
    if not genotypes:
        raise InputError(f"no animal could live with what stands at the locus {locus!r}", "catalogue.genes")
    chances = np.array([[row.get(genotype, 0.0) for genotype in genotypes] for row in rows])
    living = chances.sum(axis=1)
    scaled = np.divide(chances, living[:, np.newaxis], out=np.zeros_like(chances), where=living[:, np.newaxis] > 0)
    return LocusStates(locus, genotypes, scaled), living


def _living_of(catalogue: Catalogue, locus: str, load: GeneLoad, given: Alleles | None) -> dict[Genotype, float]:
    """Hardy-Weinberg proportions times viability at one locus under one load; with a known parent, its allele beside one of these."""
    frequencies = {gene.id: gene.frequency * load.times for gene in catalogue.genes_at(locus)}
    total = sum(frequencies.values())
    if total > 1 + TOLERANCE:
        times = f", each times {load.times:g}," if load.times != 1 else ""
        raise InputError(
            f"the frequencies of the genes at {locus!r}{times} sum to {total:g}; at most 1 is allowed",
            "catalogue.genes",
        )
    alleles = {"": max(0.0, 1 - total), **frequencies}
    living: dict[Genotype, float] = {}
    for (first, of_one), (second, of_other) in product((alleles if given is None else given).items(), alleles.items()):
        genotype = tuple(sorted(filter(None, (first, second))))
        chance = of_one * of_other
        for gene in set(genotype):
            chance *= catalogue.genes[gene].viability[genotype.count(gene)]
        living[genotype] = living.get(genotype, 0.0) + chance
    return living


def unknown_parent(catalogue: Catalogue, genes: Iterable[str]) -> list[dict[str, Any]]:
    """What a parent of whom nothing is known may have of some genes, as often as the population has them: entries of the contract.

    Genes that the population never has are left out, and those that the catalogue does not know.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> [entry] = unknown_parent(builtin_catalogue(), ["albino"])
    >>> entry["gene"], round(entry["chance"], 4), round(entry["copies"]["2"], 4)
    ('albino', 0.1103, 0.0394)
    """
    wanted = sorted(set(genes) & catalogue.genes.keys())
    among = population(catalogue)
    at = {states.locus: states for states in among.loci}
    entries: list[dict[str, Any]] = []
    for gene in wanted:
        states = at[catalogue.genes[gene].locus]
        chances = among.weights @ states.chances
        one, two = (
            sum(c for kind, c in zip(states.genotypes, chances, strict=True) if kind.count(gene) == n) for n in (1, 2)
        )
        if one + two > 0:
            share = float(two / (one + two))
            entries.append({"gene": gene, "copies": {"1": 1 - share, "2": share}, "chance": float(one + two)})
    return entries
