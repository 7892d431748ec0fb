"""What the photos of a hatchling suggest: answers that a keeper may accept with one key. They never answer by themselves."""

from __future__ import annotations

from collections.abc import Collection as Many
from dataclasses import dataclass

from eyot_core.photo.answer import measured_from
from eyot_core.photo.belly import BELLY_MEASURES, belly_suggestions
from eyot_core.photo.measures import MEASURES, Value
from eyot_core.photo.suggest import Suggestion, suggestions

from eyot.bench.judgement import plain, trait_words
from eyot.photos.models import Photo
from eyot.photos.queries import measured_of_others, value_words, words_against
from eyot.shared.units import long_day

LEAST_SHOWN = 0.5
"""How much of the body a photo must show before it suggests anything."""
NAMES = {measure.id: measure for measure in (*MEASURES, *BELLY_MEASURES)}


@dataclass(frozen=True)
class Offered:
    """One suggestion in words. ``told``: where the animal stands among its siblings."""

    trait: str
    level: str
    look: str
    answer: str
    measured: str
    beside_siblings: str
    clear: bool


def offered(photo: Photo, siblings: list[Photo], answered: Many[str]) -> list[Offered]:
    """The suggestions of one photo for the looks that its reader has not answered at its stage."""
    if not photo.measures or photo.spoilt.get("shown", 0.0) < LEAST_SHOWN:
        return []
    others = measured_of_others(photo, siblings)
    return [
        Offered(
            trait=one.trait,
            level=one.level,
            look=trait_words(one.trait)["name"],
            answer=plain(one.level),
            measured=_words(one),
            beside_siblings=words_against(one.measure, Value(one.value, one.sd), others),
            clear=one.clear,
        )
        for one in _suggested(photo)
        if one.trait not in answered
    ]


def measured_words(photo: Photo, trait: str, level: str) -> str:
    """What a suggestion of a photo rested on, for the trail; empty where the photo suggests no such answer."""
    for one in _suggested(photo):
        if (one.trait, one.level) == (trait, level):
            light = photo.light or "light not corrected"
            return f"{_words(one)}, photo of {long_day(photo.taken_at)}, {light}"
    return ""


def _suggested(photo: Photo) -> list[Suggestion]:
    """What the measures of a photo suggest: those of a belly speak of the belly's looks."""
    measured = measured_from(photo.measures)
    return belly_suggestions(measured) if photo.kind == Photo.Kind.BELLY else suggestions(measured)


def _words(one: Suggestion) -> str:
    return f"{NAMES[one.measure].name} {value_words(one.measure, Value(one.value, one.sd))}"
