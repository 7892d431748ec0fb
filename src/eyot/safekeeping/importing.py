"""A collection read into an empty one: checked whole before anything is written, then written whole or not at all."""

from __future__ import annotations

import hashlib
import json
import re
import secrets
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from typing import IO, Any
from uuid import UUID, uuid4

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.exceptions import ValidationError
from django.core.files.base import File
from django.db import DatabaseError, connection, models, transaction
from django.utils import timezone

from eyot.collection.models import Collection
from eyot.inbox.models import InboxPhoto
from eyot.inbox.tasks import order_look
from eyot.photos.files import store
from eyot.photos.models import Photo
from eyot.photos.tasks import order_forgotten
from eyot.safekeeping.archive import PIECE, pieces
from eyot.safekeeping.kinds import (
    ADDED,
    COUNTED_AS,
    FORMAT,
    FRESH,
    KINDS,
    MANIFEST,
    PEOPLE,
    SECRETS,
    SETTINGS,
    SETTINGS_OF,
    USER,
    WHOLE,
    Keys,
    Kind,
    fresh_keys,
    referred,
    with_references,
)
from eyot.shared.refusal import Refused
from eyot.shared.units import implausible

SAFE = re.compile(r"records/[a-z-]+\.jsonl|photos/[1-9]\d{0,8}/\w[\w.-]{0,80}")
MOST_MANIFEST = 64 * PIECE
MOST_LINE = 16 * PIECE
AT_ONCE = 1000
STANDS = "Nothing was read in."


def bring_in(source: IO[bytes], collection: Collection) -> dict[str, int]:
    """Reads a zip of :mod:`eyot.safekeeping.exporting` into an empty collection; how many rows of each kind.

    Whoever the rows name and who is a member here by the same name is that member; the others get accounts that nobody can log in
    with. :class:`Refused`, with nothing written, for what is no such zip, is damaged or newer, and where something is here already.
    """
    try:
        with zipfile.ZipFile(source) as file:
            checked = _Checked(file)
            _refuse_what_is_here(collection)
            counts = _written(checked, collection)
    except zipfile.BadZipFile as error:
        raise Refused(f"That is no whole zip: {error}. {STANDS}") from None
    except OSError as error:
        raise Refused(f"The store of photos does not take it: {error.strerror or error}. {STANDS}") from None
    except (DatabaseError, ValueError) as error:
        words = str(error).strip().splitlines() or [type(error).__name__]
        raise Refused(f"Its rows contradict one another: {words[0]}. {STANDS}") from None
    order_forgotten()
    for photo in InboxPhoto.objects.filter(collection=collection, state=InboxPhoto.State.SENT):
        order_look(photo)
    return counts


def is_empty(collection: Collection) -> bool:
    """Is there nothing in it yet but its members?"""
    return not any(kind.rows_of(collection).exists() for kind in KINDS if kind.label != "collection.change")


def _refuse_what_is_here(collection: Collection) -> None:
    if not is_empty(collection):
        raise Refused(
            f"{collection} has animals, clutches or photos already: a zip is read into an empty collection. Begin one under "
            f"Collections. {STANDS}"
        )


