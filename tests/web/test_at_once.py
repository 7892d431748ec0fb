"""Two at once: one key sent twice, one egg by two people, one page that is older than the record. With real threads and connections."""

from __future__ import annotations

import os
import resource
import subprocess
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch
from uuid import UUID, uuid4

import numpy as np
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TransactionTestCase, override_settings
from django.utils import timezone
from PIL import Image

from eyot.bench.models import Call, Look, SiblingComparison
from eyot.bench.siblings import judged
from eyot.collection.models import Change
from eyot.photos import files, processing
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutch_of
from tests.demo_rows import EmptiedAfter, demo_collection
from tests.jobs import do_jobs, forget_jobs, stored_in
from tests.web.season_data import MembersClient, SeasonCase
from tests.web.test_photos import encoded

Post = tuple[str, dict[str, Any]]


class AtOnce(EmptiedAfter, TransactionTestCase):
    """What overlapping requests leave behind."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.store = Path(folder.name)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))
        self.addCleanup(forget_jobs)
        self.collection = demo_collection()
        self.by_name: dict[str, Any] = {user.get_username(): user for user in get_user_model().objects.all()}

    def post_all(self, posts: Sequence[Post], who: Sequence[str] = ("keeper",)) -> list[int]:
        """Sends all of them at the same moment, each from a browser of its own; the statuses in their order."""
        gate = threading.Barrier(len(posts))

        def send(number: int) -> int:
            client = MembersClient(raise_request_exception=False)
            client.force_login(self.by_name[who[number % len(who)]])
            path, given = posts[number]
            gate.wait(timeout=30)
            try:
                return int(client.post(path, given, headers={"HX-Request": "true", "X-Outbox": "yes"}).status_code)
            finally:
                connection.close()

        with ThreadPoolExecutor(len(posts)) as threads:
            return list(threads.map(send, range(len(posts))))

    def twice(self, path: str, given: Callable[[str], dict[str, Any]]) -> list[int]:
        key = str(uuid4())
        return self.post_all([(path, given(key)) for _ in range(4)])

    def test_of_notes_on_a_clutch_written_at_once_by_several_one_is_kept_and_the_others_are_asked(self) -> None:
        words = [f"seen by {number}" for number in range(4)]
        posts = [
            ("/clutches/W-06/record/place/", {"place": "shelf 2", "note": note, "note_shown": ""}) for note in words
        ]
        Clutch.objects.filter(code="W-06").update(note="")
        self.assertEqual(sorted(self.post_all(posts)), [302, 422, 422, 422])
        self.assertIn(Clutch.objects.get(code="W-06").note, words)

    def test_one_logs_file_taken_four_times_at_once_is_there_once(self) -> None:
        log = "".join(f"2025-05-{day:02} {hour:02}:00,31.5\n" for day in range(1, 15) for hour in range(24)).encode()
        path = "/clutches/W-04/record/log/"
        answers = self.post_all([(path, {"log": SimpleUploadedFile("log.csv", log)}) for _ in range(4)])
        self.assertEqual(set(answers) & {500}, set())
        incubator = Clutch.objects.get(code="W-04").incubator
        assert incubator is not None
        self.assertEqual(incubator.temperatures.filter(at__year=2025).count(), 14 * 24)

    def test_a_photo_sent_four_times_at_once_is_there_once_with_its_file(self) -> None:
        def sent(key: str) -> dict[str, Any]:
            return {"photo": SimpleUploadedFile("egg.jpg", encoded()), "key": key}

        for path in ("/clutches/W-04/3/cut/photo/", "/clutches/W-04/3/photos/?stage=egg"):
            self.assertEqual(self.twice(path, sent), [204] * 4)
        photos = list(Photo.objects.all())
        self.assertEqual(len(photos), 2)
        for photo in photos:
            self.assertEqual(files.files_in(photo.folder), ["original.jpg"])
        do_jobs()
        self.assertTrue(all(photo.has_sizes for photo in Photo.objects.all()))

    def test_any_other_change_sent_four_times_at_once_is_there_once(self) -> None:
        egg, beside = "/clutches/W-04/3/", {"stage": "egg", "confidence": "sure"}
        look = {"trait": "head_stamp", "level": "busy", **beside}
        place = {"across": "0.5", "down": "0.5", "on_top": "no", "mark": "x"}
        self.assertEqual(self.twice(f"{egg}cut/look/", lambda key: {**look, "key": key}), [204] * 4)
        self.assertEqual(self.twice(f"{egg}looks/", lambda key: {**look, "key": key}), [204] * 4)
        self.assertEqual(self.twice(f"{egg}cut/guess/", lambda key: {"note": "yolk seen", "key": key}), [204] * 4)
        self.assertEqual(self.twice(f"{egg}cut/state/", lambda key: {"state": "wrapped", "key": key}), [204] * 4)
        self.assertEqual(self.twice(f"{egg}place/", lambda key: {**place, "key": key}), [204] * 4)
        laid = {"what": "lightness.more", "other": "2", **beside}
        self.assertEqual(self.twice(f"{egg}beside/", lambda key: {**laid, "key": key}), [204] * 4)
        given = judged(clutch_of(self.collection, "W-04")).model.pairing.given_genes
        called = {f"verdict-{gene}": "not" for gene in given} | {"stage": "egg"}
        self.assertEqual(self.twice(f"{egg}calls/", lambda key: {**called, "key": key}), [204] * 4)
        stored = Egg.objects.get(clutch__code="W-04", number=3)
        self.assertEqual(stored.note.count("yolk seen"), 1)
        self.assertEqual(stored.events.filter(value="wrapped").count(), 1)
        self.assertEqual(Look.objects.filter(egg=stored, trait="head_stamp", level="busy").count(), 2)
        self.assertEqual(SiblingComparison.objects.filter(egg=stored, trait="lightness").count(), 1)
        self.assertEqual(Call.objects.filter(egg=stored).count(), 1)

    def test_no_note_of_two_people_is_lost(self) -> None:
        posts = [
            ("/clutches/W-04/3/cut/guess/", {"note": f"note {number:02}", "key": str(uuid4())}) for number in range(12)
        ]
        self.assertEqual(self.post_all(posts, who=("keeper", "helper")), [204] * 12)
        note = Egg.objects.get(clutch__code="W-04", number=3).note
        self.assertEqual([number for number in range(12) if f"note {number:02}" not in note], [])


class OfAnother(SeasonCase):
    """Keys and photos that are somebody else's."""

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))

    def add(self, number: int, key: object, code: str = "W-04") -> Any:
        sent = {"photo": SimpleUploadedFile("egg.jpg", encoded()), "key": str(key)}
        return self.client.post(f"/clutches/{code}/{number}/cut/photo/", sent)

    def test_a_photos_own_number_as_the_key_for_another_egg_touches_nothing_of_it(self) -> None:
        self.add(3, uuid4())
        photo = Photo.objects.get()
        self.assertContains(self.add(2, photo.pk), "sent under this number already", status_code=422)
        self.log_in_the_neighbour()
        self.assertContains(self.add(1, photo.pk, "X-01"), "sent under this number already", status_code=422)
        self.assertEqual(list(Photo.objects.all()), [photo])
        self.assertEqual(files.files_in(photo.folder), ["original.jpg"])

    def test_a_key_of_another_collections_change_is_refused(self) -> None:
        key = str(uuid4())
        self.client.post("/clutches/W-04/3/cut/state/", {"state": "wrapped", "key": key})
        self.client.post("/clutches/W-04/3/cut/look/", {"trait": "head_stamp", "level": "busy", "key": key})
        self.log_in_the_neighbour()
        for what, given in (("state", {"state": "wrapped"}), ("look", {"trait": "head_stamp", "level": "busy"})):
            answer = self.client.post(f"/clutches/X-01/1/cut/{what}/", {**given, "key": key})
            self.assertContains(answer, "sent under this number already", status_code=422)
        self.assertFalse(Look.objects.filter(egg__clutch=self.neighbours).exists())

    def test_an_original_that_is_gone_is_told_today(self) -> None:
        self.add(3, uuid4())
        photo = Photo.objects.get()
        self.assertEqual(processing.look_for_originals(), 0)
        self.assertNotContains(self.client.get("/"), "has lost its file")
        kept = Path(files.store().path(f"{photo.folder}/original.jpg")).read_bytes()
        files.forget(photo.folder)
        self.assertEqual(processing.look_for_originals(), 1)
        self.assertContains(self.client.get("/"), "A photo of W-04, egg 3 has lost its file")
        Path(files.store().path(f"{photo.folder}/original.jpg")).write_bytes(kept)
        self.assertEqual(processing.look_for_originals(), 0)
        self.assertNotContains(self.client.get("/"), "has lost its file")


