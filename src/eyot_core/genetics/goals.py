"""Which of many pairings can make a wanted combination: the chance of every dam with every sire, at once.

Source: Mendel's laws, locus by locus; loci are independent given both parents.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import permutations

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.animals import Parent
from eyot_core.genetics.inheritance import FEMALE, MALE, gametes
from eyot_core.genetics.tables import Floats


def goal_chances(
    catalogue: Catalogue,
    dams: Sequence[Parent],
    sires: Sequence[Parent],
    wanted: Mapping[str, int],
    sex: int | None = None,
) -> Floats:
    """Chance that one egg of each pairing has at least the wanted copies, and is of the sex if one is wanted; (dams, sires).

    Linked loci are taken as free and no egg as lost: a ranking, to be followed by the exact figure of the pairings that lead.
    """
    by_locus: dict[str, list[str]] = {}
    for gene, copies in wanted.items():
        by_locus.setdefault(catalogue.genes[gene].locus, []).extend([gene] * copies)
    reached = np.zeros((len(dams), len(sires)))
    for one in (FEMALE, MALE) if sex is None else (sex,):
        chances = np.full((len(dams), len(sires)), 0.5)
        for locus, genes in by_locus.items():
            chances = chances * _at_locus(catalogue, locus, genes, dams, sires, one)
        reached += chances
    return reached


def _at_locus(
    catalogue: Catalogue, locus: str, genes: Sequence[str], dams: Sequence[Parent], sires: Sequence[Parent], sex: int
) -> Floats:
    if len(genes) > 2:
        return np.zeros((len(dams), len(sires)))
    eggs = {gene: _passing(catalogue, locus, gene, dams, sex) for gene in set(genes)}
    cells = {gene: _passing(catalogue, locus, gene, sires, sex) for gene in set(genes)}
    if len(genes) == 1:
        gene = genes[0]
        return np.asarray(1 - np.outer(1 - eggs[gene], 1 - cells[gene]))
    ways = set(permutations(genes))
    return np.asarray(sum(np.outer(eggs[first], cells[second]) for first, second in ways))


def _passing(catalogue: Catalogue, locus: str, gene: str, parents: Sequence[Parent], sex: int) -> Floats:
    """Chance that each parent passes a gene to a child of a sex."""
    return np.array(
        [
            sum(
                chance * share
                for state, chance in parent.states_at(locus).items()
                for gamete, share in gametes(catalogue, (locus,), state, parent.is_sire, sex).items()
                if gamete[0] == gene
            )
            for parent in parents
        ]
    )
