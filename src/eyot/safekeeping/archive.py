"""One file that holds many, each with its size and SHA-256: a plain tar, its list of contents last.

It is written beside its place and moved there when it is whole, so a full disk or a power cut leaves what stood there before.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import re
import tarfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

FORMAT = "eyot-backup/1"
CONTENTS = "contents.json"
PIECE = 1 << 20
MOST_CONTENTS = 256 * PIECE
SAFE = re.compile(r"(?!.*(?:^|/)\.\.?(?:/|$))[\w][\w./@+=, -]*")


class Damaged(Exception):
    """A file that is no whole backup; the message says what is wrong with it."""


class NotWritten(Exception):
    """A backup could not be written; the message says why, and that what stood there stands."""


@dataclass(frozen=True)
class Part:
    """One file to be put in: its name, its size in bytes, and how it is opened."""

    name: str
    size: int
    open: Callable[[], IO[bytes]]


@dataclass(frozen=True)
class Contents:
    """What a backup says of itself. ``about``: when it was made and from what; ``files``: size and SHA-256 by name."""

    about: dict[str, Any]
    files: dict[str, tuple[int, str]]

    @property
    def size(self) -> int:
        """Bytes of all files."""
        return sum(size for size, _ in self.files.values())


class _Hashed(io.RawIOBase):
    """Reads through, and keeps the hash of what was read."""

    def __init__(self, source: IO[bytes]) -> None:
        self.source, self.hash, self.count = source, hashlib.sha256(), 0

    def read(self, size: int = -1) -> bytes:
        """The next bytes."""
        data = self.source.read(size)
        self.hash.update(data)
        self.count += len(data)
        return data


def write(target: Path, parts: Iterable[Part], about: dict[str, Any]) -> Contents:
    """Writes a backup. :class:`NotWritten` where it can't be written whole; what stood at ``target`` stands then."""
    unfinished = target.with_name(f"{target.name}.part")
    try:
        with unfinished.open("wb") as file:
            os.fchmod(file.fileno(), 0o600)  # names, passwords' hashes and sessions are in it
            contents = _write(file, parts, about)
            file.flush()
            os.fsync(file.fileno())
        unfinished.replace(target)
    except OSError as error:
        before = " What stood there before stands." if target.exists() else ""
        raise NotWritten(f"{target} could not be written: {error.strerror or error}.{before}") from error
    finally:
        with suppress(OSError):
            unfinished.unlink(missing_ok=True)
    return contents


def _write(file: IO[bytes], parts: Iterable[Part], about: dict[str, Any]) -> Contents:
    files: dict[str, tuple[int, str]] = {}
    with tarfile.open(fileobj=file, mode="w", format=tarfile.PAX_FORMAT) as tar:
        for part in parts:
            with part.open() as source:
                read = _Hashed(source)
                tar.addfile(_entry(part.name, part.size), read)  # type: ignore[arg-type]
            files[part.name] = (part.size, read.hash.hexdigest())
        rows = [{"name": name, "size": size, "sha256": digest} for name, (size, digest) in files.items()]
        text = json.dumps({"format": FORMAT, **about, "files": rows}, indent=1).encode()
        tar.addfile(_entry(CONTENTS, len(text)), io.BytesIO(text))
    return Contents(about, files)


def _entry(name: str, size: int) -> tarfile.TarInfo:
    entry = tarfile.TarInfo(name)
    entry.size, entry.mode = size, 0o600
    return entry


def read(path: Path, take: Callable[[str, IO[bytes]], None] | None = None) -> Contents:
    """Reads a whole backup, each file against its size and hash. ``take``: is given every file by name, to be read to its end.

    :class:`Damaged` for what is no backup, is cut off, was changed, names a place outside, or is of a form that is not known.
    """
    try:
        with path.open("rb") as file, tarfile.open(fileobj=file, mode="r:") as tar:
            seen, contents = _read(tar, take)
    except FileNotFoundError:
        raise Damaged(f"there is no file {path}") from None
    except OSError as error:
        raise Damaged(f"{path} can't be read: {error.strerror or error}") from None
    except (tarfile.TarError, EOFError, ValueError) as error:
        raise Damaged(f"{path} is no backup, or damaged: {error}") from None
    if contents is None:
        raise Damaged(f"{path} is cut off: its list of contents, which stands last, is missing")
    for name, (size, digest) in contents.files.items():
        if name not in seen:
            raise Damaged(f"{name} is missing from it")
        if seen[name] != (size, digest):
            raise Damaged(f"{name} is not as it was when the backup was made")
    if extra := seen.keys() - contents.files.keys():
        raise Damaged(f"{min(extra)} is in it, and not in its list of contents")
    return contents


def _read(
    tar: tarfile.TarFile, take: Callable[[str, IO[bytes]], None] | None
) -> tuple[dict[str, tuple[int, str]], Contents | None]:
    seen: dict[str, tuple[int, str]] = {}
    contents = None
    for entry in tar:
        if contents is not None:
            raise Damaged(f"{entry.name} stands after its list of contents")
        if not entry.isreg() or not SAFE.fullmatch(entry.name):
            raise Damaged(f"{entry.name!r} is no file of a backup: it leads outside, or is no plain file")
        if entry.name in seen:
            raise Damaged(f"{entry.name} is in it twice")
        source = tar.extractfile(entry)
        assert source is not None
        if entry.name == CONTENTS:
            contents = _contents(source, entry.size)
            continue
        read = _Hashed(source)
        if take:
            take(entry.name, read)  # type: ignore[arg-type]
        for _ in iter(lambda: read.read(PIECE), b""):  # noqa: B023  read at once
            pass
        if read.count != entry.size:
            raise Damaged(f"{entry.name} is cut off")
        seen[entry.name] = (read.count, read.hash.hexdigest())
    return seen, contents


def _contents(source: IO[bytes], size: int) -> Contents:
    if size > MOST_CONTENTS:
        raise Damaged(f"its list of contents claims {size:,} bytes")
    try:
        about = json.loads(source.read())
        form, rows = about.pop("format"), about.pop("files")
        files = {str(row["name"]): (int(row["size"]), str(row["sha256"])) for row in rows}
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise Damaged(f"its list of contents can't be read ({error})") from None
    if form != FORMAT:
        raise Damaged(f"it has the form {form}; this Eyot reads {FORMAT}. A newer Eyot may read it")
    return Contents(about, files)


def pieces(source: IO[bytes]) -> Iterator[bytes]:
    """The bytes of a file, a piece at a time."""
    return iter(lambda: source.read(PIECE), b"")
