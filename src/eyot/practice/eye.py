"""One's own eye: how often what was said was there, where it loses most, what it takes for what, and how reliably it reads each look."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.body_places import BY_ID, place_of
from eyot_core.exercises.pictures import PHOTO
from eyot_core.exercises.reliability import Reading, Reliability, Taken, Worth, measured, taken_for, worth_of
from eyot_core.exercises.scores import Calibration, GeneScore, calibration
from eyot_core.identify.evidence import CONFIDENCE
from eyot_core.wording.names import Naming

from eyot.collection.actions import add_override, withdraw_override
from eyot.collection.catalogue import catalogue_of, catalogue_without
from eyot.collection.models import CatalogueOverride, Collection
from eyot.practice.models import Exercise, Wish
from eyot.shared.refusal import Refused

KIND, KIND_OF_WORDS = "clarity", "sureness"
MOST_GENES, DIFFERENT = 8, 0.01


@dataclass(frozen=True)
class OfGene:
    """What was lost by one gene, on average over so many animals."""

    name: str
    animals: int
    lost: float


@dataclass(frozen=True)
class OfLook:
    """One look at one stage: how reliably it is read, what it is taken for. ``photos``: read off photos, else off drawings; ``used``: the
    opinion in use, if any."""

    name: str
    reliability: Reliability
    taken: list[Taken]
    photos: bool
    used: CatalogueOverride | None

    @property
    def is_offered(self) -> bool:
        """Is there something to take over: enough answers on photos, and another figure than is in use?"""
        now = self.used.value["clarity"] if self.used else self.reliability.before
        return self.photos and self.reliability.is_enough and abs(self.reliability.after - now) >= DIFFERENT


@dataclass(frozen=True)
class OfWord:
    """What a word of looks is worth; ``used``: the opinion in use, if any."""

    worth: Worth
    used: CatalogueOverride | None

    @property
    def is_offered(self) -> bool:
        """Is there something to take over?"""
        now = self.used.value["worth"] if self.used else self.worth.before
        return self.worth.is_enough and abs(self.worth.after - now) >= DIFFERENT


@dataclass(frozen=True)
class Beside:
    """One member beside others: animals named, and what was lost an animal."""

    name: str
    animals: int
    lost: float


@dataclass(frozen=True)
class OwnEye:
    """All of it. ``weeks``: what was lost an animal, week by week, the oldest first; ``shown``: the same by picture and stage, the
    dearest first; ``places``: what was lost a gene, by the place of the look that told most of it; ``words``: what words of looks are
    worth, read off photos; ``others``: members who want to be compared, and this one."""

    animals: int
    lost: float
    luck: float
    calibration: list[Calibration]
    genes: list[OfGene]
    looks: list[OfLook]
    weeks: list[tuple[str, int, float]]
    shown: list[tuple[str, int, float]]
    places: list[tuple[str, int, float]]
    words: list[OfWord]
    others: list[Beside]


def own_eye(collection: Collection, member: AbstractBaseUser) -> OwnEye:
    """What a member's answers say of his eye; made-up animals only, own ones stand apart."""
    named = _answered(collection, member, Exercise.Kind.NAME)
    said = [
        (row.answer["genes"].get(score["gene"], "no"), GeneScore(**score))
        for row in named
        for score in row.answer["scores"]
    ]
    weeks, shown = defaultdict[str, list[float]](list), defaultdict[str, list[float]](list)
    for row in named:
        weeks[f"{row.answered_at:%G-W%V}"].append(row.lost or 0.0)
        stage = row.animal.get_stage_display() if row.animal else ""
        shown[f"{row.picture}, {stage}"].append(row.lost or 0.0)
    return OwnEye(
        len(named),
        sum(row.lost or 0.0 for row in named) / max(1, len(named)),
        sum(row.luck or 0.0 for row in named) / max(1, len(named)),
        calibration(said),
        _genes(collection, [score for _, score in said]),
        _looks(collection, member),
        [(week, len(values), sum(values) / len(values)) for week, values in sorted(weeks.items())],
        _dearest_first(shown),
        _places(collection, named),
        _words(collection, member),
        _others(collection, member),
    )


def _places(collection: Collection, named: Sequence[Exercise]) -> list[tuple[str, int, float]]:
    """By place on the body, what was lost by genes that a look there told most."""
    regions = {entry["id"]: entry["region"] for entry in catalogue_of(collection).document["traits"]}
    lost = defaultdict[str, list[float]](list)
    for row in named:
        telling = row.answer.get("telling", {})
        for score in row.answer["scores"]:
            if (look := telling.get(score["gene"], "")) in regions:
                lost[BY_ID[place_of(look, regions[look])].name].append(GeneScore(**score).lost)
    return _dearest_first(lost)


def _dearest_first(lost: Mapping[str, Sequence[float]]) -> list[tuple[str, int, float]]:
    """Each with how often it came and what was lost by it on average."""
    rows = ((name, len(values), sum(values) / len(values)) for name, values in lost.items())
    return sorted(rows, key=lambda one: -one[2])


def _others(collection: Collection, member: AbstractBaseUser) -> list[Beside]:
    """Those who want to be compared, who lost least first; nobody where this member does not."""
    wishes = Wish.objects.filter(collection=collection, shares=True).select_related("member")
    if not any(wish.member_id == member.pk for wish in wishes):
        return []
    rows = []
    for wish in wishes:
        lost = [row.lost or 0.0 for row in _answered(collection, wish.member, Exercise.Kind.NAME)]
        if lost:
            rows.append(Beside(wish.member.get_username(), len(lost), sum(lost) / len(lost)))
    return sorted(rows, key=lambda row: row.lost)


