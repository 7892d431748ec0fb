"""Plates and strips as SVG: structure, size, likeness to the looks, and stored drawings of sixteen genotypes.

``EYOT_REWRITE=1`` writes the stored drawings anew; look at them before they are committed.
"""

from __future__ import annotations

import os
import re
from pathlib import Path
from statistics import median
from unittest import TestCase
from xml.etree import ElementTree

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.heads import ABOVE_SIZE, SIDE_SIZE, head_from_above, head_from_the_side
from eyot_core.drawing.palette import palette_for
from eyot_core.drawing.plate import plate, strip
from eyot_core.drawing.trace import region
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.identify.looks import likeliest_looks, telling_looks

STORED = Path(__file__).parent / "drawings"
SVG = "{http://www.w3.org/2000/svg}"
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
SIXTEEN = {
    "normal": {},
    "pastel": {"pastel": 1},
    "super-pastel": {"pastel": 2},
    "pinstripe": {"pinstripe": 1},
    "spider": {"spider": 1},
    "enchi": {"enchi": 1},
    "mojave": {"mojave": 1},
    "leopard": {"leopard": 1},
    "banana": {"banana": 1},
    "piebald": {"piebald": 2},
    "clown": {"clown": 2},
    "albino": {"albino": 2},
    "axanthic": {"axanthic_a": 2},
    "calico": {"calico": 1},
    "spotnose": {"spotnose": 1},
    "super-cinnamon": {"cinnamon": 2},
}


def looks_of(copies: dict[str, int], stage: str = "shed") -> dict[str, str]:
    return telling_looks(builtin_catalogue(), genotype_of(builtin_catalogue(), copies), stage)


def parts(svg: str) -> list[ElementTree.Element]:
    return list(ElementTree.fromstring(svg).iter())


class Structure(TestCase):
    def test_a_plate_shows_head_flank_back_belly_and_tail(self) -> None:
        root = ElementTree.fromstring(plate(looks_of({"pastel": 1}), 3, prefix="x"))
        ids = {entry.get("id") for entry in root}
        self.assertLessEqual({"x-head-above", "x-head-side", "x-front", "x-rear", "x-back", "x-belly", "x-tail"}, ids)

    def test_ids_are_used_once_and_references_lead_somewhere(self) -> None:
        text = plate(looks_of({"calico": 1}), 3)
        ids = [entry.get("id") for entry in parts(text) if entry.get("id")]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertLessEqual(set(re.findall(r"url\(#([^)]+)\)", text)), set(ids))

    def test_nothing_runs_and_nothing_is_fetched(self) -> None:
        for text in (plate(looks_of({"spider": 1}), 3), strip(looks_of({"spider": 1}), 3)):
            self.assertNotIn("style=", text)
            self.assertNotIn("href", text)
            for entry in parts(text):
                self.assertNotIn(entry.tag.removeprefix(SVG), ("script", "image", "foreignObject"))
                self.assertFalse([name for name in entry.attrib if name.startswith("on")])

    def test_a_plate_stays_under_60_kB_and_a_strip_under_14(self) -> None:
        for name, copies in SIXTEEN.items():
            with self.subTest(name):
                self.assertLess(len(plate(looks_of(copies), 11)), 60_000)
                self.assertLess(len(strip(looks_of(copies), 11)), 14_000)

    def test_a_seed_gives_the_same_animal_and_another_seed_another(self) -> None:
        looks = looks_of({"mojave": 1})
        self.assertEqual(strip(looks, 5), strip(looks, 5))
        self.assertNotEqual(strip(looks, 5), strip(looks, 6))


