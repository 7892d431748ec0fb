"""Names of genes and combinations, from the catalogue's words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from eyot_core.catalogue.model import Catalogue, Gene

Genotype = Mapping[str, Sequence[str]]


class Naming:
    """The words of one catalogue for genes, their copies, and their combinations."""

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self._entries = {entry["id"]: entry for entry in catalogue.document.get("genes", [])}

    def gene(self, gene: str) -> str:
        """The gene's name; its id if the catalogue gives none."""
        return str(self._entries.get(gene, {}).get("name", gene))

    def text(self, gene: str, key: str) -> str:
        """A text of the gene's entry (``welfare``, ``ages`` …), empty if there is none."""
        return str(self._entries.get(gene, {}).get(key, ""))

    def copies(self, gene: str, count: int) -> str:
        """A gene in one or two copies, as labels say it."""
        name, entry = self.gene(gene), self.catalogue.genes[gene]
        if entry.is_recessive:
            return name if count == 2 else f"het {name}"
        return name if count == 1 else self._two_copies(gene)

    def _two_copies(self, gene: str) -> str:
        given = self.text(gene, "two_copies")
        return given[0].upper() + given[1:] if given else f"Super {self.gene(gene)}"

    @cached_property
    def _trade_names(self) -> dict[frozenset[tuple[str, int]], str]:
        return {frozenset(entry["genes"].items()): entry["name"] for entry in self.catalogue.document.get("names", [])}

    def trade_name(self, genotype: Genotype) -> str:
        """The trade name of exactly what shows in this genotype, empty if there is none."""
        shown = {
            gene: count
            for gene, count in counted(genotype).items()
            if not (self.catalogue.genes[gene].is_recessive and count == 1)
        }
        return self._trade_names.get(frozenset(shown.items()), "")

    def largest_trade_name(self, shown: Mapping[str, int]) -> tuple[str, tuple[str, ...]] | None:
        """The trade name of most of the genes that show, with these genes; the first of equals; ``None`` where none fits."""
        held = set(shown.items())
        fitting = [(genes, name) for genes, name in self._trade_names.items() if genes <= held]
        if not fitting:
            return None
        genes, name = max(fitting, key=lambda row: len(row[0]))
        return name, tuple(gene for gene, _ in genes)

    def label(self, genotype: Genotype) -> str:
        """A genotype as breeders write it: what shows first, recessives after it, hets last; "Normal" if nothing is there."""
        counts = counted(genotype)
        ordered = sorted(
            counts,
            key=lambda gene: (
                self._place(self.catalogue.genes[gene], counts[gene]),
                list(self.catalogue.genes).index(gene),
            ),
        )
        return " ".join(self.copies(gene, counts[gene]) for gene in ordered) or "Normal"

    @staticmethod
    def _place(gene: Gene, count: int) -> int:
        return 0 if not gene.is_recessive else 1 if count == 2 else 2


def counted(genotype: Genotype) -> dict[str, int]:
    """Copies of each gene in a genotype.

    >>> counted({"pie": ["piebald", "piebald"], "bel": ["mojave"]})
    {'piebald': 2, 'mojave': 1}
    """
    return {gene: list(alleles).count(gene) for alleles in genotype.values() for gene in alleles}
