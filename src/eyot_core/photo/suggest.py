"""What measures suggest: an answer to a look, and where an animal stands among its siblings. Suggestions, never answers.

The bands leave gaps on purpose: between two levels nothing is suggested. They were set by the skins that the drawings of
known combinations have, over which a look and its measure were compared; see docs/photos.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from eyot_core.photo.measures import Measured, Value

BANDS: dict[str, tuple[str, tuple[tuple[str, float, float], ...]]] = {
    "white_share": (
        "white_share",
        (("none", 0.0, 0.02), ("low", 0.04, 0.2), ("mid", 0.24, 0.55), ("high", 0.6, 0.92), ("all", 0.95, 1.01)),
    ),
    "lightness": (
        "lightness",
        (("very_dark", 0.0, 19.0), ("darker", 22.0, 29.0), ("normal", 32.0, 48.0), ("lighter", 54.0, 100.0)),
    ),
    "contrast": ("contrast", (("low", 0.0, 24.0), ("normal", 38.0, 100.0))),
    "head_lightness": ("head_lightness", (("same", -20.0, 5.0), ("lighter", 12.0, 80.0))),
    "dorsal_stripe": ("stripe_continuity", (("none", 0.0, 0.25), ("partial", 0.45, 0.8), ("full", 0.965, 1.01))),
    "pattern_amount": (
        "flank_dark_share",
        (("strong_reduced", 0.02, 0.08), ("reduced", 0.12, 0.21), ("normal", 0.28, 0.41), ("busy", 0.5, 1.01)),
    ),
}
"""By trait: the measure that tells of it, and the range of each level."""
MARGIN = 1.0
SAME = 0.3
LEAST_SIBLINGS = 3
LOW_WORDS = {
    "lightness": "darkest",
    "white_share": "least white",
    "dark_share": "least dark",
    "contrast": "least contrast",
}
HIGH_WORDS = {
    "lightness": "lightest",
    "white_share": "most white",
    "dark_share": "darkest pattern",
    "contrast": "most contrast",
}


@dataclass(frozen=True)
class Suggestion:
    """A level that a measure suggests for a trait. ``clear``: the whole uncertainty lies within the level's range."""

    trait: str
    level: str
    measure: str
    value: float
    sd: float
    clear: bool


def suggestions(measured: Measured) -> list[Suggestion]:
    """The levels that the measures of one photo suggest, in the order of the bands; none where a measure lies between."""
    suggested = []
    for trait, (name, bands) in BANDS.items():
        measure = measured.get(name)
        if not isinstance(measure, Value) or isinstance(measure.value, tuple) or isinstance(measure.sd, tuple):
            continue
        value, sd = measure.value, measure.sd
        for level, low, high in bands:
            if low <= value < high:
                inside = (value - MARGIN * sd >= low or low == 0) and (value + MARGIN * sd < high or high >= 1.01)
                suggested.append(Suggestion(trait, level, name, value, sd, inside))
    return suggested


def against_siblings(name: str, value: float, others: Sequence[float], sd: float = 0.0) -> str:
    """Where a value stands among those of its siblings, in words; empty for fewer than three siblings.

    A spread is 1.48 times the median distance from the siblings' median, but no less than the value's own uncertainty.

    >>> against_siblings("lightness", 61, [44, 47, 45, 50, 46])
    'lightest of 6; 10.1 spreads above the clutch'
    """
    if len(others) < LEAST_SIBLINGS:
        return ""
    middle = median(others)
    spread = max(sd, 1.4826 * median(abs(other - middle) for other in others))
    rank = sum(other > value for other in others)
    count = len(others) + 1
    if rank == 0 and value > max(others):
        place = f"{HIGH_WORDS.get(name, 'highest')} of {count}"
    elif rank == len(others):
        place = f"{LOW_WORDS.get(name, 'lowest')} of {count}"
    else:
        place = f"{rank + 1} of {count} from the top"
    if spread <= 0:
        return place
    off = (value - middle) / spread
    if abs(off) < SAME:
        return f"{place}; as the clutch"
    return f"{place}; {abs(off):.1f} spreads {'above' if off > 0 else 'below'} the clutch"
