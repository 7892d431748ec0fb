"""Windows at places of the body: where they lie in a photo, which way they point, at what scale; and the same places on a plate."""

from __future__ import annotations

import re
from typing import Any
from unittest import TestCase

import numpy as np

from eyot_core.body_places import BY_ID, PLACES, WHOLE, place_of
from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.plate import AT, PLATE_HEIGHT, PLATE_WIDTH, at_place, plate
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.identify.looks import telling_looks
from eyot_core.photo.light import Light
from eyot_core.photo.window import AROUND, ASPECT, LEAST, MOST, Window, shows, window_at, window_picture

SIZE = (2400, 1600)


def line(*points: tuple[float, float], start: float = 0.0, end: float = 1.0) -> dict[str, Any]:
    return {"points": [list(point) for point in points], "from": start, "to": end}


def straight(length: float = 2000.0, turned: float = 0.0) -> dict[str, Any]:
    """A line of a length through the middle of the photo, snout to the left, turned about the middle by an angle."""
    along = np.array([np.cos(turned), np.sin(turned)])
    return line(*(tuple(np.array(SIZE) / 2 + (share - 0.5) * length * along) for share in np.linspace(0, 1, 6)))


def found(kept: dict[str, Any], place: str, kind: str = "back") -> Window:
    window = window_at(kept, kind, SIZE, BY_ID[place])
    assert window is not None
    return window


class Where(TestCase):
    def test_on_a_straight_animal_a_place_lies_at_its_share_of_the_length(self) -> None:
        for place in PLACES:
            if place.id != WHOLE:
                window = found(straight(), place.id)
                np.testing.assert_allclose(window.middle, (200 + 2000 * place.u, 800), atol=3)
                np.testing.assert_allclose(window.along, (1, 0), atol=1e-6)
                self.assertAlmostEqual(window.length, 2000, delta=1)

    def test_it_points_to_the_tail_whichever_way_the_animal_lies(self) -> None:
        for turned in (0.4, np.pi / 2, np.pi, -2.0):
            window = found(straight(1400, turned), "flank_middle")
            np.testing.assert_allclose(window.along, (np.cos(turned), np.sin(turned)), atol=1e-3)

    def test_a_line_over_a_part_of_the_body_counts_its_own_range(self) -> None:
        half = line((400, 800), (900, 800), (1400, 800), (1900, 800), start=0.25, end=0.75)
        window = found(half, "flank_middle")
        np.testing.assert_allclose(window.middle, (1150, 800), atol=3)
        self.assertAlmostEqual(window.length, 3000, delta=2)
        for place in ("crown", "tail"):
            self.assertIsNone(window_at(half, "back", SIZE, BY_ID[place]))
            self.assertFalse(shows(half, "back", BY_ID[place]))

    def test_framed_photos_know_what_lies_between_their_marks(self) -> None:
        head = line((600, 400), (1400, 400))
        crown = found(head, "crown", "head")
        np.testing.assert_allclose(crown.middle, (600 + 800 * 0.042 / 0.085, 400), atol=1)
        self.assertAlmostEqual(crown.length, 800 / 0.085, delta=1)
        self.assertIsNone(window_at(head, "head", SIZE, BY_ID["belly"]))
        vent = found(line((200, 700), (600, 700)), "vent", "vent")
        np.testing.assert_allclose(vent.middle, (400, 700), atol=1)

    def test_without_a_line_there_is_no_window(self) -> None:
        for kept in ({}, line((1, 1)), line((1, 1), (1, 1))):
            self.assertIsNone(window_at(kept, "head", SIZE, BY_ID["crown"]))
        self.assertIsNone(window_at(straight(), "back", SIZE, BY_ID[WHOLE]))
        self.assertFalse(shows({}, "back", BY_ID["crown"]))


