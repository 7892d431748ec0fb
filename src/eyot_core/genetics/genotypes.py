"""Genotypes as documents give them: for each locus its non-wild alleles, as in the answers of ``cross``."""

from __future__ import annotations

from eyot_core.catalogue.model import Catalogue
from eyot_core.parsing import Node

Alleles = dict[str, list[str]]


def genotype_from(node: Node, catalogue: Catalogue) -> Alleles:
    """The genotype in a document; :class:`~eyot_core.errors.InputError` with the place of the first mistake."""
    genotype: Alleles = {}
    for locus, entry in node.items():
        Node(locus, entry.at).choice(catalogue.loci, "a locus")
        alleles = entry.entries()
        if not 1 <= len(alleles) <= 2:
            raise entry.wrong(f"a locus has one or two alleles that are not wild, got {len(alleles)}")
        known = [gene.id for gene in catalogue.genes_at(locus)]
        genotype[locus] = sorted(allele.choice(known, f"an allele of {locus}") for allele in alleles)
    return genotype


def genotype_of(catalogue: Catalogue, copies: dict[str, int]) -> Alleles:
    """The genotype with so many copies of each gene; ValueError where a locus would need more than two alleles.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> genotype_of(builtin_catalogue(), {"pastel": 2, "fire": 1})
    {'pas': ['pastel', 'pastel'], 'fire': ['fire']}
    """
    genotype: Alleles = {}
    for gene, count in copies.items():
        genotype.setdefault(catalogue.genes[gene].locus, []).extend([gene] * count)
    for locus, alleles in genotype.items():
        if len(alleles) > 2:
            raise ValueError(f"the locus {locus} has room for two alleles, got {', '.join(alleles)}")
    return {locus: sorted(alleles) for locus, alleles in genotype.items()}
