"""Animals made up for practice: parents, what they can give, and one of their young with its looks.

Looks are drawn from the model as they are, the odd ones too: only so is what a picture can tell exactly known.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.generations.harm import Harm, deadly_doubles
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.identify.looks import drawn_looks
from eyot_core.parsing import Node

LEAST_GENES, MOST_GENES = 2, 4
LEAST_WEIGHT, BOTH_HAVE_IT = 0.15, 0.15
Genes = list[dict[str, Any]]
Looks = dict[str, str]


@dataclass(frozen=True)
class MadeUp:
    """One young animal: its parents' genes, as in a pairing, its own genotype, and the looks that it shows at a stage."""

    dam: Genes
    sire: Genes
    genotype: dict[str, list[str]]
    stage: str
    looks: Looks


def made_up(
    catalogue: Catalogue,
    random: np.random.Generator,
    stage: str,
    hard: Mapping[str, float] | None = None,
    company: Mapping[frozenset[str], float] | None = None,
) -> MadeUp:
    """An animal whose parents can give it two to four genes that show. ``hard``: genes that come oftener, by so many times; ``company``:
    two genes that come oftener together."""
    genes = _chosen(catalogue, random, hard or {}, company or {})
    dam, sire = _shared_out(catalogue, genes, random)
    pairing = pairing_of_two(catalogue, dam, sire)
    children = pairing.expected.reshape(-1)
    genotype = pairing.genotype_at(int(random.choice(len(children), p=children / children.sum())))
    return MadeUp(dam, sire, genotype, stage, drawn_looks(catalogue, genotype, stage, random))


def young_of(made: MadeUp, catalogue: Catalogue, random: np.random.Generator, count: int) -> list[MadeUp]:
    """Siblings: so many young of the same parents."""
    pairing = pairing_of_two(catalogue, made.dam, made.sire)
    children = pairing.expected.reshape(-1)
    places = random.choice(len(children), size=count, p=children / children.sum())
    return [
        MadeUp(made.dam, made.sire, genotype, made.stage, drawn_looks(catalogue, genotype, made.stage, random))
        for genotype in pairing.genotypes_at(places)
    ]


def pairing_of_two(catalogue: Catalogue, dam: Genes, sire: Genes) -> Pairing:
    """The pairing of two parents whose genes are known."""
    return pairing_from(Node({"dam": {"genes": dam}, "sires": [{"genes": sire}]}), catalogue)


def _chosen(
    catalogue: Catalogue,
    random: np.random.Generator,
    hard: Mapping[str, float],
    company: Mapping[frozenset[str], float],
) -> list[str]:
    """Genes at loci of their own that may come together."""
    harm, names = Harm.of(catalogue), list(catalogue.genes)
    weights = np.array([hard.get(gene, 1.0) * _usual(catalogue, gene) for gene in names])
    wanted = int(random.integers(LEAST_GENES, MOST_GENES + 1))
    chosen: list[str] = []
    while len(chosen) < wanted and weights.any():
        place = int(random.choice(len(names), p=weights / weights.sum()))
        gene, locus = names[place], catalogue.genes[names[place]].locus
        weights[place] = 0
        if harm.forbids(frozenset({*chosen, gene}) - harm.dams, frozenset()):
            continue
        chosen.append(gene)
        weights *= [
            company.get(frozenset({gene, other}), 1.0) if catalogue.genes[other].locus != locus else 0.0
            for other in names
        ]
    return chosen


def _usual(catalogue: Catalogue, gene: str) -> float:
    """How often a gene comes by itself: more often the more animals have it."""
    return max(LEAST_WEIGHT, catalogue.genes[gene].frequency * 20)


def _shared_out(catalogue: Catalogue, genes: Sequence[str], random: np.random.Generator) -> tuple[Genes, Genes]:
    """Which parent has which: a gene that shows in one copy one of them, at times both where two copies live; a recessive both, one of
    them as a visual or not."""
    parents: tuple[Genes, Genes] = ([], [])
    deadly = deadly_doubles(catalogue)
    for gene in genes:
        one, entry = int(random.integers(2)), catalogue.genes[gene]
        may_double = entry.inheritance == "incomplete_dominant" and gene not in deadly
        parents[one].append({"gene": gene, "copies": int(random.integers(1, 3)) if entry.is_recessive else 1})
        if entry.is_recessive or (may_double and random.random() < BOTH_HAVE_IT):
            parents[1 - one].append({"gene": gene, "copies": 1})
    return parents
