"""The light of photos: casts taken away, and places that tell nothing refused with the reason."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import linear, to_srgb
from eyot_core.drawing.camera import photographed
from eyot_core.identify.looks import likeliest_looks
from eyot_core.photo.light import CARDS, PATCHES, Light, NoLight, Pixels, in_light, light_at, light_of_chart

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
    photo = photographed(likeliest_looks(builtin_catalogue(), {}, "shed"), 5, "loose", width=320, height=240).pixels

    def under_a_cast(self, exposure: float = 1.0) -> Pixels:
        return to_srgb(linear(self.photo) * np.array(CAST) * exposure)

    def test_a_cast_is_taken_away(self) -> None:
        for exposure in (0.6, 1.0, 1.3):
            with self.subTest(exposure):
                cast = self.under_a_cast(exposure)
                light = light_at(cast, *CARD_AT, "grey card")
                assert isinstance(light, Light)
                mended = in_light(cast, light)
                card = linear(mended[216:224, 296:304]).reshape(-1, 3).mean(axis=0)
                self.assertLess(float(np.abs(card - 0.18).max()), 0.012)
                own = light_at(self.photo, *CARD_AT, "grey card")
                assert isinstance(own, Light)
                true = linear(in_light(self.photo, own))
                before, after = (np.abs(linear(one) - true).mean() for one in (cast, mended))
                self.assertLess(float(after), 0.25 * float(before) + 0.004)

    def test_in_its_own_light_a_photo_stays_as_it_is(self) -> None:
        self.assertTrue(np.array_equal(in_light(self.photo, Light("grey card", (1.0, 1.0, 1.0))), self.photo))


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
        paper = linear(in_light(self.plain(200, 190, 150), light)[50, 50])
        self.assertTrue(np.allclose(paper, CARDS["white paper"], atol=0.01))

    def test_a_card_at_the_edge_will_do(self) -> None:
        self.assertTrue(light_at(self.plain(), 1.0, 1.0, "grey card"))

    def test_an_unknown_card_is_a_mistake_of_the_caller(self) -> None:
        with self.assertRaisesRegex(ValueError, "grey card"):
            light_at(self.plain(), 0.5, 0.5, "blue towel")


class Charts(TestCase):
    """A chart of 24 patches, drawn under a light that mixes the channels."""

    corners = np.array([(60, 40), (210, 40), (210, 130), (60, 130)], dtype=np.float64)

    def chart(self, mix: np.ndarray) -> Pixels:
        drawn = np.full((170, 280, 3), 20, dtype=np.uint8)
        for row in range(4):
            for column in range(6):
                drawn[28 + 30 * row : 52 + 30 * row, 48 + 30 * column : 72 + 30 * column] = PATCHES[row, column]
        return to_srgb(linear(drawn) @ mix.T)

    def test_a_chart_gives_back_the_colours_that_a_card_cannot(self) -> None:
        mix = np.array([[0.7, 0.12, 0.0], [0.05, 0.6, 0.08], [0.0, 0.1, 0.5]])
        light = light_of_chart(self.chart(mix), self.corners)
        assert isinstance(light, Light), light
        self.assertEqual(light.card, "colour chart")
        mended = linear(in_light(self.chart(mix), light))[40:131:30, 60:211:30]
        self.assertLess(float(np.abs(mended - linear(PATCHES)).max()), 0.03)

    def test_what_is_no_chart_says_why(self) -> None:
        plain = np.full((170, 280, 3), 120, dtype=np.uint8)
        for photo, corners, message in (
            (plain, self.corners, "don't fit the chart"),
            (np.full_like(plain, 255), self.corners, "burnt out"),
            (plain, self.corners + 150, "outside"),
        ):
            found = light_of_chart(photo, corners)
            assert isinstance(found, NoLight), found
            self.assertIn(message, found.reason)
