"""Side by side: one to four panes, each with one animal, one photo or one drawing, all at the same place on the body."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from uuid import UUID

from django.db.models import QuerySet
from django.http import Http404

from eyot_core.body_places import BY_ID, PLACES, WHOLE
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import key_of

from eyot.bench.judgement import Judgement
from eyot.bench.queries import candidate_of
from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.drawn import drawing_address
from eyot.collection.models import Animal, Collection
from eyot.photos.models import Photo
from eyot.photos.places import Shot, nearest_in_age, shots_of
from eyot.reference.models import Pin
from eyot.reference.subjects import STAGE_WORDS, subject_of
from eyot.season.models import Egg, Stage

MOST = 4
CANDIDATES = 4
MOST_PINS = 12
DRAWN, OF_EGG, OF_PHOTO, OWN = "d", "e", "p", "own"


@dataclass(frozen=True)
class Pane:
    """One pane. ``spec``: what it was asked for as; ``title``: whose it is; ``gone``: why there is nothing."""

    spec: str
    title: str
    at: dict[str, Shot] = field(default_factory=dict)
    gone: str = ""

    @property
    def shots(self) -> str:
        """What it shows by place, for the page's script."""
        return json.dumps({place: vars(shot) for place, shot in self.at.items()})


def panes_of(collection: Collection, specs: Sequence[str], egg: Egg | None, stage: str) -> list[Pane]:
    """The panes that are asked for, at most four; what is not here any more is told in its pane."""
    return [_pane(collection, spec, egg, stage) for spec in list(dict.fromkeys(specs))[:MOST]]


def _pane(collection: Collection, spec: str, egg: Egg | None, stage: str) -> Pane:
    if spec == OWN and egg:
        return _of_egg(spec, egg, stage)
    kind, rest = spec[:1], spec[1:]
    if kind == DRAWN:
        return _drawn(collection, spec, rest, stage)
    if kind == OF_EGG:
        number, _, wanted = rest.partition(".")
        eggs = Egg.objects.filter(clutch__collection=collection).select_related("clutch", "kept_as")
        found = eggs.filter(pk=int(number)).first() if number.isdecimal() and len(number) < 10 else None
        return _of_egg(spec, found, wanted if wanted in Stage.values else stage) if found else _gone(spec)
    photos = Photo.objects.filter(egg__clutch__collection=collection).select_related("egg__clutch", "egg__kept_as")
    key = _uuid(rest) if kind == OF_PHOTO else None
    photo = photos.filter(pk=key).first() if key else None
    return Pane(spec, str(photo.egg), shots_of([photo])) if photo else _gone(spec)


def _gone(spec: str) -> Pane:
    return Pane(
        spec, "not here", gone="This photo or animal is not here any more. Choose another; the other panes stand."
    )


def _uuid(text: str) -> UUID | None:
    try:
        return UUID(text)
    except ValueError:
        return None


def _drawn(collection: Collection, spec: str, key: str, stage: str) -> Pane:
    try:
        subject = subject_of(catalogue_of(collection), key)
    except Http404:
        return Pane(
            spec, "no such combination", gone="No animal can have these genes, or one of them is not known here."
        )
    title = subject.label + (f" “{subject.trade_name}”" if subject.trade_name else "")
    words = f"drawing, {STAGE_WORDS[stage]}"
    return Pane(
        spec,
        title,
        {
            place.id: Shot(drawing_address(collection, "drawing-place", place.id, key, stage=stage), 1.0, words)
            for place in PLACES
        },
    )


def _of_egg(spec: str, egg: Egg, stage: str) -> Pane:
    """An animal at a stage, or at the nearest of which it has a photo."""
    photos = [photo for photo in egg.photos.order_by("taken_at", "added_at") if photo.has_sizes]
    if not photos:
        return Pane(spec, str(egg), gone="No photo of this animal yet.")
    return Pane(spec, str(egg), shots_of(nearest_in_age(photos, stage)))


@dataclass(frozen=True)
class Choices:
    """What can be chosen for a pane, under a heading."""

    heading: str
    options: list[tuple[str, str]]


