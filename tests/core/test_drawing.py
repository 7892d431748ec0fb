"""Drawings: structure, likeness to the looks they are drawn from, and the same animal from the same seed."""

from __future__ import annotations

from unittest import TestCase
from xml.etree import ElementTree

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import to_srgb
from eyot_core.drawing.glyphs import DRAWN, glyph
from eyot_core.drawing.simulated import egg_photo, table_photo
from eyot_core.drawing.skin import strip_colours
from eyot_core.identify.looks import likeliest_looks

Floats = np.typing.NDArray[np.float64]


def strip(genes: str, seed: int = 3) -> Floats:
    genotype: dict[str, list[str]] = {}
    for name in genes.split():
        genotype.setdefault(builtin_catalogue().genes[name].locus, []).append(name)
    return strip_colours(likeliest_looks(builtin_catalogue(), genotype, "shed"), seed, 480, 60)


def light(colours: Floats) -> float:
    return float(colours[:, 60:].mean())


class Glyphs(TestCase):
    def test_every_level_of_every_look_is_drawn(self) -> None:
        traits = builtin_catalogue().traits
        self.assertEqual(set(DRAWN), set(traits))
        for trait, levels in DRAWN.items():
            self.assertEqual(set(levels), set(traits[trait].level_index), trait)

    def test_each_is_valid_and_small_and_without_script(self) -> None:
        for trait, levels in DRAWN.items():
            for level in levels:
                text = glyph(trait, level)
                root = ElementTree.fromstring(text)
                self.assertEqual(root.tag, "svg")
                self.assertLess(len(text), 4000)
                self.assertTrue({child.tag for child in root} <= {"rect", "ellipse", "path"})

    def test_no_two_levels_of_a_look_are_drawn_alike(self) -> None:
        for trait, levels in DRAWN.items():
            self.assertEqual(len(set(levels.values())), len(levels), trait)

    def test_cant_see_is_drawn_for_every_look(self) -> None:
        self.assertIn("eye", glyph("anything", "unseen"))
        with self.assertRaises(KeyError):
            glyph("head_hue", "green")


class Strips(TestCase):
    def test_a_seed_gives_the_same_animal(self) -> None:
        self.assertTrue(np.array_equal(strip("mojave"), strip("mojave")))
        self.assertFalse(np.array_equal(strip("mojave"), strip("mojave", seed=4)))

    def test_white_is_white_and_dark_is_dark(self) -> None:
        self.assertGreater(light(strip("mojave mojave")), 0.8)
        self.assertLess(light(strip("cinnamon black_pastel")), 0.5 * light(strip("")))
        self.assertGreater(light(strip("fire")), light(strip("")))

    def test_a_piebald_has_white_and_pattern(self) -> None:
        grey = strip("piebald piebald")[:, 60:].min(axis=2)
        white = float((grey > 0.75).mean())
        self.assertTrue(0.1 < white < 0.95, white)

    def test_axanthic_has_no_yellow(self) -> None:
        colours = strip("axanthic_a axanthic_a")[:, 60:]
        self.assertLess(float(np.abs(colours[..., 0] - colours[..., 2]).mean()), 0.03)

    def test_colours_are_light_within_bounds(self) -> None:
        found = to_srgb(strip("pinstripe banana"))
        self.assertEqual((found.dtype, found.shape), (np.uint8, (60, 480, 3)))


class SimulatedPhotos(TestCase):
    looks = likeliest_looks(builtin_catalogue(), {"bel": ["mojave"]}, "shed")

    def test_the_table_photo_has_a_grey_card(self) -> None:
        photo = table_photo(self.looks, 5, "shed", 240, 180)
        self.assertEqual(photo.shape, (180, 240, 3))
        card = photo[160:, 220:].reshape(-1, 3).mean(axis=0)
        self.assertLess(float(np.ptp(card)), 3)
        self.assertTrue(100 < card.mean() < 135, card)

    def test_the_egg_photo_shows_shell_and_animal(self) -> None:
        photo = egg_photo(self.looks, 5, 240, 180)
        self.assertGreater(int(photo[90, 40].min()), int(photo[80:100, 110:130].mean()))
