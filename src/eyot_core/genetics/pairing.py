"""A pairing made ready for computing: groups of loci, children's states, and the chance of each under each hypothesis.

A *group* is a locus, or two linked loci. Groups are independent given the parents' states, the sire and the sex; a
*hypothesis* is one state of the dam and of every sire in every group. Groups at which all parents are certain stand last,
and of these the ones that most looks speak of, so that sums and products run along memory.
Arrays over hypotheses come in two layouts:

- *of one sire*: axes dam and sire alternate, group by group, flattened: (D1·S1) · (D2·S2) · …
- *of all*: one axis for each parent and group with more than one state, dam first, then sire by sire.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import prod

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import Catalogue
from eyot_core.errors import InputError
from eyot_core.genetics.animals import Parent, parent_from
from eyot_core.genetics.inheritance import FEMALE, MALE, Group, group_of, grouped_loci
from eyot_core.genetics.tables import Floats, Marginals
from eyot_core.parsing import Node

MOST_CELLS = 20_000_000
MOST_HYPOTHESES = 300_000


@dataclass(frozen=True)
class Pairing:
    """A dam and her sires, ready for computing. Read one with :func:`pairing_from`."""

    catalogue: Catalogue
    dam: Parent
    sires: tuple[Parent, ...]
    groups: tuple[Group, ...]

    @cached_property
    def shape(self) -> tuple[int, ...]:
        """Number of child states in each group."""
        return tuple(len(group.children) for group in self.groups)

    @cached_property
    def sire_weights(self) -> Floats:
        """Chance of each sire before anything is seen."""
        weights = np.array([sire.weight for sire in self.sires])
        return np.asarray(weights / weights.sum())

    @cached_property
    def group_of(self) -> dict[str, tuple[int, int]]:
        """For each locus in play: its group, and its position in that group."""
        return {
            locus: (g, position) for g, group in enumerate(self.groups) for position, locus in enumerate(group.loci)
        }

    @cached_property
    def expected(self) -> Floats:
        """Chances of genotypes of one hatchling of which nothing is known, as the parents are stated; they sum to 1.

        All zero where nothing can hatch.
        """
        children = self.expected_of([FEMALE, MALE])
        total = children.sum()
        return children / total if total > 0 else children

    def expected_of(self, sexes: Sequence[int]) -> Floats:
        """Chances of the genotypes of one hatchling of which nothing is known that is of one of the sexes, a new array."""
        apart = self.of_mean_parents
        return apart.children_under(apart.prior * apart.per_survivor, range(len(self.sires)), sexes)

    @cached_property
    def of_mean_parents(self) -> Pairing:
        """The pairing with one mean parent at every group where that changes nothing for a single hatchling."""
        return self.apart_from([])

    def apart_from(self, told_apart: Iterable[int]) -> Pairing:
        """The same pairing with one mean parent in place of the many that it may be, at every group but ``told_apart``.

        Exact for whatever does not touch the other groups, and for one hatchling of which nothing is seen: a parent's
        states at one group say nothing of another, unless who survives hangs on them; such a group is left as it is.
        """
        kept = set(told_apart)
        return replace(
            self,
            groups=tuple(
                group if g in kept or group.is_certain or not group.survives_alike else group.as_mean()
                for g, group in enumerate(self.groups)
            ),
        )

    @cached_property
    def counting(self) -> dict[str, tuple[int, Floats]]:
        """For each gene that the pairing can give: its group, and which child states have 0, 1 and 2 copies, (3, states)."""
        counts = {}
        for gene in self.given_genes:
            g = self.group_of[self.catalogue.genes[gene].locus][0]
            copies = self.groups[g].copies_of(gene, self.catalogue.genes[gene].locus)
            counts[gene] = (g, np.stack([(copies == count).astype(np.float64) for count in range(3)]))
        return counts

    @cached_property
    def expected_sums(self) -> Marginals:
        """Sums of ``expected`` over groups."""
        return Marginals(self.expected)

    @cached_property
    def given_genes(self) -> list[str]:
        """The genes that a hatchling of this pairing can have, in the catalogue's order."""
        held: set[str] = set()
        for g, group in enumerate(self.groups):
            chances = self.expected_sums.of([g])
            living = (child for child, chance in zip(group.children, chances, strict=True) if chance > 0)
            held |= {allele for child in living for genotype in child for allele in genotype}
        return [gene for gene in self.catalogue.genes if gene in held]

    @cached_property
    def certain_from(self) -> int:
        """The group from which on every parent's state is certain."""
        return max((g + 1 for g, group in enumerate(self.groups) if not group.is_certain), default=0)

    def _certain(self, sire: int, sex: int) -> Floats:
        """Chances of the children of one sire and sex at the groups where the parents are certain, flat."""
        key = (sire, sex if self.has_sex_locus else FEMALE)
        if key not in self._certain_kept:
            certain = np.ones(1)
            for group in self.groups[self.certain_from :]:
                certain = np.multiply.outer(certain, group.transmission[sire][sex].reshape(-1)).reshape(-1)
            self._certain_kept[key] = certain
        return self._certain_kept[key]

    @cached_property
    def _certain_kept(self) -> dict[tuple[int, int], Floats]:
        return {}

    @cached_property
    def has_sex_locus(self) -> bool:
        """Does any gene in play tell sons from daughters?"""
        return any(group.on_sex_chromosome for group in self.groups)

    def combined(self, values: Floats, sire: int, sex: int) -> Floats:
        """Sums ``values`` over the children of one sire and sex: from an array over children to one over hypotheses (of one sire)."""
        certain = self._certain(sire, sex)
        sums = np.ascontiguousarray(values).reshape(-1, len(certain)) @ certain
        for group in self.groups[: self.certain_from]:
            chances = group.transmission[sire][sex]
            sums = sums.reshape(chances.shape[2], -1).T @ chances.reshape(-1, chances.shape[2]).T
        return np.asarray(sums.reshape(-1))

    def spread(self, weights: Floats, sire: int, sex: int) -> Floats:
        """The children of one sire and sex under weighted hypotheses: from an array over hypotheses (of one sire) to one over children."""
        spread = weights
        for group in self.groups[: self.certain_from]:
            chances = group.transmission[sire][sex]
            flat = chances.reshape(-1, chances.shape[2])
            spread = spread.reshape(flat.shape[0], -1).T @ flat
        return np.multiply.outer(spread.reshape(-1), self._certain(sire, sex)).reshape(self.shape)

    def to_all(self, values: Floats, sire: int) -> Floats:
        """From the layout of one sire to that of all (axes of other sires have length 1)."""
        interleaved = [size for group in self.groups for size in (len(group.dam), len(group.sires[sire]))]
        count = len(self.groups)
        moved = (
            values.reshape(interleaved).transpose([*range(0, 2 * count, 2), *range(1, 2 * count, 2)])
            if count
            else values
        )
        own = [len(group.sires[sire]) for group in self.groups if len(group.sires[sire]) > 1]
        before, after = self._axes_around(sire)
        return np.asarray(moved.reshape([*self._dam_axes, *[1] * before, *own, *[1] * after]))

    def to_sire(self, values: Floats, sire: int) -> Floats:
        """From the layout of all to that of one sire, summed over the states of the other sires."""
        before, after = self._axes_around(sire)
        own = sum(len(group.sires[sire]) > 1 for group in self.groups)
        start = len(self._dam_axes)
        others = (*range(start, start + before), *range(start + before + own, start + before + own + after))
        kept = values.sum(axis=others) if others else values
        sizes = [len(group.dam) for group in self.groups] + [len(group.sires[sire]) for group in self.groups]
        count = len(self.groups)
        order = [axis for g in range(count) for axis in (g, count + g)]
        return np.asarray(kept.reshape(sizes).transpose(order).reshape(-1))

    @cached_property
    def _dam_axes(self) -> list[int]:
        return [len(group.dam) for group in self.groups if len(group.dam) > 1]

    def _axes_around(self, sire: int) -> tuple[int, int]:
        counts = [sum(len(group.sires[s]) > 1 for group in self.groups) for s in range(len(self.sires))]
        return sum(counts[:sire]), sum(counts[sire + 1 :])

    @cached_property
    def axes(self) -> list[tuple[int, int]]:
        """For each axis of the layout of all: whose it is (-1 the dam, else the sire) and which group."""
        dam = [(-1, g) for g, group in enumerate(self.groups) if len(group.dam) > 1]
        return dam + [
            (s, g) for s in range(len(self.sires)) for g, group in enumerate(self.groups) if len(group.sires[s]) > 1
        ]

    @property
    def hypotheses(self) -> int:
        """How many different sets of parents the pairing may be of: hypotheses in the layout of all."""
        return prod(len(group.dam) * prod(len(sire) for sire in group.sires) for group in self.groups)

    def check_hypotheses(self) -> None:
        """InputError if there are too many to be told apart."""
        if self.hypotheses > MOST_HYPOTHESES:
            raise InputError(
                f"the parents of this pairing may be {self.hypotheses:,} different pairs by what is possible of them; at most "
                f"{MOST_HYPOTHESES:,} can be told apart. Leave out the possible genes that matter least, or name fewer sires"
            )

    @cached_property
    def stated(self) -> Floats:
        """Chance of each hypothesis as the parents are stated, in the layout of all; InputError if there are too many."""
        self.check_hypotheses()
        likelihood = np.ones([1] * len(self.axes))
        for axis, (whose, g) in enumerate(self.axes):
            chances = self.groups[g].dam if whose < 0 else self.groups[g].sires[whose]
            likelihood = likelihood * chances.reshape([-1 if other == axis else 1 for other in range(len(self.axes))])
        return likelihood

    @cached_property
    def survival(self) -> Floats:
        """Chance that an egg's animal reaches hatching, under each hypothesis: the layout of all, with axes of length 1 at the
        groups whose states do not matter to it."""
        apart = self.of_mean_parents
        ones, total = np.ones(self.shape), np.zeros(apart.stated.shape)
        for s, weight in enumerate(self.sire_weights):
            for sex in (FEMALE, MALE):
                total = total + weight / 2 * apart.to_all(apart.combined(ones, s, sex), s)
        sizes: dict[tuple[int, int], int] = dict(zip(apart.axes, total.shape, strict=True))
        return np.asarray(total.reshape([sizes.get(axis, 1) for axis in self.axes]))

    @cached_property
    def prior(self) -> Floats:
        """Chance of each hypothesis, those struck out under which nothing can hatch; all zero if none is left."""
        kept = np.where(self.survival > 0, self.stated, 0.0)
        total = kept.sum()
        return np.asarray(kept / total) if total > 0 else kept

    @cached_property
    def per_survivor(self) -> Floats:
        """1 / survival, 0 where nothing can hatch, in the shape of ``survival``: turns chances of eggs into chances of hatchlings."""
        return np.divide(1.0, self.survival, out=np.zeros_like(self.survival), where=self.survival > 0)

    @property
    def can_hatch(self) -> bool:
        """Is there any hypothesis under which something hatches?"""
        return bool(self.of_mean_parents.prior.sum() > 0)

    @property
    def loss(self) -> float:
        """Share of animals lost before hatching, over the hypotheses that are left; 1 if none is."""
        apart = self.of_mean_parents
        return float((apart.prior * (1 - apart.survival)).sum()) if self.can_hatch else 1.0

    def children_under(self, weights: Floats, sires: Sequence[int], sexes: Sequence[int]) -> Floats:
        """Weighted children of the given sires and sexes, a new array; ``weights`` in the layout of all, over hypotheses of
        living eggs."""
        total = None
        for s in sires:
            if self.sire_weights[s] > 0:
                own = self._spread_over(self.to_sire(weights, s) * self.sire_weights[s] / 2, s, sexes)
                total = own if total is None else total + own
        return np.zeros(self.shape) if total is None else total

    def _spread_over(self, own: Floats, sire: int, sexes: Sequence[int]) -> Floats:
        if not self.has_sex_locus:
            return self.spread(len(sexes) * own, sire, FEMALE)
        return np.asarray(sum(self.spread(own, sire, sex) for sex in sexes))

    def genotype_at(self, index: int) -> dict[str, list[str]]:
        """The genotype at a flat index of an array over children: the non-wild alleles by locus."""
        return self.genotypes_at(np.array([index]))[0]

    def genotypes_at(self, indices: NDArray[np.intp]) -> list[dict[str, list[str]]]:
        """The genotypes at flat indices of an array over children: the non-wild alleles by locus."""
        genotypes: list[dict[str, list[str]]] = [{} for _ in indices]
        places = np.unravel_index(indices, self.shape) if self.groups else ()
        for group, states in zip(self.groups, places, strict=True):
            held = [
                [(locus, alleles) for locus, alleles in zip(group.loci, child, strict=True) if alleles]
                for child in group.children
            ]
            for genotype, state in zip(genotypes, states.tolist(), strict=True):
                for locus, alleles in held[state]:
                    genotype[locus] = list(alleles)
        return genotypes


