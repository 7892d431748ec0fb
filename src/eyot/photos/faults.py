"""What is wrong with a photo, in words: what is seen, and what would help, in four words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class FaultWords:
    """One fault as a keeper reads it. ``id``: names its drawing, too."""

    id: str
    what: str
    helps: str


WORDS = {
    "dark": ("Too dark", "Bring a lamp near"),
    "burnt": ("Burnt out", "Turn the lamp away"),
    "blurred": ("Blurred", "Hold still, tap focus"),
    "gloss": ("Gloss over the pattern", "Light from the side"),
    "two-lights": ("Two kinds of light", "Use only one lamp"),
    "cut-off": ("Cut off at the edge", "Step back a little"),
    "card-shadow": ("Card half in shadow", "Card into the light"),
    "card-uncut": ("Card uncut, or on a screen", "Lay the cut-out card"),
    "slanted": ("Slanted", "Hold the camera level"),
}


def in_words(faults: Iterable[Mapping[str, Any]]) -> list[FaultWords]:
    """Faults as a photo keeps them, in words; those that another Eyot told and this one does not know are left out."""
    return [FaultWords(one["id"], *WORDS[one["id"]]) for one in faults if one.get("id") in WORDS]
