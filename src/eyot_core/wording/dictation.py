"""What a keeper says aloud, as looks to confirm: "floating lobes, pale head, no freckles".

Each clause is held against the names that keepers use for the places of the body and for what is seen there. Nothing is answered by it:
what was heard is put before the keeper, and what was not understood is given back.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from eyot_core.catalogue.model import Catalogue

CLAUSE = re.compile(r"[,.;:]|\band\b|\bwith\b|\bbut\b")
WORD = re.compile(r"[a-z]+")
NOT = {"no", "not", "without", "never", "hardly"}
SMALL = {
    "the",
    "a",
    "an",
    "is",
    "are",
    "has",
    "have",
    "its",
    "it",
    "of",
    "in",
    "on",
    "at",
    "to",
    "very",
    "quite",
    "rather",
    "looks",
    "look",
    "some",
}
NOTHING = ("none", "absent", "missing", "clean", "empty")
PLACES: dict[str, tuple[str, ...]] = {
    "head_stamp": ("head stamp", "stamp", "crown pattern", "head pattern"),
    "head_shape_mark": ("head mark", "mark on head", "crown mark"),
    "head_lightness": ("head",),
    "head_hue": ("crown", "head colour", "head color"),
    "head_blush": ("head blush", "crown blush", "blush on head", "blush on crown"),
    "eye_color": ("eye", "eyes", "iris"),
    "eye_form": ("eye", "eyes"),
    "eye_stripe_width": ("eye stripe", "eyestripe"),
    "eye_stripe_edge": ("eye stripe", "eyestripe"),
    "lip_color": ("lip", "lips"),
    "neck_blush": ("neck blush", "blush at neck", "blush neck"),
    "neck_pattern": ("neck", "nape"),
    "dorsal_stripe": ("back stripe", "dorsal stripe", "dorsal", "stripe"),
    "dorsal_tone": ("back",),
    "dorsal_width": ("back field", "dorsal"),
    "dorsal_marks": ("back marks", "dorsal marks", "dots back"),
    "banding": ("bands", "banding", "banded"),
    "lobe_attach": ("lobes", "lobe", "alien heads"),
    "lobe_shape": ("lobes", "lobe", "alien heads"),
    "lobe_spots": ("eyes in lobes", "lobe spots", "spots in lobes", "dots in lobes"),
    "lobe_outline": ("outline", "outlines", "rim", "rims"),
    "lobe_tone": ("lobe colour", "lobe color", "lobes"),
    "pattern_amount": ("pattern",),
    "pattern_order": ("pattern",),
    "flank_lines": ("flank lines", "lines on flank", "lines flank", "webbing"),
    "flank_blush": ("flank blush", "blush", "blushing"),
    "flank_flames": ("flames", "flaming"),
    "side_white": ("white sides", "white side", "side white"),
    "ground_speckle": ("specks", "speckles", "peppering"),
    "belly_edge": ("belly edge", "edge of belly"),
    "belly_color": ("belly", "belly colour", "belly color"),
    "belly_marks": ("belly marks", "belly", "checkers"),
    "ringer": ("ringer",),
    "tail_pattern": ("tail",),
    "body_hue": ("body", "overall", "animal", "colour", "color"),
    "yellow_kept": ("yellow",),
    "dark_pigment": ("blacks", "black", "dark pigment"),
    "lightness": ("body", "overall", "animal"),
    "contrast": ("contrast",),
    "white_share": ("white",),
    "white_layout": ("white",),
    "freckles": ("freckles", "freckle"),
    "paradox": ("paradox",),
    "scales": ("scales", "scaleless"),
    "wobble": ("wobble", "wobbles"),
    "body_form": ("spine", "snout", "kink"),
}
SEEN: dict[tuple[str, str], tuple[str, ...]] = {
    ("head_stamp", "wiped"): ("erased", "blank", "white"),
    ("head_stamp", "washed_out"): ("washed", "blurred"),
    ("head_stamp", "reduced"): ("thin", "small"),
    ("head_lightness", "lighter"): ("pale", "paler", "light", "bright"),
    ("head_lightness", "darker"): ("dark",),
    ("eye_stripe_width", "missing"): ("gone", "absent", "faint"),
    ("eye_stripe_width", "wide"): ("broad", "thick"),
    ("lobe_attach", "floating"): ("float", "floats", "floaty"),
    ("lobe_shape", "keyhole"): ("keyholed", "keyholes"),
    ("lobe_shape", "joined"): ("fused", "linked"),
    ("dorsal_stripe", "full"): ("unbroken", "clean", "complete"),
    ("dorsal_stripe", "partial"): ("broken",),
    ("pattern_amount", "busy"): ("lots", "much"),
    ("pattern_amount", "strong_reduced"): ("hardly",),
    ("ground_speckle", "peppered"): ("pepper", "salt"),
    ("belly_edge", "jagged"): ("checkered", "flames", "toothed", "shattered"),
    ("belly_marks", "checkered"): ("checkers", "blocks"),
    ("belly_color", "clear"): ("glassy",),
    ("lightness", "lighter"): ("light", "pale", "bright"),
    ("lightness", "darker"): ("dark",),
    ("dark_pigment", "frosted"): ("frosty", "misted"),
    ("contrast", "high"): ("strong", "crisp"),
    ("contrast", "low"): ("weak", "washed"),
    ("white_layout", "saddles"): ("saddle",),
}


@dataclass(frozen=True)
class Heard:
    """A look as it was heard. ``doubtful``: another look or level fits the words as well."""

    trait: str
    level: str
    words: str
    doubtful: bool


@dataclass(frozen=True)
class Dictated:
    """What a text was heard as, in the order said, and the clauses that were not understood."""

    heard: tuple[Heard, ...]
    unheard: tuple[str, ...]


def dictated(catalogue: Catalogue, text: str) -> Dictated:
    """Looks to confirm from a text as spoken.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> [(one.trait, one.level) for one in dictated(builtin_catalogue(), "Floating lobes, pale head").heard]
    [('lobe_attach', 'floating'), ('head_lightness', 'lighter')]
    """
    heard: dict[str, Heard] = {}
    unheard = []
    for clause in CLAUSE.split(text.lower()):
        words = WORD.findall(clause)
        if not words or all(word in SMALL | NOT for word in words):
            continue
        found = _heard(catalogue, words)
        if found:
            heard[found.trait] = found
        else:
            unheard.append(" ".join(clause.split()))
    return Dictated(tuple(heard.values()), tuple(unheard))


def _heard(catalogue: Catalogue, words: Sequence[str]) -> Heard | None:
    """The look that a clause fits best; ``None`` where neither a place nor a level of it was named."""
    said = [_stem(word) for word in words if word not in SMALL]
    denied = bool(NOT & set(words))
    if denied and _names_a_level(catalogue, said):
        return None
    scores = []
    for trait in catalogue.traits:
        name = max((name for name in _places(trait) if _within(name, said)), key=len, default=())
        left = _without(said, name)
        for level, names in _levels(catalogue)[trait].items():
            named = sum(_stem(word) in left for word in names)
            nothing = denied and bool(name) and level in NOTHING
            if nothing or (named and not denied and (name or _tells_alone(catalogue, trait, names, said))):
                scores.append((2 * len(name) + (2 if nothing else 3 * named), trait, level))
    if not scores:
        return None
    scores.sort(key=lambda row: -row[0])
    score, trait, level = scores[0]
    doubtful = len(scores) > 1 and scores[1][0] == score
    return Heard(trait, level, " ".join(words), doubtful)


def _names_a_level(catalogue: Catalogue, said: Sequence[str]) -> bool:
    """Is a place named, and beside it something that can be seen there? Denied, that is no answer."""
    for trait, levels in _levels(catalogue).items():
        for name in _places(trait):
            if _within(name, said):
                left = _without(said, name)
                if any(
                    _stem(word) in left for level, names in levels.items() for word in names if level not in NOTHING
                ):
                    return True
    return False


def _without(said: Sequence[str], name: Sequence[str]) -> list[str]:
    """The words that are left when a place's name is taken out once."""
    left = list(said)
    for word in name:
        left.remove(word)
    return left


