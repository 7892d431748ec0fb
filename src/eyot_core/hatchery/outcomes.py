"""What a pairing can give, by what shows, and how likely at least one of some eggs is of a kind.

A *kind* is chosen group by group, so that its chance under each hypothesis on the parents is a product; no genotype is counted out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from eyot_core.genetics.inheritance import FEMALE, MALE, Group
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.shown import ShownClasses
from eyot_core.genetics.tables import Floats
from eyot_core.hatchery.luck import spread_of_counts


@dataclass(frozen=True)
class Kind:
    """A set of child states: ``chosen[g]`` holds 1 for those of group g that belong to it, else 0."""

    pairing: Pairing
    chosen: tuple[Floats, ...]

    @cached_property
    def by_hypothesis(self) -> Floats:
        """Chance that a hatchling is of the kind, under each hypothesis on the parents; the layout of all."""
        pairing, total = self.pairing, np.zeros(self.pairing.stated.shape)
        for sire, weight in enumerate(pairing.sire_weights):
            for sex in (FEMALE, MALE):
                found = np.ones(1)
                for group, chosen in zip(pairing.groups, self.chosen, strict=True):
                    found = np.multiply.outer(found, (group.transmission[sire][sex] @ chosen).reshape(-1)).reshape(-1)
                total = total + weight / 2 * pairing.to_all(found, sire)
        return np.asarray(total * pairing.per_survivor)

    @cached_property
    def chance(self) -> float:
        """Chance that one hatchling is of the kind."""
        return float((self.by_hypothesis * self.pairing.prior).sum())

    def at_least_one(self, hatchlings: int) -> float:
        """Chance of at least one among siblings, who share their parents' state."""
        chances, weights = self._kept
        return float(1 - spread_of_counts(chances, weights, hatchlings)[0])

    def needed(self, wanted: float, most: int = 400) -> int | None:
        """The fewest hatchlings that give at least one with the chance ``wanted``; ``None`` if not even ``most`` do."""
        chances, weights = (np.array(values) for values in self._kept)
        misses = weights @ (1 - chances[:, None]) ** np.arange(most + 1)
        enough = np.flatnonzero(1 - misses >= wanted)
        return int(enough[0]) if len(enough) else None

    @cached_property
    def _kept(self) -> tuple[list[float], list[float]]:
        weights = self.pairing.prior.reshape(-1)
        kept = weights > 0
        return np.clip(self.by_hypothesis.reshape(-1)[kept], 0, 1).tolist(), weights[kept].tolist()


@dataclass(frozen=True)
class Outcome:
    """One kind by what shows. ``genotype``: alleles by locus, hets left out; ``carried``: (gene, chance of one copy, given the kind)."""

    kind: Kind
    genotype: dict[str, list[str]]
    carried: tuple[tuple[str, float], ...]


def outcomes(pairing: Pairing, most: int) -> list[Outcome]:
    """The likeliest kinds by what shows, at most ``most``, each with the recessives that it may carry unseen."""
    shown = ShownClasses(pairing)
    merged = shown.merged(pairing.expected)
    best = (-merged).argsort(axis=None, kind="stable")[:most]
    found = []
    for flat in best:
        if merged.flat[flat] > 0:
            kind = Kind(pairing, tuple(shown.chosen_at(int(flat))))
            found.append(Outcome(kind, shown.genotype_at(int(flat)), tuple(_carried(pairing, kind))))
    return found


def count_of_outcomes(pairing: Pairing) -> int:
    """How many kinds, by what shows, a pairing can give."""
    return int((ShownClasses(pairing).merged(pairing.expected) > 0).sum())


def having(pairing: Pairing, wanted: Mapping[str, int]) -> Kind | None:
    """The kind that has at least these copies of each gene, whatever else it has; ``None`` where the pairing lacks one of them."""
    if any(pairing.catalogue.genes[gene].locus not in pairing.group_of for gene in wanted):
        return None
    return Kind(pairing, tuple(_having(pairing, group, wanted) for group in pairing.groups))


def _having(pairing: Pairing, group: Group, wanted: Mapping[str, int]) -> Floats:
    found = np.ones(len(group.children))
    for gene, copies in wanted.items():
        locus = pairing.catalogue.genes[gene].locus
        if locus in group.loci:
            found = found * (group.copies_of(gene, locus) >= copies)
    return found


def _carried(pairing: Pairing, kind: Kind) -> list[tuple[str, float]]:
    """Recessives with one copy that does not show, with their chance in the kind; those that are certain first."""
    found = []
    for gene in _hidden_in(pairing, kind.chosen):
        entry = pairing.catalogue.genes[gene]
        g = pairing.group_of[entry.locus][0]
        group = pairing.groups[g]
        position = group.loci.index(entry.locus)
        one = np.array([1.0 if child[position] == (gene,) else 0.0 for child in group.children])
        narrowed = tuple(chosen * one if at == g else chosen for at, chosen in enumerate(kind.chosen))
        chance = Kind(pairing, narrowed).chance / kind.chance
        if chance > 0:
            found.append((gene, min(1.0, chance)))
    return sorted(found, key=lambda row: -row[1])


def _hidden_in(pairing: Pairing, chosen: Sequence[Floats]) -> list[str]:
    """Recessive genes that stand alone at their locus in some chosen state."""
    held: set[str] = set()
    for group, choice in zip(pairing.groups, chosen, strict=True):
        for child, taken in zip(group.children, choice, strict=True):
            if taken:
                held |= {genotype[0] for genotype in child if len(genotype) == 1}
    return [gene for gene in pairing.given_genes if gene in held and pairing.catalogue.genes[gene].is_recessive]
