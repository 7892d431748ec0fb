"""What a job does with a photo that came: it is looked at once, before it is known whose it is."""

from __future__ import annotations

from dataclasses import asdict
from datetime import timedelta

import numpy as np

from eyot_core.photo.fingerprint import fingerprint, same_among
from eyot_core.photo.sight import LONGEST, made_small

from eyot.inbox.models import InboxPhoto, Print
from eyot.photos import files
from eyot.photos.models import Photo, light_from
from eyot.photos.processing import Looked, known_grey, seen_in

ALIKE = 2
"""How far the brightness of two fingerprints of one photo may lie apart, of 255."""
DAYS, MOMENT = timedelta(days=1), timedelta(seconds=5)
"""Photos of how many days before and after are compared; how far the moments of coming and of being taken may lie apart and be one."""


def look_at(number: str) -> InboxPhoto | None:
    """Seeks cards, light and line in a photo, makes its sizes, proposes what it shows, and tells whether it came before under another
    name. Nothing where that was done. Can be done twice without harm."""
    from eyot_core.photo.shows import shown_in  # a web process needs none of it

    row = InboxPhoto.objects.filter(pk=number, state=InboxPhoto.State.SENT).first()
    if row is None:
        return None
    pixels = files.original(row.folder)
    seen = seen_in(pixels, known_grey(row.collection_id), line_too=True)
    shown = shown_in(seen.sight, seen.found)
    files.write_sizes(row.folder, pixels, light_from(seen.looked.light), 1)
    print_of, brightness = _print_of(seen.sight.small)
    row.looked, row.kind, row.kind_sure = asdict(seen.looked), shown.kind, shown.confidence
    row.fingerprint, row.brightness = print_of, brightness
    row.state = InboxPhoto.State.WAITS
    row.same_as = _seen_before(row)
    row.stands_as = None if row.same_as else _standing(row)
    if row.same_as or row.stands_as:
        row.why, row.by_hand = InboxPhoto.SAME, True
    row.save()
    return row


def _print_of(pixels: files.Pixels) -> tuple[bytes, int]:
    """A fingerprint, and its mean."""
    print_of = fingerprint(pixels)
    return print_of, int(np.frombuffer(print_of, dtype=np.uint8).mean())


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


def _standing(row: InboxPhoto) -> Photo | None:
    """The photo that was added on another page and shows the same. Of those of the same days prints are taken that have none yet."""
    added = Photo.objects.filter(egg__clutch__collection=row.collection_id, came_as=None)
    if row.taken_at:
        for photo in added.filter(print=None, taken_at__range=(row.taken_at - DAYS, row.taken_at + DAYS)):
            _take_print(photo)
    near = Print.objects.filter(
        photo__in=added, brightness__range=(row.brightness - ALIKE, row.brightness + ALIKE)
    ).select_related("photo__egg__clutch")
    others = [one for one in near if _may_stand(row, one.photo)]
    place = same_among(bytes(row.fingerprint), [bytes(one.fingerprint) for one in others])
    return None if place is None else others[place].photo


def _take_print(photo: Photo) -> None:
    if files.has_original(photo.folder):
        print_of, brightness = _print_of(made_small(files.original(photo.folder), LONGEST))
        Print.objects.get_or_create(photo=photo, defaults={"fingerprint": print_of, "brightness": brightness})


def _may_stand(row: InboxPhoto, photo: Photo) -> bool:
    """Not where the camera says that they were taken at different moments. A photo without its camera's date has that of its coming."""
    by_camera = row.dated_by == "camera" and abs(photo.added_at - photo.taken_at) > MOMENT
    return not by_camera or row.taken_at == photo.taken_at
