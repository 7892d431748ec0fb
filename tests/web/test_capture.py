"""The capture page: the simulated camera, and the folder that is watched for a real one."""

from __future__ import annotations

import fcntl
import io
import os
import tempfile
import time
from pathlib import Path
from unittest.mock import patch
from uuid import uuid4

from django.test import override_settings
from PIL import Image

from eyot.capture.arrivals import watched_folder
from eyot.photos.models import Photo
from tests.jobs import do_jobs, stored_in
from tests.web.season_data import SeasonCase


class Capture(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name), ARRIVING_ROOT=f"{folder.name}/arriving"))
        self.folder = watched_folder(self.collection)

    def leave(self, name: str, data: bytes | None = None, age: float = 5) -> Path:
        """A file as a camera leaves it, written some seconds ago."""
        if data is None:
            held = io.BytesIO()
            Image.new("RGB", (320, 240), (120, 90, 60)).save(held, "JPEG")
            data = held.getvalue()
        path = self.folder / name
        path.write_bytes(data)
        os.utime(path, (time.time() - age,) * 2)
        return path

    def left(self) -> list[str]:
        """All files that still lie in the folder, or below."""
        return sorted(path.name for path in self.folder.rglob("*") if path.is_file())

    def look(self, number: int = 3, **sent: str) -> str:
        answer = self.client.post(f"/clutches/W-04/capture/{number}/arrivals/", sent)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def test_the_simulated_camera_sends_a_marked_photo(self) -> None:
        self.enterContext(patch("eyot.capture.camera.SIZE", (640, 480)))
        for pose, kind in (("loose", "back"), ("belly", "belly"), ("head", "head")):
            sent = {"pose": pose, "stage": "shed"}
            self.assertEqual(self.client.post("/clutches/W-04/capture/3/shoot/", sent).status_code, 302)
            photo = Photo.objects.latest("added_at")
            self.assertEqual((photo.simulated, photo.kind, photo.egg.number), (True, kind, 3))
        do_jobs()
        page = self.client.get("/clutches/W-04/capture/?egg=3").content.decode()
        self.assertEqual(page.count("simulated photo"), 3)

    def test_an_unknown_pose_takes_no_photo(self) -> None:
        page = self.client.post("/clutches/W-04/capture/3/shoot/", {"pose": "portrait"}, follow=True).content.decode()
        self.assertIn("No photo was taken: pose must be one of loose", page)
        self.assertFalse(Photo.objects.exists())

    def test_what_lands_in_the_folder_goes_to_the_chosen_egg(self) -> None:
        first, second = self.leave("one.jpg", age=9), self.leave("two.JPG")
        self.look(stage="wet", kind="head")
        found = Photo.objects.order_by("added_at")
        self.assertEqual([(photo.egg.number, photo.stage, photo.kind) for photo in found], [(3, "wet", "head")] * 2)
        self.assertEqual([photo.simulated for photo in found], [False, False])
        self.assertFalse(first.exists() or second.exists())
        self.assertEqual(self.left(), [], "the camera's own files, with their places, stay nowhere")
        self.look()
        self.assertEqual(Photo.objects.count(), 2, "nothing is taken in twice")

    def test_a_page_that_shows_it_all_is_left_as_it_is(self) -> None:
        self.leave("one.jpg")
        self.assertIn('"seen": "0/1/0"', self.look(seen="0/0/0"))
        sent = {"seen": "0/1/0"}
        self.assertEqual(self.client.post("/clutches/W-04/capture/3/arrivals/", sent).status_code, 204)
        do_jobs()
        self.assertIn('"seen": "1/1/0"', self.look(**sent))

    def test_a_file_that_is_still_written_to_waits(self) -> None:
        path = self.leave("half.jpg", age=0)
        self.look()
        self.assertTrue(path.exists())
        self.assertFalse(Photo.objects.exists())

    def test_what_is_no_picture_is_told_and_kept(self) -> None:
        self.leave("broken.jpg", b"\xff\xd8\xff not much of a picture")
        self.leave("notes.txt", b"lobes float")
        self.leave("good.jpg")
        page = self.look()
        self.assertIn("broken.jpg", page)
        self.assertIn("“refused”", page)
        self.assertEqual(Photo.objects.count(), 1)
        self.assertTrue((self.folder / "refused" / "broken.jpg").exists())
        self.assertTrue((self.folder / "notes.txt").exists(), "what is no picture's name is left alone")

    def test_a_name_that_came_before_is_no_hindrance(self) -> None:
        for _ in range(2):
            self.leave("IMG_1.jpg")
            self.look()
        self.assertEqual(Photo.objects.count(), 2)
        self.assertEqual(self.left(), [])

    def test_a_file_whose_taker_was_stopped_is_taken_up_again_once(self) -> None:
        """Stopped before the photo was kept, or after: it comes to the egg for which it was claimed, and comes once."""
        for stopped in ("eyot.capture.arrivals.add_photo", "pathlib.Path.unlink"):
            Photo.objects.all().delete()
            self.leave("one.jpg")
            with patch(stopped, side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
                self.look(3, stage="wet")
            self.assertEqual(self.left(), ["one.jpg"])
            self.look(1)
            self.assertEqual([(photo.egg.number, photo.stage) for photo in Photo.objects.all()], [(3, "wet")], stopped)
            self.assertEqual(self.left(), [])

    def test_a_file_that_another_holds_is_left_to_it(self) -> None:
        claim = self.folder / "claimed" / f"{self.egg(3).pk}_wet_back_{uuid4()}"
        claim.mkdir()
        self.leave("one.jpg").rename(claim / "one.jpg")
        holder = os.open(claim, os.O_RDONLY)
        self.addCleanup(os.close, holder)
        fcntl.flock(holder, fcntl.LOCK_EX)
        self.look()
        self.assertEqual((Photo.objects.count(), self.left()), (0, ["one.jpg"]))

    def test_a_folder_that_is_named_like_a_picture_stops_nothing(self) -> None:
        (self.folder / "dir.jpg").mkdir()
        os.utime(self.folder / "dir.jpg", (1, 1))
        self.leave("one.jpg")
        self.look()
        self.assertEqual(Photo.objects.count(), 1)

    def test_each_collection_has_its_own_folder(self) -> None:
        self.leave("one.jpg")
        self.log_in_the_neighbour()
        self.assertEqual(self.client.post("/clutches/X-01/capture/1/arrivals/").status_code, 200)
        self.assertEqual(self.client.post("/clutches/W-04/capture/3/arrivals/").status_code, 404)
        self.assertFalse(Photo.objects.exists())
