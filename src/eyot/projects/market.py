"""Animals that nobody here has but that could be bought: for a goal, one for each of its genes, of either sex."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from eyot_core.catalogue import Catalogue
from eyot_core.generations.genomes import cannot_be

from eyot.projects.reckoning import Stock, bought_stock

SEXES = ("male", "female")


def market_for(catalogue: Catalogue, goal: Mapping[str, int], missing: Sequence[str]) -> list[Stock]:
    """What could be bought: with one gene of the goal, a recessive in both copies if the goal has it so. Where nobody here can have some
    genes, with all of these, alone or with one more."""
    sets = [[*missing, gene] for gene in goal if gene not in missing] + ([[*missing]] if missing else [])
    stock: list[Stock] = []
    for genes in sets:
        copies = {gene: goal[gene] if catalogue.genes[gene].is_recessive else 1 for gene in genes}
        if not cannot_be(catalogue, copies):
            entries = [{"gene": gene, "copies": count} for gene, count in copies.items()]
            for sex in SEXES:
                stock.append(bought_stock(catalogue, f"buy{len(stock) + 1}", {"genes": entries, "sex": sex}))
    return stock