class OlderThanTheRecord(SeasonCase):
    """A page that shows what is no longer true, a device that sends late, a clock that is wrong."""

    def state(self, number: int, **given: str) -> Any:
        return self.client.post(f"/clutches/W-04/{number}/cut/state/", {"key": str(uuid4()), **given})

    def test_a_state_chosen_on_a_stale_page_is_asked_once_more(self) -> None:
        self.client.force_login(self.helper)
        self.state(3, state="slug", was="open")
        self.client.force_login(self.keeper)
        asked = self.state(3, state="wrapped", was="open")
        self.assertContains(asked, "since then it was set to slug (helper, ", status_code=409)
        self.assertEqual((asked["X-Stands"], self.egg(3).state), ("slug", "slug"))
        self.assertEqual(self.state(3, state="wrapped", was="slug").status_code, 204)
        self.assertEqual(self.egg(3).state, "wrapped")
        self.assertEqual(self.state(3, state="wrapped", was="open").status_code, 204, "both chose the same")

    def test_the_record_asks_too_and_offers_the_way_on(self) -> None:
        self.state(3, state="slug", was="open")
        for page in ("/clutches/W-04/3/state/", "/clutches/W-04/3/record/state/"):
            answer = self.client.post(page, {"state": "open", "was": "wrapped", "on": ""})
            self.assertContains(answer, "choose again if yours is right", status_code=422)
            self.assertContains(answer, '<input type="hidden" name="was" value="slug">', status_code=422)

    def levels(self) -> list[str]:
        page = self.client.get("/clutches/W-04/cutting/")
        looks = [look for entry in page.context["eggs"] if entry.egg.number == 3 for look in entry.looks]
        self.trait, self.choices = looks[0].row.trait, [level.id for level in looks[0].row.levels]
        return [level.id for level in looks[0].row.levels if level.chosen]

    def look(self, level: str, *, minutes_ago: float, clock: float = 0, follows: UUID | None = None) -> UUID:
        """An answer that was given so long ago, by a device whose clock is so many minutes wrong."""
        key, now = uuid4(), timezone.now() + timedelta(minutes=clock)
        given = {"trait": self.trait, "level": level, "key": str(key), "follows": str(follows or "")}
        given |= {"entered": (now - timedelta(minutes=minutes_ago)).isoformat(), "sent": now.isoformat()}
        self.assertEqual(self.client.post("/clutches/W-04/3/cut/look/", given).status_code, 204)
        return key

    def test_a_late_older_answer_does_not_beat_a_newer_one(self) -> None:
        self.levels()
        newer, older = self.choices[:2]
        self.look(newer, minutes_ago=10)
        self.look(older, minutes_ago=30)
        self.assertEqual(self.levels(), [newer])

    def test_which_answer_is_the_later_one_does_not_hang_on_a_clock(self) -> None:
        self.levels()
        first, second = self.choices[:2]
        self.look(first, minutes_ago=5)
        self.look(second, minutes_ago=0, clock=-90)
        self.assertEqual(self.levels(), [second], "the clock was set back before the second")
        before = self.look(first, minutes_ago=0)
        at = timezone.now() - timedelta(hours=3)
        with patch("eyot.cutting.views.timezone.now", return_value=at):  # the server's own clock is set back
            self.look(second, minutes_ago=0, follows=before)
        self.assertEqual(self.levels(), [second])

    def test_a_place_that_comes_late_moves_no_egg_that_was_placed_since(self) -> None:
        def place(across: float, minutes_ago: float) -> None:
            now = timezone.now()
            entered = {"entered": (now - timedelta(minutes=minutes_ago)).isoformat(), "sent": now.isoformat()}
            given = {"across": str(across), "down": "0.5", "on_top": "no", "mark": "", "key": str(uuid4())}
            self.assertEqual(self.client.post("/clutches/W-04/3/place/", {**given, **entered}).status_code, 204)

        place(0.25, minutes_ago=1)
        place(0.75, minutes_ago=20)
        self.assertEqual(self.egg(3).across, 0.25)
        place(0.5, minutes_ago=0)
        self.assertEqual(self.egg(3).across, 0.5)

    def test_the_stamp_of_a_clutch_changes_with_whatever_anybody_does(self) -> None:
        stamps = [self.client.get("/clutches/W-04/stamp/").content]
        self.levels()
        for change in (
            lambda: self.state(3, state="wrapped", was="open"),
            lambda: self.look(self.choices[0], minutes_ago=0),
            lambda: Look.objects.filter(trait=self.trait).update(withdrawn_at=timezone.now()),
        ):
            change()
            stamps.append(self.client.get("/clutches/W-04/stamp/").content)
        self.assertEqual(len(set(stamps)), 4)
        self.assertEqual(self.client.get("/clutches/W-04/stamp/").content, stamps[-1])
        record = self.client.get("/clutches/W-04/record/stamp/").content.decode()
        self.assertEqual(record, str(Change.objects.filter(subject__startswith="clutch:").latest("pk").pk))

    def test_a_clutch_whose_stored_day_is_a_slip_breaks_no_page(self) -> None:
        for year in (1, 26, 2199, 9999):
            Clutch.objects.filter(code="W-04").update(laid_on=f"{year:04}-05-31")
            for page in (
                "/",
                "/clutches/W-04/",
                "/clutches/W-04/record/",
                "/clutches/W-04/3/",
                "/season.ics",
                "/pairings/",
            ):
                answer = self.client.get(page)
                self.assertEqual(answer.status_code, 200, (year, page))
                self.assertLess(len(answer.content), 900_000, (year, page))


