"""The record of changes: every change of animals, pairings, clutches and eggs is made through here, and can be taken back.

A change keeps the fields that it touched, before and after. Taking back is a change like any other, so it can itself be taken back.
Where somebody has changed the same field since, taking back is refused and nothing is overwritten.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from itertools import groupby
from typing import Any, TypeVar
from uuid import UUID

from django.apps import apps
from django.contrib.auth.models import AbstractBaseUser
from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError, models, transaction
from django.db.models import ProtectedError
from django.dispatch import Signal

from eyot.collection.models import Change, Collection
from eyot.shared.devices import TAKEN, claim
from eyot.shared.refusal import Refused

Values = dict[str, Any]
ENCODER = DjangoJSONEncoder()
Row = TypeVar("Row", bound=models.Model)
taken_back = Signal()
"""Sent within the transaction in which a change is taken back, with its ``rows``: for what is made from them."""


class Recording:
    """Rows that belong to one change. Read them inside the recording; write them only through it.

    ``subject`` may be set while recording, where what the change is about gets its number only now.
    """

    def __init__(self, subject: str = "") -> None:
        self.rows: list[Values] = []
        self.subject = subject

    def add(self, row: Row) -> Row:
        """Saves a new row."""
        row.save(force_insert=True)
        return self.added(row)

    def added(self, row: Row) -> Row:
        """Keeps that a row is new, by whatever hand it was saved."""
        self.rows.append(_entry(row, None, _values(row, _fields(row))))
        return row

    def add_all(self, rows: Sequence[models.Model]) -> None:
        """Saves many new rows of one model at once."""
        if rows:
            type(rows[0])._default_manager.bulk_create(rows, batch_size=1000)
            self.rows += [_entry(row, None, _values(row, _fields(row))) for row in rows]

    def change(self, row: models.Model, **values: Any) -> bool:
        """Sets fields of a row; tells whether any was different. The row is locked until the change is kept."""
        stored = type(row)._base_manager.select_for_update().get(pk=row.pk)
        names = [type(row)._meta.get_field(name).attname for name in values]  # type: ignore[union-attr]
        before = _values(stored, names)
        for name, value in values.items():
            setattr(stored, name, value)
            setattr(row, name, value)
        after = _values(stored, names)
        touched = [name for name in names if before[name] != after[name]]
        if touched:
            stored.save(update_fields=touched)
            self.rows.append(_entry(row, {n: before[n] for n in touched}, {n: after[n] for n in touched}))
        return bool(touched)

    @contextmanager
    def watching(self, row: models.Model, *names: str) -> Iterator[None]:
        """Keeps what is done meanwhile to some fields of a row, by whatever hand; the row is locked until the change is kept."""
        stored = type(row)._base_manager.select_for_update(of=("self",))
        before = _values(stored.get(pk=row.pk), names)
        yield
        after = _values(stored.get(pk=row.pk), names)
        touched = [name for name in names if before[name] != after[name]]
        if touched:
            self.rows.append(_entry(row, {n: before[n] for n in touched}, {n: after[n] for n in touched}))

    def remove(self, row: models.Model) -> None:
        """Deletes a row. :class:`Refused` where others rest on it."""
        entry = _entry(row, _values(row, _fields(row)), None)
        try:
            with transaction.atomic():
                row.delete()
        except ProtectedError:
            raise Refused(f"{row} can't be removed: others in the record rest on it. Nothing was changed.") from None
        self.rows.append(entry)


@contextmanager
def recording(
    collection: Collection, member: AbstractBaseUser, at: datetime, what: str, subject: str, key: UUID | None = None
) -> Iterator[Recording]:
    """One change, kept as a whole or not at all; kept only if a row was touched."""
    with transaction.atomic():
        record = Recording(subject)
        yield record
        if record.rows:
            Change.objects.create(
                collection=collection,
                by_id=member.pk,
                at=at,
                what=what[:200],
                subject=record.subject,
                rows=record.rows,
                key=key,
            )


def noted(collection: Collection, member: AbstractBaseUser, at: datetime, what: str) -> None:
    """A change of the members: told in the record, not to be taken back there."""
    Change.objects.create(
        collection=collection, by_id=member.pk, at=at, what=what[:200], subject=Change.OF_MEMBERS, rows=[]
    )


def was_sent(collection: Collection, key: UUID | None) -> bool:
    """Has a change with this key been kept already? Inside the transaction that keeps it: another that comes at once waits.

    :class:`Refused` where the key is another collection's.
    """
    claim(key)
    known = Change.objects.filter(key=key).first() if key else None
    if known and known.collection_id != collection.pk:
        raise Refused(TAKEN)
    return known is not None


def subject_of(row: models.Model) -> str:
    """What changes of an animal or a clutch are filed under."""
    return f"{row._meta.model_name}:{row.pk}"


def changes_of(collection: Collection, subject: str = "", most: int = 50) -> Sequence[Change]:
    """The changes that were entered last, by when they were made, newest first: one query."""
    changes = (
        Change.objects.filter(collection=collection)
        .select_related("by", "taken_back")
        .defer("rows", "taken_back__rows")
    )
    last = (changes.filter(subject=subject) if subject else changes)[:most]
    return sorted(last, key=lambda change: (change.at, change.pk), reverse=True)


@transaction.atomic
def take_back(change: Change, member: AbstractBaseUser, at: datetime) -> Change:
    """Undoes a change, as a change of its own. :class:`Refused` where a row has been changed since, or others rest on it."""
    if not change.can_be_taken_back:
        raise Refused("Who belongs to the collection is changed under Members. Nothing was changed.")
    if Change.objects.select_for_update().filter(takes_back=change).exists():
        raise Refused("This was taken back already. Nothing was changed.")
    kinds = groupby(reversed(change.rows), key=lambda entry: (entry["model"], entry["before"] is None))
    for (label, was_added), entries in kinds:
        if was_added:
            _remove_all(apps.get_model(label), list(entries))
        else:
            for entry in entries:
                _put_back(entry)
    rows = [{**entry, "before": entry["after"], "after": entry["before"]} for entry in reversed(change.rows)]
    taken_back.send(Change, rows=rows)
    what = f"Taken back: {change.what}"[:200]
    return Change.objects.create(
        collection=change.collection,
        by_id=member.pk,
        at=at,
        what=what,
        subject=change.subject,
        rows=rows,
        takes_back=change,
    )


def _put_back(entry: Values) -> None:
    """A row that was removed comes again, or its fields take their former values."""
    model = apps.get_model(entry["model"])
    row = model._base_manager.select_for_update().filter(pk=entry["pk"]).first()
    values = _read(model, entry["before"])
    try:
        with transaction.atomic():
            if entry["after"] is None:
                model(pk=entry["pk"], **values).save(force_insert=True)
            else:
                stored = _unchanged(row, entry)
                for name, value in values.items():
                    setattr(stored, name, value)
                stored.save(update_fields=list(values))
    except IntegrityError:
        raise Refused("This can't be taken back: its name or place has been given to another since.") from None


def _unchanged(row: Row | None, entry: Values) -> Row:
    """The row, as a change left it. :class:`Refused` where somebody has changed it since."""
    if row is None or _values(row, entry["after"]) != entry["after"]:
        raise Refused(
            "This can't be taken back by itself: it was changed again since. Take back the later change first."
        )
    return row


def _remove_all(model: type[models.Model], entries: Sequence[Values]) -> None:
    """Removes rows that a change had added, the last first; rows that refer to one another in parts that do not."""
    stored = model._base_manager.select_for_update().in_bulk([entry["pk"] for entry in entries])
    rows = {_plain(pk): row for pk, row in stored.items()}
    own = [field.attname for field in model._meta.concrete_fields if field.related_model is model]
    parts: list[set[Any]] = [set()]
    referred: set[Any] = set()
    for entry in entries:
        row = _unchanged(rows.get(entry["pk"]), entry)
        if entry["pk"] in referred:
            parts.append(set())
            referred = set()
        parts[-1].add(entry["pk"])
        referred |= {getattr(row, name) for name in own} - {None}
    try:
        with transaction.atomic():
            for part in parts:
                model._base_manager.filter(pk__in=part).delete()
    except ProtectedError:
        raise Refused("This can't be taken back: others in the record rest on it. Take those back first.") from None


def _entry(row: models.Model, before: Values | None, after: Values | None) -> Values:
    return {"model": row._meta.label_lower, "pk": _plain(row.pk), "before": before, "after": after}


def _fields(row: models.Model) -> list[str]:
    return [field.attname for field in row._meta.concrete_fields if not field.primary_key]


def _values(row: models.Model, names: Sequence[str] | Values) -> Values:
    """Fields as JSON keeps them."""
    return {name: _plain(getattr(row, name)) for name in names}


def _plain(value: Any) -> Any:
    """A value as JSON keeps it; moments in UTC, as the database gives them back."""
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat()
    return value if value is None or isinstance(value, (bool, int, float, str, list, dict)) else ENCODER.default(value)


def _read(model: type[models.Model], values: Values) -> Values:
    fields = {field.attname: field for field in model._meta.concrete_fields}
    return {
        name: fields[name].to_python(value) if fields[name].remote_field is None else value
        for name, value in values.items()
    }
