"""One's own eye: how often what was said was there, where it loses most, what it takes for what, and how reliably it reads each look."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.exercises.pictures import PHOTO
from eyot_core.exercises.reliability import Reading, Reliability, Taken, measured, taken_for
from eyot_core.exercises.scores import Calibration, GeneScore, calibration
from eyot_core.wording.names import Naming

from eyot.collection.actions import add_override, withdraw_override
from eyot.collection.catalogue import catalogue_of, catalogue_without
from eyot.collection.models import CatalogueOverride, Collection
from eyot.practice.models import Exercise
from eyot.shared.refusal import Refused

KIND = "clarity"
MOST_GENES = 8


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
        return self.photos and self.reliability.is_enough and abs(self.reliability.after - now) >= 0.01


@dataclass(frozen=True)
class OwnEye:
    """All of it. ``weeks``: what was lost an animal, week by week, the oldest first."""

    animals: int
    lost: float
    luck: float
    calibration: list[Calibration]
    genes: list[OfGene]
    looks: list[OfLook]
    weeks: list[tuple[str, int, float]]


def own_eye(collection: Collection, member: AbstractBaseUser) -> OwnEye:
    """What a member's answers say of his eye; made-up animals only, own ones stand apart."""
    named = _answered(collection, member, Exercise.Kind.NAME)
    said = [
        (row.answer["genes"].get(score["gene"], "no"), GeneScore(**score))
        for row in named
        for score in row.answer["scores"]
    ]
    weeks: dict[str, list[float]] = defaultdict(list)
    for row in named:
        weeks[f"{row.answered_at:%G-W%V}"].append(row.lost or 0.0)
    return OwnEye(
        len(named),
        sum(row.lost or 0.0 for row in named) / max(1, len(named)),
        sum(row.luck or 0.0 for row in named) / max(1, len(named)),
        calibration(said),
        _genes(collection, [score for _, score in said]),
        _looks(collection, member),
        [(week, len(values), sum(values) / len(values)) for week, values in sorted(weeks.items())],
    )


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
            reading = Reading(row.answer["true"], row.answer["level"], row.answer["confidence"])
            readings[row.look, row.answer["stage"], row.picture == PHOTO].append(reading)
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
