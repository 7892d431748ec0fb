"""Reads of photos: what is made and what is under way, the measures of one in words, those of its siblings."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from django.db.models import F, Q
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from eyot_core.photo.answer import measured_from
from eyot_core.photo.belly import BELLY_MEASURES
from eyot_core.photo.measures import MEASURES, Measure, Measured, Missing, Value
from eyot_core.photo.suggest import against_siblings

from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.season.growth import Grown
from eyot.season.models import Clutch, Egg, Stage

UNDER_WAY = ("todo", "doing")
WAITING = Q(sizes_done__lt=F("sizes_wanted")) | Q(find_done__lt=F("find_wanted")) | Q(strip_done__lt=F("strip_wanted"))


def photo_of(collection: Collection, photo_id: UUID) -> Photo:
    """One photo of this collection; 404 where it has none."""
    photos = Photo.objects.filter(egg__clutch__collection=collection).select_related("egg__clutch", "light_from__egg")
    return get_object_or_404(photos, pk=photo_id)


@dataclass(frozen=True)
class OnCard:
    """A card that says another hatchling than the photo's. ``egg``: which, None where the collection has none of that number."""

    id: str
    egg: Egg | None


def other_on_card(photo: Photo) -> OnCard | None:
    """Whom the card in a photo names, where that is neither the photo's hatchling nor its clutch and nobody has settled it."""
    named = photo.card_id
    if photo.card_overruled or named in ("", photo.egg.code, photo.egg.clutch.code):
        return None
    number = named.rpartition("-")[2]
    eggs = Egg.objects.filter(clutch__collection=photo.egg.clutch.collection_id).select_related("clutch")
    numbered = eggs.filter(number=int(number)) if number.isdecimal() and len(number) < 4 else []
    return OnCard(named, next((egg for egg in numbered if egg.code == named), None))


def sizes_of(egg: Egg) -> list[Grown]:
    """How long and thick a hatchling was, by the cards in its photos: one query. Lines that nobody has looked at count where they are
    plainly sure."""
    photos = Photo.objects.filter(egg=egg).exclude(size={})
    return [
        Grown(
            timezone.localdate(photo.taken_at),
            length=photo.size_word("length"),
            girth=photo.size_word("girth"),
            shown_at=reverse("strip-page", args=[photo.pk]),
        )
        for photo in photos
        if not photo.is_doubtful
    ]


@dataclass(frozen=True)
class Progress:
    """How far the jobs of some photos are. ``stuck``: photos that no job is working on any more."""

    total: int
    done: int
    stuck: list[Photo]

    @property
    def is_under_way(self) -> bool:
        """Is something still being made?"""
        return self.done + len(self.stuck) < self.total


def progress_of(photos: Sequence[Photo]) -> Progress:
    """How far the jobs of these photos are. What was made since a photo was read counts as under way until it is read again."""
    waiting = [photo for photo in photos if photo.is_waiting]
    if not waiting:
        return Progress(len(photos), len(photos), [])
    jobs = ProcrastinateJob.objects.filter(queue_name="photos", status__in=UNDER_WAY)
    ordered = {args.get("photo") for args in jobs.values_list("args", flat=True)}
    idle = [photo for photo in waiting if str(photo.pk) not in ordered]
    still = set(Photo.objects.filter(WAITING, pk__in=[photo.pk for photo in idle]).values_list("pk", flat=True))
    return Progress(len(photos), len(photos) - len(waiting), [photo for photo in idle if photo.pk in still])


@dataclass(frozen=True)
class MeasureRow:
    """One measure of one photo in words. ``colour``: sRGB for a swatch, or empty; ``siblings``: where it stands."""

    id: str
    name: str
    counted: str
    value: str
    unit: str
    siblings: str
    missing: str


def measure_rows(photo: Photo, siblings: Sequence[Photo]) -> list[MeasureRow]:
    """The measures of a photo in words, each told against the other hatchlings' photos."""
    measured, others = measured_from(photo.measures), measured_of_others(photo, siblings)
    every = (*MEASURES, *BELLY_MEASURES)
    return [_row(measure, measured[measure.id], others) for measure in every if measure.id in measured]


