"""Drills: one look after another, and look-alikes."""

from __future__ import annotations

import secrets
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.body_places import place_of
from eyot_core.catalogue import Catalogue
from eyot_core.drawing.glyphs import glyph
from eyot_core.drawing.plate import AT
from eyot_core.exercises.pictures import BELLY, HEAD, PHOTO, STRIP
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.practice.answering import read_look, tell_apart
from eyot.practice.knowing import shown_looks
from eyot.practice.making import look_to_ask, new_animal, order_photos, put_look
from eyot.practice.models import Exercise, MadeUpAnimal
from eyot.practice.pairs import next_pair, put
from eyot.practice.views.home import exercise_of, practice_page
from eyot.shared.refusal import Refused, refusals_on

IN_A_ROW = 20
DRAWN = (STRIP, HEAD, BELLY)


@dataclass(frozen=True)
class Choice:
    """What can be answered: a level of a look, or one of two look-alikes."""

    id: str
    name: str
    words: str = ""
    drawing: str = ""


@require_POST
@refusals_on(practice_page)
def begin_look(request: CollectionRequest) -> HttpResponse:
    """The next look to be read, off a photo where one lies ready and is wanted."""
    collection, now = request.collection, timezone.now()
    random = np.random.default_rng(secrets.randbits(64))
    wants_photo = request.POST.get("picture", PHOTO) == PHOTO
    photos = collection.made_up.filter(photo__failed=False).exclude(photo__jpeg=b"")
    animal = _least_asked(photos, request) if wants_photo else None
    picture = PHOTO if animal else str(random.choice(DRAWN))
    animal = animal or new_animal(collection, request.member, now)
    look = look_to_ask(shown_looks(animal, picture, catalogue_of(collection)), _hard_looks(request), random)
    exercise = put_look(collection, request.member, animal, picture, look, now)
    order_photos(collection, request.member, now)
    return redirect("exercise", exercise.pk)


def _least_asked(photos: Any, request: CollectionRequest) -> MadeUpAnimal | None:
    """A photo of those that somebody was asked about least."""
    asked: dict[int, int] = defaultdict(int)
    for pk in Exercise.objects.filter(member_id=request.member.pk, animal__in=photos).values_list("animal", flat=True):
        asked[pk] += 1
    return min(photos, key=lambda one: (asked[one.pk], one.pk), default=None)


def _hard_looks(request: CollectionRequest) -> dict[str, float]:
    """By look how many times as often it comes: the more, the more often it was misread."""
    read: dict[str, list[bool]] = defaultdict(list)
    rows = Exercise.objects.filter(
        collection=request.collection, member_id=request.member.pk, kind=Exercise.Kind.LOOK, said__isnull=False
    )
    for look, is_right in rows.values_list("look", "is_right"):
        read[look].append(bool(is_right))
    return {look: 1 + 4 * (1 - sum(values) / len(values)) for look, values in read.items()}


def drill_page(request: CollectionRequest, exercise: Exercise, refused: Refused | None) -> HttpResponse:
    """One look, or one of two look-alikes; with what the last answer was worth."""
    catalogue = catalogue_of(request.collection)
    answered = Exercise.objects.filter(
        collection=request.collection, member_id=request.member.pk, kind=exercise.kind, said__isnull=False
    )
    last = list(answered.order_by("-answered_at")[:IN_A_ROW])
    context = {
        "exercise": exercise,
        "last": last,
        "right": sum(bool(one.is_right) for one in last),
        "words": ("hint", "likely", "sure"),
        "refused": refused,
        "here": "practice",
    } | (_look(exercise, catalogue) if exercise.kind == Exercise.Kind.LOOK else _pair(exercise, catalogue))
    return render(request, "practice/drill.html", context, status=422 if refused else 200)


def asked_page(request: CollectionRequest, number: int, refused: Refused | None = None) -> HttpResponse:
    """What was asked, with why an answer was refused."""
    return drill_page(request, exercise_of(request, number), refused)


def _look(exercise: Exercise, catalogue: Catalogue) -> dict[str, Any]:
    entry = next(one for one in catalogue.document["traits"] if one["id"] == exercise.look)
    place = place_of(exercise.look, entry["region"])
    levels = [
        Choice(one["id"], one["id"].replace("_", " "), one.get("words", ""), glyph(exercise.look, one["id"]))
        for one in entry["levels"]
    ]
    true = exercise.said["true"] if exercise.said else ""
    chosen = exercise.said["level"] if exercise.said else ""
    at = place if place in AT and exercise.picture != STRIP else ""
    return {
        "asked": entry["question"],
        "levels": levels,
        "true": true,
        "chosen": chosen,
        "at": at,
        "name": entry["name"],
    }


def _pair(exercise: Exercise, catalogue: Catalogue) -> dict[str, Any]:
    naming, sides = Naming(catalogue), exercise.pair.split("~")
    notes = catalogue.document.get("lookalikes", [])
    levels = [Choice(side, _words(naming, side)) for side in sides]
    said = exercise.said or {}
    asked = set(sides)
    note = next((one for one in notes if {_key(each) for each in one["candidates"]} == asked), None)
    return {
        "asked": "Which of the two is it?",
        "levels": levels,
        "true": said.get("true", ""),
        "chosen": said.get("chosen", ""),
        "at": "",
        "name": " or ".join(_words(naming, side) for side in sides),
        "note": note,
    }


def _key(candidate: dict[str, int]) -> str:
    return ".".join(gene for gene, copies in candidate.items() for _ in range(copies))


def _words(naming: Naming, side: str) -> str:
    """One of two look-alikes in words."""
    genes = side.split(".")
    return ", ".join(naming.copies(gene, genes.count(gene)) for gene in dict.fromkeys(genes))


@require_POST
@refusals_on(asked_page)
def read(request: CollectionRequest, number: int) -> HttpResponse:
    """A look is read."""
    exercise = exercise_of(request, number)
    if exercise.kind != Exercise.Kind.LOOK:
        raise Refused("That is no look to be read. Nothing was kept.")
    read_look(exercise, request.POST.get("level", ""), request.POST.get("confidence", "sure"), timezone.now())
    return redirect("exercise", number)


@require_POST
@refusals_on(practice_page)
def begin_pair(request: CollectionRequest) -> HttpResponse:
    """The next pair of look-alikes: what is due first."""
    now = timezone.now()
    pair = next_pair(request.collection, request.member, now)
    if not pair:
        raise Refused("No look-alikes are noted or were mixed up. Nothing was begun.")
    return redirect("exercise", put(request.collection, request.member, pair, now).pk)


@require_POST
@refusals_on(asked_page)
def choose(request: CollectionRequest, number: int) -> HttpResponse:
    """One of two look-alikes is named."""
    exercise = exercise_of(request, number)
    if exercise.kind != Exercise.Kind.PAIR:
        raise Refused("That is no pair to be told apart. Nothing was kept.")
    tell_apart(exercise, request.POST.get("level", ""), timezone.now())
    return redirect("exercise", number)
