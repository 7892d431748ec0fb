"""The light of photos: casts taken away, and places that tell nothing refused with the reason."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import linear, to_srgb
from eyot_core.drawing.simulated import table_photo
from eyot_core.identify.looks import likeliest_looks
from eyot_core.photo.light import CARDS, Light, NoLight, Pixels, in_light, light_at

CARD_AT = (0.94, 0.92)
CAST = (1.25, 1.0, 0.6)


class Colour(TestCase):
    def test_the_curve_goes_there_and_back(self) -> None:
        every = np.arange(256, dtype=np.uint8)
        self.assertTrue(np.array_equal(to_srgb(linear(every)), every))

    def test_published_values(self) -> None:
        self.assertAlmostEqual(float(linear(188)), 0.5029, 3)  # half of the light is coded as 188
        self.assertAlmostEqual(float(linear(118)), 0.1812, 3)  # an 18 % card


class SimulatedPhoto(TestCase):
    photo = table_photo(likeliest_looks(builtin_catalogue(), {}, "shed"), 5, "shed", 320, 240)

    def under_a_cast(self, exposure: float = 1.0) -> Pixels:
        return to_srgb(linear(self.photo) * np.array(CAST) * exposure)

    def test_a_cast_is_taken_away(self) -> None:
        for exposure in (0.6, 1.0, 1.3):
            with self.subTest(exposure):
                cast = self.under_a_cast(exposure)
                light = light_at(cast, *CARD_AT, "grey card")
                assert isinstance(light, Light)
                mended = in_light(cast, light.gains)
                card = linear(mended[216:224, 296:304]).reshape(-1, 3).mean(axis=0)
                self.assertLess(float(np.abs(card - 0.18).max()), 0.012)
                before, after = (np.abs(linear(one) - linear(self.photo)).mean() for one in (cast, mended))
                self.assertLess(float(after), 0.25 * float(before) + 0.004)

    def test_in_its_own_light_a_photo_stays_as_it_is(self) -> None:
        self.assertTrue(np.array_equal(in_light(self.photo, (1.0, 1.0, 1.0)), self.photo))


class Places(TestCase):
    def reason(self, pixels: Pixels, x: float = 0.5, y: float = 0.5, card: str = "grey card") -> str:
        found = light_at(pixels, x, y, card)
        assert isinstance(found, NoLight), found
        self.assertFalse(found)
        return found.reason

    def plain(self, *colour: int) -> Pixels:
        return np.full((100, 100, 3), colour or (118, 118, 118), dtype=np.uint8)

    def test_what_tells_nothing_says_why(self) -> None:
        split = self.plain()
        split[:, 50:] = 220
        self.assertIn("too bright", self.reason(self.plain(255, 250, 240)))
        self.assertIn("too dark", self.reason(self.plain(4, 5, 3)))
        self.assertIn("more than one tone", self.reason(split))
        self.assertIn("outside", self.reason(self.plain(), 1.2))
        self.assertIn("no grey card", self.reason(self.plain(200, 118, 16)))

    def test_white_paper_comes_out_white_and_not_clipped(self) -> None:
        light = light_at(self.plain(200, 190, 150), 0.5, 0.5, "white paper")
        assert isinstance(light, Light)
        paper = linear(in_light(self.plain(200, 190, 150), light.gains)[50, 50])
        self.assertTrue(np.allclose(paper, CARDS["white paper"], atol=0.01))

    def test_a_card_at_the_edge_will_do(self) -> None:
        self.assertTrue(light_at(self.plain(), 1.0, 1.0, "grey card"))

    def test_an_unknown_card_is_a_mistake_of_the_caller(self) -> None:
        with self.assertRaisesRegex(ValueError, "grey card"):
            light_at(self.plain(), 0.5, 0.5, "blue towel")
