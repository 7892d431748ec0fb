"""What a pairing can make: the genotypes of one future hatchling with their chances."""

from __future__ import annotations

from dataclasses import dataclass
from math import prod
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import FEMALE, MALE
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.genetics.tables import Floats, as_chance
from eyot_core.parsing import Node

DOCUMENT_KEYS = ("catalogue", "dam", "sires", "hatchlings", "options")
"""What a document of a pairing and its hatchlings may hold; ``cross`` passes over the hatchlings."""
MOST_OUTCOMES = 100_000
TIE = 12
BLOCK = 1024


@dataclass(frozen=True)
class Outcome:
    """One genotype (non-wild alleles by locus), its chance, and the chance that an animal of it is female."""

    genotype: dict[str, list[str]]
    probability: float
    female: float


def outcomes_of(pairing: Pairing) -> list[Outcome]:
    """All genotypes of one future hatchling, most probable first; none if nothing can hatch. Probabilities sum to 1."""
    if not pairing.can_hatch:
        return []
    if (cells := prod(pairing.shape)) > MOST_OUTCOMES:
        raise InputError(f"this pairing has {cells:,} possible genotypes; at most {MOST_OUTCOMES:,} can be listed")
    female = pairing.expected_of([FEMALE])
    both = female + pairing.expected_of([MALE])
    return [
        Outcome(genotype, probability, as_chance(female.flat[index] / both.flat[index]))
        for index, genotype, probability in ranked(pairing, both / both.sum())
    ]


def ranked(pairing: Pairing, chances: Floats, top: int | None = None) -> list[tuple[int, dict[str, list[str]], float]]:
    """Flat index, genotype and chance of the ``top`` most probable children; equal chances in the order of the genotypes."""
    flat = chances.reshape(-1)
    least = 0.0
    if top is not None and len(flat) > top:
        least = _least_of_top(flat, top) - 10.0**-TIE
    kept = np.flatnonzero(flat > 0) if least <= 0 else np.flatnonzero(flat >= least)
    rows = list(zip(kept.tolist(), pairing.genotypes_at(kept), np.minimum(flat[kept], 1.0).tolist(), strict=True))
    rows.sort(key=lambda row: (-round(row[2], TIE), sorted(row[1].items())))
    return rows[:top]


def _least_of_top(values: Floats, top: int) -> float:
    """The ``top``-th largest value. Large arrays are first cut down by the maxima of their blocks: as many blocks as wanted
    values have a maximum of at least the ``top``-th largest of these."""
    blocks = len(values) // BLOCK
    if blocks > top:
        maxima = values[: blocks * BLOCK].reshape(blocks, BLOCK).max(axis=1)
        values = values[values >= np.partition(maxima, -top)[-top]]
    return float(np.partition(values, -top)[-top])


def cross_document(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The answer of ``cross`` for a document; :class:`~eyot_core.errors.InputError` where it is wrong."""
    node.object(["dam", "sires"], DOCUMENT_KEYS)
    return cross_answer(pairing_from(node, catalogue))


def cross_answer(pairing: Pairing) -> dict[str, Any]:
    """The outcomes of a pairing and the share that is lost, in the JSON form of ``cross``."""
    outcomes = [
        {"genotype": row.genotype, "probability": row.probability, "female": row.female} for row in outcomes_of(pairing)
    ]
    return {"outcomes": outcomes, "loss": pairing.loss}
