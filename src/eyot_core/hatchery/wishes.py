"""What is wished of a hatchling, and how likely one of some eggs is so: genes, sex, how many genes, and what must not be there."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.inheritance import SEXES, Group
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.hatchery.luck import distinct, fewest_for, none_of
from eyot_core.parsing import Node

MOST_EGGS = 1000


@dataclass(frozen=True)
class Wish:
    """``genes``: at least so many copies of each; ``without``: genes of which no copy may be there; ``sex``: 0 female, 1 male,
    ``None`` either; ``at_least``: so many genes that show, whichever they are."""

    genes: tuple[tuple[str, int], ...] = ()
    without: tuple[str, ...] = ()
    sex: int | None = None
    at_least: int = 0


@dataclass(frozen=True)
class Wished:
    """A wish of one pairing."""

    pairing: Pairing
    wish: Wish

    @cached_property
    def by_hypothesis(self) -> Floats:
        """Chance that a living hatchling is as wished, under each hypothesis on the parents; the layout of all."""
        pairing, total = self.pairing, np.zeros(self.pairing.stated.shape)
        sexes = range(len(SEXES)) if self.wish.sex is None else [self.wish.sex]
        for sire, weight in enumerate(pairing.sire_weights):
            for sex in sexes:
                total = total + weight / 2 * pairing.to_all(self._enough(sire, sex), sire)
        return np.asarray(total * pairing.per_survivor)

    def _enough(self, sire: int, sex: int) -> Floats:
        """Chance of a child with all that is wanted and at least so many genes that show, by the parents' states."""
        wanted = self.wish.at_least
        by_count = [np.ones(1), *(np.zeros(1) for _ in range(wanted))]  # the last one counts all that are enough
        for group in self.pairing.groups:
            counts = np.minimum(self._shown_in(group), wanted)
            fits = self._fitting(group)
            steps = [
                (group.transmission[sire][sex] @ (fits * (counts == count))).reshape(-1) for count in range(wanted + 1)
            ]
            grown: list[Floats] = [np.zeros(by_count[0].size * steps[0].size) for _ in range(wanted + 1)]
            for before, chances in enumerate(by_count):
                for count, step in enumerate(steps):
                    place = min(wanted, before + count)
                    grown[place] = grown[place] + np.multiply.outer(chances, step).reshape(-1)
            by_count = grown
        return by_count[wanted]

    def _fitting(self, group: Group) -> Floats:
        fits = np.ones(len(group.children))
        for gene, copies in self.wish.genes:
            locus = self.pairing.catalogue.genes[gene].locus
            if locus in group.loci:
                fits = fits * (group.copies_of(gene, locus) >= copies)
        for gene in self.wish.without:
            locus = self.pairing.catalogue.genes[gene].locus
            if locus in group.loci:
                fits = fits * (group.copies_of(gene, locus) == 0)
        return fits

    def _shown_in(self, group: Group) -> np.typing.NDArray[np.int64]:
        """How many genes show in each child state: a single recessive does not."""
        genes = self.pairing.catalogue.genes
        return np.array(
            [
                sum(
                    len(set(alleles))
                    for alleles in child
                    if len(alleles) == 2 or (alleles and not genes[alleles[0]].is_recessive)
                )
                for child in group.children
            ],
            dtype=np.int64,
        )

    @cached_property
    def is_possible(self) -> bool:
        """Can the parents give all genes that are wanted?"""
        genes = self.pairing.catalogue.genes
        return self.pairing.can_hatch and all(genes[gene].locus in self.pairing.group_of for gene, _ in self.wish.genes)

    @property
    def chance(self) -> float:
        """Chance that one hatchling is as wished."""
        pairing = self.pairing.of_mean_parents
        return (
            as_chance((replace(self, pairing=pairing).by_hypothesis * pairing.prior).sum()) if self.is_possible else 0.0
        )

    def at_least_one(self, eggs: int) -> float:
        """Chance of at least one among so many siblings, who share their parents' state."""
        return as_chance(1 - none_of(*self._distinct, eggs)) if self.is_possible else 0.0

    def needed(self, wanted: float, most: int = 400) -> int | None:
        """The fewest hatchlings that give at least one with the chance ``wanted``; ``None`` if not even ``most`` do."""
        return fewest_for(*self._distinct, wanted, most) if self.is_possible else None

    @cached_property
    def _distinct(self) -> tuple[Floats, Floats]:
        """The wish's chances under the hypotheses on the parents that matter to it, and their weights."""
        pairing = self.pairing.apart_from(self._touched())
        by_hypothesis = replace(self, pairing=pairing).by_hypothesis
        return distinct(by_hypothesis.reshape(-1), pairing.prior.reshape(-1))

    def _touched(self) -> list[int]:
        """The groups whose children can differ in what is wished."""
        wishes_count = self.wish.at_least > 0
        return [
            g
            for g, group in enumerate(self.pairing.groups)
            if not self._fitting(group).all() or (wishes_count and len(set(self._shown_in(group).tolist())) > 1)
        ]


def wish_from(node: Node, catalogue: Catalogue) -> Wish:
    """The wish in a document: genes by their ids (a recessive in two copies, others in one) or with their copies."""
    node.object([], ["genes", "without", "sex", "at_least"])
    return Wish(
        genes=tuple(_gene(entry, catalogue) for entry in node.children("genes")),
        without=tuple(entry.choice(catalogue.genes, "a gene") for entry in node.children("without")),
        sex=SEXES.index(node.child("sex").choice(SEXES)) if node.has("sex") else None,
        at_least=node.child("at_least").whole(0, len(catalogue.genes)) if node.has("at_least") else 0,
    )


def _gene(entry: Node, catalogue: Catalogue) -> tuple[str, int]:
    if isinstance(entry.value, dict):
        entry.object(["gene"], ["gene", "copies"])
        gene = entry.child("gene").choice(catalogue.genes, "a gene")
        if entry.has("copies"):
            return gene, entry.child("copies").whole(1, 2)
    else:
        gene = entry.choice(catalogue.genes, "a gene")
    return gene, 2 if catalogue.genes[gene].is_recessive else 1


def wish_answer(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The JSON answer of ``wish``; :class:`~eyot_core.errors.InputError` where the document is wrong."""
    node.object(["dam", "sires", "wanted", "eggs"], ["dam", "sires", "wanted", "eggs", "catalogue"])
    wished = Wished(pairing_from(node, catalogue), wish_from(node.child("wanted"), catalogue))
    eggs = node.child("eggs").whole(0, MOST_EGGS)
    return {"chance": wished.chance, "at_least_one": wished.at_least_one(eggs)}
