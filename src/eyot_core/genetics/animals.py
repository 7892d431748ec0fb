"""What is known of a parent, as distributions over its states at each locus or linked pair.

A *state* of a single locus is a pair of alleles (``None`` is the wild type). At a sex locus of a sire the first stands on
the X, the second on the Y. A state of a linked pair is a pair of haplotypes, each a pair of alleles.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import product
from typing import Any

from eyot_core.catalogue.model import Catalogue
from eyot_core.parsing import Node, shown

Allele = str | None
Distribution = dict[Any, float]
SUM_TOLERANCE = 1e-9


@dataclass(frozen=True)
class GeneEntry:
    """One statement on one gene of a parent: chances of 0, 1 and 2 copies; for a sire's sex locus, chance of X."""

    gene: str
    copies: tuple[float, float, float]
    on_x: float = 0.5


@dataclass(frozen=True)
class Parent:
    """A dam or a sire. ``draws[locus]``: chances of each possible multiset of alleles, as read from its entries."""

    is_sire: bool
    states: dict[str, Distribution]
    phase: dict[frozenset[str], bool] = field(default_factory=dict)
    weight: float = 1.0

    def states_at(self, locus: str) -> Distribution:
        """Chances of the states at one locus; wild type where nothing is said."""
        return self.states.get(locus, {(None, None): 1.0})

    def can_carry(self, locus: str) -> bool:
        """Has it a non-wild allele at the locus with any chance?"""
        return any(allele for state in self.states_at(locus) for allele in state)

    @property
    def may_carry(self) -> frozenset[str]:
        """The genes that it has with any chance."""
        return frozenset(allele for states in self.states.values() for state in states for allele in state if allele)


def parent_from(node: Node, catalogue: Catalogue, *, is_sire: bool) -> Parent:
    """The parent in a document; :class:`~eyot_core.errors.InputError` with the place of the first mistake."""
    node.object([], ["genes", "phase", "weight"] if is_sire else ["genes", "phase"])
    entries: dict[str, list[tuple[Node, GeneEntry]]] = defaultdict(list)
    for item in node.children("genes"):
        entry = _entry(item, catalogue, is_sire)
        entries[catalogue.genes[entry.gene].locus].append((item, entry))
    states = {}
    for locus, alleles in entries.items():
        on_sex = catalogue.loci[locus].on_sex_chromosome
        states[locus] = _states([entry for _, entry in alleles], arranged=is_sire and on_sex)
        if not states[locus]:
            raise alleles[-1][0].wrong(
                f"no animal can be so: these entries leave nothing possible at the locus {shown(locus)}; it has room for "
                "two alleles, and a sire's sex locus for one on the X and one on the Y"
            )
    return Parent(
        is_sire=is_sire,
        states=states,
        phase=_phase(node, catalogue),
        weight=node.child("weight").number(0) if node.has("weight") else 1.0,
    )


def _entry(node: Node, catalogue: Catalogue, is_sire: bool) -> GeneEntry:
    node.object(["gene", "copies"], ["chance", "on"])
    gene = catalogue.genes[node.child("gene").choice(catalogue.genes, "gene")]
    chance = node.child("chance").chance() if node.has("chance") else 1.0
    one, two = _copies(node.child("copies"))
    on_x = 0.5
    if node.has("on"):
        place = node.child("on")
        if not is_sire:
            raise place.wrong("'on' is for a sire; a dam has two X")
        if not catalogue.loci[gene.locus].on_sex_chromosome:
            raise place.wrong(f"'on' is for sex loci; {shown(gene.locus)} is autosomal")
        on_x = _on_x(place)
    return GeneEntry(gene.id, (max(0.0, 1 - chance * (one + two)), chance * one, chance * two), on_x)


def _copies(node: Node) -> tuple[float, float]:
    if not isinstance(node.value, dict):
        if isinstance(node.value, bool) or node.value not in (1, 2):
            raise node.wrong(f"copies must be 1 or 2, or chances of 0, 1 and 2, got {shown(node.value)}")
        return (1.0, 0.0) if node.value == 1 else (0.0, 1.0)
    node.object([], ["0", "1", "2"])
    chances = {key: value.chance() for key, value in node.items()}
    if sum(chances.values()) > 1 + SUM_TOLERANCE:
        raise node.wrong(f"the chances of 0, 1 and 2 copies sum to {sum(chances.values()):g}; at most 1 is allowed")
    return chances.get("1", 0.0), chances.get("2", 0.0)