def measured_of_others(photo: Photo, siblings: Sequence[Photo]) -> list[Measured]:
    """The measures of the other hatchlings among some photos."""
    return [measured_from(other.measures) for other in siblings if other.egg_id != photo.egg_id]


def words_against(measure: str, value: Value, others: Sequence[Measured]) -> str:
    """Where a measure stands among those of the siblings, in words; empty where too few are known."""
    assert isinstance(value.value, float)
    known = [other.get(measure) for other in others]
    values = [other.value for other in known if isinstance(other, Value) and isinstance(other.value, float)]
    return against_siblings(measure, value.value, values, float(np.max(value.sd)))


def _row(measure: Measure, value: Value | Missing, others: Sequence[Measured]) -> MeasureRow:
    if isinstance(value, Missing):
        return MeasureRow(measure.id, measure.name, measure.counted, "", "", "", value.reason)
    if isinstance(value.value, tuple):
        words = " ".join(f"{number:.0f}" for number in value.value)
        return MeasureRow(measure.id, measure.name, measure.counted, words, measure.unit, "", "")
    beside_siblings = words_against(measure.id, value, others)
    return MeasureRow(
        measure.id, measure.name, measure.counted, value_words(measure.id, value), measure.unit, beside_siblings, ""
    )


def value_words(measure: str, value: Value) -> str:
    """A measure with its uncertainty, in as many digits as it bears.

    >>> value_words("white_share", Value(0.3141, 0.02)), value_words("lightness", Value(41.26, 2.6))
    ('0.31 ± 0.02', '41 ± 3')
    """
    assert isinstance(value.value, float)
    assert isinstance(value.sd, float)
    digits = 2 if measure.endswith("_share") or measure in ("stripe_continuity", "symmetry", "belly_two_rows") else 0
    return f"{value.value:.{digits}f} ± {max(value.sd, 10.0**-digits):.{digits}f}"


def strips_of_other_stages(photos: Sequence[Photo], stage: str) -> list[Photo]:
    """Of one hatchling's photos, oldest first, the newest strip from above of each stage but one; the latest stage first."""
    strips = {
        photo.stage: photo
        for photo in photos
        if photo.kind == Photo.Kind.BACK and photo.has_strip and photo.stage != stage
    }
    return sorted(strips.values(), key=lambda photo: Stage.values.index(photo.stage), reverse=True)


def photos_of_animals(animals: Iterable[int], kinds: Sequence[str] = ()) -> dict[int, list[Photo]]:
    """The photos of some animals that can be shown, by the animal's number, the newest first; of some kinds if asked: one query."""
    photos = Photo.objects.filter(egg__kept_as__in=list(animals), sizes_done__gt=0).select_related("egg__clutch")
    by_animal: dict[int, list[Photo]] = {}
    for photo in (photos.filter(kind__in=kinds) if kinds else photos).order_by("-taken_at", "-added_at"):
        assert photo.egg.kept_as_id is not None
        by_animal.setdefault(photo.egg.kept_as_id, []).append(photo)
    return by_animal


def latest_belly(egg: Egg, stage: str) -> Photo | None:
    """The newest strip of a hatchling's belly at a stage."""
    photos = Photo.objects.filter(egg=egg, kind=Photo.Kind.BELLY, stage=stage, strip_done__gt=0, trouble="")
    return photos.exclude(measures={}).order_by("taken_at").last()


def latest_strips(clutch: Clutch, stage: str = "") -> list[Photo]:
    """The newest photo from above with a strip of each hatchling, of one stage if asked; by egg number."""
    photos = Photo.objects.filter(egg__clutch=clutch, kind=Photo.Kind.BACK, strip_done__gt=0, trouble="")
    photos = photos.filter(stage=stage) if stage else photos
    newest = {
        photo.egg_id: photo for photo in photos.exclude(line={}).select_related("egg__clutch").order_by("taken_at")
    }
    return sorted(newest.values(), key=lambda photo: photo.egg.number)
