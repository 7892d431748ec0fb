"""How surely the model calls each gene at the first shed, beside what experienced keepers say of themselves.

A simulated study: animals with and without a gene, alone or with three others that their parents can give too. Every look is
answered, with the mistakes that clarity and a sure eye leave; a gene counts as called where its posterior is at least ``CALLED``.
Run with ``bin/eyot bench``; docs/catalogue.md tells what was found.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.looks import chances_of_looks

STAGE = "shed"
CALLED = 0.8
ANIMALS = 800
CROWDS = 5
FAR = 0.15
COMPANY = ("pastel", "enchi", "leopard", "mojave", "black_pastel", "yellow_belly", "fire", "banana", "orange_dream")
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Row:
    """One gene: what keepers say, what the model makes of it, and how often it is called where it is not."""

    gene: str
    said_alone: float
    said_crowd: float
    alone: float
    crowd: float
    false_alone: float
    false_crowd: float


def study(catalogue: Catalogue, seed: int = 1) -> list[Row]:
    """One row for every gene of which keepers gave a figure."""
    random = np.random.default_rng(seed)
    rows = []
    for entry in catalogue.document["genes"]:
        if "called" in entry:
            alone = called(catalogue, entry["id"], [], random)
            crowd = np.mean(
                [
                    called(catalogue, entry["id"], crowd_of(catalogue, entry["id"], random), random)
                    for _ in range(CROWDS)
                ],
                axis=0,
            )
            said = entry["called"]
            rows.append(
                Row(entry["id"], said["alone"], said["crowd"], alone[0], float(crowd[0]), alone[1], float(crowd[1]))
            )
    return rows


def crowd_of(catalogue: Catalogue, gene: str, random: np.random.Generator) -> list[str]:
    """Three other genes at loci of their own."""
    taken, found = {catalogue.genes[gene].locus}, []
    for name in random.permutation(COMPANY):
        if catalogue.genes[str(name)].locus not in taken and len(found) < 3:
            taken.add(catalogue.genes[str(name)].locus)
            found.append(str(name))
    return found


def called(catalogue: Catalogue, gene: str, others: Sequence[str], random: np.random.Generator) -> tuple[float, float]:
    """Shares of animals with and without the gene in which it is called; carriers of it carry the others too.

    Before the look, the gene and each of the others is as likely there as not.
    """
    choices = list(product([0, 1], repeat=len(others) + 1))
    tables = [_answers(catalogue, _genotype(catalogue, gene, others, choice)) for choice in choices]
    with_gene = np.array([choice[0] == 1 for choice in choices])
    found = []
    for truth in ((1, *[1] * len(others)), (0, *[1] * len(others))):
        logs = np.zeros((ANIMALS, len(choices)))
        for trait in catalogue.traits:
            seen = random.choice(len(tables[0][trait]), size=ANIMALS, p=tables[choices.index(truth)][trait])
            logs += np.log(np.array([table[trait] for table in tables]))[:, seen].T
        weights = np.exp(logs - logs.max(axis=1, keepdims=True))
        found.append(float(((weights[:, with_gene].sum(axis=1) / weights.sum(axis=1)) >= CALLED).mean()))
    return found[0], found[1]


def _genotype(catalogue: Catalogue, gene: str, others: Sequence[str], choice: Sequence[int]) -> dict[str, list[str]]:
    genotype = {}
    for name, there in zip((gene, *others), choice, strict=True):
        if there:
            genotype[catalogue.genes[name].locus] = [name] * (2 if catalogue.genes[name].is_recessive else 1)
    return genotype


def _answers(catalogue: Catalogue, genotype: dict[str, list[str]]) -> dict[str, Floats]:
    """Chances of each answer to each look, mistakes included."""
    found = {}
    for trait, chances in chances_of_looks(catalogue, genotype, STAGE).items():
        r = catalogue.traits[trait].clarity[STAGE] * CONFIDENCE["sure"]
        answers = chances @ answering(catalogue.traits[trait], r)
        found[trait] = answers / answers.sum()
    return found


def report(rows: Sequence[Row]) -> str:
    """A table in Markdown, the largest differences first."""
    lines = ["| gene | keepers, alone | model | keepers, crowd | model |", "|---|---|---|---|---|"]
    for row in sorted(rows, key=lambda row: -abs(row.alone - row.said_alone)):
        lines.append(
            f"| {row.gene} | {row.said_alone:.2f} | {row.alone:.2f} | {row.said_crowd:.2f} | {row.crowd:.2f} |"
        )
    for name, said, got in (
        ("alone", [row.said_alone for row in rows], [row.alone for row in rows]),
        ("crowd", [row.said_crowd for row in rows], [row.crowd for row in rows]),
    ):
        off = np.abs(np.array(said) - np.array(got))
        far = f"{int((off > FAR).sum())} of {len(rows)} by more than {FAR}"
        lines.append(f"\n{name}: rank correlation {_ranks(said, got):.2f}, mean difference {off.mean():.2f}, {far}")
    lines.append(
        f"false calls: alone {np.mean([row.false_alone for row in rows]):.3f}, crowd {np.mean([row.false_crowd for row in rows]):.3f}"
    )
    return "\n".join(lines)


def _ranks(first: Sequence[float], second: Sequence[float]) -> float:
    orders = [np.argsort(np.argsort(values)).astype(float) for values in (first, second)]
    return float(np.corrcoef(*orders)[0, 1])


if __name__ == "__main__":
    print(report(study(builtin_catalogue())))
