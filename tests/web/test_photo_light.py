"""The light of a photo: marked by a card, kept beside the original, taken back, and refused with the reason."""

from __future__ import annotations

import io
import tempfile

import numpy as np
from django.test import override_settings
from django.utils import timezone
from PIL import Image

from eyot.photos.actions import keep_picture
from eyot.photos.files import Picture
from eyot.photos.models import Photo
from tests.web.season_data import SeasonCase

CARD = {"x": "0.9", "y": "0.9", "card": "grey card"}


class CorrectedLight(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(MEDIA_ROOT=folder.name))
        pixels = np.full((300, 400, 3), (200, 160, 90), dtype=np.uint8)
        pixels[240:, 320:] = (150, 118, 70)  # a grey card under a warm lamp
        pixels[:60, :80] = 255
        picture = Picture(Image.fromarray(pixels), None)
        self.photo = keep_picture(self.egg(2, "W-02"), self.keeper, picture, "shed", timezone.now())

    def mark(self, **sent: str) -> str:
        answer = self.client.post(f"/photos/{self.photo.pk}/light/", {**CARD, **sent}, follow=True)
        self.photo = Photo.objects.select_related("egg__clutch").get(pk=self.photo.pk)
        return answer.content.decode()

    def corner(self, size: str) -> list[int]:
        """The colour of the card in one size."""
        answer = self.client.get(f"/photos/{self.photo.pk}/{size}.jpg")
        image = Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]
        return list(image.convert("RGB").getpixel((int(image.width * 0.9), int(image.height * 0.9))))  # type: ignore[arg-type]

    def test_a_marked_card_comes_out_neutral_and_the_original_stays(self) -> None:
        before = self.corner("page")
        text = self.mark()
        self.assertIn("light corrected by grey card", text)
        self.assertIn(f"{self.photo.pk}/page-lit1.jpg", text)
        red, green, blue = self.corner("page-lit1")
        self.assertLess(max(red, green, blue) - min(red, green, blue), 6)
        self.assertTrue(112 < green < 124, green)  # 18 % of the light
        self.assertEqual(self.corner("page"), before)

    def test_it_can_be_taken_back_and_marked_anew(self) -> None:
        self.mark()
        text = self.mark(card="")
        self.assertIn("light not corrected", text)
        self.assertIn(f"{self.photo.pk}/page.jpg", text)
        self.assertIn("page-lit3.jpg", self.mark())

    def test_what_tells_nothing_is_refused_with_the_reason(self) -> None:
        for sent, words in (
            ({"x": "0.05", "y": "0.05"}, "too bright"),
            ({"x": "0.8", "y": "0.8"}, "more than one tone"),
            ({"x": "2"}, "outside the photo"),
            ({"x": "left"}, "point at the card"),
            ({"card": "blue towel"}, "mark one of grey card"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.mark(**sent))
                self.assertEqual(self.photo.light, "")

    def test_another_collections_photo_is_not_there(self) -> None:
        self.client.force_login(self.stranger)  # type: ignore[arg-type]
        self.assertEqual(self.client.post(f"/photos/{self.photo.pk}/light/", CARD).status_code, 404)

    def test_sizes_that_are_not_there_are_not_found(self) -> None:
        for size in ("page-lit1", "pages", "page-lit1-lit", "huge"):
            self.assertEqual(self.client.get(f"/photos/{self.photo.pk}/{size}.jpg").status_code, 404, size)
