"""The demo collection without its photos, for tests: loaded once in a process, its rows put back from memory after that.

:class:`Rows` does the same for what a class of tests adds to it.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from django.apps import apps
from django.db import connection, transaction
from django.db.models import Model
from django.utils import timezone

from eyot.collection.models import Collection
from eyot.demo.loading import load_demo
from tests.jobs import forget_jobs

PASSWORD = "marsh-marigold"
PASSWORDS = {"keeper": PASSWORD, "helper": PASSWORD}
MADE_BY_DJANGO = ("contenttypes", "auth.Permission")
"""Rows that every database of the tests has: Django makes them with the tables."""


class Rows:
    """All rows that stand in the database when it is made, by table, as PostgreSQL's COPY writes them."""

    def __init__(self) -> None:
        self._rows = {}
        with connection.cursor() as cursor:
            for model in _models():
                with cursor.copy(f"COPY {_quoted(model)} TO STDOUT") as copy:
                    if rows := b"".join(bytes(part) for part in copy):
                        self._rows[model._meta.db_table] = rows

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Rows) and self._rows == other._rows

    def __hash__(self) -> int:
        return hash(tuple(self._rows))

    def put_back(self) -> None:
        """Into empty tables, in any order: rows that stood together ask for no foreign key, which every test of a class would ask for anew
        as it ends. The sequences stand beyond these rows already: what comes after them has numbers that no earlier test's rows or files
        had."""
        models = [model for model in _models() if model._meta.db_table in self._rows]
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET session_replication_role = replica")
            for model in models:
                with cursor.copy(f"COPY {_quoted(model)} FROM STDIN") as copy:
                    copy.write(self._rows[model._meta.db_table])
            cursor.execute("SET session_replication_role = origin")


@dataclass(frozen=True)
class Kept:
    """One day's demo."""

    collection: int
    rows: Rows


_kept: dict[date, Kept] = {}


def demo_collection() -> Collection:
    """The demo collection in the database, as ``load_demo`` makes it; the tables are empty before."""
    day = timezone.localdate()
    if day in _kept:
        _kept[day].rows.put_back()
    else:
        _load(day)
    return Collection.objects.get(pk=_kept[day].collection)


def keep_demo() -> None:
    """Loads it and takes it away again, for the processes that are yet to be begun: the database's sequences stand beyond its rows, and
    it plans its queries for tables of this size."""
    _load(timezone.localdate())
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    forget_jobs()
    _empty()


class EmptiedAfter:
    """For tests whose rows are really written: all tables are emptied after each."""

    def _fixture_teardown(self) -> None:
        _empty()


def _empty() -> None:
    """Empties all tables in a fortieth of the time that Django's flush takes, which makes every table anew, however few rows it has. The
    rows that Django makes itself stay."""
    emptied = "; ".join(f"DELETE FROM {_quoted(model)}" for model in _models())
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(f"SET LOCAL session_replication_role = replica; {emptied}")  # no foreign key is asked


def _load(day: date) -> None:
    collection = load_demo(PASSWORDS, lambda line: None, photos=False, today=day)
    _kept[day] = Kept(collection.pk, Rows())


def _models() -> list[type[Model]]:
    return [
        model
        for model in apps.get_models(include_auto_created=True)
        if model._meta.managed and not {model._meta.app_label, model._meta.label} & {*MADE_BY_DJANGO}
    ]


def _quoted(model: type[Model]) -> str:
    return connection.ops.quote_name(model._meta.db_table)
