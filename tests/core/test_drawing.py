"""Drawings: structure, likeness to the looks they are drawn from, and the same animal from the same seed."""

from __future__ import annotations

import re
from functools import cache
from itertools import chain, combinations
from unittest import TestCase
from unittest.mock import patch
from xml.etree import ElementTree

import cv2
import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.colour import lab, to_srgb
from eyot_core.drawing import plate
from eyot_core.drawing.belly import belly_marks, is_marked
from eyot_core.drawing.body_map import HEIGHT, WIDTH, area_of, areas
from eyot_core.drawing.camera import SHOTS, photographed
from eyot_core.drawing.glyphs import DRAWN, glyph
from eyot_core.drawing.noise import noise_along, noise_on_grid, smooth_noise
from eyot_core.drawing.pattern import LENGTH, pattern_of, specks_of
from eyot_core.drawing.skin import skin_colours, strip_colours
from eyot_core.drawing.svg import flattened
from eyot_core.exercises.pictures import HIDDEN_BY, PHOTO, SHOWN, drawn_for, shown_in
from eyot_core.identify.looks import likeliest_looks, telling_looks

Floats = np.typing.NDArray[np.float64]


def genotype_of(genes: str) -> dict[str, list[str]]:
    genotype: dict[str, list[str]] = {}
    for name in genes.split():
        genotype.setdefault(builtin_catalogue().genes[name].locus, []).append(name)
    return genotype


PIED, CLOWN = genotype_of("piebald piebald"), genotype_of("clown clown")
APART = (
    *(("pastel", "fire"), ("pastel", "vanilla"), ("fire", "vanilla"), ("enchi", "enchi orange_dream")),
    *(("spider", "woma"), ("mojave", "phantom"), ("mojave", "special"), ("phantom", "special")),
    ("cinnamon", "black_pastel"),
)


def strip(genes: str, seed: int = 3) -> Floats:
    return strip_colours(likeliest_looks(builtin_catalogue(), genotype_of(genes), "shed"), seed, 480, 60)


def light(colours: Floats) -> float:
    return float(colours[:, 60:].mean())


@cache
def drawn(picture: str, *looks: tuple[str, str]) -> object:
    """What a picture shows of an animal with these looks, to be compared."""
    if picture == "strip":
        return plate.strip(dict(looks), 3)
    if picture == "photo":
        places = np.linspace(0.002, 0.985, 240), np.linspace(-0.7, 0.7, 41)
        return skin_colours(dict(looks), 3, *places).round(4).tobytes()
    parts = {"head": ("head-above", "head-side", "neck"), "belly": ("belly", "tail")}[picture]
    frames = [one for one in plate._frames() if one.name in parts]  # the others are not looked at
    with patch.object(plate, "_frames", return_value=frames):
        whole = plate.plate(dict(looks), 3)
    return [re.findall(rf'<g [^>]*id="p-{part}[^"]*".*?(?=<g [^>]*id="p-|$)', whole) for part in parts]


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


LOBED = np.linspace(0.1, 0.9, 1200) * LENGTH, np.linspace(0.1, 0.7, 90)
"""A flank finely enough for the spots in its lobes: x and v."""


class Noise(TestCase):
    def test_on_a_grid_and_along_a_line_it_is_the_same(self) -> None:
        x, y = np.linspace(-3.2, 5.7, 90), np.linspace(-1.4, 2.3, 40)
        every = smooth_noise(*np.meshgrid(x, y), 7)
        self.assertGreater(float(np.ptp(every)), 1.0)
        self.assertTrue(np.array_equal(noise_on_grid(x, y, 7), every))
        for row, place in zip(every, y, strict=True):
            np.testing.assert_allclose(noise_along(x, float(place), 7), row, atol=1e-12)


