"""Which pairings no plan may propose: those of which some young are known to die or to suffer of what both parents give.

What an animal may carry counts, not what it shows: of young that were not asked about a gene nobody knows it.

Source: the catalogue's viabilities of two copies, and its cautions (genes that must not meet, dams that must not be bred).
"""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass

from eyot_core.catalogue.model import Catalogue


@dataclass(frozen=True)
class Harm:
    """``doubles``: genes of which two copies do not all live; ``together``: what must not meet in one animal, with the copies that do;
    ``dams``: genes whose females are not bred."""

    doubles: frozenset[str]
    together: tuple[Mapping[str, int], ...]
    dams: frozenset[str]

    @classmethod
    def of(cls, catalogue: Catalogue) -> Harm:
        """As a catalogue has it."""
        rows = catalogue.document.get("cautions", [])
        return cls(
            deadly_doubles(catalogue),
            tuple(row["when"] for row in rows if row.get("when")),
            frozenset(gene for row in rows for gene in row.get("dam", [])),
        )

    def forbids(self, dam: Set[str], sire: Set[str]) -> bool:
        """May a pair not be brought together? ``dam``, ``sire``: the genes that each may carry."""
        both, either = dam & sire, dam | sire
        return (
            bool(dam & self.dams or both & self.doubles)
            or any(all(gene in (both if copies > 1 else either) for gene, copies in one.items()) for one in self.together)
        )  # fmt: skip

    def in_goal(self, genes: Mapping[str, int]) -> list[str]:
        """Genes of a goal that only a pairing leads to which is forbidden."""
        found = {gene for gene, copies in genes.items() if copies > 1 and gene in self.doubles}
        for one in self.together:
            if all(genes.get(gene, 0) >= copies for gene, copies in one.items()):
                found |= {*one}
        return sorted(found)


def deadly_doubles(catalogue: Catalogue) -> frozenset[str]:
    """Genes of which animals with two copies do not all live."""
    return frozenset(gene.id for gene in catalogue.genes.values() if gene.viability[2] < 1)
