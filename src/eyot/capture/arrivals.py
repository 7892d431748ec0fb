"""The watched folder: files that a camera leaves there go to the egg that is chosen on the capture page.

Each collection has its own folder. A file is claimed by being moved before it is read, so that two pages that watch take it in once, and
leaves the folder when Eyot has it: the camera's own file, with where it was taken, stays nowhere. What can't be taken lies in ``refused``
beside it and is never thrown away.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from uuid import UUID, uuid4

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
CLAIMED, REFUSED = "claimed", "refused"


@dataclass(frozen=True)
class Arrival:
    """One file that came: the photo that it is now, or why it is none."""

    name: str
    photo: Photo | None
    trouble: str


def watched_folder(collection: Collection) -> Path:
    """The collection's folder, made if it isn't there."""
    folder = Path(settings.ARRIVING_ROOT) / str(collection.pk)
    for part in (folder, folder / CLAIMED, folder / REFUSED):
        part.mkdir(parents=True, exist_ok=True)
    return folder


def take_in(
    collection: Collection, egg: Egg, user: AbstractBaseUser, stage: str, kind: str, at: datetime
) -> list[Arrival]:
    """Takes in the files that lie in the folder and are written to no more, the oldest first; before them those that somebody claimed
    and did not come to take in, for the egg that they were claimed for."""
    folder = watched_folder(collection)
    came = [_taken(claim, collection, user, at) for claim in sorted((folder / CLAIMED).iterdir())]
    for path in sorted(filter(_is_ready, folder.iterdir()), key=_age)[:MOST_AT_ONCE]:
        claim = folder / CLAIMED / f"{egg.pk}_{stage}_{kind}_{uuid4()}"
        claim.mkdir()
        with contextlib.suppress(FileNotFoundError):  # another page was quicker
            path.rename(claim / path.name)
        came.append(_taken(claim, collection, user, at))
    return [arrival for arrival in came if arrival]


def _is_ready(path: Path) -> bool:
    return path.suffix.lower() in ENDINGS and path.is_file() and time.time() - _age(path) > SETTLED_SECONDS


def _age(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except FileNotFoundError:
        return 0.0


def _taken(claim: Path, collection: Collection, user: AbstractBaseUser, at: datetime) -> Arrival | None:
    """Takes in what lies in a claim, unless another does so just now. The claim's number is the photo's, so that one whose taker was
    stopped at any moment is taken in once; only what is kept, or refused, leaves its place."""
    with _held(claim) as path:
        if path is None:
            return None
        number, stage, kind, key = claim.name.split("_")
        egg = Egg.objects.filter(pk=int(number), clutch__collection=collection).select_related("clutch").first()
        if egg is None:
            taken: Photo | NoPicture = NoPicture(f"{path.name}: its egg is not here any more.")
        else:
            with path.open("rb") as file:
                taken = add_photo(egg, user, File(file, path.name), stage, at, kind, UUID(key))  # type: ignore[arg-type]
        if isinstance(taken, NoPicture):
            path.rename(_free_name(claim.parent.parent / REFUSED / path.name))
            arrival = Arrival(path.name, None, f"{taken.message} It lies in “refused” now.")
        else:
            path.unlink()
            arrival = Arrival(path.name, taken, "")
        claim.rmdir()
        return arrival


@contextlib.contextmanager
def _held(claim: Path) -> Iterator[Path | None]:
    """The file of a claim, while nobody else holds it; None where somebody does, or there is none. A process that ends holds nothing."""
    try:
        handle = os.open(claim, os.O_RDONLY)
    except FileNotFoundError:
        yield None
        return
    try:
        yield _file_in(claim, handle)
    finally:
        os.close(handle)


def _file_in(claim: Path, handle: int) -> Path | None:
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        path = next(claim.iterdir(), None)
        if path is None:
            claim.rmdir()
    except (BlockingIOError, FileNotFoundError):
        return None
    return path


def _free_name(path: Path) -> Path:
    """The path, with a number where a file lies there already."""
    free, number = path, 1
    while free.exists():
        free, number = path.with_stem(f"{path.stem}-{number}"), number + 1
    return free