class Shown(TestCase):
    """What an eye is asked about must be there to be seen."""

    def test_every_level_of_every_look_that_a_picture_is_asked_about_is_drawn(self) -> None:
        animals = [likeliest_looks(builtin_catalogue(), genotype, "shed") for genotype in ({}, PIED, CLOWN)]
        for picture, looks in SHOWN.items():
            for look in looks:
                alike = list(combinations(builtin_catalogue().traits[look].level_index, 2))
                for one in animals:  # what differs in one of them is drawn
                    shown = {level: drawn(picture, *{**one, look: level}.items()) for level in {*chain(*alike)}}
                    alike = [(a, b) for a, b in alike if shown[a] == shown[b]]
                self.assertEqual(alike, [], f"{look}, {picture}")

    def test_behind_a_head_no_white_is_drawn_that_it_is_not_asked_about(self) -> None:
        pied = likeliest_looks(builtin_catalogue(), PIED, "shed")
        self.assertEqual(drawn_for("head", pied)["white_share"], "none")
        self.assertEqual(drawn_for("strip", pied), pied)
        white = {**pied, "white_share": "all"}
        self.assertEqual(drawn_for("head", white), white)

    def test_of_a_look_that_others_hide_nothing_is_drawn_and_nobody_is_asked(self) -> None:
        normal = likeliest_looks(builtin_catalogue(), {}, "shed")
        white = {"white_share": "all", "white_layout": "saddles"}
        for levels in [*(levels for levels, _ in HIDDEN_BY), white]:
            animal = {**normal, **levels}
            hidden = [look for look in SHOWN[PHOTO] if look not in shown_in(PHOTO, animal)]
            self.assertTrue(hidden, levels)
            for look in hidden:
                levels_of = builtin_catalogue().traits[look].level_index
                shown = {drawn(PHOTO, *{**animal, look: level}.items()) for level in levels_of}
                self.assertEqual(len(shown), 1, f"{look} is seen with {levels}")
        self.assertEqual(shown_in(PHOTO, normal), SHOWN[PHOTO])

    def test_spots_in_lobes_stay_where_the_pattern_gives_way(self) -> None:
        normal = likeliest_looks(builtin_catalogue(), {}, "shed")
        for amount in ("reduced", "strong_reduced"):
            drawn = pattern_of({**normal, "pattern_amount": amount, "lobe_spots": "one"}, 3, *LOBED)
            own = cv2.connectedComponents((drawn.eyes > 0).astype(np.uint8))[0] - 1
            self.assertGreater(own, 12, amount)

    def test_marks_run_over_the_spine_without_a_step(self) -> None:
        columns, places = np.linspace(1, LENGTH - 1, 1200), np.array([-0.4, -0.005, 0.005, 0.4])
        normal = likeliest_looks(builtin_catalogue(), {}, "shed")
        for more in (
            {},
            {"banding": "strong"},
            {"banding": "zigzag"},
            {"lobe_shape": "tall", "dorsal_width": "narrow"},
        ):
            for seed in range(4):
                left, above, below, right = pattern_of({**normal, **more}, seed, columns, places).dark
                self.assertLess(np.abs(above - below).max(), 0.05, (more, seed))
                self.assertGreater(np.abs(left - right).max(), 0.1, "and each flank has marks of its own")

    def test_the_same_lobes_lie_about_any_number_of_spots(self) -> None:
        normal = likeliest_looks(builtin_catalogue(), {}, "shed")
        drawn = {
            spots: pattern_of({**normal, "lobe_spots": spots}, 3, *LOBED)
            for spots in builtin_catalogue().traits["lobe_spots"].level_index
        }
        for spots, one in drawn.items():
            self.assertTrue((one.dark == drawn["none"].dark).all(), spots)
            self.assertFalse(((one.eyes > 0) & (one.dark > 0)).any(), f"{spots}: an eye lies in a lobe")
            self.assertEqual((one.eyes > 0).any(), spots != "none", spots)

    def test_plates_and_photos_have_the_same_marks_on_the_belly(self) -> None:
        x, off = np.meshgrid(np.linspace(0.9, LENGTH - 0.3, 2000), np.linspace(-0.139, 0.139, 140))
        for level in builtin_catalogue().traits["belly_marks"].level_index:
            looks = {"belly_marks": level}
            boxes = [box for box in belly_marks(looks, 5) if box[0] < LENGTH - 0.3]
            drawn = [(x > a) & (x < b) & (off > c) & (off < d) for a, b, c, d in boxes]
            in_plates = np.any(drawn, axis=0) if drawn else np.zeros(x.shape, dtype=bool)
            differ = (in_plates != is_marked(looks, 5, x, off)).mean()
            self.assertLess(differ, 0.002, level)

    def test_combinations_that_keepers_take_for_one_another_are_drawn_apart(self) -> None:
        places = np.linspace(0.1, 0.95, 300), np.linspace(-0.36, 0.36, 45)
        for one, other in APART:
            looks = [telling_looks(builtin_catalogue(), genotype_of(genes), "shed") for genes in (one, other)]
            for seed in (1, 2):
                skins = [lab(skin_colours(each, seed, *places)) for each in looks]
                self.assertGreater(np.linalg.norm(skins[0] - skins[1], axis=-1).mean(), 4, f"{one}, {other}")

    def test_a_banana_freckles_with_age(self) -> None:
        genotype = genotype_of("banana")
        counts = [
            len(specks_of(telling_looks(builtin_catalogue(), genotype, stage), 3).places) for stage in ("shed", "adult")
        ]
        self.assertGreater(counts[1], counts[0] + 50)


