"""The light of a photo: marked by a card, kept beside the original, taken back, and refused with the reason."""

from __future__ import annotations

import io
import tempfile
from datetime import timedelta

import numpy as np
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from eyot_core.photo.picture import Picture

from eyot.photos import files
from eyot.photos.actions import keep_picture
from eyot.photos.models import Photo
from tests.jobs import do_jobs, stored_in
from tests.web.season_data import SeasonCase

CARD = {"x": "0.9", "y": "0.9", "card": "grey card"}


class CorrectedLight(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))
        pixels = np.full((300, 400, 3), (200, 160, 90), dtype=np.uint8)
        pixels[240:, 320:] = (150, 118, 70)  # a grey card under a warm lamp
        pixels[:60, :80] = 255
        picture = Picture(Image.fromarray(pixels), None)
        self.photo = keep_picture(self.egg(2, "W-02"), self.keeper, picture, "shed", timezone.now())
        do_jobs()

    def mark(self, photo: Photo | None = None, **sent: str) -> str:
        of = photo or self.photo
        answer = self.client.post(f"/photos/{of.pk}/light/", {**CARD, **sent}, follow=True)
        do_jobs()
        self.photo.refresh_from_db()
        return answer.content.decode()

    def corner(self, size: str) -> list[int]:
        """The colour of the card in one size."""
        answer = self.client.get(f"/photos/{self.photo.pk}/{size}.jpg")
        image = Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]
        return list(image.convert("RGB").getpixel((int(image.width * 0.9), int(image.height * 0.9))))  # type: ignore[arg-type]

    def test_a_marked_card_comes_out_neutral_and_the_original_stays(self) -> None:
        before = self.corner("page-1")
        self.assertIn("light corrected by grey card", self.mark())
        self.assertEqual(self.photo.page, "page-2")
        red, green, blue = self.corner("page-2")
        self.assertLess(max(red, green, blue) - min(red, green, blue), 6)
        self.assertTrue(112 < green < 124, green)  # 18 % of the light
        self.assertTrue(np.allclose(files.original(self.photo.folder)[270, 360], before, atol=3))

    def test_it_can_be_taken_back_and_marked_anew(self) -> None:
        self.mark()
        self.assertIn("light not corrected", self.mark(card=""))
        self.assertAlmostEqual(self.corner("page-3")[2], 70, delta=3)
        self.mark()
        self.assertEqual((self.photo.page, self.photo.light), ("page-4", "grey card"))

    def test_what_tells_nothing_is_refused_with_the_reason(self) -> None:
        for sent, words in (
            ({"x": "0.05", "y": "0.05"}, "too bright"),
            ({"x": "0.8", "y": "0.8"}, "more than one tone"),
            ({"x": "2"}, "outside the photo"),
            ({"x": "left"}, "point at the card"),
            ({"card": "blue towel"}, "mark one of grey card"),
            ({"card": "colour chart", "corners": "0.1,0.1 0.2,0.1"}, "four corner patches"),
            ({"card": "colour chart", "corners": "0.4,0.3 0.6,0.3 0.6,0.5 0.4,0.5"}, "don&#x27;t fit the chart"),
            ({"card": "borrowed"}, "no photo of a sibling within minutes"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.mark(**sent))
                self.assertEqual(self.photo.light, "")

    def sibling(self, minutes: int, number: int = 3) -> Photo:
        picture = Picture(Image.fromarray(files.original(self.photo.folder)), None)
        at = self.photo.taken_at + timedelta(minutes=minutes)
        found = keep_picture(self.egg(number, "W-02"), self.keeper, picture, "shed", at)
        do_jobs()
        return found

    def test_light_is_borrowed_from_a_sibling_within_minutes(self) -> None:
        near, far = self.sibling(5), self.sibling(90, 4)
        for other, offers in ((near, True), (far, False)):
            self.mark()
            page = self.client.get(f"/photos/{other.pk}/").content.decode()
            self.assertEqual("borrow egg 2" in page, offers)
        self.mark(near, card="borrowed")
        near.refresh_from_db()
        self.assertEqual((near.light, near.light_from), ("grey card", self.photo))
        self.assertIn("borrowed from egg 2", self.client.get(f"/photos/{near.pk}/").content.decode())

    def test_an_ultraviolet_photo_is_never_corrected(self) -> None:
        self.mark()
        self.client.post(f"/photos/{self.photo.pk}/kind/", {"kind": "ultraviolet"})
        do_jobs()
        self.photo.refresh_from_db()
        self.assertEqual((self.photo.light, self.photo.known_light()), ("", None))
        self.assertIn("no colours to correct", self.mark())

    def test_another_collections_photo_is_not_there(self) -> None:
        self.log_in_the_neighbour()
        for part in ("light/", "line/", "brush/", "kind/", "again/", "preview/"):
            self.assertEqual(self.client.post(f"/photos/{self.photo.pk}/{part}", CARD).status_code, 404, part)
        self.assertEqual(self.client.get(f"/photos/{self.photo.pk}/").status_code, 404)

    def test_sizes_that_are_not_there_are_not_found(self) -> None:
        for size in ("page", "page-9", "pages-1", "original", "huge-1", "page-1-1"):
            self.assertEqual(self.client.get(f"/photos/{self.photo.pk}/{size}.jpg").status_code, 404, size)
        self.assertEqual(self.client.get(f"/photos/{self.photo.pk}/strip-1.png").status_code, 404)