class _Checked:
    """A zip whose every file was read against the size and the SHA-256 of its manifest."""

    def __init__(self, file: zipfile.ZipFile) -> None:
        self.zip = file
        self.files = self._manifest()
        names = [entry.filename for entry in file.infolist()]
        if len(set(names)) < len(names):
            raise _damaged("a file is in it twice")
        for name in names:
            if name != MANIFEST and not SAFE.fullmatch(name):
                raise _damaged(f"“{name[:80]}” is no file of a collection, or leads outside")
        claimed = sum(entry.file_size for entry in file.infolist())
        if claimed > settings.MOST_IMPORTED_BYTES:
            most = settings.MOST_IMPORTED_BYTES / 1e9
            raise Refused(f"It claims {claimed / 1e9:,.0f} GB; at most {most:g} GB are read here. {STANDS}")
        for name in sorted(self.files.keys() - set(names)):
            raise _damaged(f"{name} is missing from it")
        for name in set(names) - self.files.keys() - {MANIFEST}:
            raise _damaged(f"{name} does not stand in its manifest")
        for name in self.files:
            self._check(name)

    def _manifest(self) -> dict[str, tuple[int, str]]:
        try:
            entry = self.zip.getinfo(MANIFEST)
        except KeyError:
            raise _damaged(f"{MANIFEST} is missing: it is no collection of Eyot’s") from None
        if entry.file_size > MOST_MANIFEST:
            raise _damaged(f"its manifest claims {entry.file_size:,} bytes")
        try:
            manifest = json.loads(self.zip.read(entry))
            form = str(manifest["format"])
            files = {str(row["name"]): (int(row["size"]), str(row["sha256"])) for row in manifest["files"]}
        except (ValueError, KeyError, TypeError) as error:
            raise _damaged(f"its manifest can't be read ({type(error).__name__}: {error})") from None
        if form != FORMAT:
            newer = " A newer Eyot made it: read it in there." if form.startswith(FORMAT.split("/")[0]) else ""
            raise Refused(f"It has the form “{form[:40]}”; this Eyot reads {FORMAT}.{newer} {STANDS}")
        return files

    def _check(self, name: str) -> None:
        size, digest = self.files[name]
        read, count = hashlib.sha256(), 0
        with self.zip.open(name) as source:
            for piece in pieces(source):
                read.update(piece)
                count += len(piece)
        if (count, read.hexdigest()) != (size, digest):
            raise _damaged(f"{name} is not as it was when it was taken away")

    def rows(self, kind: str) -> Iterator[tuple[str, dict[str, Any]]]:
        """The rows of a kind, each with its place; none where the file is missing."""
        name = f"records/{kind}.jsonl"
        if name not in self.files:
            return
        with self.zip.open(name) as source:
            number = 0
            while line := source.readline(MOST_LINE):
                number += 1
                place = f"{name}, line {number}"
                try:
                    row = json.loads(line, parse_constant=_no_number)
                except ValueError as error:
                    raise _damaged(f"{place} is no JSON ({error})") from None
                if not isinstance(row, dict) or not isinstance(row.get("id"), int | None):
                    raise _damaged(f"{place} is no row")
                yield place, row

    def photos(self) -> Iterator[tuple[int, str, str]]:
        """The files of photos: the photo's number, the file's name, and its name in the zip."""
        for name in self.files:
            if name.startswith("photos/"):
                _, number, file = name.split("/")
                yield int(number), file, name


def _damaged(words: str) -> Refused:
    return Refused(f"It is damaged: {words}. {STANDS}")


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _written(checked: _Checked, collection: Collection) -> dict[str, int]:
    saved: list[str] = []
    try:
        with transaction.atomic():
            rows = {kind.name: list(checked.rows(kind.name)) for kind in KINDS}
            keys = Keys({WHOLE: {1: collection.pk}, USER: _people(checked, collection), **_reserved(rows)})
            for kind in KINDS:
                _create(kind, rows[kind.name], keys, collection)
            _settings(checked, collection)
            for number, file, name in checked.photos():
                with checked.zip.open(name) as source:
                    folder = Photo.folder_of(collection.pk, _photo(keys, number, name))
                    saved.append(store().save(f"{folder}/{file}", File(source)))
            _refuse_what_refers_nowhere()
    except BaseException:
        for file in saved:
            store().delete(file)
        raise
    collection.__dict__.pop("_overlaid", None)
    return {name: len(listed) for name, listed in rows.items()}


def _refuse_what_refers_nowhere() -> None:
    """References are checked by the database now, not at the end of the transaction, so that they can be told."""
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        cursor.execute("SET CONSTRAINTS ALL DEFERRED")


def _photo(keys: Keys, number: int, name: str) -> Any:
    try:
        return keys.key("photos.photo", number)
    except KeyError:
        raise _damaged(f"{name} belongs to no photo") from None


def _reserved(rows: dict[str, list[tuple[str, dict[str, Any]]]]) -> dict[str, dict[int, Any]]:
    """Primary keys for all rows, in the order of their numbers."""
    numbers: dict[str, list[int]] = {}
    for kind in KINDS:
        for place, row in rows[kind.name]:
            if not isinstance(row.get("id"), int) or row["id"] < 1:
                raise _damaged(f"{place}: it has no number")
            numbers.setdefault(kind.label, []).append(row["id"])
    for label, listed in numbers.items():
        if len(set(listed)) < len(listed):
            raise _damaged(f"two rows of {label} have one number")
    for label, other in COUNTED_AS.items():
        numbers[other] = list({*numbers.get(other, []), *numbers.pop(label, [])})
    models_by = {kind.label: kind.model for kind in KINDS}
    return {
        label: dict(zip(sorted(listed), fresh_keys(models_by[label], len(listed)), strict=True))
        for label, listed in numbers.items()
    }


