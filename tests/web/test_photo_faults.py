"""What is wrong with a photo is told when it is taken, and again beside what suffers from it."""

from __future__ import annotations

import cv2
import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from eyot_core.photo.faults import FAULTS

from eyot.photos.faults import WORDS
from eyot.photos.models import Photo
from tests.core.photographs import small_photo
from tests.web.test_lines_found import Lines
from tests.web.test_photos import encoded

GOOD = small_photo(3).pixels


class Told(Lines):
    def check(self, pixels: np.ndarray, name: str = "small.jpg") -> tuple[int, str]:
        picture = SimpleUploadedFile(name, encoded(image=Image.fromarray(pixels), quality=90))
        answer = self.client.post("/photos/check/", {"photo": picture})
        return answer.status_code, answer.content.decode()

    def test_a_good_photo_is_answered_by_nothing_and_nothing_is_kept(self) -> None:
        self.assertEqual(self.check(GOOD), (204, ""))
        self.assertFalse(Photo.objects.exists())

    def test_a_fault_is_told_with_what_would_help_in_four_words(self) -> None:
        status, words = self.check(cv2.GaussianBlur(GOOD, (0, 0), 4))
        self.assertEqual(status, 200)
        self.assertIn("<b>Blurred</b> <span>Hold still, tap focus</span>", words)
        self.assertIn('<svg class="fault-glyph"', words)
        self.assertEqual(set(WORDS), set(FAULTS))
        for what, helps in WORDS.values():
            self.assertEqual(len(helps.split()), 4, what)

    def test_what_cannot_be_checked_is_refused_in_words(self) -> None:
        self.assertEqual(self.check(np.zeros((1700, 40, 3), dtype=np.uint8))[0], 422)
        answer = self.client.post("/photos/check/", {"photo": SimpleUploadedFile("a.jpg", b"no picture")})
        self.assertContains(answer, "a.jpg is not a JPEG", status_code=422)
        self.assertEqual(self.client.post("/photos/check/").status_code, 422)

    def test_it_is_told_again_beside_the_photo_and_its_measures(self) -> None:
        photo = self.made(self.added(cv2.GaussianBlur(GOOD, (0, 0), 4)))
        self.assertEqual([fault["id"] for fault in photo.faults], ["blurred"])
        self.assertContains(self.client.get("/clutches/W-02/2/?stage=shed"), "<b>Blurred</b>")
        page = self.client.get(f"/photos/{photo.pk}/").content.decode()
        self.assertLess(page.index("These suffer from how the photo was taken"), page.index("<b>Blurred</b>"))
        good = self.made(self.added(GOOD))
        self.assertEqual(good.faults, [])
        self.assertNotContains(self.client.get(f"/photos/{good.pk}/"), "These suffer")