class Likeness(TestCase):
    def pale(self, **copies: int) -> int:
        """Loops of pale marks on the strip."""
        found = [entry.get("d", "") for entry in parts(strip(looks_of(copies), 11)) if entry.get("class") == "pale"]
        return found[0].count("M") if found else 0

    def classes(self, **copies: int) -> set[str]:
        return {entry.get("class", "") for entry in parts(plate(looks_of(copies), 11))}

    def test_floating_lobes_lie_free(self) -> None:
        self.assertGreater(self.pale(mojave=1), 8)

    def test_thin_lines_are_there_where_a_gene_makes_them(self) -> None:
        self.assertIn("lines", self.classes(spider=1))
        self.assertIn("lines", self.classes(pinstripe=1))
        self.assertNotIn("lines", self.classes(mojave=1))

    def test_white_is_drawn_for_piebald_and_calico_only(self) -> None:
        self.assertIn("white", self.classes(piebald=2))
        self.assertIn("white", self.classes(calico=1))
        self.assertNotIn("white", self.classes(pastel=1))

    def test_an_all_white_animal_is_white_to_the_tip(self) -> None:
        white = strip(looks_of({"mojave": 2}), 11)
        self.assertRegex(white, r'<rect x="\d+" y="\d+" width="\d+" height="\d+" fill="#f6f3ec"/>')

    def marks(self, **looks: str) -> list[tuple[float, float]]:
        """The sizes of the marks of a belly, as they stand in the plate: along, and across."""
        drawn = {**looks_of({}), "belly_edge": "clean", **looks}
        found = [entry.get("d", "") for entry in parts(plate(drawn, 11)) if entry.get("class") == "belly-marks"]
        return [(abs(int(w)), abs(int(h))) for w, h in re.findall(r"h(-?\d+)v(-?\d+)h", "".join(found))]

    def test_every_mark_of_the_belly_is_drawn_as_its_word_says(self) -> None:
        sizes = {level: self.marks(belly_marks=level) for level in ("normal", "none", "checkered", "flecked", "tracks")}
        self.assertEqual(sizes["none"], [])
        covered = {level: sum(along * across for along, across in boxes) for level, boxes in sizes.items()}
        self.assertGreater(covered["checkered"], 2 * covered["flecked"], "blocks against specks")
        self.assertGreater(covered["flecked"], covered["normal"])
        broad = {level: median(across for _, across in boxes) for level, boxes in sizes.items() if boxes}
        self.assertGreater(broad["checkered"], 2 * broad["flecked"])
        self.assertGreater(
            max(along for along, _ in sizes["tracks"]), 3 * max(along for along, _ in sizes["checkered"])
        )

    def test_every_look_at_the_head_changes_the_head(self) -> None:
        plain = looks_of({})
        traits = builtin_catalogue().traits
        for trait in (
            "head_stamp",
            "head_shape_mark",
            "head_lightness",
            "head_hue",
            "head_blush",
            "eye_color",
            "eye_form",
        ):
            for level in list(traits[trait].level_index)[1:]:
                with self.subTest(f"{trait} {level}"):
                    other = plain | {trait: level}
                    self.assertNotEqual(
                        head_from_above(plain, palette_for(plain)), head_from_above(other, palette_for(other))
                    )
        for trait in ("eye_stripe_width", "eye_stripe_edge", "lip_color", "neck_blush"):
            for level in list(traits[trait].level_index)[1:]:
                with self.subTest(f"{trait} {level}"):
                    other = plain | {trait: level}
                    self.assertNotEqual(
                        head_from_the_side(plain, palette_for(plain)), head_from_the_side(other, palette_for(other))
                    )

    def test_eyes_are_milky_before_the_shed(self) -> None:
        looks = looks_of({"pastel": 1})
        self.assertNotEqual(
            head_from_the_side(looks, palette_for(looks), True), head_from_the_side(looks, palette_for(looks))
        )

    def test_heads_fit_their_boxes(self) -> None:
        looks = looks_of({})
        for text, (width, height) in (
            (head_from_the_side(looks, palette_for(looks)), SIDE_SIZE),
            (head_from_above(looks, palette_for(looks)), ABOVE_SIZE),
        ):
            for circle in re.findall(r'<circle cx="([\d.]+)" cy="([\d.]+)"', text):
                self.assertTrue(float(circle[0]) < width and float(circle[1]) < height)

    def test_a_drawing_shows_what_tells_rather_than_what_normals_show(self) -> None:
        genotype = genotype_of(builtin_catalogue(), {"pastel": 1})
        self.assertEqual(likeliest_looks(builtin_catalogue(), genotype, "shed")["lobe_tone"], "tan")
        self.assertEqual(telling_looks(builtin_catalogue(), genotype, "shed")["lobe_tone"], "yellow")

    def test_a_drawing_does_not_guess_at_what_is_covered(self) -> None:
        self.assertEqual(looks_of({"mojave": 2})["freckles"], "none")


class Tracing(TestCase):
    def test_a_disc_becomes_one_closed_loop_around_its_middle(self) -> None:
        x, y = np.linspace(0, 10, 60), np.linspace(0, 10, 60)
        xx, yy = np.meshgrid(x, y)
        path = region(3 - np.hypot(xx - 5, yy - 5), x, y, lambda points: points * 10, 4)
        self.assertEqual((path.count("M"), path.count("z")), (1, 1))
        start = [int(number) for number in NUMBER.findall(path)[:2]]
        self.assertAlmostEqual(float(np.hypot(start[0] - 50, start[1] - 50)), 30, delta=2)

    def test_nothing_positive_is_no_path(self) -> None:
        x, y = np.arange(4.0), np.arange(4.0)
        self.assertEqual(region(np.full((4, 4), -1.0), x, y, lambda points: points, 1), "")


class Stored(TestCase):
    def test_sixteen_genotypes_are_drawn_as_they_were(self) -> None:
        for name, copies in SIXTEEN.items():
            with self.subTest(name):
                path, drawn = STORED / f"{name}.svg", strip(looks_of(copies), 11)
                if os.environ.get("EYOT_REWRITE"):
                    STORED.mkdir(exist_ok=True)
                    path.write_text(drawn)
                self.same(path.read_text(), drawn)

    def same(self, stored: str, drawn: str) -> None:
        """The same elements; numbers may be off by one in the last place where machines round differently."""
        if stored == drawn:
            return
        self.assertEqual(NUMBER.sub("#", stored), NUMBER.sub("#", drawn))
        off = [abs(float(a) - float(b)) for a, b in zip(NUMBER.findall(stored), NUMBER.findall(drawn), strict=True)]
        self.assertLessEqual(max(off), 2)
