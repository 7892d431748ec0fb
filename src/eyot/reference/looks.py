"""Rows of looks for the pages: what a combination shows beside others, with how strongly each stage tells it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.compare import Comparison, strength_of

REGIONS = {
    "head": "Head",
    "eye": "Eye and eye stripe",
    "neck": "Lips and neck",
    "back": "Back",
    "flank": "Lobes of the flank",
    "ground": "Ground of the flank",
    "belly": "Belly, vent and tail",
    "whole": "Whole animal",
    "signs": "Special signs",
}
MOST_BITS = 0.5


@dataclass(frozen=True)
class ShownLevel:
    """A level as one candidate shows it: its drawing, its words and how many in a hundred show it."""

    name: str
    drawing: str
    share: float


@dataclass(frozen=True)
class StageMark:
    """How strongly a look tells at one stage; ``height`` 0 to 10 for the small bar."""

    stage: str
    word: str
    height: int


@dataclass(frozen=True)
class LookLine:
    """One look with what each candidate shows, and how far each stage tells them apart."""

    trait: str
    name: str
    region: str
    strength: str
    levels: tuple[ShownLevel, ...]
    stages: tuple[StageMark, ...]


@lru_cache(maxsize=64)
def words_of(catalogue: Catalogue) -> dict[str, dict[str, Any]]:
    """A catalogue's words for its looks, by id."""
    return {entry["id"]: entry for entry in catalogue.document["traits"]}


def look_lines(comparison: Comparison, stage: str) -> list[LookLine]:
    """The looks that tell candidates apart at a stage, the strongest first; what is covered in one of them is left out."""
    rows = [row for row in comparison.differences(stage) if row.strength and not comparison.covered(row.trait, stage)]
    return [_line(comparison, row.trait, stage) for row in rows]


def covered_looks(comparison: Comparison, stage: str) -> list[str]:
    """Names of the looks that are covered in one of the candidates: they say nothing either way."""
    words = words_of(comparison.catalogue)
    return [words[trait]["name"].lower() for trait in comparison.catalogue.traits if comparison.covered(trait, stage)]


def _line(comparison: Comparison, trait: str, stage: str) -> LookLine:
    words, row = words_of(comparison.catalogue)[trait], comparison.difference(trait, stage)
    levels = tuple(
        ShownLevel(level.replace("_", " "), glyph(trait, level), share)
        for level, share in zip(row.levels, row.shares, strict=True)
    )
    marks = tuple(_mark(comparison, trait, each) for each in STAGES)
    return LookLine(trait, words["name"], words["region"], row.strength or "none", levels, marks)


def _mark(comparison: Comparison, trait: str, stage: str) -> StageMark:
    bits = comparison.bits(trait, stage)
    word = strength_of(bits)
    return StageMark(stage, word, round(10 * min(1.0, bits / MOST_BITS)) if word else 0)


def by_region(lines: Sequence[LookLine]) -> list[tuple[str, list[LookLine]]]:
    """The lines by region of the body, in the order in which keepers look over an animal."""
    regions = [(name, [line for line in lines if line.region == region]) for region, name in REGIONS.items()]
    return [(name, looks) for name, looks in regions if looks]
