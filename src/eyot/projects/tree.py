"""A plan as a tree: every animal on the way drawn, young below their parents."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.drawing.pedigree_plan import planned
from eyot_core.wording.names import Naming

from eyot.projects.board import gene_words
from eyot.projects.reckoning import Steps, Stock

WIDER = 2.1
LONGEST = 30
"""Strips are wider than the seeds that the plan of a pedigree was made for."""


@dataclass(frozen=True)
class Drawn:
    """One animal of the tree: its name, what it is to be, and the drawing that stands for it, as drawings are asked for."""

    id: str
    name: str
    words: str
    key: str
    x: float
    y: float
    is_planned: bool

    @property
    def left(self) -> float:
        """The left edge of its box."""
        return self.x - 93

    @property
    def top(self) -> float:
        """The upper edge of its box."""
        return self.y - 29

    @property
    def left_in(self) -> float:
        """Where its drawing and words begin."""
        return self.x - 88

    @property
    def top_in(self) -> float:
        """The upper edge of its drawing."""
        return self.y - 25

    @property
    def line_one(self) -> float:
        """The line of its name."""
        return self.y + 6

    @property
    def line_two(self) -> float:
        """The line of its genes."""
        return self.y + 22

    @property
    def short(self) -> str:
        """Its genes as far as they fit."""
        return self.words if len(self.words) <= LONGEST else self.words[: LONGEST - 1] + "…"


@dataclass(frozen=True)
class Tree:
    """All of it, in drawing units."""

    animals: list[Drawn]
    links: list[str]
    width: float
    height: float

    @property
    def holdbacks(self) -> int:
        """How many are held back on the way, the last one too."""
        return sum(one.is_planned for one in self.animals)


def tree_of(plan: Steps, stock: Mapping[str, Stock], catalogue: Catalogue, goal: Sequence[str]) -> Tree:
    """A plan's tree. ``goal``: the genes that the project is about, of which own animals say what they have. An own animal stands in it
    once for each pair that it is part of."""
    naming = Naming(catalogue)
    steps = {step["keep"]["id"]: step for step in plan}
    order: list[tuple[str, str]] = []
    place: dict[tuple[str, str], int] = {}
    parents: list[tuple[int | None, int | None]] = []
    for name, step in steps.items():
        pair = []
        for role in ("dam", "sire"):
            key = (step[role], "" if step[role] in steps else f"{step['dam']} × {step['sire']}")
            if key not in place:
                place[key] = len(order)
                order.append(key)
                parents.append((None, None))
            pair.append(place[key])
        place[name, ""] = len(order)
        order.append((name, ""))
        parents.append((pair[0], pair[1]))
    laid = planned(parents)
    drawn = []
    for (name, _), (x, y) in zip(order, laid.places, strict=True):
        genes = (
            steps[name]["keep"]["genes"]
            if name in steps
            else [one for one in stock[name].genes if one["gene"] in goal]
            if name in stock
            else []
        )
        drawn.append(
            Drawn(
                name,
                stock[name].name if name in stock else name,
                ", ".join(gene_words(one, naming) for one in genes if one["gene"] in catalogue.genes) or "normal",
                _key(genes, catalogue),
                x * WIDER,
                y,
                name in steps,
            )
        )
    return Tree(drawn, [_wider(link) for link in laid.links], laid.width * WIDER, laid.height + 18)


def _key(genes: Sequence[Mapping[str, Any]], catalogue: Catalogue) -> str:
    """The combination that is drawn: what shows of it."""
    shown = [
        one["gene"]
        for one in genes
        if one["gene"] in catalogue.genes
        for _ in range(one["copies"] if isinstance(one["copies"], int) else 1)
        if not (catalogue.genes[one["gene"]].is_recessive and one["copies"] != 2)
    ]
    return ".".join(shown) or "normal"


def _wider(link: str) -> str:
    """A path with its places across moved apart: ``M x y`` and ``H``, ``V``, ``L`` in capitals only."""

    def moved(match: re.Match[str]) -> str:
        letter, rest = match[1], match[2]
        numbers = re.findall(r"-?[\d.]+", rest)
        if letter == "H":
            return "H" + " ".join(f"{float(one) * WIDER:.1f}" for one in numbers)
        if letter == "V":
            return f"V{rest}"
        across = [f"{float(one) * WIDER:.1f}" if at % 2 == 0 else one for at, one in enumerate(numbers)]
        return letter + " ".join(across)

    return re.sub(r"([A-Z])([^A-Z]*)", moved, link)
