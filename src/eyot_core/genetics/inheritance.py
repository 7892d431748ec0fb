"""What is passed on at a locus, or at two linked loci: parents' states, gametes, and children with their chances.

A *group* is a locus, or two linked loci. Groups are independent given the parents' states, the sire and the sex.

Source: Mendel's laws; two linked loci with one share of recombination; a sire's sex-linked gene moves between X and Y with
the share that the catalogue gives its locus.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.animals import Allele, Distribution, Parent, linked_states
from eyot_core.genetics.tables import Floats
from eyot_core.parsing import shown

Genotype = tuple[str, ...]
FEMALE, MALE = 0, 1
SEXES = ("female", "male")
ROUNDING = 1e-15


@dataclass(frozen=True)
class Group:
    """One locus or two linked loci.

    ``children``: what a hatchling can have here, for each locus the sorted non-wild alleles. ``dam``, ``sires[s]``: chances
    of the parents' states. ``transmission[s][sex]``: array (dam states, sire states, children), viability included.
    """

    loci: tuple[str, ...]
    children: tuple[tuple[Genotype, ...], ...]
    dam_states: tuple[Any, ...]
    dam: Floats
    sire_states: tuple[tuple[Any, ...], ...]
    sires: tuple[Floats, ...]
    transmission: tuple[tuple[Floats, Floats], ...]
    on_sex_chromosome: bool

    @property
    def is_certain(self) -> bool:
        """Has every parent one possible state here?"""
        return len(self.dam) == 1 and all(len(states) == 1 for states in self.sires)

    @cached_property
    def survives_alike(self) -> bool:
        """Does as great a share of the children survive whatever the parents' states are?"""
        shares = [chances.sum(axis=-1) for by_sex in self.transmission for chances in by_sex]
        return all(bool(np.allclose(share, share.flat[0], rtol=0, atol=ROUNDING)) for share in shares)

    def as_mean(self) -> Group:
        """The group with one state of each parent: what the possible ones pass on, each counted by its chance."""
        return replace(
            self,
            dam_states=(None,),
            dam=np.ones(1),
            sire_states=tuple((None,) for _ in self.sires),
            sires=tuple(np.ones(1) for _ in self.sires),
            transmission=tuple(
                (self._mean(chances[FEMALE], sire), self._mean(chances[MALE], sire))
                for chances, sire in zip(self.transmission, self.sires, strict=True)
            ),
        )

    def _mean(self, chances: Floats, sire: Floats) -> Floats:
        return np.asarray(np.einsum("d,s,dsc->c", self.dam, sire, chances)[np.newaxis, np.newaxis])

    def copies_of(self, gene: str, locus: str) -> NDArray[np.int64]:
        """Number of copies of a gene in each child state."""
        position = self.loci.index(locus)
        return np.array([child[position].count(gene) for child in self.children], dtype=np.int64)


def grouped_loci(catalogue: Catalogue) -> list[tuple[str, ...]]:
    """Loci as groups, in the catalogue's order."""
    seen: set[str] = set()
    groups: list[tuple[str, ...]] = []
    for locus in catalogue.loci:
        if locus not in seen:
            linkage = catalogue.linkage_of.get(locus)
            group = linkage.loci if linkage else (locus,)
            seen.update(group)
            groups.append(group)
    return groups


def group_of(catalogue: Catalogue, loci: tuple[str, ...], dam: Parent, sires: Sequence[Parent]) -> Group:
    """What one dam and her sires pass on at a locus or two linked loci."""
    on_sex = len(loci) == 1 and catalogue.loci[loci[0]].on_sex_chromosome
    dam_states = _parent_states(dam, loci)
    sire_states = [_parent_states(sire, loci) for sire in sires]
    tables = [
        {
            (d, s, sex): _children_of(catalogue, loci, d, s, sex)
            for d in dam_states
            for s in states
            for sex in (FEMALE, MALE)
        }
        for states in sire_states
    ]
    living = {child for table in tables for chances in table.values() for child in chances}
    children = sorted(living or {tuple(() for _ in loci)})
    transmission = []
    for states, table in zip(sire_states, tables, strict=True):
        arrays = np.zeros((2, len(dam_states), len(states), len(children)))
        for (i, d), (j, s), sex in product(enumerate(dam_states), enumerate(states), (FEMALE, MALE)):
            for child, chance in table[d, s, sex].items():
                arrays[sex, i, j, children.index(child)] = chance
        transmission.append((arrays[FEMALE], arrays[MALE]))
    return Group(
        loci=loci,
        children=tuple(children),
        dam_states=tuple(dam_states),
        dam=np.array(list(dam_states.values())),
        sire_states=tuple(tuple(states) for states in sire_states),
        sires=tuple(np.array(list(states.values())) for states in sire_states),
        transmission=tuple(transmission),
        on_sex_chromosome=on_sex,
    )


def _parent_states(parent: Parent, loci: tuple[str, ...]) -> Distribution:
    states = parent.states_at(loci[0]) if len(loci) == 1 else linked_states(parent, (loci[0], loci[1]))
    return {state: chance for state, chance in states.items() if chance > 0}


def gametes(catalogue: Catalogue, loci: tuple[str, ...], state: Any, is_sire: bool, sex: int) -> dict[Any, float]:
    """Chances of what one parent passes on at a group: alleles by locus."""
    chances: dict[Any, float] = {}

    def add(gamete: tuple[Allele, ...], chance: float) -> None:
        if chance > 0:
            chances[gamete] = chances.get(gamete, 0.0) + chance

    if len(loci) == 2:
        rate = catalogue.linkage_of[loci[0]].recombination
        (a, b), (c, d) = state
        for gamete, chance in (((a, b), 1 - rate), ((c, d), 1 - rate), ((a, d), rate), ((c, b), rate)):
            add(gamete, chance / 2)
    elif is_sire and catalogue.loci[loci[0]].on_sex_chromosome:
        rate = catalogue.loci[loci[0]].recombination
        from_x = 1 - rate if sex == FEMALE else rate
        add((state[0],), from_x)
        add((state[1],), 1 - from_x)
    else:
        add((state[0],), 0.5)
        add((state[1],), 0.5)
    return chances


def _children_of(
    catalogue: Catalogue, loci: tuple[str, ...], dam: Any, sire: Any, sex: int
) -> dict[tuple[Genotype, ...], float]:
    """Chances of the children's genotypes at a group, times the chance that each survives its genes there."""
    children: dict[tuple[Genotype, ...], float] = {}
    eggs, sperm = gametes(catalogue, loci, dam, False, sex), gametes(catalogue, loci, sire, True, sex)
    for (egg, chance_egg), (cell, chance_cell) in product(eggs.items(), sperm.items()):
        child = tuple(tuple(sorted(allele for allele in pair if allele)) for pair in zip(egg, cell, strict=True))
        chance = chance_egg * chance_cell
        for genotype in child:
            for gene in set(genotype):
                chance *= catalogue.genes[gene].viability[genotype.count(gene)]
        if chance > 0:
            children[child] = children.get(child, 0.0) + chance
    return children


def sex_index(name: str) -> int:
    """Index of a sex by its word; raises ValueError on others.

    >>> sex_index("male")
    1
    """
    if name not in SEXES:
        raise ValueError(f"sex must be one of {', '.join(SEXES)}, got {shown(name)}")
    return SEXES.index(name)