class FullDisk(SeasonCase):
    """A store whose disk is full."""

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.store = Path(folder.name)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))
        self.client.raise_request_exception = False

    def add(self, number: int, key: str, picture: bytes) -> Any:
        sent = {"photo": SimpleUploadedFile("egg.jpg", picture), "key": key}
        return self.client.post(f"/clutches/W-04/{number}/cut/photo/", sent, headers={"HX-Request": "true"})

    def kept(self) -> list[str]:
        return [name for _, _, names in os.walk(self.store) for name in names]

    def test_on_a_disk_that_is_full_a_photo_is_told_leaves_nothing_and_is_taken_when_there_is_room(self) -> None:
        if not mounted(self.store):
            self.skipTest("no file system may be mounted here")
        self.addCleanup(subprocess.run, ["umount", str(self.store)], check=True)
        self.assertEqual(self.add(1, str(uuid4()), encoded()).status_code, 204)
        key, large = str(uuid4()), encoded(image=noise())
        answer = self.add(2, key, large)
        self.assertContains(answer, "The disk of the machine that keeps Eyot is full", status_code=507)
        self.assertEqual(self.kept(), ["original.jpg"])
        self.assertEqual([photo.egg.number for photo in Photo.everything.all()], [1])
        subprocess.run(["mount", "-o", "remount,size=8m", str(self.store)], check=True)
        self.assertEqual(self.add(2, key, large).status_code, 204)
        self.assertEqual([photo.egg.number for photo in Photo.objects.order_by("egg__number")], [1, 2])
        self.assertEqual(self.kept(), ["original.jpg"] * 2)

    def test_a_file_of_which_only_a_part_can_be_written_is_not_there(self) -> None:
        files.store().save("one/original.jpg", ContentFile(b"x" * 900))
        with no_larger_than(1_000), self.assertRaises(OSError):
            files.store().save("two/original.jpg", ContentFile(b"x" * 2_000))
        with no_larger_than(1_000), self.assertRaises(OSError):
            files.store().save("one/original.jpg", ContentFile(b"y" * 2_000))
        self.assertEqual(self.kept(), ["original.jpg"])
        self.assertEqual(Path(files.store().path("one/original.jpg")).read_bytes(), b"x" * 900)


def mounted(folder: Path) -> bool:
    """A file system of 300 kB in a folder, where this machine allows it."""
    command = ["mount", "-t", "tmpfs", "-o", "size=300k", "tmpfs", str(folder)]
    return os.getuid() == 0 and subprocess.run(command, stderr=subprocess.DEVNULL, check=False).returncode == 0


@contextmanager
def no_larger_than(most: int) -> Iterator[None]:
    """No file may grow beyond so many bytes: the system stops in the middle of it, as on a full disk."""
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (most, before[1]))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, before)


def noise() -> Image.Image:
    """A picture that no JPEG makes small."""
    return Image.fromarray(np.random.default_rng(1).integers(0, 255, (800, 900, 3), dtype=np.uint8))
