"""Files come in: stored and noted, or a reason why not; twice is once, and what came before is known."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import IO
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.photo.picture import NoPicture

from eyot.collection.models import Collection
from eyot.inbox.models import Drop, InboxPhoto
from eyot.inbox.tasks import order_look, order_settling
from eyot.photos import files
from eyot.photos.actions import FIRST_DIGITAL
from eyot.photos.decoding import TakenIn, taken_in
from eyot.photos.models import Photo
from eyot.shared.devices import TAKEN, claim
from eyot.shared.refusal import Refused

AHEAD = timedelta(hours=14)
"""A camera that was set in another time zone may be ahead by so much; what is further ahead is no date."""
KEEPS = (InboxPhoto.State.SENT, InboxPhoto.State.WAITS, InboxPhoto.State.FILED, InboxPhoto.State.CARD)


@dataclass(frozen=True)
class Sent:
    """One file as it was sent. ``key``: its number; ``place``: among the files of its drop; ``modified``: when the file was written, as far
    as its device says; ``simulated``: was it drawn, not taken?"""

    key: UUID
    name: str
    file: IO[bytes]
    size: int
    place: int = 0
    modified: datetime | None = None
    simulated: bool = False


def drop_of(collection: Collection, member: AbstractBaseUser, number: UUID, at: datetime) -> Drop:
    """A drop by its number, begun if it is new. :class:`Refused` where it is another's."""
    drop, _ = Drop.objects.get_or_create(
        pk=number, defaults={"collection": collection, "by_id": member.pk, "began_at": at, "last_at": at}
    )
    if drop.collection_id != collection.pk or drop.by_id != member.pk:
        raise Refused(TAKEN)
    return drop


def receive(collection: Collection, member: AbstractBaseUser, drop: Drop, sent: Sent, at: datetime) -> InboxPhoto:
    """Takes in one file: noted in any case, also where it is no picture or came before."""
    known = InboxPhoto.objects.filter(pk=sent.key).first()
    if known:
        return _the_same(known, collection)
    digest = _digest(sent.file)
    row = InboxPhoto(
        pk=sent.key, collection=collection, drop=drop, place=sent.place, name=sent.name[:200], digest=digest, came_at=at
    )
    row.simulated = sent.simulated
    row.added_by_id = member.pk
    before = InboxPhoto.objects.filter(collection=collection, digest=digest, state__in=KEEPS).first()
    if before:
        row.state, row.same_as = InboxPhoto.State.KNOWN, before
        return _noted(row)
    with taken_in(sent.file, sent.name, sent.size) as picture:
        if isinstance(picture, NoPicture):
            row.state, row.why = InboxPhoto.State.REFUSED, picture.message[:300]
            return _noted(row)
        return _stored(row, picture, sent.modified)


def _digest(file: IO[bytes]) -> str:
    file.seek(0)
    digest = hashlib.file_digest(file, "sha256").hexdigest()  # type: ignore[arg-type]
    file.seek(0)
    return digest


def _the_same(known: InboxPhoto, collection: Collection) -> InboxPhoto:
    if known.collection_id != collection.pk:
        raise Refused(TAKEN)
    return known


def _noted(row: InboxPhoto) -> InboxPhoto:
    with transaction.atomic():
        claim(row.pk)
        if known := InboxPhoto.objects.filter(pk=row.pk).first():
            return known
        row.save(force_insert=True)
        _counted(row)
    return row


def _stored(row: InboxPhoto, picture: TakenIn, modified: datetime | None) -> InboxPhoto:
    """Stores a picture, its row, and the order to look at it, all or nothing."""
    row.width, row.height, row.camera = picture.width, picture.height, picture.camera
    row.taken_at, row.dated_by, row.date_said = _dated(picture.taken_at, modified, row.came_at)
    with transaction.atomic():
        claim(row.pk)
        known = InboxPhoto.objects.filter(pk=row.pk).first()
        if known:
            return known
        if Photo.everything.filter(pk=row.pk).exists():
            raise Refused(TAKEN)
        row.save(force_insert=True)
        _counted(row)
        try:
            with picture.opened() as jpeg:
                files.keep_original(row.folder, jpeg)
            order_look(row)
        except Exception:
            files.forget(row.folder)
            raise
    return row


def _counted(row: InboxPhoto) -> None:
    Drop.objects.filter(pk=row.drop_id).update(last_at=row.came_at, ended=False)


def _dated(by_camera: datetime | None, by_file: datetime | None, now: datetime) -> tuple[datetime | None, str, str]:
    """When it was taken, by whom that is known, and what was said where that can't be."""
    said = ""
    if by_camera is not None:
        at = timezone.make_aware(by_camera)
        if _can_be(at, now):
            return min(at, now), "camera", ""
        said = f"{by_camera:%Y-%m-%d %H:%M}"
    if by_file is not None and _can_be(by_file, now):
        return min(by_file, now), "file", said
    return None, "", said


def _can_be(at: datetime, now: datetime) -> bool:
    return at.year >= FIRST_DIGITAL and at <= now + AHEAD


def end(drop: Drop) -> None:
    """Everything of a drop was sent: what waits for its end is filed."""
    with transaction.atomic():
        Drop.objects.filter(pk=drop.pk).update(ended=True)
        order_settling(drop.collection_id)
