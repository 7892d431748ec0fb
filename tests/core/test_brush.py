"""Brush strokes: what they cover, at which scale, and on top of what."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from eyot_core.photo.brush import Stroke, painted


def stroke(*places: tuple[float, float], animal: bool = True, radius: float = 10.0) -> Stroke:
    return Stroke(animal, radius, np.array(places, dtype=float))


class Brush(TestCase):
    def test_a_stroke_covers_its_radius_on_both_sides(self) -> None:
        found = painted([stroke((20, 50), (180, 50))], (100, 200), 1.0)
        self.assertEqual((found[50, 100], found[42, 100], found[58, 100]), (1, 1, 1))
        self.assertEqual((found[30, 100], found[70, 100], found[50, 5]), (0, 0, 0))

    def test_places_and_radius_are_in_pixels_of_the_photo(self) -> None:
        found = painted([stroke((40, 100), (360, 100), radius=20)], (100, 200), 0.5)
        self.assertEqual(found.tolist(), painted([stroke((20, 50), (180, 50))], (100, 200), 1.0).tolist())

    def test_a_later_stroke_counts_and_what_was_brushed_before_stays(self) -> None:
        before = painted([stroke((20, 20), (180, 20))], (100, 200), 1.0)
        found = painted([stroke((100, 0), (100, 99), animal=False)], (100, 200), 1.0, before)
        self.assertEqual((found[20, 50], found[20, 100], found[80, 100]), (1, -1, -1))
        self.assertEqual(before[20, 100], 1, "what was kept is not changed in place")

    def test_what_is_no_stroke_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            painted([Stroke(True, 10.0, np.array([1.0, 2.0, 3.0]))], (100, 200), 1.0)
