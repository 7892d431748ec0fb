"""The watched folder: files that a camera leaves there go to the egg that is chosen on the capture page.

Each collection has its own folder. A file is claimed by being moved before it is read, so that two pages that watch take
it in once; what can't be taken lies in ``refused`` beside it and is never thrown away.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.core.files import File

from eyot_core.photo.picture import NoPicture

from eyot.collection.models import Collection
from eyot.photos.actions import add_photo
from eyot.photos.models import Photo
from eyot.season.models import Egg

SETTLED_SECONDS = 1.0
ENDINGS = (".jpg", ".jpeg", ".png", ".webp", ".heic", ".heif")
MOST_AT_ONCE = 10


@dataclass(frozen=True)
class Arrival:
    """One file that came: the photo that it is now, or why it is none."""

    name: str
    photo: Photo | None
    trouble: str


def watched_folder(collection: Collection) -> Path:
    """The collection's folder, made if it isn't there."""
    folder = Path(settings.ARRIVING_ROOT) / str(collection.pk)
    for part in (folder, folder / "taken", folder / "refused"):
        part.mkdir(parents=True, exist_ok=True)
    return folder


def take_in(
    collection: Collection, egg: Egg, user: AbstractBaseUser, stage: str, kind: str, at: datetime
) -> list[Arrival]:
    """Takes in the files that lie in the folder and are written to no more, the oldest first."""
    folder = watched_folder(collection)
    ready = [
        path
        for path in folder.iterdir()
        if path.suffix.lower() in ENDINGS and time.time() - path.stat().st_mtime > SETTLED_SECONDS
    ]
    oldest = sorted(ready, key=lambda path: path.stat().st_mtime)[:MOST_AT_ONCE]
    return [_one(path, egg, user, stage, kind, at) for path in oldest if path.exists()]


def _one(path: Path, egg: Egg, user: AbstractBaseUser, stage: str, kind: str, at: datetime) -> Arrival:
    claimed = _free_name(path.parent / "taken" / path.name)
    path.rename(claimed)
    with claimed.open("rb") as file:
        taken = add_photo(egg, user, File(file, path.name), stage, at, kind)  # type: ignore[arg-type]
    if isinstance(taken, NoPicture):
        claimed.rename(_free_name(path.parent / "refused" / path.name))
        return Arrival(path.name, None, f"{taken.message} It lies in “refused” now.")
    return Arrival(path.name, taken, "")


def _free_name(path: Path) -> Path:
    """The path, with a number where a file lies there already."""
    free, number = path, 1
    while free.exists():
        free, number = path.with_stem(f"{path.stem}-{number}"), number + 1
    return free
