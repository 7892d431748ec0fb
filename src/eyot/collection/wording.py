"""Statements on an animal's genes as keepers read them."""

from __future__ import annotations

from eyot_core.wording.names import Naming

from eyot.collection.models import CarriedGene

MAKERS = {"X": ", female maker", "Y": ", male maker"}
CHANCES = {"1": "", "2/3": "66 % ", "1/2": "50 % "}


def gene_statement(gene: CarriedGene, naming: Naming) -> str:
    """One gene of an animal in words, with how it is known; a keeper's own gene that the catalogue lacks by its own name."""
    name = naming.copies(gene.gene, gene.copies) if gene.gene in naming.catalogue.genes else gene.gene
    chance = CHANCES.get(gene.chance, f"{gene.chance} ")
    chance += "one copy or two: " if gene.two_chance else ""
    return f"{chance}{name} ({gene.get_known_display().lower()}{MAKERS.get(gene.on_chromosome, '')})"
