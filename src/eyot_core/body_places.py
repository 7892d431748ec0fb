"""Places on the body at which animals are compared, as photos and drawings share them.

u runs along the body (snout 0, tail tip 1). Source: the places are those at which keepers look; where they begin and end is ours.
"""

from __future__ import annotations

from dataclasses import dataclass

WHOLE = "whole"


@dataclass(frozen=True)
class BodyPlace:
    """One place. ``u``: its middle on the body; ``span``: how much of the body's length stands beside it, both 0 to 1; ``kinds``: what
    kinds of photo show it, the best first."""

    id: str
    name: str
    u: float
    span: float
    kinds: tuple[str, ...]


PLACES = (
    BodyPlace(WHOLE, "whole animal", 0.5, 1.0, ("back", "belly", "head", "vent", "tail", "ultraviolet")),
    BodyPlace("crown", "crown", 0.042, 0.11, ("head", "back")),
    BodyPlace("eye", "eye", 0.024, 0.07, ("head", "back")),
    BodyPlace("neck", "neck", 0.115, 0.12, ("back", "head")),
    BodyPlace("flank_quarter", "flank at a quarter", 0.27, 0.13, ("back",)),
    BodyPlace("flank_middle", "flank at the middle", 0.5, 0.13, ("back",)),
    BodyPlace("belly_edge", "belly edge", 0.42, 0.09, ("belly", "back")),
    BodyPlace("belly", "belly", 0.42, 0.15, ("belly",)),
    BodyPlace("vent", "vent", 0.88, 0.1, ("vent", "belly")),
    BodyPlace("tail", "tail", 0.93, 0.16, ("tail", "belly", "back")),
)
BY_ID = {place.id: place for place in PLACES}
BY_REGION = {
    "head": "crown",
    "eye": "eye",
    "neck": "neck",
    "back": "flank_middle",
    "flank": "flank_middle",
    "ground": "flank_quarter",
    "belly": "belly",
    "whole": WHOLE,
    "signs": WHOLE,
}
BY_LOOK = {"belly_edge": "belly_edge", "tail_pattern": "tail", "lip_color": "eye", "head_lightness": "neck"}
"""Looks that are seen elsewhere than where their region lies."""


def place_of(look: str, region: str) -> str:
    """The id of the place at which a look of a region is seen.

    >>> place_of("lobe_spots", "flank"), place_of("tail_pattern", "belly")
    ('flank_middle', 'tail')
    """
    return BY_LOOK.get(look, BY_REGION[region])
