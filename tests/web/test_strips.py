"""Strips in the application: lines, brushes, frames, measures and suggestions, and the jobs that make them."""

from __future__ import annotations

import io
import json
import tempfile
from typing import Any
from unittest.mock import patch

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from eyot_core.drawing.camera import Taken
from eyot_core.photo.measures import RECKONING
from eyot_core.photo.picture import Picture

from eyot.bench.models import Look
from eyot.collection.history import changes_of, take_back
from eyot.photos import files
from eyot.photos.actions import add_photo, draw_line, keep_picture, mark_light, order_outdated, take_away
from eyot.photos.models import Photo
from eyot.photos.processing import make_strip
from eyot.photos.queries import latest_strips, progress_of, strips_of_other_stages
from eyot.season.queries import clutch_of, egg_of
from tests.core.photographs import small_photo
from tests.jobs import do_jobs, forget_jobs, stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded


class StripCase(SeasonCase):
    """Photos of W-02's hatchlings: a piebald is egg 1, a pastel egg 2."""

    taken: dict[int, Taken]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.taken = {number: small_photo(number + 1) for number in (1, 2)}
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.enterClassContext(override_settings(STORAGES=stored_in(folder.name)))
        forget_jobs()

    def setUp(self) -> None:
        super().setUp()
        forget_jobs()

    @classmethod
    def photo(cls, number: int = 1, *, drawn: bool = False, kind: str = "back") -> Photo:
        """A photo as a worker leaves it that seeks no lines; ``drawn``: with light and line, and so with a strip."""
        taken, egg = cls.taken[number], egg_of(clutch_of(cls.collection, "W-02"), number)
        picture = Picture(Image.fromarray(taken.pixels), None)
        photo = keep_picture(egg, cls.keeper, picture, "shed", timezone.now(), kind=kind)
        Photo.objects.filter(pk=photo.pk).update(find_wanted=0)
        photo.refresh_from_db()
        if drawn:
            assert taken.card is not None
            trouble = mark_light(photo, (taken.card[0] + 9) / 640, (taken.card[1] + 9) / 480, "grey card")
            trouble = trouble or draw_line(photo, taken.line.tolist())
            assert trouble is None, trouble
        do_jobs()
        photo.refresh_from_db()
        return photo

    def points(self, number: int = 1) -> str:
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in self.taken[number].line)

    def post(self, photo: Photo, part: str, **sent: Any) -> str:
        answer = self.client.post(f"/photos/{photo.pk}/{part}/", {"from_page": "strip", **sent}, follow=True)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()


