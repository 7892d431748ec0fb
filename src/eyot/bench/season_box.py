"""What a season's list of clutches shows of each: its eggs as they lie, with the newest photo and the last call of each hatchling."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eyot.bench.models import Call
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg


@dataclass(frozen=True)
class Held:
    """One egg. ``photo``: the newest from above; ``words``: what it was called, else how it stands."""

    egg: Egg
    photo: Photo | None
    words: str
    is_called: bool


@dataclass(frozen=True)
class Box:
    """One clutch with its eggs."""

    clutch: Clutch
    eggs: list[Held]


def boxes_of(clutches: Sequence[Clutch]) -> list[Box]:
    """The clutches of a season, each with its eggs as read before: two queries."""
    photos = Photo.objects.filter(egg__clutch__in=clutches, kind=Photo.Kind.BACK, sizes_done__gt=0)
    newest = {photo.egg_id: photo for photo in photos.order_by("egg_id", "-taken_at").distinct("egg_id")}
    calls = Call.objects.filter(egg__clutch__in=clutches).order_by("egg_id", "-made_at", "-pk").distinct("egg_id")
    called = {call.egg_id: call.label for call in calls}
    return [Box(clutch, [_held(egg, newest, called) for egg in clutch.eggs.all()]) for clutch in clutches]


def _held(egg: Egg, newest: dict[int, Photo], called: dict[int, str]) -> Held:
    words = called.get(egg.pk) or ("to call" if egg.is_open else egg.get_state_display().lower())
    return Held(egg, newest.get(egg.pk), words, egg.pk in called)
