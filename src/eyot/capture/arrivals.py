"""The watched folder: files that a camera leaves there go to the egg that is chosen on the capture page, or into the inbox while that
is open.

Each collection has its own folder. A file is claimed by being moved before it is read, so that two pages that watch take it in once, and
leaves the folder when Eyot has it: the camera's own file, with where it was taken, stays nowhere. What can't be taken lies in ``refused``
beside it and is never thrown away.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import time
from collections.abc import Callable, Iterator
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
from eyot.season.models import Egg

SETTLED_SECONDS = 1.0
ENDINGS = (".jpg", ".jpeg", ".png", ".webp", ".heic", ".heif")
MOST_AT_ONCE = 10
CLAIMED, REFUSED = "claimed", "refused"
INBOX = "inbox"
"""Who claims for the inbox."""


@dataclass(frozen=True)
class Arrival:
    """One file that came. ``trouble``: why it is not kept; empty where it is."""

    name: str
    trouble: str


Keep = Callable[[str, "File[bytes]", UUID], NoPicture | None]
"""Keeps a file for somebody under a number; or says why not."""


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

    def keep(whom: str, file: File[bytes], key: UUID) -> NoPicture | None:
        number, stage, kind = whom.split("_")
        own = Egg.objects.filter(pk=int(number), clutch__collection=collection).select_related("clutch").first()
        if own is None:
            return NoPicture(f"{file.name}: its egg is not here any more.")
        taken = add_photo(own, user, file, stage, at, kind, key)  # type: ignore[arg-type]
        return taken if isinstance(taken, NoPicture) else None

    return bring(collection, f"{egg.pk}_{stage}_{kind}", lambda whom: whom != INBOX, keep)


def bring(collection: Collection, whom: str, is_ours: Callable[[str], bool], keep: Keep) -> list[Arrival]:
    """Claims what lies in the folder for somebody and lets it be kept; before that what was claimed by ours and left."""
    folder = watched_folder(collection)
    came = [_taken(claim, keep) for claim in sorted((folder / CLAIMED).iterdir()) if is_ours(_whom(claim))]
    for path in sorted(filter(_is_ready, folder.iterdir()), key=_age)[:MOST_AT_ONCE]:
        claim = folder / CLAIMED / f"{whom}_{uuid4()}"
        claim.mkdir()
        with contextlib.suppress(FileNotFoundError):  # another page was quicker
            path.rename(claim / path.name)
        came.append(_taken(claim, keep))
    return [arrival for arrival in came if arrival]


def _whom(claim: Path) -> str:
    return claim.name.rpartition("_")[0]


def _is_ready(path: Path) -> bool:
    return path.suffix.lower() in ENDINGS and path.is_file() and time.time() - _age(path) > SETTLED_SECONDS


def _age(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except FileNotFoundError:
        return 0.0


def _taken(claim: Path, keep: Keep) -> Arrival | None:
    """Takes in what lies in a claim, unless another does so just now. The claim's number is the photo's, so that one whose taker was
    stopped at any moment is taken in once; only what is kept, or refused, leaves its place."""
    with _held(claim) as path:
        if path is None:
            return None
        with path.open("rb") as file:
            trouble = keep(_whom(claim), File(file, path.name), UUID(claim.name.rpartition("_")[2]))
        if trouble is not None:
            path.rename(_free_name(claim.parent.parent / REFUSED / path.name))
        else:
            path.unlink()
        claim.rmdir()
        return Arrival(path.name, f"{trouble.message} It lies in “refused” now." if trouble is not None else "")


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
