"""What belongs to a collection: every kind of row, how it is reached, and how its rows are numbered outside the database.

In a file a row has the number of its place among its kind, from 1; references are such numbers too. Rows that the record of changes
still names though they are gone are numbered after the others, in the order in which the record names them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from django.apps import apps
from django.contrib.auth import get_user_model
from django.db import connection, models

from eyot.collection.models import Collection

FORMAT = "eyot-collection/1"
MANIFEST, PEOPLE, SETTINGS_OF = "manifest.json", "people", "collection"
SETTINGS = tuple(
    field.attname
    for field in Collection._meta.concrete_fields
    if field.attname not in ("id", "key", "made_on", "is_demo")
)
"""What of the collection itself is taken along."""
SECRETS = {"bench.invitation": ("token",), "homes.buyerspage": ("token",)}
"""Secrets of a server, made anew where the rows are read in."""
FOUND_HERE = {"photos.photo": ("original_missing",)}
"""What a server found of its own store, looked for anew where the rows are read in."""
ADDED = {
    "bench.invitation": ("counts",),
    "season.clutch": ("elsewhere",),
    "projects.inplan": ("sought",),
    "photos.photo": (
        *("line_confidence", "line_missing", "find_wanted", "find_done"),
        *("cards", "card_overruled", "size", "faults"),
    ),
}
"""What collections that were taken away by an earlier Eyot lack: as in a new row."""
COUNTED_AS = {"inbox.inboxphoto": "photos.photo"}
"""Rows that share the number of another one: a file that came becomes a photo under the number that it had."""
FRESH = ("key",)
"""Values that no two rows of a server may share: kept where they are free, else made anew."""


@dataclass(frozen=True)
class Kind:
    """One kind of row. ``name``: of its file; ``label``: of its model; ``path``: from a row to its collection; ``order``: of rows."""

    name: str
    label: str
    path: str
    order: tuple[str, ...] = ("pk",)

    @property
    def model(self) -> Any:
        """Its model."""
        return apps.get_model(self.label)

    @property
    def fields(self) -> list[models.Field[Any, Any]]:
        """What is written of each row, but for its number."""
        left_out = (*SECRETS.get(self.label, ()), *FOUND_HERE.get(self.label, ()))
        return [
            field
            for field in self.model._meta.concrete_fields
            if not field.primary_key and field.name != "collection" and field.attname not in left_out
        ]

    def rows_of(self, collection: Collection) -> models.QuerySet[Any]:
        """All rows of a collection, those that are shown nowhere too."""
        rows: models.QuerySet[Any] = self.model._base_manager.filter(**{self.path: collection})
        return rows.order_by(*self.order)


def _kinds() -> tuple[Kind, ...]:
    animal, egg = "animal__collection", "egg__clutch__collection"
    return (
        Kind("overrides", "collection.catalogueoverride", "collection"),
        Kind("animals", "collection.animal", "collection"),
        Kind("carried-genes", "collection.carriedgene", animal),
        Kind("incubators", "season.incubator", "collection"),
        Kind("temperatures", "season.temperature", "incubator__collection"),
        Kind("clutches", "season.clutch", "collection"),
        Kind("clutch-sires", "season.clutchsire", "clutch__collection"),
        Kind("rounds", "season.round", "clutch__collection"),
        Kind("eggs", "season.egg", "clutch__collection"),
        Kind("egg-events", "season.eggevent", egg),
        Kind("animal-weighings", "season.weighing", animal),
        Kind("egg-weighings", "season.weighing", egg),
        Kind("photos", "photos.photo", egg, ("added_at", "pk")),
        Kind("drops", "inbox.drop", "collection", ("began_at", "pk")),
        Kind("inbox-photos", "inbox.inboxphoto", "collection", ("came_at", "pk")),
        Kind("printed-greys", "photos.greyprint", "collection"),
        Kind("looks", "bench.look", egg),
        Kind("sibling-comparisons", "bench.siblingcomparison", egg),
        Kind("calls", "bench.call", egg),
        Kind("called-genes", "bench.calledgene", f"call__{egg}"),
        Kind("claims", "bench.sellersclaim", egg),
        Kind("proofs", "bench.proof", egg),
        Kind("first-guesses", "bench.firstguess", egg),
        Kind("invitations", "bench.invitation", "clutch__collection"),
        Kind("het-markers", "hets.hetmarker", animal),
        Kind("past-breedings", "hets.pastbreeding", animal),
        Kind("gene-tests", "hets.genetest", animal),
        Kind("lab-orders", "hets.laborder", animal),
        Kind("new-traits", "hets.newtrait", "collection"),
        Kind("showings", "hets.showing", "trait__collection"),
        Kind("pins", "reference.pin", "collection"),
        Kind("fates", "homes.fate", egg),
        Kind("own-labels", "homes.ownlabel", egg),
        Kind("label-sheets", "homes.labelsheet", "collection"),
        Kind("buyers-pages", "homes.buyerspage", "collection"),
        Kind("offered", "homes.offered", "page__collection"),
        Kind("reservations", "homes.reservation", "page__collection"),
        Kind("issued", "homes.issued", egg),
        Kind("projects", "projects.project", "collection"),
        Kind("in-plans", "projects.inplan", "project__collection"),
        Kind("held-for", "projects.heldfor", "project__collection"),
        Kind("made-up-animals", "practice.madeupanimal", "collection"),
        Kind("races", "practice.race", "collection"),
        Kind("evenings", "practice.evening", "collection"),
        Kind("evening-eggs", "practice.eveningegg", "egg__clutch__collection"),
        Kind("exercises", "practice.exercise", "collection"),
        Kind("drills", "practice.drill", "collection"),
        Kind("practice-wishes", "practice.wish", "collection"),
        Kind("papers-out", "papers.paperout", egg),
        Kind("papers-in", "papers.paperin", "collection"),
        Kind("changes", "collection.change", "collection"),
    )


KINDS = _kinds()
WHOLE = Collection._meta.label_lower
USER = get_user_model()._meta.label_lower


Mapped = Callable[[str, Any], Any]
"""Of a model's label and a key or number the other one."""