class Strips(StripCase):
    def test_a_line_becomes_a_strip_with_measures(self) -> None:
        photo = self.photo()
        page = self.post(photo, "line", points=self.points())
        self.assertIn("Being made", page)
        self.assertEqual(do_jobs(), 1)
        photo.refresh_from_db()
        self.assertTrue(photo.has_strip)
        self.assertEqual(set(photo.measures["white_share"]), {"value", "sd"})
        answer = self.client.get(f"/photos/{photo.pk}/{photo.strip}.png")
        self.assertTrue(b"".join(answer.streaming_content).startswith(b"\x89PNG"))  # type: ignore[attr-defined]
        page = self.client.get(f"/photos/{photo.pk}/").content.decode()
        self.assertIn("Light not corrected: colours are as the camera gave them", page)
        self.assertIn("pure white skin", page)

    def test_a_new_light_makes_the_strip_anew(self) -> None:
        photo = self.photo(drawn=True)
        before = photo.measures["lightness"]["sd"]
        self.post(photo, "light", card="")
        do_jobs()
        photo.refresh_from_db()
        self.assertEqual(photo.strip_done, photo.strip_wanted)
        self.assertGreater(photo.measures["lightness"]["sd"], before)

    def test_a_bad_line_changes_nothing_and_says_why(self) -> None:
        photo = self.photo(drawn=True)
        for points, words in (
            ("1,1 2,2", "2 points"),
            ("1,1 2,2 9999,5 4,4", "outside the photo"),
            ("1,1 2", "each point is two numbers"),
            ("nan,1 2,2 3,3 4,4", "each point is two numbers"),
            ("", "0 points"),
        ):
            with self.subTest(points):
                self.assertIn(words, self.post(photo, "line", points=points))
                photo.refresh_from_db()
                self.assertEqual(len(photo.line["points"]), 11)
                self.assertTrue(photo.has_strip)

    def test_a_line_beside_the_animal_makes_no_strip_and_the_line_stays(self) -> None:
        photo = self.photo()
        self.post(photo, "line", points="20,20 60,22 110,20 160,24 200,21 240,20")
        do_jobs()
        photo.refresh_from_db()
        self.assertFalse(photo.has_strip)
        page = self.client.get(f"/photos/{photo.pk}/").content.decode()
        self.assertIn("no animal stands out", page)
        self.assertEqual(len(photo.line["points"]), 6)

    def test_what_is_burnt_out_is_shown_and_told(self) -> None:
        pixels = self.taken[1].pixels.copy()
        x, y = self.taken[1].line[6].astype(int)
        pixels[y - 6 : y + 6, x - 8 : x + 8] = 255
        photo = keep_picture(
            self.egg(1, "W-02"), self.keeper, Picture(Image.fromarray(pixels), None), "shed", timezone.now()
        )
        draw_line(photo, self.taken[1].line.tolist())
        do_jobs()
        photo.refresh_from_db()
        self.assertGreater(photo.burnt_out, 0.005)
        page = self.client.get(f"/photos/{photo.pk}/").content.decode()
        self.assertIn("striped, which is burnt out", page)
        served = self.client.get(f"/photos/{photo.pk}/{photo.overlay}.png")
        overlay = np.asarray(Image.open(io.BytesIO(b"".join(served.streaming_content))))  # type: ignore[attr-defined]
        self.assertGreater(int((overlay[..., 3] > 0).sum()), 200)

    def test_marks_are_kept_with_who_and_can_be_taken_back_and_the_strip_follows(self) -> None:
        photo = self.photo(drawn=True)
        made = photo.strip_done
        self.post(photo, "line", forget="1")
        change = changes_of(self.collection)[0]
        self.assertEqual((change.by, change.what), (self.keeper, "W-02, egg 1: line of a photo after the first shed"))
        back = take_back(change, self.helper, timezone.now())
        do_jobs()
        photo.refresh_from_db()
        self.assertEqual(len(photo.line["points"]), len(self.taken[1].line))
        self.assertTrue(photo.has_strip and photo.measures and photo.strip_done > made)
        take_back(back, self.helper, timezone.now())
        photo.refresh_from_db()
        self.assertEqual((photo.line, photo.measures, photo.has_strip), ({}, {}, False))

    def test_a_light_that_is_taken_back_is_the_light_before(self) -> None:
        photo = self.photo(drawn=True)
        light = photo.light_data
        self.post(photo, "light", card="")
        photo.refresh_from_db()
        self.assertEqual(photo.light, "")
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        photo.refresh_from_db()
        self.assertEqual((photo.light, photo.light_data), ("grey card", light))
        self.assertGreater(photo.sizes_wanted, photo.sizes_done)

    def test_what_changes_nothing_is_no_change(self) -> None:
        photo = self.photo(drawn=True)
        self.post(photo, "line", points="not points")
        self.post(photo, "kind", kind="back")
        self.assertEqual(changes_of(self.collection), [])

    def test_a_line_can_be_taken_away(self) -> None:
        photo = self.photo(drawn=True)
        self.post(photo, "line", forget="1")
        photo.refresh_from_db()
        self.assertEqual((photo.line, photo.measures, photo.has_strip), ({}, {}, False))

    def test_a_part_of_the_body_stands_where_the_keeper_says(self) -> None:
        photo = self.photo()
        points = " ".join(f"{x:.1f},{y:.1f}" for x, y in self.taken[1].line[4:9])
        self.post(photo, "line", points=points, **{"from": "0.4", "to": "0.8"})
        do_jobs()
        photo.refresh_from_db()
        with files.opened(photo.folder, f"{photo.strip}.png") as file, Image.open(file) as image:
            shown = np.nonzero(np.asarray(image)[80, :, 3])[0] / image.width
        self.assertAlmostEqual(float(shown.min()), 0.4, delta=0.01)
        self.assertAlmostEqual(float(shown.max()), 0.8, delta=0.01)

    def test_a_brush_corrects_and_is_taken_back(self) -> None:
        photo = self.photo(drawn=True)
        before = photo.outline
        x, y = self.taken[1].line[5]
        strokes = json.dumps([{"sign": -1, "radius": 14, "points": f"{x - 40},{y - 14} {x + 40},{y - 14}"}])
        self.post(photo, "brush", strokes=strokes)
        do_jobs()
        photo.refresh_from_db()
        self.assertNotEqual(photo.outline, before)
        self.post(photo, "brush", forget="1")
        do_jobs()
        photo.refresh_from_db()
        self.assertEqual(photo.outline, before)
        self.assertIn("not understood", self.post(photo, "brush", strokes='[{"sign": 1}]'))

    def test_the_quick_strip_is_a_picture_or_says_why_not(self) -> None:
        photo = self.photo()
        answer = self.client.post(f"/photos/{photo.pk}/preview/", {"points": self.points(), "from": "0", "to": "1"})
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/webp"))
        answer = self.client.post(f"/photos/{photo.pk}/preview/", {"points": "1,1 5,5"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("2 points", answer.content.decode())

    def test_a_belly_is_cut_to_a_frame(self) -> None:
        self.assertIn("mark two places", self.post(self.photo(kind="vent"), "line", points="10,10").lower())
        photo = self.photo(kind="belly")
        first, last = self.taken[1].line[1], self.taken[1].line[8]
        self.post(photo, "line", points=f"{first[0]},{first[1]} {last[0]},{last[1]}")
        do_jobs()
        photo.refresh_from_db()
        with files.opened(photo.folder, f"{photo.strip}.png") as file, Image.open(file) as image:
            self.assertEqual(image.size, (1200, 300))
        self.assertEqual(photo.measures, {})

    def test_ultraviolet_is_never_measured(self) -> None:
        photo = self.photo(kind="ultraviolet")
        self.post(photo, "line", points=self.points())
        do_jobs()
        photo.refresh_from_db()
        self.assertTrue(photo.has_strip)
        self.assertEqual(
            {found["missing"] for found in photo.measures.values()},
            {"colours of ultraviolet photos are never measured"},
        )

    def test_an_unknown_kind_changes_nothing(self) -> None:
        photo = self.photo()
        self.assertIn("A photo shows one of", self.post(photo, "kind", kind="x-ray"))


class Suggestions(StripCase):
    def test_what_the_photo_suggests_is_accepted_as_ones_own_answer(self) -> None:
        photo = self.photo(drawn=True)
        page = self.client.get("/clutches/W-02/1/?stage=shed").content.decode()
        self.assertIn("The photo suggests", page)
        white = photo.measures["white_share"]["value"]
        level = "high" if 0.6 < white < 0.92 else "mid" if 0.24 < white < 0.55 else "low"
        self.assertIn(f'data-trait="white_share" data-level="{level}"', page)
        sent = {"trait": "white_share", "level": level, "stage": "shed", "confidence": "sure", "photo": str(photo.pk)}
        self.client.post("/clutches/W-02/1/looks/?stage=shed", sent)
        look = Look.objects.get(egg=photo.egg, trait="white_share", stage="shed")
        self.assertEqual((look.level, look.seen_by_id), (level, self.keeper.pk))
        self.assertIn(f"white {white:.2f}", look.measured)
        page = self.client.get("/clutches/W-02/1/?stage=shed").content.decode()
        self.assertNotIn('data-trait="white_share"', page)
        self.assertIn("accepted from a photo: white", page)

    def test_a_photo_never_answers_by_itself(self) -> None:
        before = Look.objects.count()
        self.photo(drawn=True)
        self.client.get("/clutches/W-02/1/?stage=shed")
        self.assertEqual(Look.objects.count(), before)

    def test_an_answer_of_ones_own_is_not_told_as_measured(self) -> None:
        photo = self.photo(drawn=True)
        sent = {"trait": "white_share", "level": "all", "stage": "shed", "confidence": "sure", "photo": str(photo.pk)}
        self.client.post("/clutches/W-02/1/looks/?stage=shed", sent)
        self.assertEqual(Look.objects.get(egg=photo.egg, trait="white_share", stage="shed").measured, "")


class Reckonings(StripCase):
    def test_what_another_reckoning_measured_is_made_anew_once(self) -> None:
        photo = self.photo(drawn=True)
        self.assertEqual(photo.reckoning, RECKONING)
        self.assertEqual((order_outdated(), do_jobs()), (0, 0), "what is of today stays")
        Photo.objects.filter(pk=photo.pk).update(reckoning=RECKONING - 1, measures={})
        self.photo(2)
        self.assertEqual((order_outdated(), order_outdated()), (1, 0), "a photo without a line has nothing to make")
        self.assertEqual(do_jobs(), 1)
        photo.refresh_from_db()
        self.assertEqual((photo.reckoning, photo.strip_done), (RECKONING, photo.strip_wanted))
        self.assertIn("white_share", photo.measures)


class Jobs(StripCase):
    def test_progress_counts_what_is_made(self) -> None:
        picture = Picture(Image.fromarray(self.taken[1].pixels), None)
        for _ in range(3):
            keep_picture(self.egg(1, "W-02"), self.keeper, picture, "shed", timezone.now())
        photos = list(Photo.objects.all())
        found = progress_of(photos)
        self.assertEqual((found.total, found.done, found.is_under_way), (3, 0, True))
        self.assertIn("0 of 3 prepared", self.client.get("/clutches/W-02/1/").content.decode())
        while do_jobs():
            pass
        found = progress_of(photos)
        self.assertEqual((found.is_under_way, found.stuck), (True, []), "made after these were read: to be read again")
        found = progress_of(list(Photo.objects.all()))
        self.assertEqual((found.done, found.is_under_way, found.stuck), (3, False, []))

    def test_what_got_stuck_can_be_tried_again(self) -> None:
        photo = self.photo()
        self.post(photo, "line", points=self.points())
        forget_jobs()
        page = self.client.get(f"/photos/{photo.pk}/").content.decode()
        self.assertIn("This could not be made.", page)
        self.post(photo, "again")
        self.assertEqual(do_jobs(), 1)
        photo.refresh_from_db()
        self.assertTrue(photo.has_strip)

    def test_a_job_done_twice_does_no_harm_and_one_for_a_lost_photo_nothing(self) -> None:
        photo = self.photo(drawn=True)
        before = photo.measures
        make_strip(str(photo.pk))
        photo.refresh_from_db()
        self.assertEqual(photo.measures, before)
        make_strip("00000000-0000-0000-0000-000000000000")

    def test_a_failing_store_leaves_the_version_before(self) -> None:
        photo = self.photo(drawn=True)
        strip = photo.strip
        self.post(photo, "line", points=self.points())
        with patch.object(files, "write_strip", side_effect=OSError("disk full")), self.assertRaises(OSError):
            make_strip(str(photo.pk))
        photo.refresh_from_db()
        self.assertEqual((photo.strip, photo.has_strip), (strip, True))
        served = self.client.get(f"/photos/{photo.pk}/{strip}.png")
        self.assertTrue(b"".join(served.streaming_content).startswith(b"\x89PNG"))  # type: ignore[attr-defined]

    def test_strips_are_the_newest_of_each_hatchling(self) -> None:
        self.photo(1, drawn=True)
        second, other = self.photo(1, drawn=True), self.photo(2, drawn=True)
        self.assertEqual(latest_strips(second.egg.clutch), [second, other])
        self.assertEqual(latest_strips(second.egg.clutch, "egg"), [])

    def test_a_wrong_picture_is_taken_away_and_comes_back_with_its_marks(self) -> None:
        photo = self.photo(1, drawn=True)
        bench = f"/clutches/{photo.egg.clutch.code}/{photo.egg.number}/?stage={photo.stage}"
        response = self.client.post(f"/photos/{photo.pk}/away/", follow=True)
        self.assertContains(response, "The photo was taken away")
        self.assertFalse(photo.egg.photos.exists())
        self.assertNotContains(self.client.get(bench), str(photo.pk))
        self.assertEqual(latest_strips(photo.egg.clutch), [])
        for address in (f"/photos/{photo.pk}/", f"/photos/{photo.pk}/{photo.strip}.png", f"/photos/{photo.pk}/away/"):
            self.assertIn(self.client.get(address).status_code, (404, 405), address)
        self.assertTrue(Photo.everything.filter(pk=photo.pk).exists(), "nothing of it is lost")
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        (again,) = photo.egg.photos.all()
        self.assertEqual((again.pk, again.line), (photo.pk, photo.line))
        self.assertContains(self.client.get(bench), str(photo.pk))

    def test_a_photo_that_was_taken_away_and_is_sent_again_is_the_same(self) -> None:
        photo = self.photo(1, drawn=True)
        take_away(photo, self.keeper, timezone.now())
        same = add_photo(
            photo.egg, self.keeper, SimpleUploadedFile("shed.jpg", encoded()), photo.stage, timezone.now(), key=photo.pk
        )
        self.assertEqual(same, photo)
        self.assertEqual(Photo.everything.filter(egg=photo.egg).count(), 1)

    def test_other_stages_are_the_newest_strip_of_each_the_latest_stage_first(self) -> None:
        photos = [self.photo(1, drawn=True) for _ in range(5)] + [self.photo(1)]
        for photo, stage in zip(photos, ("egg", "shed", "wet", "egg", "wet", "blue"), strict=True):
            photo.stage = stage
        self.assertEqual(strips_of_other_stages(photos, "shed"), [photos[4], photos[3]])
        photos[4].kind = Photo.Kind.BELLY
        self.assertEqual(strips_of_other_stages(photos, "shed"), [photos[2], photos[3]])
