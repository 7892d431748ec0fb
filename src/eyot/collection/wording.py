"""Statements on an animal's genes as keepers read them."""

from __future__ import annotations

from functools import lru_cache

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.names import Naming

from eyot.collection.models import CarriedGene

MAKERS = {"X": ", female maker", "Y": ", male maker"}
CHANCES = {"1": "", "2/3": "66 % ", "1/2": "50 % "}


@lru_cache(maxsize=1)
def naming() -> Naming:
    """The words of the catalogue."""
    return Naming(builtin_catalogue())


def gene_statement(gene: CarriedGene) -> str:
    """One gene of an animal in words, with how it is known; a keeper's own gene that the catalogue lacks by its own name."""
    name = naming().copies(gene.gene, gene.copies) if gene.gene in naming().catalogue.genes else gene.gene
    chance = CHANCES.get(gene.chance, f"{gene.chance} ")
    return f"{chance}{name} ({gene.get_known_display().lower()}{MAKERS.get(gene.on_chromosome, '')})"