class BodyMap(TestCase):
    def test_every_look_of_the_catalogue_has_its_area(self) -> None:
        known = {area.id for area in areas()}
        self.assertEqual({area_of(entry["region"]) for entry in builtin_catalogue().document["traits"]} - known, set())

    def test_areas_lie_on_the_map_and_hold_their_marks(self) -> None:
        for area in areas():
            numbers = [float(number) for number in re.findall(r"[\d.]+", area.path.split("h")[0])]
            xs, ys = numbers[::2], numbers[1::2]
            self.assertTrue(all(0 <= x <= WIDTH for x in xs), area.id)
            self.assertTrue(all(0 <= y <= HEIGHT for y in ys), area.id)
            if "h" not in area.path:
                self.assertLess(min(xs), area.at[0])
                self.assertGreater(max(xs), area.at[0])
                near = sorted(zip(xs, ys, strict=True), key=lambda place: abs(place[0] - area.at[0]))[:4]
                self.assertLess(min(y for _, y in near), area.at[1], area.id)
                self.assertGreater(max(y for _, y in near), area.at[1], area.id)


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


class Paths(TestCase):
    def test_curves_and_lines_become_corners(self) -> None:
        (figure, other) = flattened("M0 0H4V2C4 4 2 6 0 6ZM1 1L2 1 1 2Z")
        self.assertEqual(figure[:3].tolist(), [[0, 0], [4, 0], [4, 2]])
        self.assertEqual(figure[-1].tolist(), [0, 6])
        self.assertTrue(np.allclose(figure[6], [2.75, 4.75]), "half-way along the curve, by hand")
        self.assertEqual(len(other), 3)


class SimulatedPhotos(TestCase):
    looks = likeliest_looks(builtin_catalogue(), {"bel": ["mojave"]}, "shed")

    def test_a_photo_on_paper_has_a_grey_card(self) -> None:
        taken = photographed(self.looks, 5, "loose", width=240, height=180)
        self.assertEqual(taken.pixels.shape, (180, 240, 3))
        assert taken.card is not None
        left, top, right, bottom = taken.card
        card = taken.pixels[top:bottom, left:right].reshape(-1, 3).mean(axis=0)
        self.assertLess(float(np.ptp(card)), 3)
        self.assertTrue(95 < card.mean() < 135, card)

    def test_every_shot_knows_where_its_animal_lies(self) -> None:
        for shot in SHOTS:
            with self.subTest(shot):
                taken = photographed(self.looks, 5, shot, width=320, height=240)
                self.assertTrue(0 <= taken.start < taken.end <= 1)
                inner = taken.line[2:-2].round().astype(int)
                self.assertGreater(float(taken.body[inner[:, 1], inner[:, 0]].mean()), 0.85)

    def test_the_egg_photo_shows_shell_and_animal(self) -> None:
        taken = photographed(self.looks, 5, "egg", stage="egg", width=240, height=180)
        self.assertGreater(int(taken.pixels[90, 40].min()), int(taken.pixels[taken.body].mean()))

    def test_belly_up_shows_the_belly(self) -> None:
        back, belly = (photographed(self.looks, 5, shot, width=320, height=240) for shot in ("loose", "belly"))
        self.assertGreater(belly.pixels[belly.body].mean(), back.pixels[back.body].mean() + 25)

    def test_a_close_up_of_the_head_shows_the_looks_of_the_head(self) -> None:
        def crown(**looks: str) -> float:
            taken = photographed({**self.looks, **looks}, 5, "head", width=320, height=240)
            return float(taken.pixels[85:112, 60:170].mean())

        plain = crown(head_stamp="none", head_shape_mark="none", head_lightness="same")
        self.assertGreater(crown(head_stamp="normal", head_shape_mark="none", head_lightness="same"), plain + 1)
        self.assertGreater(crown(head_stamp="none", head_shape_mark="fork", head_lightness="same"), plain + 5)
        self.assertGreater(crown(head_stamp="none", head_shape_mark="none", head_lightness="white"), plain + 60)

    def test_an_unknown_shot_is_a_mistake_of_the_caller(self) -> None:
        with self.assertRaisesRegex(ValueError, "loose"):
            photographed(self.looks, 5, "portrait")