def _words(collection: Collection, member: AbstractBaseUser) -> list[OfWord]:
    """What each word is worth, by answers on photos, given how reliably each look is read."""
    own = [row for row in _looks(collection, member) if row.photos]
    clarities = {(row.reliability.look, row.reliability.stage): row.reliability.after for row in own}
    traits = catalogue_without(collection, KIND).traits
    readings = [
        (traits[row.look], clarities[row.look, row.answer["stage"]], reading_of(row))
        for row in _answered(collection, member, Exercise.Kind.LOOK)
        if row.picture == PHOTO and row.look in traits
    ]
    rows = collection.overrides.filter(withdrawn_at=None, value__kind=KIND_OF_WORDS)
    used = {row.value["word"]: row for row in rows}
    return [OfWord(worth_of(word, readings), used.get(word)) for word in CONFIDENCE]


def reading_of(row: Exercise) -> Reading:
    """An answered look as a reading."""
    return Reading(row.answer["true"], row.answer["level"], row.answer["confidence"])


def _answered(collection: Collection, member: AbstractBaseUser, kind: str) -> list[Exercise]:
    rows = Exercise.objects.filter(collection=collection, member_id=member.pk, kind=kind, said__isnull=False, player="")
    return list(rows.select_related("animal"))


def _genes(collection: Collection, scores: Sequence[GeneScore]) -> list[OfGene]:
    naming, lost = Naming(catalogue_of(collection)), defaultdict[str, list[float]](list)
    for one in scores:
        lost[one.gene].append(one.lost)
    rows = [OfGene(naming.gene(gene), len(values), sum(values) / len(values)) for gene, values in lost.items()]
    return sorted(rows, key=lambda row: -row.lost * min(row.animals, 5))[:MOST_GENES]


def _looks(collection: Collection, member: AbstractBaseUser) -> list[OfLook]:
    """Photos and drawings are never mixed."""
    catalogue = catalogue_without(collection, KIND)
    names = {entry["id"]: entry["name"] for entry in catalogue.document["traits"]}
    readings: dict[tuple[str, str, bool], list[Reading]] = defaultdict(list)
    for row in _answered(collection, member, Exercise.Kind.LOOK):
        if row.look in catalogue.traits:
            readings[row.look, row.answer["stage"], row.picture == PHOTO].append(reading_of(row))
    used = clarities_of(collection)
    rows = [
        OfLook(
            names[look],
            measured(catalogue.traits[look], stage, own),
            taken_for(own),
            photos,
            used.get((look, stage)) if photos else None,
        )
        for (look, stage, photos), own in readings.items()
    ]
    return sorted(rows, key=lambda row: (-row.reliability.answers, row.name))


def clarities_of(collection: Collection) -> dict[tuple[str, str], CatalogueOverride]:
    """The clarities in use that were measured, by look and stage."""
    rows = collection.overrides.filter(withdrawn_at=None, value__kind=KIND)
    return {(row.value["trait"], row.value["stage"]): row for row in rows}


@transaction.atomic
def take_over(collection: Collection, member: AbstractBaseUser, look: str, stage: str) -> CatalogueOverride:
    """Uses a member's own reliability of a look at a stage on the bench. :class:`Refused` below the floor of answers."""
    found = next(
        (
            row.reliability
            for row in _looks(collection, member)
            if row.photos and (row.reliability.look, row.reliability.stage) == (look, stage)
        ),
        None,
    )
    if found is None or not found.is_enough:
        raise Refused("There are not enough answers on photos for that. Nothing was changed.")
    if (look, stage) in (used := clarities_of(collection)):
        withdraw_override(used[look, stage])
    value = {
        "kind": KIND,
        "trait": look,
        "stage": stage,
        "clarity": round(found.after, 2),
        "answers": found.answers,
    }
    return add_override(collection, member, value)


def give_back(collection: Collection, look: str, stage: str) -> None:
    """Uses the catalogue's own clarity again; the figure stays in the record."""
    if (look, stage) in (used := clarities_of(collection)):
        withdraw_override(used[look, stage])


@transaction.atomic
def take_over_word(collection: Collection, member: AbstractBaseUser, word: str) -> CatalogueOverride:
    """Uses what a member's word is worth on the bench. :class:`Refused` below the floor of answers."""
    found = next((row for row in _words(collection, member) if row.worth.word == word), None)
    if found is None or not found.worth.is_enough:
        raise Refused("There are not enough answers on photos for that. Nothing was changed.")
    if found.used:
        withdraw_override(found.used)
    worth = found.worth
    value = {"kind": KIND_OF_WORDS, "word": word, "worth": round(worth.after, 2), "answers": worth.answers}
    return add_override(collection, member, value)


def give_back_word(collection: Collection, word: str) -> None:
    """Takes a word as it is usually taken again."""
    for row in collection.overrides.filter(withdrawn_at=None, value__kind=KIND_OF_WORDS, value__word=word):
        withdraw_override(row)


def wish_of(collection: Collection, member: AbstractBaseUser) -> Wish:
    """What a member wants of practice; nothing where nothing was said."""
    known = Wish.objects.filter(collection=collection, member_id=member.pk).first()
    return known or Wish(collection=collection, member_id=member.pk)
