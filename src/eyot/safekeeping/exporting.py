"""A collection taken away: one zip in open formats, see docs/formats/README.md.

``records/<kind>.jsonl`` has a row a line, ``photos/<number>/`` the files of a photo, ``manifest.json`` the size and SHA-256 of each.
"""

from __future__ import annotations

import hashlib
import json
import zipfile
from base64 import b64encode
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime
from decimal import Decimal
from operator import itemgetter
from typing import IO, Any
from uuid import UUID

from django.contrib.auth import get_user_model
from django.db import connection, transaction

from eyot.collection.models import Collection
from eyot.photos.files import files_in, opened
from eyot.photos.models import Photo
from eyot.safekeeping.archive import pieces
from eyot.safekeeping.kinds import (
    COUNTED_AS,
    FORMAT,
    KINDS,
    MANIFEST,
    PEOPLE,
    SETTINGS,
    SETTINGS_OF,
    USER,
    WHOLE,
    Kind,
    Numbers,
    referred,
    with_references,
)

AT_ONCE = 2000


def export(collection: Collection, target: IO[bytes], at: datetime) -> dict[str, Any]:
    """Writes all of a collection as it stands in one moment; the manifest."""
    with _one_moment(), zipfile.ZipFile(target, "w", allowZip64=True) as file:
        out = _Out(file)
        numbers = _numbered(collection)
        counts = {}
        for kind in KINDS:
            lines = (_row(kind, row, numbers) for row in kind.rows_of(collection).iterator(AT_ONCE))
            in_order = iter(sorted(lines, key=itemgetter("id"))) if kind.label in COUNTED_AS else lines
            counts[kind.name] = out.lines(kind.name, in_order)
        out.lines(SETTINGS_OF, iter([{name: getattr(collection, name) for name in SETTINGS}]))
        out.lines(PEOPLE, _people(collection, numbers))
        for number, key in enumerate(numbers.all_of("photos.photo"), 1):
            _photo(out, number, collection, key)
        manifest: dict[str, Any] = {
            "format": FORMAT,
            "made_at": at.isoformat(),
            "collection": collection.name,
            "counts": counts,
        }
        manifest["files"] = out.files
        file.writestr(MANIFEST, json.dumps(manifest, indent=1), zipfile.ZIP_DEFLATED)
    return manifest


@contextmanager
def _one_moment() -> Iterator[None]:
    """All reads see the database as it was at the first of them; within another transaction, as that one sees it."""
    inside = connection.in_atomic_block
    with transaction.atomic():
        if not inside:
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        yield


def as_text(value: Any) -> str:
    """What JSON lacks: days and moments by ISO 8601, moments in UTC to the microsecond; keys and amounts as text; bytes by base64."""
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat()
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, UUID | Decimal):
        return str(value)
    if isinstance(value, bytes | memoryview):
        return b64encode(value).decode()
    raise TypeError(f"{type(value)} has no form in JSON")


def _numbered(collection: Collection) -> Numbers:
    numbers = Numbers()
    numbers.number(WHOLE, collection.pk)
    for kind in KINDS:
        for key in kind.rows_of(collection).values_list("pk", flat=True):
            numbers.number(kind.label, key)
    return numbers


def _row(kind: Kind, row: Any, numbers: Numbers) -> dict[str, Any]:
    values: dict[str, Any] = {"id": numbers.number(kind.label, row.pk)}
    for field in kind.fields:
        value = getattr(row, field.attname)
        refers = referred(field)
        values[field.name] = numbers.number(refers, value) if refers and value is not None else value
    if kind.label == "collection.change":
        values |= with_references(values, numbers.number)
    return values


def _people(collection: Collection, numbers: Numbers) -> Iterator[dict[str, Any]]:
    """Whoever the rows name, by name; the role for members."""
    users: Any = get_user_model()._default_manager
    names = {str(user.pk): user.get_username() for user in users.filter(pk__in=list(numbers.all_of(USER)))}
    roles = {str(one.user_id): one.role for one in collection.memberships.all()}
    for number, key in enumerate(numbers.all_of(USER), 1):
        yield {"id": number, "name": names.get(key, "somebody"), "role": roles.get(key, "")}


def _photo(out: _Out, number: int, collection: Collection, key: str) -> None:
    folder = Photo.folder_of(collection.pk, key)
    for name in sorted(files_in(folder)):
        with opened(folder, name) as source:
            out.file(f"photos/{number}/{name}", source)


class _Out:
    """The zip while it is written, and what its manifest says of the files."""

    def __init__(self, file: zipfile.ZipFile) -> None:
        self.zip, self.files = file, list[dict[str, Any]]()

    def lines(self, kind: str, rows: Iterator[dict[str, Any]]) -> int:
        """Writes rows as JSON Lines; how many."""
        count = 0
        name = f"records/{kind}.jsonl"
        with _Noted(self, zipfile.ZipInfo(name), zipfile.ZIP_DEFLATED) as noted:
            for count, row in enumerate(rows, 1):  # noqa: B007  counted
                noted.write(json.dumps(row, default=as_text, ensure_ascii=False).encode() + b"\n")
        return count

    def file(self, name: str, source: IO[bytes]) -> None:
        """Writes a file as it is; pictures are small already."""
        with _Noted(self, zipfile.ZipInfo(name), zipfile.ZIP_STORED) as noted:
            for piece in pieces(source):
                noted.write(piece)


class _Noted:
    """One file of the zip, whose size and hash are noted while it is written."""

    def __init__(self, out: _Out, entry: zipfile.ZipInfo, compressed: int) -> None:
        entry.compress_type = compressed
        self.out, self.name, self.size, self.hash = out, entry.filename, 0, hashlib.sha256()
        self.file = out.zip.open(entry, "w", force_zip64=True)

    def write(self, data: bytes) -> None:
        """Writes some bytes."""
        self.size += len(data)
        self.hash.update(data)
        self.file.write(data)

    def __enter__(self) -> _Noted:
        return self

    def __exit__(self, *reason: object) -> None:
        self.file.close()
        if reason[0] is None:
            self.out.files.append({"name": self.name, "size": self.size, "sha256": self.hash.hexdigest()})