def _on_x(node: Node) -> float:
    if not isinstance(node.value, dict):
        return 1.0 if node.choice(["X", "Y"]) == "X" else 0.0
    node.object([], ["X", "Y"])
    chances = {key: value.chance() for key, value in node.items()}
    if abs(sum(chances.values()) - 1) > SUM_TOLERANCE:
        raise node.wrong(f"the chances of X and Y must sum to 1, they sum to {sum(chances.values()):g}")
    return chances.get("X", 0.0)


def _phase(node: Node, catalogue: Catalogue) -> dict[frozenset[str], bool]:
    phases: dict[frozenset[str], bool] = {}
    for item in node.children("phase"):
        item.object(["loci", "together"], [])
        names = item.child("loci").entries()
        if len(names) != 2:
            raise item.child("loci").wrong(f"loci must name two loci, got {len(names)}")
        pair = frozenset(name.choice(catalogue.loci, "a locus") for name in names)
        linkage = catalogue.linkage_of.get(names[0].value)
        if linkage is None or frozenset(linkage.loci) != pair:
            raise item.child("loci").wrong(
                f"{shown(names[0].value)} and {shown(names[1].value)} are not linked, so they have no phase"
            )
        if pair in phases:
            raise item.child("loci").wrong("the phase of these two loci is given twice")
        phases[pair] = item.child("together").boolean()
    return phases


def _states(entries: list[GeneEntry], *, arranged: bool) -> Distribution:
    """Independent draws of the entries; more than two alleles are struck out and the rest rescaled."""
    states: Distribution = defaultdict(float)
    for counts in product(range(3), repeat=len(entries)):
        chance = 1.0
        for count, entry in zip(counts, entries, strict=True):
            chance *= entry.copies[count]
        alleles = [entry for count, entry in zip(counts, entries, strict=True) for _ in range(count)]
        if chance > 0 and len(alleles) <= 2:
            for state, share in _arrangements(alleles, arranged=arranged).items():
                states[state] += chance * share
    total = sum(states.values())
    return {state: chance / total for state, chance in states.items() if chance > 0} if total > 0 else {}


def _arrangements(alleles: list[GeneEntry], *, arranged: bool) -> Distribution:
    """How the drawn alleles lie: sorted where it does not matter, else by chromosome (X, Y)."""
    names = sorted(entry.gene for entry in alleles)
    if not arranged or not alleles or (len(alleles) == 2 and names[0] == names[1]):
        padded: list[Allele] = [*names, None, None][:2]
        return {(padded[0], padded[1]): 1.0}
    if len(alleles) == 1:
        one = alleles[0]
        return {(one.gene, None): one.on_x, (None, one.gene): 1 - one.on_x}
    first, second = alleles
    weights = {
        (first.gene, second.gene): first.on_x * (1 - second.on_x),
        (second.gene, first.gene): second.on_x * (1 - first.on_x),
    }
    total = sum(weights.values())
    return {state: weight / total for state, weight in weights.items()} if total > 0 else {}


def linked_states(parent: Parent, loci: tuple[str, str]) -> Distribution:
    """Chances of the haplotype pairs at two linked loci, phases weighed by what the animal says of them."""
    states: Distribution = defaultdict(float)
    for (first, chance_first), (second, chance_second) in product(
        parent.states_at(loci[0]).items(), parent.states_at(loci[1]).items()
    ):
        chance = chance_first * chance_second
        for state, share in _phases(first, second, parent.phase.get(frozenset(loci))).items():
            states[state] += chance * share
    return dict(states)


def _phases(first: tuple[Allele, Allele], second: tuple[Allele, Allele], together: bool | None) -> Mapping[Any, float]:
    straight = ((first[0], second[0]), (first[1], second[1]))
    crossed = ((first[0], second[1]), (first[1], second[0]))
    if first[0] == first[1] or second[0] == second[1]:
        return {straight: 1.0}
    single = first[1] is None and second[1] is None
    share = 0.5 if together is None or not single else float(together)
    return {straight: share, crossed: 1 - share}
