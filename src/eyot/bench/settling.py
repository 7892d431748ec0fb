"""What settles a doubt between combinations where looks do not, and what a mistake costs; in sentences.

Breeding follows from the rules of inheritance; whether a DNA test is offered, and which genes are costly to mistake, stands
in the catalogue.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from eyot_core.catalogue.model import Catalogue
from eyot_core.identify.compare import test_partner
from eyot_core.wording.names import Naming

Copies = Mapping[str, int]
TELLS = 0.5


def differing_genes(candidates: Sequence[Copies]) -> list[str]:
    """The genes that not all candidates have in the same number of copies, by id.

    >>> differing_genes([{"pastel": 1, "fire": 1}, {"pastel": 2, "fire": 1}])
    ['pastel']
    """
    return sorted({gene for one in candidates for gene in one if len({other.get(gene, 0) for other in candidates}) > 1})


def what_settles(catalogue: Catalogue, candidates: Sequence[Copies]) -> list[str]:
    """Breeding and DNA tests that tell the candidates apart, a sentence each."""
    differing = differing_genes(candidates)
    sentences = [
        words for gene in differing for words in _of_gene(catalogue, gene, {one.get(gene, 0) for one in candidates})
    ]
    loci = {catalogue.genes[gene].locus for gene in differing}
    if len(candidates) == 2 and len(differing) == 2 and len(loci) == 1:
        sentences += _of_alleles(catalogue, loci.pop(), *differing)
    return sentences


def _of_gene(catalogue: Catalogue, gene: str, copies: set[int]) -> list[str]:
    naming, entry = Naming(catalogue), catalogue.genes[gene]
    name, sentences = naming.gene(gene), []
    if {1, 2} <= copies and entry.is_recessive:
        sentences.append(f"{name}: a visual gives its gene to every baby, a carrier to half of them.")
    elif {1, 2} <= copies:
        sentences.append(
            f"{name}: two copies give one to every baby. One baby without it ends the claim; six to eight with it make "
            "two copies likely (a single does that once in 64 to 256)."
        )
    elif entry.is_recessive and 1 in copies:
        sentences.append(f"{name}: a carrier paired with a visual gives visuals to half; one visual proves it.")
    if gene in catalogue.tested_genes:
        sentences.append(f"{name}: DNA test of a shed skin: {naming.text(gene, 'dna_test')}.")
    return sentences


def _of_alleles(catalogue: Catalogue, locus: str, first: str, second: str) -> list[str]:
    naming = Naming(catalogue)
    names = f"{naming.gene(first)} and {naming.gene(second)}"
    sentences = [f"{names} sit at one locus: of a parent that has both, every baby gets one or the other."]
    partner = test_partner(catalogue, locus, first, second)
    if partner and partner[1] > TELLS:
        sentences.append(
            f"Test breeding: with {naming.gene(partner[0])}, the babies that get both alleles look most different."
        )
    return sentences


def cost_of_a_mistake(catalogue: Catalogue, candidates: Sequence[Copies]) -> str:
    """How much a wrong choice between the candidates costs, and why."""
    differing, entries = differing_genes(candidates), {entry["id"]: entry for entry in catalogue.document["genes"]}
    costly = [gene for gene in differing if entries[gene].get("costly")]
    if costly:
        return f"high: {Naming(catalogue).gene(costly[0])} matters for welfare and for pairings that must not be made."
    if any(catalogue.genes[gene].is_recessive for gene in differing):
        return "high: a recessive claimed wrongly, as visual or as het, costs years."
    if len({catalogue.genes[gene].locus for gene in differing}) == 1 and len(differing) > 1:
        return "medium: alleles of one locus; a pairing planned on the wrong one gives other crosses than hoped."
    return "medium: a wrong label; a pairing gives fewer morphs than hoped."