class Pictures(TestCase):
    def photo(self) -> np.ndarray[Any, np.dtype[np.uint8]]:
        """Red grows to the right, green downwards: every pixel tells where it was."""
        columns, rows = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
        return np.stack([columns * 255 // SIZE[0], rows * 255 // SIZE[1], np.full(columns.shape, 90)], axis=2).astype(
            np.uint8
        )

    def test_the_middle_is_the_place_and_the_head_lies_to_the_left(self) -> None:
        photo, place = self.photo(), BY_ID["flank_middle"]
        for turned in (0.0, np.pi / 2, np.pi):
            window = found(straight(1400, turned), place.id)
            picture = window_picture(photo, window, place).astype(int)
            height, width = picture.shape[:2]
            self.assertAlmostEqual(height / width, ASPECT, delta=0.01)
            at = photo[round(window.middle[1]), round(window.middle[0])]
            np.testing.assert_allclose(picture[height // 2, width // 2], at, atol=3)
            towards_tail = picture[height // 2, -2] - picture[height // 2, 1]
            wanted = window.along * 1400 * place.span * AROUND / np.array(SIZE) * 255
            np.testing.assert_allclose(towards_tail[:2], wanted, atol=4)

    def test_animals_of_every_size_stand_at_one_scale(self) -> None:
        place = BY_ID["flank_quarter"]
        shares = []
        for length in (900.0, 1900.0):
            window = found(straight(length), place.id)
            photo = np.full((SIZE[1], SIZE[0], 3), 255, dtype=np.uint8)
            girth = round(length / 20)
            photo[800 - girth // 2 : 800 + girth // 2] = 0
            picture = window_picture(photo, window, place)
            dark = (picture[:, picture.shape[1] // 2, 0] < 128).sum()
            shares.append(dark / picture.shape[1])
        self.assertAlmostEqual(shares[0], shares[1], delta=0.01)
        self.assertAlmostEqual(shares[0], 1 / 20 / place.span / AROUND, delta=0.01)

    def test_it_is_no_larger_than_its_pixels_but_for_the_least(self) -> None:
        photo, place = self.photo(), BY_ID["belly"]
        self.assertEqual(window_picture(photo, found(straight(600), place.id), place).shape[1], LEAST)
        self.assertEqual(
            window_picture(photo, found(straight(2200), place.id), place).shape[1], round(2200 * place.span * AROUND)
        )
        large = Window(np.array([1200.0, 800.0]), np.array([1.0, 0.0]), 9000.0)
        self.assertEqual(window_picture(photo, large, place).shape[1], MOST)

    def test_it_stands_in_its_photos_light(self) -> None:
        photo = np.full((SIZE[1], SIZE[0], 3), 100, dtype=np.uint8)
        window, place = found(straight(), "neck"), BY_ID["neck"]
        lit = window_picture(photo, window, place, Light("grey card", (2.0, 1.0, 0.5)))
        plain = window_picture(photo, window, place)
        middle = lit[lit.shape[0] // 2, lit.shape[1] // 2].astype(int)
        self.assertEqual(plain[plain.shape[0] // 2, plain.shape[1] // 2].tolist(), [100, 100, 100])
        self.assertGreater(middle[0], 120)
        self.assertEqual(middle[1], 100)
        self.assertLess(middle[2], 85)

    def test_beyond_the_photo_it_is_grey(self) -> None:
        photo = np.zeros((SIZE[1], SIZE[0], 3), dtype=np.uint8)
        edge = Window(np.array([5.0, 5.0]), np.array([1.0, 0.0]), 2000.0)
        picture = window_picture(photo, edge, BY_ID["belly"])
        self.assertEqual(picture[2, 2].tolist(), [198, 198, 198])
        self.assertEqual(picture[-3, -3].tolist(), [0, 0, 0])


class Places(TestCase):
    def test_every_look_is_seen_somewhere(self) -> None:
        for entry in builtin_catalogue().document["traits"]:
            self.assertIn(place_of(entry["id"], entry["region"]), BY_ID)
        self.assertEqual(place_of("belly_edge", "belly"), "belly_edge")
        self.assertEqual(place_of("eye_color", "eye"), "eye")

    def test_every_place_but_the_whole_lies_on_a_plate(self) -> None:
        self.assertEqual({*AT, WHOLE}, set(BY_ID))
        for left, top, width, height in AT.values():
            self.assertLessEqual(left + width, PLATE_WIDTH)
            self.assertLessEqual(top + height, PLATE_HEIGHT)

    def test_a_place_is_the_plate_seen_through_a_window(self) -> None:
        catalogue = builtin_catalogue()
        whole = plate(telling_looks(catalogue, genotype_of(catalogue, {"mojave": 1}), "shed"), 3)
        crown = at_place(whole, "crown")
        self.assertIn('viewBox="10 30 610 254"', crown)
        self.assertEqual(re.sub(r'viewBox="[^"]*"', "", crown), re.sub(r'viewBox="[^"]*"', "", whole))
