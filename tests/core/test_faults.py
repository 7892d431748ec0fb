"""What is wrong with a photo is told, each fault by itself; a good photo has none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from unittest import TestCase

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.drawing.camera import Lamp, photographed
from eyot_core.photo.card import Card, find_cards
from eyot_core.photo.faults import FAULTS, faults_of
from eyot_core.photo.find import find_animal
from eyot_core.photo.sight import Sight

from tests.core.cards import Laid, photographed_cards
from tests.core.photographs import looks_of, small_photo
from tests.core.test_find import under_windows

Pixels = NDArray[np.uint8]
SIZE = {"width": 640, "height": 480}


def told(photo: Pixels, cards: Sequence[Card] = ()) -> list[str]:
    sight = Sight.of(photo, [card.box for card in cards])
    return [fault.id for fault in faults_of(sight, cards, find_animal(sight))]


def lit(photo: Pixels, by: float | NDArray[np.float64]) -> Pixels:
    """The same under so many times the light."""
    return np.asarray(np.clip((photo / 255.0) ** 2.2 * by, 0, 1) ** (1 / 2.2) * 255, dtype=np.uint8)


class Faults(TestCase):
    takes_long = True

    @classmethod
    def setUpClass(cls) -> None:
        cls.good = small_photo(3, 640, 480).pixels

    def test_good_photos_have_none(self) -> None:
        self.assertEqual(told(self.good), [])
        for number in (2, 5):
            self.assertEqual(told(under_windows(number).pixels), [], number)
        for pose in ("egg", "head", "belly"):
            self.assertEqual(told(photographed(looks_of(3), 3, pose, **SIZE).pixels), [], pose)

    def test_too_little_and_too_much_light(self) -> None:
        self.assertEqual(told(lit(self.good, 0.09)), ["dark"])
        self.assertEqual(told(lit(self.good, 0.5)), [])
        self.assertIn("burnt", told(lit(self.good, 2.5)))

    def test_out_of_focus(self) -> None:
        self.assertEqual(told(cv2.GaussianBlur(self.good, (0, 0), 3)), ["blurred"])
        self.assertEqual(told(cv2.GaussianBlur(self.good, (0, 0), 0.8)), [])

    def test_gloss_over_the_pattern(self) -> None:
        for strength, faults in ((0.12, []), (0.7, ["gloss"])):
            lamp = replace(Lamp(), toward=(0, 0, 1), gloss=((strength / 2, 30.0), (strength, 120.0)))
            found = told(photographed(looks_of(4), 4, "loose", lamp=lamp, **SIZE).pixels)
            self.assertEqual([fault for fault in found if fault != "burnt"], faults, strength)

    def test_two_kinds_of_light(self) -> None:
        across = np.linspace(0, 1, 640)[None, :, None]
        warm = np.array([1.3, 1.0, 0.6])
        self.assertEqual(told(lit(self.good, 1 - across + warm * across)), ["two-lights"])
        self.assertEqual(told(lit(self.good, warm / 1.3)), [], "one warm lamp is one light")

    def test_cut_off_at_the_edge(self) -> None:
        self.assertEqual(told(np.ascontiguousarray(self.good[:, :310])), ["cut-off"])

    def test_a_card_that_lies_in_shadow_or_is_slanted(self) -> None:
        for how, faults in (({}, []), ({"slant": 33.0}, ["slanted"]), ({"shade": 0.5}, ["card-shadow"])):
            photo = photographed_cards(Laid(mm_per_pixel=0.3, middle=(0.35, 0.35), **how))
            cards = find_cards(photo).cards
            self.assertEqual(len(cards), 1)
            self.assertEqual(told(photo, cards), faults, how)

    def test_by_how_much_is_told_and_all_are_known(self) -> None:
        found = faults_of(Sight.of(lit(self.good, 0.03)), [], find_animal(Sight.of(self.good)))
        self.assertGreater(found[0].times, 1)
        self.assertTrue({fault.id for fault in found} <= set(FAULTS))
