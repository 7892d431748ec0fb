"""What a job does with a photo that came: it is looked at once, before it is known whose it is."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Any

import numpy as np

from eyot_core.photo.fingerprint import fingerprint, same_among
from eyot_core.photo.light import in_light

from eyot.inbox.models import InboxPhoto
from eyot.photos import files
from eyot.photos.models import light_from
from eyot.photos.processing import Looked, looked_at

ALIKE = 2
"""How far the brightness of two fingerprints of one photo may lie apart, of 255."""


def look_at(number: str) -> InboxPhoto | None:
    """Seeks cards, light and line in a photo, makes its sizes, proposes what it shows, and tells whether it came before under another
    name. Nothing where that was done. Can be done twice without harm."""
    from eyot_core.photo.shows import shown_in  # a web process needs none of it

    row = InboxPhoto.objects.filter(pk=number, state=InboxPhoto.State.SENT).first()
    if row is None:
        return None
    pixels = files.original(row.folder)
    looked = looked_at(pixels, line_too=True)
    assert looked.found is not None
    shown = shown_in(pixels, looked.found)
    light = light_from(looked.light)
    files.write_sizes(row.folder, in_light(pixels, light) if light else pixels, 1)
    print_of = fingerprint(pixels)
    row.looked, row.kind, row.kind_sure = _kept(looked), shown.kind, shown.confidence
    row.fingerprint, row.brightness = print_of, int(np.frombuffer(print_of, dtype=np.uint8).mean())
    row.state = InboxPhoto.State.WAITS
    row.same_as = _seen_before(row)
    if row.same_as:
        row.why, row.by_hand = InboxPhoto.SAME, True
    row.save()
    return row


def _kept(looked: Looked) -> dict[str, Any]:
    return {name: value for name, value in asdict(replace(looked, found=None)).items() if name != "found"}


def looked_from(row: InboxPhoto) -> Looked:
    """What was seen in a photo when it was looked at."""
    return Looked(**row.looked)


def _seen_before(row: InboxPhoto) -> InboxPhoto | None:
    """The photo that came before and shows the same, unless the camera says that they were taken at different moments."""
    states = (InboxPhoto.State.WAITS, InboxPhoto.State.FILED, InboxPhoto.State.CARD)
    near = InboxPhoto.objects.filter(
        collection=row.collection_id,
        state__in=states,
        brightness__range=(row.brightness - ALIKE, row.brightness + ALIKE),
    ).exclude(pk=row.pk)
    others = [one for one in near.only("pk", "name", "fingerprint", "taken_at", "dated_by") if _may_be_one(one, row)]
    place = same_among(bytes(row.fingerprint), [bytes(one.fingerprint) for one in others])
    return None if place is None else others[place]


def _may_be_one(one: InboxPhoto, other: InboxPhoto) -> bool:
    by_camera = one.dated_by == other.dated_by == "camera"
    return not by_camera or one.taken_at == other.taken_at