def choices_for(collection: Collection, egg: Egg | None, stage: str, judgement: Judgement | None) -> list[Choices]:
    """What can be laid beside: this animal's other stages, siblings, parents, pinned references, candidates."""
    choices = []
    if egg:
        own = dict.fromkeys(egg.photos.order_by("taken_at").values_list("stage", flat=True))
        stages = [(f"{OF_EGG}{egg.pk}.{one}", f"{egg}, {Stage(one).label}") for one in own if one != stage]
        choices += [
            Choices("this animal", [(OWN, str(egg)), *stages]),
            Choices("siblings", _pictured(egg.clutch.eggs.exclude(pk=egg.pk))),
            Choices("parents", _pictured(Egg.objects.filter(kept_as__in=parents_of(egg)))),
        ]
    pins = Pin.objects.filter(collection=collection, photo__taken_away_at=None).select_related("photo__egg__clutch")
    choices.append(
        Choices(
            "pinned references",
            [(f"{OF_PHOTO}{pin.photo_id}", _pinned_words(collection, pin)) for pin in pins.order_by("-pk")[:MOST_PINS]],
        )
    )
    if judgement and egg:
        candidates = [candidate_of(row, judgement.naming) for row in judgement.combinations(egg, CANDIDATES)]
        choices.append(Choices("drawings", [(f"{DRAWN}{one.key}", f"{one.label}, drawn") for one in candidates]))
    return [one for one in choices if one.options]


def _pinned_words(collection: Collection, pin: Pin) -> str:
    try:
        return (
            f"{subject_of(catalogue_of(collection), pin.key).label}: {pin.photo.egg}, {pin.photo.get_stage_display()}"
        )
    except Http404:  # a gene that the collection does not know any more
        return f"{pin.photo.egg}, {pin.photo.get_stage_display()}"


def _with_photos(eggs: QuerySet[Egg]) -> QuerySet[Egg]:
    return eggs.filter(photos__taken_away_at=None, photos__sizes_done__gt=0).distinct()


def _pictured(eggs: QuerySet[Egg]) -> list[tuple[str, str]]:
    return [(f"{OF_EGG}{one.pk}", str(one)) for one in _with_photos(eggs).select_related("clutch", "kept_as")]


def parents_of(egg: Egg) -> list[Animal]:
    """Dam and sires of an egg, as far as they are entered."""
    if egg.clutch.elsewhere:
        known = (egg.kept_as.dam, egg.kept_as.sire) if egg.kept_as else ()
        return [one for one in known if one]
    sires = [entry.sire for entry in egg.clutch.clutch_sires.select_related("sire")]
    return [egg.clutch.own_dam, *sires]


def parents_beside(egg: Egg) -> list[str]:
    """The panes of its parents that have photos."""
    return [spec for spec, _ in _pictured(Egg.objects.filter(kept_as__in=parents_of(egg)))]


def unpictured_parents(egg: Egg) -> list[Animal]:
    """Its parents of whom there is no photo."""
    parents = parents_of(egg)
    pictured = set(_with_photos(Egg.objects.filter(kept_as__in=parents)).values_list("kept_as", flat=True))
    return [one for one in parents if one.pk not in pictured]


def first_panes(egg: Egg, judgement: Judgement) -> list[str]:
    """What stands side by side where nothing was chosen: this animal, its parents with photos, and the leading candidate drawn."""
    parents = parents_beside(egg)
    leading = [candidate_of(row, judgement.naming).key for row in judgement.combinations(egg, 1)]
    return [OWN, *parents[: MOST - 2], *(f"{DRAWN}{key}" for key in leading)][:MOST]


def drawing_typed(collection: Collection, text: str) -> str:
    """The pane of a drawing that was typed as genes; empty where nothing was understood."""
    read = understood(lookup(catalogue_of(collection)), text[:200])
    return f"{DRAWN}{key_of(read.genes)}" if read.genes and not read.impossible else ""


def place_asked(asked: str, look_place: str) -> str:
    """The place to begin with: the one that was asked for, else the look's, else the whole animal."""
    return asked if asked in BY_ID else look_place or WHOLE