def _within(name: Sequence[str], said: Sequence[str]) -> bool:
    """Do all words of a place's name stand in the clause?"""
    return all(word in said for word in name)


def _tells_alone(catalogue: Catalogue, trait: str, names: Sequence[str], said: Sequence[str]) -> bool:
    """Is what is seen named by a word that no other look has? ("patternless", "zigzag")."""
    return any(_stem(name) in said and _owners(catalogue)[_stem(name)] == {trait} for name in names)


@lru_cache(maxsize=64)
def _places(trait: str) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(_stem(word) for word in name.split() if word not in SMALL) for name in PLACES.get(trait, ()))


@lru_cache(maxsize=16)
def _levels(catalogue: Catalogue) -> Mapping[str, Mapping[str, tuple[str, ...]]]:
    """For each trait and level the words for it: its own, and those that keepers use."""
    return {
        trait.id: {level.id: (*level.id.split("_"), *SEEN.get((trait.id, level.id), ())) for level in trait.levels}
        for trait in catalogue.traits.values()
    }


@lru_cache(maxsize=16)
def _owners(catalogue: Catalogue) -> Mapping[str, set[str]]:
    """For each word the traits that use it for a level."""
    found: dict[str, set[str]] = {}
    for trait, levels in _levels(catalogue).items():
        for names in levels.values():
            for name in names:
                found.setdefault(_stem(name), set()).add(trait)
    return found


def _stem(word: str) -> str:
    """A word without its plural or comparative ending."""
    for ending in ("ies", "es", "s"):
        if len(word) > 4 and word.endswith(ending) and not word.endswith("ss"):
            return word[: -len(ending)] + (
                "y" if ending == "ies" else "e" if ending == "es" and word[-3] in "bdgklnv" else ""
            )
    return word
