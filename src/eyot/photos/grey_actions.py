"""The printed grey of a collection's cards, set by a photo."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import numpy as np
from django.contrib.auth.models import AbstractBaseUser
from django.core.files.uploadedfile import UploadedFile
from django.db.models import F
from PIL import Image

from eyot_core.photo.light import NoLight
from eyot_core.photo.picture import NoPicture
from eyot_core.photo.printed_grey import PrintedGrey

from eyot.collection.history import recording
from eyot.collection.models import Collection
from eyot.photos.decoding import taken_in
from eyot.photos.models import GreyPrint, Photo
from eyot.photos.processing import printed_grey_seen
from eyot.photos.tasks import order
from eyot.shared.refusal import Refused

STANDS = "What was set before still counts."


def set_printed_grey(
    collection: Collection, member: AbstractBaseUser, file: UploadedFile[Any] | None, at: datetime
) -> int:
    """Sets it by a photo of a card on white paper, which is not kept; how many photos of such cards get their light by it now.
    :class:`Refused` where the photo does not tell."""
    if file is None or file.file is None:
        raise Refused(f"No picture came through: choose the photo. {STANDS}")
    with taken_in(file.file, file.name or "This photo", file.size or 0) as picture:
        if isinstance(picture, NoPicture):
            raise Refused(f"{picture.message} {STANDS}")
        with picture.opened() as jpeg, Image.open(jpeg) as image:
            known = printed_grey_seen(np.asarray(image.convert("RGB")))
    if isinstance(known, NoLight):
        raise Refused(f"That photo does not tell: {known.reason}. {STANDS}")
    return _keep(collection, member, known, at)


def _keep(collection: Collection, member: AbstractBaseUser, known: PrintedGrey, at: datetime) -> int:
    with recording(collection, member, at, "printed grey of the cards set", "") as record:
        record.add(
            GreyPrint(
                collection=collection, grey=list(known.grey), paper=list(known.paper), set_at=at, set_by_id=member.pk
            )
        )
        unlit = [
            photo
            for photo in Photo.objects.filter(egg__clutch__collection=collection, light="")
            if photo.has_printed_grey
        ]
        Photo.objects.filter(pk__in=[photo.pk for photo in unlit]).update(find_wanted=F("find_wanted") + 1)
        for photo in unlit:
            order(photo, sizes_too=False, look_too=True)
    return len(unlit)