def pairing_from(node: Node, catalogue: Catalogue) -> Pairing:
    """The pairing in a document with ``dam`` and ``sires``; :class:`~eyot_core.errors.InputError` where it is wrong."""
    sires = node.child("sires").entries()
    if node.value["dam"] is None:
        if sires:
            raise node.child("dam").wrong(
                "a pairing with sires needs a dam; leave both empty for animals of unknown parents"
            )
        raise node.child("dam").wrong("a cross needs its parents; name the dam and at least one sire")
    dam = parent_from(node.child("dam"), catalogue, is_sire=False)
    if not sires:
        raise node.child("sires").wrong("sires must hold at least one sire")
    return pairing_of(
        catalogue, dam, [parent_from(sire, catalogue, is_sire=True) for sire in sires], node.child("sires")
    )


def pairing_of(catalogue: Catalogue, dam: Parent, sires: Sequence[Parent], place: Node | None = None) -> Pairing:
    """A pairing of parents that were read before."""
    at = place or Node(None, "sires")
    if sum(sire.weight for sire in sires) <= 0:
        raise at.wrong("at least one sire must have a weight above 0")
    parents = [dam, *sires]
    groups = []
    for loci in grouped_loci(catalogue):
        if any(parent.can_carry(locus) for parent in parents for locus in loci):
            groups.append(group_of(catalogue, loci, dam, sires))
    cells = prod(len(group.children) for group in groups)
    if cells > MOST_CELLS:
        raise InputError(f"this pairing has {cells} possible genotypes; at most {MOST_CELLS} can be worked through")
    groups.sort(key=lambda group: (group.is_certain, sum(catalogue.looks_at[locus] for locus in group.loci)))
    return Pairing(catalogue, dam, tuple(sires), tuple(groups))
