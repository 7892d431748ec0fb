"""Backups of the whole server: the database as PostgreSQL dumps it, and every file of the photo store.

The dump is taken first, in one moment, while Eyot goes on: whatever file a photo of it names was written before.
"""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, datetime
from pathlib import Path
from typing import Any

from django.core.files.base import File
from django.core.files.storage import Storage, storages
from django.core.management import call_command
from django.db import connection
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder

from eyot.safekeeping.archive import Contents, Damaged, NotWritten, Part, pieces, read, write

DUMP, PHOTOS = "database.dump", "photos/"
NAME = "eyot-%Y-%m-%d.tar"
DAILY, WEEKLY, MONTHLY = 7, 4, 12


class CannotRestore(Exception):
    """A backup can't be restored here; the message says why. Nothing was changed."""


def back_up(target: Path, at: datetime) -> Contents:
    """Writes a backup. :class:`~eyot.safekeeping.archive.NotWritten` where it can't be; what stood there stands."""
    if not target.parent.is_dir():
        raise NotWritten(f"there is no folder {target.parent}")
    with tempfile.TemporaryDirectory(prefix="eyot-dump-", dir=target.parent) as folder:
        dump = Path(folder) / DUMP
        with _database() as database:
            _run("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={dump}", database)
        parts = [Part(DUMP, dump.stat().st_size, lambda: dump.open("rb")), *_photos(storages["photos"])]
        return write(target, parts, {"made_at": at.isoformat(), "migrations": sorted(_applied())})


def _photos(store: Storage) -> Iterator[Part]:
    for name in sorted(_files(store)):
        yield Part(PHOTOS + name, store.size(name), lambda name=name: store.open(name))  # type: ignore[misc,return-value]


def _files(store: Storage, folder: str = "") -> Iterator[str]:
    """All files of a store, at any depth."""
    try:
        folders, files = store.listdir(folder)
    except FileNotFoundError:
        return
    prefix = f"{folder}/" if folder else ""
    yield from (prefix + name for name in files)
    for name in folders:
        yield from _files(store, prefix + name)


def restore(source: Path) -> Contents:
    """Puts a backup into an empty database and photo store, and brings it up to this Eyot.

    :class:`~eyot.safekeeping.archive.Damaged` for what is no whole backup, :class:`CannotRestore` for one of a newer Eyot, and where
    something stands already; nothing is changed then.
    """
    checked(source)
    store = storages["photos"]
    if connection.introspection.table_names() or any(True for _ in _files(store)):
        raise CannotRestore("something is here already: a backup is restored into an empty place only")
    with tempfile.TemporaryDirectory(prefix="eyot-restore-") as folder:
        dump = Path(folder) / DUMP

        def take(name: str, file: Any) -> None:
            if name == DUMP:
                with dump.open("wb") as out:
                    out.writelines(pieces(file))
            elif name.startswith(PHOTOS):
                store.save(name.removeprefix(PHOTOS), File(file))

        contents = read(source, take)
        with _database() as database:
            _run("pg_restore", "--no-owner", "--no-privileges", "--exit-on-error", f"--dbname={database}", str(dump))
    call_command("migrate", verbosity=0, interactive=False)
    return contents


def checked(source: Path) -> Contents:
    """Reads a whole backup. :class:`~eyot.safekeeping.archive.Damaged` and :class:`CannotRestore` as :func:`restore`."""
    contents = read(source)
    if DUMP not in contents.files:
        raise Damaged(f"{DUMP} is missing from it")
    known = {".".join(key) for key in MigrationLoader(None).disk_migrations}
    if unknown := set(contents.about.get("migrations", ())) - known:
        raise CannotRestore(
            f"it was made by a newer Eyot, which knows {min(unknown)}: restore it into that one, or a later one"
        )
    return contents


def _applied() -> set[str]:
    return {".".join(key) for key in MigrationRecorder(connection).applied_migrations()}


@contextmanager
def _database() -> Iterator[str]:
    """The database as PostgreSQL's own programs are told it; the password goes by a file that only its owner reads."""
    own = connection.settings_dict
    with tempfile.NamedTemporaryFile("w", prefix="eyot-pass-") as secret:
        password = str(own["PASSWORD"]).replace("\\", "\\\\").replace(":", "\\:")
        secret.write(f"*:*:*:*:{password}\n")
        secret.flush()
        yield f"host={own['HOST']} port={own['PORT']} user={own['USER']} dbname={own['NAME']} passfile={secret.name}"


def _run(program: str, *arguments: str) -> None:
    done = subprocess.run([program, *arguments], text=True, capture_output=True)
    if done.returncode:
        words = done.stderr.strip().splitlines() or [f"status {done.returncode}"]
        raise NotWritten(f"{program}: {words[-1]}")


def kept(days: set[date]) -> set[date]:
    """Of the days of backups those to keep: the newest seven, and the newest of each of four weeks and of twelve months."""
    ordered = sorted(days, reverse=True)
    weeks: dict[tuple[int, int], date] = {}
    months: dict[tuple[int, int], date] = {}
    for day in ordered:
        weeks.setdefault(day.isocalendar()[:2], day)
        months.setdefault((day.year, day.month), day)
    return {*ordered[:DAILY], *list(weeks.values())[:WEEKLY], *list(months.values())[:MONTHLY]}


def nightly(folder: Path, at: datetime, today: date) -> Contents:
    """The backup of a night, in a folder of its own; of the older ones those stay that are to be kept."""
    folder.mkdir(parents=True, exist_ok=True)
    contents = back_up(folder / today.strftime(NAME), at)
    by_day = {_day(path): path for path in folder.glob("eyot-*.tar") if _day(path)}
    for day in by_day.keys() - kept({day for day in by_day if day}):
        by_day[day].unlink()
    return contents


def _day(path: Path) -> date | None:
    try:
        return datetime.strptime(path.name, NAME).date()  # noqa: DTZ007  a day's name
    except ValueError:
        return None
