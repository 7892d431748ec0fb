"""One animal's strips over time: what has changed between two, and the course that its genes let expect."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

from eyot_core.catalogue import Catalogue
from eyot_core.identify.looks import chances_of_looks
from eyot_core.identify.traits import Genotype
from eyot_core.photo.measures import Measured, Missing, Value
from eyot_core.photo.suggest import BANDS

PLAIN = 2.0
"""How many standard deviations a difference takes to be told."""
FRECKLES = ("freckles", (("none", 0.0, 1.0), ("few", 1.0, 6.0), ("many", 6.0, 60.0)))
"""By the catalogue's words: few are under about fifteen."""
FOLLOWED = ("lightness", "white_share", "brown", "freckle_count")
"""What is followed, in this order. ``brown``: chroma of the dark pattern, CIELAB: black has none, brown some."""


@dataclass(frozen=True)
class Change:
    """How far a measure has gone from one photo to another, with the standard deviation of that. ``word``: "more" or "less" where it is
    plain, empty where it may be chance."""

    measure: str
    by: float
    sd: float
    word: str


@dataclass(frozen=True)
class Expected:
    """A range of a measure, and how likely an animal lies in it: one level of the look that the measure tells of."""

    low: float
    high: float
    chance: float


def followed(measured: Measured, name: str) -> Value | Missing | None:
    """One of :data:`FOLLOWED` among the measures of a photo; None where it was not measured at all."""
    if name != "brown":
        return measured.get(name)
    ground = measured.get("ground_lab")
    if not isinstance(ground, Value):
        return ground
    assert isinstance(ground.value, tuple)
    assert isinstance(ground.sd, tuple)
    return Value(hypot(*ground.value[1:]), hypot(*ground.sd[1:]))


def changes(before: Measured, after: Measured) -> list[Change]:
    """What can be compared between two photos of an animal."""
    found = []
    for name in FOLLOWED:
        first, last = followed(before, name), followed(after, name)
        if isinstance(first, Value) and isinstance(last, Value):
            assert isinstance(first.value, float) and isinstance(last.value, float)
            assert isinstance(first.sd, float) and isinstance(last.sd, float)
            by, sd = last.value - first.value, hypot(first.sd, last.sd)
            plain = abs(by) > PLAIN * max(sd, 1e-9)
            found.append(Change(name, by, sd, ("more" if by > 0 else "less") if plain else ""))
    return found


def course(catalogue: Catalogue, genotype: Genotype, stage: str, name: str) -> Sequence[Expected]:
    """The ranges in which a measure is to be expected at a stage, for one combination; none where no look tells of it."""
    by_measure = {measure: (trait, bands) for trait, (measure, bands) in BANDS.items()} | {"freckle_count": FRECKLES}
    if name not in by_measure or by_measure[name][0] not in catalogue.traits:
        return []
    trait, bands = by_measure[name]
    chances = chances_of_looks(catalogue, genotype, stage)[trait]
    levels = {level.id: float(chance) for level, chance in zip(catalogue.traits[trait].levels, chances, strict=True)}
    return [Expected(low, high, levels[level]) for level, low, high in bands if level in levels]
