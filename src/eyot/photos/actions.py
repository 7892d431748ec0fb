"""Changes of photos. Any member of the collection may add."""

from __future__ import annotations

import shutil
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.core.files.uploadedfile import UploadedFile
from django.utils import timezone
from PIL import Image

from eyot_core.photo.light import NoLight, light_at

from eyot.photos.files import NoPicture, Picture, lit, picture_from, store
from eyot.photos.models import Photo
from eyot.season.models import Egg


def add_photo(egg: Egg, user: AbstractBaseUser, file: UploadedFile[Any], stage: str, at: datetime) -> Photo | NoPicture:
    """Takes in one file for a hatchling: stored and recorded, or a reason why not (then nothing is changed)."""
    name = file.name or "This file"
    if file.file is None:
        return NoPicture(f"{name} is empty. Choose it again.")
    picture = picture_from(file.file, name, file.size or 0)
    if isinstance(picture, NoPicture):
        return picture
    taken = timezone.make_aware(picture.taken_at) if picture.taken_at else at
    return keep_picture(egg, user, picture, stage, min(taken, at))


def keep_picture(
    egg: Egg, user: AbstractBaseUser, picture: Picture, stage: str, at: datetime, *, simulated: bool = False
) -> Photo:
    """Stores a checked picture and its row; if the row can't be written, the files are taken away again."""
    photo = Photo(
        egg=egg,
        stage=stage,
        taken_at=at,
        width=picture.image.width,
        height=picture.image.height,
        added_by_id=user.pk,
        simulated=simulated,
    )
    folder = Path(settings.MEDIA_ROOT) / photo.folder
    store(picture, folder)
    try:
        photo.save()
    except Exception:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    return photo


def mark_light(photo: Photo, x: float, y: float, card: str) -> NoLight | None:
    """Corrects a photo by a card that lies at a place in it, (x, y) in shares of width and height; or says why it can't.

    The original stays; the corrected sizes lie beside it. Any member of the collection may.
    """
    folder = Path(settings.MEDIA_ROOT) / photo.folder
    with Image.open(folder / "full.jpg") as image:
        found = light_at(np.asarray(image.convert("RGB")), x, y, card)
    if isinstance(found, NoLight):
        return found
    lit(folder, found.gains)
    photo.light, photo.light_marks = found.card, photo.light_marks + 1
    photo.save(update_fields=["light", "light_marks"])
    return None


def forget_light(photo: Photo) -> None:
    """Shows a photo as it was taken again."""
    photo.light, photo.light_marks = "", photo.light_marks + 1
    photo.save(update_fields=["light", "light_marks"])
