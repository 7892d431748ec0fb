"""Backups: whole or refused, restored row for row and byte for byte, thinned out by night, and told of when they fail."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import TestCase
from unittest.mock import patch
from urllib.parse import urlsplit, urlunsplit

import psycopg
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TransactionTestCase, override_settings
from django.utils import timezone

from eyot.collection.models import BackupRun
from eyot.photos.actions import add_photo
from eyot.photos.models import Photo
from eyot.safekeeping import archive, tasks
from eyot.safekeeping.archive import Damaged, NotWritten, Part, read, write
from eyot.safekeeping.backups import CannotRestore, back_up, checked, kept, nightly
from eyot.season.models import Egg
from tests.demo_rows import EmptiedAfter, demo_collection
from tests.jobs import forget_jobs, stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded

NOW = datetime(2026, 6, 12, 3, 17, tzinfo=UTC)


def part(name: str, data: bytes) -> Part:
    return Part(name, len(data), lambda: io.BytesIO(data))


class Folder(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "a.tar"

    def written(self, *parts: Part, **about: Any) -> Path:
        write(self.path, parts or (part("database.dump", b"rows"), part("photos/a/one.jpg", b"picture" * 999)), about)
        return self.path


class Archive(Folder):
    def refused(self, words: str) -> None:
        with self.assertRaisesRegex(Damaged, words):
            read(self.path)

    def tar(self, *entries: tuple[str, bytes], **other: Any) -> None:
        """A tar as somebody else might write it."""
        with tarfile.open(self.path, "w") as tar:
            for name, data in entries:
                entry = tarfile.TarInfo(name)
                entry.size = len(data)
                for field, value in other.items():
                    setattr(entry, field, value)
                tar.addfile(entry, io.BytesIO(data))

    def contents(self, *names: str, **about: Any) -> bytes:
        rows = [{"name": name, "size": 1, "sha256": "0"} for name in names]
        return json.dumps({"format": archive.FORMAT, "files": rows} | about).encode()

    def test_what_was_put_in_comes_out_and_only_its_owner_may_read_it(self) -> None:
        out: dict[str, bytes] = {}
        contents = read(self.written(made_at="today"), lambda name, file: out.update({name: file.read()}))
        self.assertEqual(out, {"database.dump": b"rows", "photos/a/one.jpg": b"picture" * 999})
        self.assertEqual((contents.about, contents.size), ({"made_at": "today"}, 4 + 7 * 999))
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)

    def test_a_changed_byte_or_an_end_that_is_missing_is_found(self) -> None:
        whole = self.written().read_bytes()
        for at in (513, 3000, 7000):
            self.path.write_bytes(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :])
            with self.subTest(at), self.assertRaises(Damaged):
                read(self.path)
        for length in (0, 100, 700, 7000):
            self.path.write_bytes(whole[:length])
            with self.subTest(length), self.assertRaises(Damaged):
                read(self.path)

    def test_paths_outside_links_and_what_is_not_listed_are_refused(self) -> None:
        for name in ("../outside", "/etc/passwd", "photos/../../x", "photos/./x", ".hidden"):
            self.tar((name, b"x"))
            self.refused("leads outside")
        self.tar(("photos/link", b""), type=tarfile.SYMTYPE, linkname="/etc/passwd")
        self.refused("no plain file")
        self.tar(("photos/a.jpg", b"x"), ("contents.json", self.contents()))
        self.refused("photos/a.jpg is in it, and not in its list")
        self.tar(("contents.json", self.contents("photos/a.jpg")))
        self.refused("photos/a.jpg is missing from it")
        self.tar(("contents.json", self.contents()), ("late", b"x"))
        self.refused("stands after its list")
        self.tar(("twice", b"x"), ("twice", b"y"))
        self.refused("is in it twice")

    def test_other_forms_and_what_is_no_list_are_named(self) -> None:
        self.tar(("contents.json", self.contents(format="eyot-backup/2")))
        self.refused("has the form eyot-backup/2; this Eyot reads eyot-backup/1")
        for text in (b"[]", b"{", b'{"format": "eyot-backup/1", "files": [1]}'):
            self.tar(("contents.json", text))
            self.refused("can't be read")
        self.path.write_bytes(b"PK not a tar at all" * 100)
        self.refused("is no backup, or damaged")

    def test_a_hundred_gigabytes_claimed_take_no_room(self) -> None:
        entry = tarfile.TarInfo("photos/huge.jpg")
        entry.size = 100 * 1024**3
        self.path.write_bytes(entry.tobuf() + b"x" * 1024)
        self.refused("damaged|cut off")

    def test_a_full_disk_leaves_the_one_before(self) -> None:
        before = self.written().read_bytes()

        def full() -> io.BytesIO:
            raise OSError(28, "No space left on device")

        with self.assertRaisesRegex(NotWritten, "No space left on device. What stood there before stands"):
            write(self.path, [part("database.dump", b"new"), Part("photos/b.jpg", 9, full)], {})
        self.assertEqual(self.path.read_bytes(), before)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["a.tar"])


class Checked(Folder):
    def test_one_of_a_newer_eyot_is_refused_by_name(self) -> None:
        self.written(migrations=["collection.0001_initial", "collection.9999_later"])
        with self.assertRaisesRegex(CannotRestore, "newer Eyot, which knows collection.9999_later"):
            checked(self.path)
        self.written(migrations=["collection.0001_initial"])
        self.assertEqual(len(checked(self.path).files), 2)

    def test_one_without_a_database_is_none(self) -> None:
        self.written(part("photos/a.jpg", b"x"))
        with self.assertRaisesRegex(Damaged, "database.dump is missing"):
            checked(self.path)


class Nights(Folder):
    def test_seven_days_four_weeks_and_twelve_months_stay(self) -> None:
        days = {date(2026, 6, 12) - timedelta(days=number) for number in range(500)}
        stay = sorted(kept(days), reverse=True)
        self.assertEqual(stay[:7], [date(2026, 6, 12) - timedelta(days=number) for number in range(7)])
        self.assertEqual(stay[7:9], [date(2026, 5, 31), date(2026, 5, 24)])
        months = [date(2026, month, 1) for month in range(5, 0, -1)] + [
            date(2025, month, 1) for month in range(12, 6, -1)
        ]
        self.assertEqual(stay[9:], [month - timedelta(days=1) for month in months[:-1]])

    def test_older_ones_go_and_what_is_no_backup_stays(self) -> None:
        with patch("eyot.safekeeping.backups.back_up", side_effect=lambda path, at: path.write_bytes(b"x")):
            for number in range(30):
                day = date(2026, 6, 1) + timedelta(days=number)
                nightly(self.folder / "nights", NOW, day)
        (self.folder / "nights/eyot-of-mine.tar").write_bytes(b"mine")
        names = sorted(path.name for path in (self.folder / "nights").iterdir())
        self.assertEqual(len(names), 7 + 2 + 1)
        self.assertEqual((names[0], names[-2]), ("eyot-2026-06-14.tar", "eyot-2026-06-30.tar"))


class Told(SeasonCase):
    def run_of(self, **other: Any) -> BackupRun:
        return BackupRun.objects.create(**{"at": timezone.now(), "size": 9} | other)

    def test_the_owner_hears_of_a_failed_or_an_old_one_and_nobody_else(self) -> None:
        self.assertNotContains(self.client.get("/"), "backup")
        self.run_of(at=timezone.now() - timedelta(days=3))
        self.assertContains(self.client.get("/"), "no worker has made one since")
        self.run_of(trouble="the disk is full")
        self.assertContains(self.client.get("/"), "was not made: the disk is full")
        self.client.force_login(self.helper)
        self.assertNotContains(self.client.get("/"), "the disk is full")
        self.client.force_login(self.keeper)
        self.run_of()
        self.assertNotContains(self.client.get("/"), "backup")

    def test_how_a_night_went_is_kept(self) -> None:
        with tempfile.TemporaryDirectory() as folder, override_settings(BACKUPS=f"{folder}/nights"):
            with patch.object(tasks, "nightly", side_effect=NotWritten("the disk is full")):
                tasks.make_nightly()
            self.assertEqual(BackupRun.objects.first().trouble, "the disk is full")  # type: ignore[union-attr]
        with override_settings(BACKUPS=""):
            self.assertIsNone(tasks.make_nightly())


class RoundTrip(EmptiedAfter, TransactionTestCase):
    """A backup of the demo with a photo, restored by the real command into another database and another store."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.enterContext(override_settings(STORAGES=stored_in(str(self.folder / "photos"))))
        self.addCleanup(forget_jobs)
        collection = demo_collection()
        egg = Egg.objects.get(clutch__code="W-02", clutch__collection=collection, number=1)
        keeper = collection.memberships.all()[0].user
        taken = add_photo(egg, keeper, SimpleUploadedFile("shed.jpg", encoded()), "shed", timezone.now())
        self.assertIsInstance(taken, Photo)

    def database(self, name: str) -> str:
        return urlunsplit(urlsplit(os.environ["EYOT_DATABASE"])._replace(path=f"/{name}"))

    def rows(self, name: str) -> dict[str, list[bytes]]:
        with psycopg.connect(self.database(name)) as there, there.cursor() as cursor:
            cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")
            found = {}
            for (table,) in cursor.fetchall():
                with cursor.copy(f'COPY "{table}" TO STDOUT') as copy:
                    found[table] = sorted(bytes(piece) for piece in copy)
            return found

    def files(self, folder: Path) -> dict[str, bytes]:
        return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}

    def restored(self, name: str, source: Path) -> subprocess.CompletedProcess[str]:
        own = {"EYOT_DATABASE": self.database(name), "EYOT_PHOTOS": str(self.folder / name)}
        own["DJANGO_SETTINGS_MODULE"] = "eyot.config.settings"
        command = [sys.executable, "-W", "ignore", "-m", "django", "restore", str(source)]
        return subprocess.run(command, env={**os.environ, **own}, text=True, capture_output=True)

    def test_all_rows_and_files_are_equal_and_nothing_is_put_over_what_stands(self) -> None:
        target, other = self.folder / "a.tar", f"{connection.settings_dict['NAME']}_restored"
        contents = back_up(target, NOW)
        self.assertGreater(len(contents.files), 1)
        with psycopg.connect(self.database("postgres"), autocommit=True) as server:
            server.execute(f'DROP DATABASE IF EXISTS "{other}"')
            server.execute(f'CREATE DATABASE "{other}"')
            try:
                done = self.restored(other, target)
                self.assertEqual(done.returncode, 0, done.stderr)
                self.assertEqual(self.rows(other), self.rows(str(connection.settings_dict["NAME"])))
                self.assertEqual(self.files(self.folder / other), self.files(self.folder / "photos"))
                again = self.restored(other, target)
                self.assertEqual(again.returncode, 1)
                self.assertIn("something is here already", again.stderr)
            finally:
                server.execute(f'DROP DATABASE IF EXISTS "{other}" WITH (FORCE)')

    def test_a_folder_that_is_not_there_is_told(self) -> None:
        with self.assertRaisesRegex(NotWritten, "there is no folder"):
            back_up(self.folder / "nowhere/a.tar", NOW)
        self.assertTrue(settings.BACKUPS)