def _people(checked: _Checked, collection: Collection) -> dict[int, int]:
    """Accounts for whoever the rows name: members by their name, else new ones without a way in."""
    users: Any = get_user_model()._default_manager
    here = {one.user.get_username(): one.user_id for one in collection.memberships.select_related("user")}
    people: dict[int, int] = {}
    for place, row in checked.rows(PEOPLE):
        name = row.get("name")
        if not isinstance(name, str) or not name.strip() or not isinstance(row.get("id"), int):
            raise _damaged(f"{place}: a person has a number and a name")
        free = " ".join(name.split())[:140]
        known = here.pop(free, None)
        if known is None:
            count, wanted = 1, free
            while users.filter(username__iexact=free).exists():
                count += 1
                free = f"{wanted} ({count})"
            user = users.create(username=free, is_active=False)
            user.set_unusable_password()
            user.save()
            known = user.pk
        people[row["id"]] = known
    return people


def _create(kind: Kind, rows: list[tuple[str, dict[str, Any]]], keys: Keys, collection: Collection) -> None:
    """Makes the rows of a kind; moments that a new row would take from the clock are put back after."""
    made = [_instance(_Row(kind, place, row), keys, collection) for place, row in rows]
    kept = [
        field for field in kind.fields if getattr(field, "auto_now_add", False) or getattr(field, "auto_now", False)
    ]
    before = [{field.attname: getattr(row, field.attname) for field in kept} for row in made]
    kind.model._base_manager.bulk_create(made, batch_size=AT_ONCE)
    if kept and made:
        for row, values in zip(made, before, strict=True):
            for name, value in values.items():
                setattr(row, name, value)
        kind.model._base_manager.bulk_update(made, [field.name for field in kept], batch_size=AT_ONCE)


@dataclass(frozen=True)
class _Row:
    """A row of a file, not read yet."""

    kind: Kind
    place: str
    values: dict[str, Any]

    def wrong(self, name: str, words: str) -> Refused:
        """What is wrong with it."""
        return _damaged(f"{self.place}, {name}: {words}")


def _instance(row: _Row, keys: Keys, collection: Collection) -> models.Model:
    """A row for the database. :class:`Refused` for what it may not hold."""
    made: models.Model = row.kind.model(pk=keys.key(row.kind.label, row.values["id"]))
    if any(field.name == "collection" for field in made._meta.concrete_fields):
        made.collection_id = collection.pk  # type: ignore[attr-defined]
    values = _with_keys(row, keys)
    checked = []
    for field in row.kind.fields:
        if field.name not in values:
            if field.name in ADDED.get(row.kind.label, ()):
                continue
            raise row.wrong(field.name, "is missing")
        setattr(made, field.attname, _value(row, field, values[field.name], keys))
        if not field.related_model and not isinstance(field, models.JSONField):
            checked.append(field.name)
    for name in SECRETS.get(row.kind.label, ()):
        setattr(made, name, secrets.token_urlsafe(24))
    try:
        made.clean_fields(exclude=[field.name for field in made._meta.fields if field.name not in checked])
    except ValidationError as error:
        for name, errors in error.error_dict.items():
            if errors[0].code != "blank":  # asked of forms, not of the record
                raise row.wrong(name, errors[0].messages[0]) from None
    return made


def _with_keys(row: _Row, keys: Keys) -> dict[str, Any]:
    """The values; of a change also its own references as primary keys."""
    if row.kind.label != "collection.change":
        return row.values
    try:
        return row.values | with_references(row.values, keys.key_or_gone)
    except (KeyError, TypeError, AttributeError, LookupError) as error:
        raise row.wrong("rows", f"can't be read ({error})") from None


def _value(row: _Row, field: models.Field[Any, Any], value: Any, keys: Keys) -> Any:
    label = referred(field)
    if label and value is not None:
        try:
            return keys.key(label, value)
        except (KeyError, TypeError):
            raise row.wrong(field.name, f"refers to {value!r}, which is not there") from None
    try:
        read = value if value is None or isinstance(field, models.JSONField) else field.to_python(value)
    except ValidationError as error:
        raise row.wrong(field.name, error.messages[0]) from None
    day = read.date() if isinstance(read, datetime) else read
    if isinstance(day, date) and (words := implausible(day)):
        raise row.wrong(field.name, words)
    if isinstance(read, datetime) and timezone.is_naive(read):
        raise row.wrong(field.name, "a moment without its offset")
    if field.name in FRESH and isinstance(read, UUID):
        return _free(row.kind, read)
    return read


def _free(kind: Kind, key: UUID) -> UUID:
    """The key, or another where a row of this server has it."""
    return uuid4() if kind.model._base_manager.filter(key=key).exists() else key


def _settings(checked: _Checked, collection: Collection) -> None:
    for place, row in checked.rows(SETTINGS_OF):
        for name in SETTINGS:
            if name in row:
                setattr(collection, name, row[name])
        try:
            collection.clean_fields()
        except ValidationError as error:
            raise _damaged(f"{place}: {next(iter(error.message_dict.items()))}") from None
        collection.save(update_fields=list(SETTINGS))
