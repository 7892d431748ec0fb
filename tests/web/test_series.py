"""One animal's series: its strips by date, what has plainly changed, and the course that its genes let expect."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
from django.utils import timezone
from PIL import Image

from eyot_core.drawing.camera import photographed
from eyot_core.photo.picture import Picture

from eyot.photos.actions import keep_picture, mark_light
from eyot.photos.models import Photo
from tests.core.photographs import looks_of
from tests.web.test_lines_found import Lines


class Series(Lines):
    def taken_on(self, stage: str, days: int, pixels: np.ndarray, *, card: bool = True) -> Photo:
        egg = self.egg(2, "W-02")
        at = timezone.now() - timedelta(days=days)
        photo = self.made(keep_picture(egg, self.keeper, Picture(Image.fromarray(pixels), None), stage, at))
        if card:
            self.assertIsNone(mark_light(photo, 0.94, 0.92, "grey card"))
        return self.made(photo)

    def pixels(self, number: int, light: float = 1.0) -> np.ndarray:
        taken = photographed(looks_of(number), 3, "loose", width=640, height=480)
        paper = taken.pixels.astype(float)
        paper[taken.body] *= light
        return np.clip(paper, 0, 255).astype(np.uint8)

    def page(self) -> str:
        return self.client.get("/clutches/W-02/2/series/").content.decode()

    def test_strips_stand_by_date_and_what_changed_is_told_with_its_figure(self) -> None:
        late = self.taken_on("shed", 10, self.pixels(3, 1.5))
        first = self.taken_on("wet", 40, self.pixels(3))
        page = self.page()
        self.assertLess(page.index(str(first.pk)), page.index(str(late.pk)), "the oldest on top")
        self.assertRegex(page, r"<p>lighter by \d+ ± \d+</p>")
        self.assertNotIn("whiter", page)
        self.assertNotIn("Not all of these photos have their light corrected", page)
        course = self.client.get("/clutches/W-02/2/series/").context["series"].courses[0]
        self.assertEqual([len(course.points), course.is_expected], [2, True])
        self.assertGreater(course.points[0][1], course.points[1][1], "lighter stands higher")
        first_age = [band.chance for band in course.bands if band.x == course.bands[0].x]
        self.assertTrue(0.5 < sum(first_age) <= 1.001, "levels between two bands are left out")

    def test_the_same_twice_has_not_changed(self) -> None:
        for days in (20, 10):
            self.taken_on("shed", days, self.pixels(3), card=days == 20)
        self.assertIn("no plain change", self.page())
        self.assertIn("Not all of these photos have their light corrected", self.page())

    def test_one_strip_or_none_is_no_course(self) -> None:
        self.assertIn("No strip of this hatchling yet", self.page())
        self.taken_on("shed", 10, self.pixels(3))
        self.assertIn("One strip is no course yet", self.page())
        self.assertIn("/clutches/W-02/2/series/", self.client.get("/clutches/W-02/2/").content.decode())
