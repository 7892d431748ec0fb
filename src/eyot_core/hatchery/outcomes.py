"""What a pairing can give, by what shows, and how likely at least one of some eggs is of a kind.

A *kind* is chosen group by group, so that its chance under each hypothesis on the parents is a product; no genotype is counted out.

Source: the complement rule, 1 − (1 − p)ⁿ, under each hypothesis on the parents, then the mean over them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from eyot_core.genetics.inheritance import FEMALE, MALE, Group
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.shown import ShownClasses
from eyot_core.genetics.tables import Floats
from eyot_core.hatchery.luck import distinct, fewest_for, none_of


@dataclass(frozen=True)
class Kind:
    """A set of child states: ``chosen[g]`` holds 1 for those of group g that belong to it, else 0. ``sexes``: which count."""

    pairing: Pairing
    chosen: tuple[Floats, ...]
    sexes: tuple[int, ...] = (FEMALE, MALE)

    @cached_property
    def by_hypothesis(self) -> Floats:
        """Chance that a hatchling is of the kind, under each hypothesis on the parents; the layout of all."""
        pairing, total = self.pairing, np.zeros(self.pairing.stated.shape)
        for sire, weight in enumerate(pairing.sire_weights):
            for sex in self.sexes:
                chances = np.ones(1)
                for group, chosen in zip(pairing.groups, self.chosen, strict=True):
                    chances = np.multiply.outer(chances, (group.transmission[sire][sex] @ chosen).reshape(-1)).reshape(
                        -1
                    )
                total = total + weight / 2 * pairing.to_all(chances, sire)
        return np.asarray(total * pairing.per_survivor)

    @cached_property
    def chance(self) -> float:
        """Chance that one hatchling is of the kind."""
        pairing = self.pairing.of_mean_parents
        return float((replace(self, pairing=pairing).by_hypothesis * pairing.prior).sum())

    def at_least_one(self, hatchlings: int) -> float:
        """Chance of at least one among siblings, who share their parents' state."""
        return 1 - none_of(*self._distinct, hatchlings)

    def needed(self, wanted: float, most: int = 400) -> int | None:
        """The fewest hatchlings that give at least one with the chance ``wanted``; ``None`` if not even ``most`` do."""
        return fewest_for(*self._distinct, wanted, most)

    @cached_property
    def _distinct(self) -> tuple[Floats, Floats]:
        """The kind's chances under the hypotheses on the parents that matter to it, and their weights."""
        pairing = self.pairing.apart_from(g for g, chosen in enumerate(self.chosen) if not chosen.all())
        by_hypothesis = replace(self, pairing=pairing).by_hypothesis
        return distinct(by_hypothesis.reshape(-1), pairing.prior.reshape(-1))


@dataclass(frozen=True)
class Outcome:
    """One kind by what shows. ``genotype``: alleles by locus, hets left out; ``carried``: (gene, chance of one copy, given the kind)."""

    kind: Kind
    genotype: dict[str, list[str]]
    carried: tuple[tuple[str, float], ...]


ORDERS = ("likely", "genes", "wanted")


def outcomes(
    pairing: Pairing,
    most: int,
    *,
    order: str = "likely",
    gene: str = "",
    sex: int | None = None,
    wanted: Mapping[str, int] | None = None,
) -> list[Outcome]:
    """Kinds by what shows, at most ``most``, each with the recessives that it may carry unseen.

    ``order``: the likeliest first, those with most genes, or those with most of the ``wanted`` genes; of equals the likelier, and
    of equally likely ones that with more genes. ``gene``: only kinds that show it; ``sex``: only hatchlings of that sex.
    """
    if order not in ORDERS:
        raise ValueError(f"order must be one of {', '.join(ORDERS)}, got {order!r}")
    shown, sexes = ShownClasses(pairing), (FEMALE, MALE) if sex is None else (sex,)
    merged = shown.merged(pairing.expected_of(sexes))
    if gene:
        merged = merged * (shown.counted(lambda name: name == gene) > 0)
    genes = shown.counted(lambda name: True)
    first = (
        shown.counted(lambda name: name in (wanted or {}))
        if order == "wanted"
        else genes
        if order == "genes"
        else 0 * genes
    )
    ranked = np.lexsort([-genes.reshape(-1), -np.round(merged, 12).reshape(-1), -first.reshape(-1)])
    rows: list[Outcome] = []
    for flat in (int(place) for place in ranked if merged.flat[place] > 0):
        if len(rows) == most:
            break
        kind = Kind(pairing, tuple(shown.chosen_at(flat)), sexes)
        rows.append(Outcome(kind, shown.genotype_at(flat), tuple(_carried(pairing, kind))))
    return rows


def count_of_outcomes(pairing: Pairing) -> int:
    """How many kinds, by what shows, a pairing can give."""
    return int((ShownClasses(pairing).merged(pairing.expected) > 0).sum())


def having(pairing: Pairing, wanted: Mapping[str, int]) -> Kind | None:
    """The kind that has at least these copies of each gene, whatever else it has; ``None`` where the pairing lacks one of them."""
    if any(pairing.catalogue.genes[gene].locus not in pairing.group_of for gene in wanted):
        return None
    return Kind(pairing, tuple(_having(pairing, group, wanted) for group in pairing.groups))


def _having(pairing: Pairing, group: Group, wanted: Mapping[str, int]) -> Floats:
    fits = np.ones(len(group.children))
    for gene, copies in wanted.items():
        locus = pairing.catalogue.genes[gene].locus
        if locus in group.loci:
            fits = fits * (group.copies_of(gene, locus) >= copies)
    return fits


def _carried(pairing: Pairing, kind: Kind) -> list[tuple[str, float]]:
    """Recessives with one copy that does not show, with their chance in the kind; those that are certain first."""
    carried = []
    for gene in _hidden_in(pairing, kind.chosen):
        entry = pairing.catalogue.genes[gene]
        g = pairing.group_of[entry.locus][0]
        group = pairing.groups[g]
        position = group.loci.index(entry.locus)
        one = np.array([1.0 if child[position] == (gene,) else 0.0 for child in group.children])
        narrowed = tuple(chosen * one if at == g else chosen for at, chosen in enumerate(kind.chosen))
        chance = Kind(pairing, narrowed, kind.sexes).chance / kind.chance
        if chance > 0:
            carried.append((gene, min(1.0, chance)))
    return sorted(carried, key=lambda row: -row[1])


def _hidden_in(pairing: Pairing, chosen: Sequence[Floats]) -> list[str]:
    """Recessive genes that stand alone at their locus in some chosen state."""
    held: set[str] = set()
    for group, choice in zip(pairing.groups, chosen, strict=True):
        for child, taken in zip(group.children, choice, strict=True):
            if taken:
                held |= {genotype[0] for genotype in child if len(genotype) == 1}
    return [gene for gene in pairing.given_genes if gene in held and pairing.catalogue.genes[gene].is_recessive]