class Numbers:
    """Numbers outside the database for primary keys, by model. Two kinds of one model are numbered together."""

    def __init__(self) -> None:
        self._numbers: dict[str, dict[str, int]] = {}

    def number(self, label: str, pk: Any) -> int:
        """The number of a row; a new one where it has none yet."""
        known = self._numbers.setdefault(COUNTED_AS.get(label, label), {})
        return known.setdefault(str(pk), len(known) + 1)

    def all_of(self, label: str) -> Iterable[str]:
        """The primary keys that have a number, in its order."""
        return self._numbers.get(label, {})


class Keys:
    """Primary keys for the numbers of a file, by model: rows of the file get theirs first, gone ones as they are named."""

    def __init__(self, keys: Mapping[str, Mapping[int, Any]]) -> None:
        self._keys = {label: dict(known) for label, known in keys.items()}

    def key(self, label: str, number: int) -> Any:
        """The primary key. KeyError for a number that no row of the file has."""
        return self._keys.get(COUNTED_AS.get(label, label), {})[number]

    def key_or_gone(self, label: str, number: int) -> Any:
        """The primary key; one that no row has and none will get where the row is gone."""
        known = self._keys.setdefault(label, {})
        if number not in known:
            known[number] = next(iter(fresh_keys(apps.get_model(label), 1)))
        return known[number]


def fresh_keys(model: type[models.Model], count: int) -> list[Any]:
    """Primary keys that no row has and none will get, ascending."""
    field = model._meta.pk
    if isinstance(field, models.UUIDField):
        return sorted(field.get_default() for _ in range(count))
    with connection.cursor() as cursor:
        sequence = [model._meta.db_table, field.column]
        cursor.execute("SELECT nextval(pg_get_serial_sequence(%s, %s)) FROM generate_series(1, %s)", [*sequence, count])
        return sorted(key for (key,) in cursor.fetchall())


def referred(field: models.Field[Any, Any]) -> str:
    """The label of the model that a field refers to; empty where it refers to none."""
    return field.related_model._meta.label_lower if field.related_model else ""  # type: ignore[union-attr]


def references_in(label: str) -> dict[str, str]:
    """Of the columns of a model those that refer to others, with the label of what they refer to."""
    fields = apps.get_model(label)._meta.concrete_fields
    return {field.attname: referred(field) for field in fields if field.related_model}


def with_references(change: Mapping[str, Any], mapped: Mapped) -> dict[str, Any]:
    """The ``subject`` and ``rows`` of a change, with every primary key in them mapped by ``mapped(label, key)``."""
    label, _, key = change["subject"].partition(":")
    model = {"animal": "collection.animal", "clutch": "season.clutch"}.get(label)
    subject = f"{label}:{mapped(model, _plain(key))}" if model and key else change["subject"]
    return {"subject": subject, "rows": [_entry(entry, mapped) for entry in change["rows"]]}


def _plain(key: str) -> Any:
    return int(key) if key.isdecimal() else key


def _entry(entry: Mapping[str, Any], mapped: Mapped) -> dict[str, Any]:
    label = entry["model"]
    return {
        "model": label,
        "pk": mapped(label, entry["pk"]),
        **{side: _values(label, entry[side], mapped) for side in ("before", "after")},
    }


def _values(label: str, values: Mapping[str, Any] | None, mapped: Mapped) -> dict[str, Any] | None:
    if values is None:
        return None
    refers = references_in(label)
    return {
        name: value if value is None or name not in refers else mapped(refers[name], value)
        for name, value in values.items()
    }
