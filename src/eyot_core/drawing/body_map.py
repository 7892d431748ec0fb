"""The body map: a hatchling from the side, cut into the areas that keepers look at one after the other.

The head is drawn larger than it is, since a third of all looks are at it. Drawing units: ``WIDTH`` by ``HEIGHT``, nose left.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from eyot_core.body import GIRTHS, half_widths

WIDTH, HEIGHT = 660, 60
LENGTH = 520.0
HALF = 28.0
NECK, TRUNK = 0.085, 0.2
AREA_OF = {"ground": "flank"}
"""Regions of looks that lie within another area of the map."""


@dataclass(frozen=True)
class Area:
    """One area. ``path``: its outline; ``at``: the middle of its marks."""

    id: str
    name: str
    path: str
    at: tuple[float, float]


@cache
def areas() -> tuple[Area, ...]:
    """The areas in the order in which keepers look; every region of the catalogue has its area."""
    return (
        Area("head", "head", _band(0.0, NECK, -1.0, 0.05), (44.0, 20.0)),
        Area("eye", "eye and its stripe", _band(0.0, NECK, 0.05, 1.0), (44.0, 37.0)),
        Area("neck", "lip and neck", _band(NECK, TRUNK, -1.0, 1.0), (117.0, 30.0)),
        Area("back", "back", _band(TRUNK, 1.0, -1.0, -0.38), (300.0, 12.0)),
        Area("flank", "flank", _band(TRUNK, 1.0, -0.38, 0.5), (300.0, 32.0)),
        Area("belly", "belly and tail", _band(TRUNK, 1.0, 0.5, 1.0), (300.0, 51.5)),
        Area("whole", "the whole animal", _box(544, 2, 114, 26), (626.0, 15.0)),
        Area("signs", "signs", _box(544, 32, 114, 26), (626.0, 45.0)),
    )


def area_of(region: str) -> str:
    """The area of the map in which looks at a region of the catalogue stand."""
    return AREA_OF.get(region, region)


def _along(u: Sequence[float]) -> list[float]:
    """Places on the map, in its units, of places along the body."""
    return [4 + LENGTH * float(x) for x in np.interp(u, [0, NECK, TRUNK, 1], [0, 0.155, 0.285, 1])]


def _half(u: Sequence[float]) -> list[float]:
    return [float(half) for half in half_widths(u, GIRTHS * np.pi) * HALF]


def _band(start: float, end: float, top: float, bottom: float) -> str:
    """The part of the body between two places along it and two shares of its half-height."""
    u = np.linspace(start, end, 14).tolist()
    edge = [(x, half) for x, half in zip(_along(u), _half(u), strict=True)]
    upper = [(x, HEIGHT / 2 + top * half) for x, half in edge]
    lower = [(x, HEIGHT / 2 + bottom * half) for x, half in reversed(edge)]
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in [*upper, *lower]) + "Z"


def _box(x: float, y: float, width: float, height: float) -> str:
    return f"M{x:g} {y:g}h{width:g}v{height:g}h-{width:g}Z"
