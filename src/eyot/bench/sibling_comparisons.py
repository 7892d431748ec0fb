"""Siblings laid beside one another: "lighter than egg 4", kept like a look and counted once."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.identify.sibling_comparisons import ANSWERS, ComparedSiblings, comparable

from eyot.bench.models import Confidence, SiblingComparison
from eyot.collection.catalogue import catalogue_of
from eyot.season.models import Egg, Stage
from eyot.shared.devices import entered_before
from eyot.shared.refusal import Refused

WORDS = {
    "lightness": ("lighter than", "as light as", "darker than"),
    "contrast": ("higher in contrast than", "of the same contrast as", "lower in contrast than"),
    "white_share": ("whiter than", "as white as", "less white than"),
    "pattern_amount": ("more patterned than", "as patterned as", "less patterned than"),
    "head_lightness": ("lighter of head than", "as light of head as", "darker of head than"),
    "flank_flames": ("more flamed than", "as flamed as", "less flamed than"),
    "head_stamp": ("with a more faded head stamp than", "with a head stamp like", "with a clearer head stamp than"),
    "head_blush": ("more blushed on the crown than", "as blushed on the crown as", "less blushed on the crown than"),
    "eye_stripe_width": ("wider of eye stripe than", "with an eye stripe as wide as", "thinner of eye stripe than"),
    "neck_blush": ("more blushed at the neck than", "as blushed at the neck as", "less blushed at the neck than"),
    "dorsal_stripe": ("more striped on the back than", "as striped on the back as", "less striped on the back than"),
    "banding": ("more banded than", "as banded as", "less banded than"),
    "lobe_attach": ("with lobes freer than", "with lobes as free as", "with lobes closer to the belly than"),
    "lobe_outline": ("with stronger outlines than", "with outlines like", "with weaker outlines than"),
    "flank_blush": ("more blushed than", "as blushed as", "less blushed than"),
    "ground_speckle": ("more peppered than", "as peppered as", "cleaner in the ground than"),
    "ringer": ("with more of a ringer than", "with a ringer like", "with less of a ringer than"),
    "yellow_kept": ("with more yellow than", "with as much yellow as", "with less yellow than"),
    "freckles": ("more freckled than", "as freckled as", "less freckled than"),
    "wobble": ("wobbling more than", "wobbling as much as", "wobbling less than"),
    "side_white": ("whiter on the sides than", "as white on the sides as", "less white on the sides than"),
}
TURNED = {"more": "less", "less": "more", "same": "same"}


@dataclass(frozen=True)
class Laid:
    """What was said of two siblings, as it came in. ``key`` is made by the device: what comes twice counts once."""

    trait: str
    answer: str
    other: int
    stage: str
    confidence: str
    key: UUID


def counting_comparisons(rows: Iterable[SiblingComparison]) -> list[SiblingComparison]:
    """Of each person, pair and look the last comparison that was not taken back."""
    latest: dict[tuple[int, frozenset[int], str], SiblingComparison] = {}
    for row in rows:
        if row.withdrawn_at is None:
            latest[row.seen_by_id, frozenset((row.egg_id, row.other_id)), row.trait] = row
    return list(latest.values())


def as_comparisons(rows: Iterable[SiblingComparison], eggs: Sequence[Egg]) -> list[ComparedSiblings]:
    """The comparisons that count, in the form of the core: eggs by their places; those with an egg that is out of count are left out."""
    places = {egg.pk: place for place, egg in enumerate(eggs)}
    return [
        ComparedSiblings(row.trait, places[row.egg_id], places[row.other_id], row.answer, row.stage, row.confidence)
        for row in counting_comparisons(rows)
        if row.egg_id in places and row.other_id in places
    ]


def words_of(row: SiblingComparison, egg: Egg) -> str:
    """A comparison as it reads for one of its two hatchlings.

    Needs the eggs of the row to be read before.
    """
    here = row.egg_id == egg.pk
    answer, other = (row.answer, row.other) if here else (TURNED[row.answer], row.egg)
    return f"{WORDS[row.trait][ANSWERS.index(answer)]} egg {other.number}"


def choices_for(traits: Iterable[str]) -> list[tuple[str, str]]:
    """What can be said by some looks: value and words."""
    return [
        (f"{trait}.{answer}", words) for trait in traits for answer, words in zip(ANSWERS, WORDS[trait], strict=True)
    ]


@transaction.atomic
def compare_siblings(egg: Egg, member: AbstractBaseUser, laid: Laid, at: datetime) -> SiblingComparison:
    """Keeps a comparison of a hatchling with a sibling. :class:`Refused`, with nothing changed, for what can't be reckoned."""
    other = next((one for one in egg.clutch.eggs.all() if one.number == laid.other), None)
    if other is None or other.pk == egg.pk or not other.is_open or not egg.is_open:
        raise Refused(
            "A hatchling is laid beside another open one of its clutch. Nothing was changed; your looks stand."
        )
    if laid.trait not in comparable(catalogue_of(egg.clutch.collection)) or laid.answer not in ANSWERS:
        raise Refused("Choose what is to be said of the two. Nothing was changed; your looks stand.")
    if laid.stage not in Stage.values or laid.confidence not in Confidence.values:
        raise Refused("The stage or how sure you are was not understood. Nothing was changed; your looks stand.")
    for row in counting_comparisons(SiblingComparison.objects.filter(egg__clutch=egg.clutch)):
        both = {row.egg_id, row.other_id}
        if both & {egg.pk, other.pk} and (row.trait, row.stage) != (laid.trait, laid.stage):
            number = egg.number if egg.pk in both else other.number
            raise Refused(
                f"Egg {number} is laid beside a sibling by another look or at another stage already; a hatchling can be "
                "compared by one look at one stage. Take that back first. Nothing was changed."
            )
    if known := entered_before(SiblingComparison, laid.key, egg.pk):
        return known
    return SiblingComparison.objects.create(
        key=laid.key,
        egg=egg,
        other=other,
        trait=laid.trait,
        answer=laid.answer,
        stage=laid.stage,
        confidence=laid.confidence,
        seen_by_id=member.pk,
        seen_at=at,
    )


def take_apart(egg: Egg, member: AbstractBaseUser, number: int, at: datetime) -> None:
    """Takes back one's own comparison; the row stays in the trail."""
    rows = SiblingComparison.objects.filter(egg__clutch=egg.clutch, seen_by_id=member.pk, pk=number, withdrawn_at=None)
    if not rows.update(withdrawn_at=at):
        raise Refused("Only your own comparisons can be taken back. Nothing was changed.")
