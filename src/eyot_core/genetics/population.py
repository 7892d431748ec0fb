"""Animals of unknown parents: what each locus holds among captive-bred animals, in Hardy-Weinberg proportions."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import Genotype
from eyot_core.genetics.tables import Floats

TOLERANCE = 1e-9


@dataclass(frozen=True)
class LocusStates:
    """What an animal can have at one locus: sorted non-wild alleles, with their chances among the living."""

    locus: str
    genotypes: tuple[Genotype, ...]
    chances: Floats


@dataclass(frozen=True)
class MergedStates:
    """A locus whose states that nothing tells apart are one. ``states``: one genotype of each kind, with the chances of the kind.

    ``members[k]``: the positions in ``whole.genotypes`` of the k-th kind; ``shares[k]``: what each has of it, summing to 1.
    """

    whole: LocusStates
    states: LocusStates
    members: tuple[tuple[int, ...], ...]
    shares: tuple[Floats, ...]

    def shares_of(self, counted: Callable[[Genotype], int], kind: int) -> dict[int, float]:
        """How a kind is divided by some number that its genotypes have."""
        found: dict[int, float] = {}
        for member, share in zip(self.members[kind], self.shares[kind], strict=True):
            key = counted(self.whole.genotypes[member])
            found[key] = found.get(key, 0.0) + float(share)
        return found


def merged(states: LocusStates, kind_of: Callable[[Genotype], Hashable]) -> MergedStates:
    """The states of a locus with those of one kind merged."""
    kinds: dict[Hashable, list[int]] = {}
    for place, genotype in enumerate(states.genotypes):
        kinds.setdefault(kind_of(genotype), []).append(place)
    members = tuple(tuple(places) for places in kinds.values())
    chances = np.array([states.chances[list(places)].sum() for places in members])
    shares = tuple(states.chances[list(places)] / total for places, total in zip(members, chances, strict=True))
    first = tuple(states.genotypes[places[0]] for places in members)
    return MergedStates(states, LocusStates(states.locus, first, chances), members, shares)


def population(catalogue: Catalogue) -> list[LocusStates]:
    """Every locus of a catalogue that has a gene, in its order. Loci are independent; viability is counted in.

    Raises :class:`~eyot_core.errors.InputError` where frequencies exceed 1, or where nothing could live.
    """
    return [_states_of(catalogue, locus) for locus in catalogue.loci if catalogue.genes_at(locus)]


def _states_of(catalogue: Catalogue, locus: str) -> LocusStates:
    frequencies = {gene.id: gene.frequency for gene in catalogue.genes_at(locus)}
    total = sum(frequencies.values())
    if total > 1 + TOLERANCE:
        raise InputError(
            f"the frequencies of the genes at {locus!r} sum to {total:g}; at most 1 is allowed", "catalogue.genes"
        )
    alleles = {"": max(0.0, 1 - total), **frequencies}
    found: dict[Genotype, float] = {}
    for first, second in combinations_with_replacement(alleles, 2):
        chance = alleles[first] * alleles[second] * (1 if first == second else 2)
        genotype = tuple(sorted(filter(None, (first, second))))
        for gene in set(genotype):
            chance *= catalogue.genes[gene].viability[genotype.count(gene)]
        if chance > 0:
            found[genotype] = chance
    if not found:
        raise InputError(f"no animal could live with what stands at the locus {locus!r}", "catalogue.genes")
    chances = np.array(list(found.values()))
    return LocusStates(locus, tuple(found), chances / chances.sum())
