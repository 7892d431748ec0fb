"""The JSON forms of drawings: a genotype or the levels of looks in, SVG out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from eyot_core.catalogue.model import STAGES, Catalogue
from eyot_core.drawing.plate import plate, strip
from eyot_core.genetics.genotypes import genotype_from
from eyot_core.identify.looks import telling_looks, typical_looks
from eyot_core.parsing import Node

KEYS = ("genotype", "looks", "stage", "seed", "range", "as", "catalogue")
SEED = 11
MOST = 12


def plate_answer(node: Node, catalogue: Catalogue) -> dict[str, Any] | str:
    """The answer of ``plate``: the SVG text itself, or the looks with their drawings as JSON.

    ``range``: so many typical siblings, their looks drawn at random from what the genotype shows, each with marks of its own.
    :class:`~eyot_core.errors.InputError` where the document is wrong.
    """
    return _drawn(plate, node, catalogue)


def strip_drawing_answer(node: Node, catalogue: Catalogue) -> dict[str, Any] | str:
    """The answer of ``strip-drawing``, as that of ``plate``."""
    return _drawn(strip, node, catalogue)


def _drawn(draw: Callable[..., str], node: Node, catalogue: Catalogue) -> dict[str, Any] | str:
    node.object([], KEYS)
    if node.has("genotype") == node.has("looks"):
        raise node.wrong("a drawing takes either a genotype or looks")
    stage = node.child("stage").choice(STAGES) if node.has("stage") else "shed"
    seed = node.child("seed").whole(0) if node.has("seed") else SEED
    drawn = [
        {"looks": looks, "svg": draw(looks, seed + number, stage)}
        for number, looks in enumerate(_animals(node, catalogue, stage, seed))
    ]
    form = node.child("as").choice(["svg", "json"]) if node.has("as") else "svg"
    if form == "svg":
        if len(drawn) > 1:
            raise node.child("as").wrong("several drawings come as json")
        return str(drawn[0]["svg"])
    return {"stage": stage, "drawings": drawn}


def _animals(node: Node, catalogue: Catalogue, stage: str, seed: int) -> list[dict[str, str]]:
    if node.has("looks"):
        return [_looks_in(node.child("looks"), catalogue)]
    genotype = genotype_from(node.child("genotype"), catalogue)
    if not node.has("range"):
        return [telling_looks(catalogue, genotype, stage)]
    count = node.child("range").whole(1, MOST)
    return [typical_looks(catalogue, genotype, stage, np.random.default_rng([seed, n])) for n in range(count)]


def _looks_in(node: Node, catalogue: Catalogue) -> dict[str, str]:
    """The levels given; looks that are left out show what normal animals show."""
    looks = {trait.id: trait.levels[0].id for trait in catalogue.traits.values()}
    for trait, entry in node.items():
        Node(trait, entry.at).choice(catalogue.traits, "a look")
        looks[trait] = entry.choice(list(catalogue.traits[trait].level_index), f"a level of {trait}")
    return looks
