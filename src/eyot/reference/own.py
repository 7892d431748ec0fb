"""Own references: pinning photos, and finding those that belong to a gene or a combination."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import QuerySet

from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.reference.models import Pin

SUREST = list(Pin.Confirmed)
MOST = 6


def sorted_key(key: str) -> str:
    """The key under which pins stand: genes by name, whatever the order typed."""
    return ".".join(sorted(key.split(".")))


def pin_photo(
    collection: Collection, member: AbstractBaseUser, photo: Photo, key: str, confirmed: str, note: str = ""
) -> Pin:
    """Pins a photo to a combination, or says anew how it is confirmed. For members of the collection."""
    values: dict[str, Any] = {"confirmed": Pin.Confirmed(confirmed), "note": note[:300], "collection": collection}
    values["pinned_by_id"] = member.pk
    pin, _ = Pin.objects.update_or_create(photo=photo, key=sorted_key(key), defaults=values)
    return pin


def take_down(pin: Pin) -> None:
    """Takes a pin off; the photo stays where it is."""
    pin.delete()


def pins_of(collection: Collection) -> QuerySet[Pin]:
    """All pins with their photos."""
    return Pin.objects.filter(collection=collection, photo__taken_away_at=None).select_related(
        "photo__egg__clutch", "pinned_by"
    )


def pins_for_combination(collection: Collection, key: str) -> list[Pin]:
    """Animals of just this combination, the surest and newest first."""
    return best_first(pins_of(collection).filter(key=sorted_key(key)))


def pins_for_gene(collection: Collection, gene: str) -> list[Pin]:
    """Animals that have the gene among others, the surest and newest first."""
    return best_first(pin for pin in pins_of(collection) if gene in pin.key.split("."))


def best_first(pins: Iterable[Pin]) -> list[Pin]:
    """By how they are confirmed, then those in a known light, then the newest; at most ``MOST``."""
    newest = sorted(pins, key=lambda pin: pin.photo.taken_at, reverse=True)
    return sorted(newest, key=lambda pin: (SUREST.index(Pin.Confirmed(pin.confirmed)), not pin.photo.light))[:MOST]
