"""What shows of a genotype: genotypes merged where they differ only in recessives that are carried and not shown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.inheritance import Genotype, Group
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats

Shown = tuple[Genotype, ...]


def shown_at(genotype: Genotype, catalogue: Catalogue) -> Genotype:
    """What shows of one locus: a single copy of a recessive does not; two alleles of one complex do."""
    carried = len(genotype) == 1 and catalogue.genes[genotype[0]].is_recessive
    return () if carried else genotype


@dataclass(frozen=True)
class ShownClasses:
    """The classes into which a pairing's children fall by what shows of them."""

    pairing: Pairing

    @cached_property
    def _by_group(self) -> list[list[Shown]]:
        """For each group what shows of each of its child states."""
        return [[tuple(map(self._shown, child)) for child in group.children] for group in self.pairing.groups]

    def _shown(self, genotype: Genotype) -> Genotype:
        return shown_at(genotype, self.pairing.catalogue)

    @cached_property
    def classes(self) -> list[list[Shown]]:
        """For each group its distinct classes, in the order of the child states."""
        return [list(dict.fromkeys(shown)) for shown in self._by_group]

    def merged(self, chances: Floats) -> Floats:
        """Chances of the classes, one axis a group, from an array of the pairing's shape; exact sums."""
        merged = chances
        for axis, (shown, classes) in enumerate(zip(self._by_group, self.classes, strict=True)):
            summing = np.array([[1.0 if state == kind else 0.0 for state in shown] for kind in classes])
            merged = np.moveaxis(np.tensordot(summing, merged, axes=(1, axis)), 0, axis)
        return np.asarray(merged)

    def counted(self, counts: Callable[[str], bool]) -> NDArray[np.int64]:
        """How many different genes of some sort show in each class, one axis a group."""
        totals = np.zeros((), dtype=np.int64)
        for classes in self.classes:
            own = [sum(len({name for name in alleles if counts(name)}) for alleles in kind) for kind in classes]
            totals = np.add.outer(totals, np.array(own, dtype=np.int64))
        return np.asarray(totals)

    def chosen_at(self, index: int) -> list[Floats]:
        """For each group which child states, 1 or 0, fall into the class at a flat index of a merged array."""
        places = np.unravel_index(index, tuple(map(len, self.classes)))
        return [
            np.array([1.0 if state == classes[int(place)] else 0.0 for state in shown])
            for shown, classes, place in zip(self._by_group, self.classes, places, strict=True)
        ]

    def genotype_at(self, index: int) -> dict[str, list[str]]:
        """What shows in the class at a flat index of a merged array: alleles by locus."""
        places = np.unravel_index(index, tuple(map(len, self.classes)))
        genotype: dict[str, list[str]] = {}
        for group, classes, place in zip(self.pairing.groups, self.classes, places, strict=True):
            genotype |= _alleles_of(group, classes[int(place)])
        return genotype


def _alleles_of(group: Group, shown: Shown) -> dict[str, list[str]]:
    return {locus: list(alleles) for locus, alleles in zip(group.loci, shown, strict=True) if alleles}
