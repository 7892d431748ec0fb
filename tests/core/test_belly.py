"""Bellies: what is marked and where, the colour, a ring at the vent; and which answers that suggests."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from eyot_core.drawing.camera import Taken, photographed
from eyot_core.photo.belly import BELLY_MEASURES, belly_of, belly_suggestions
from eyot_core.photo.find import find_animal
from eyot_core.photo.light import light_at
from eyot_core.photo.measures import Measured, Missing, Value
from eyot_core.photo.sight import Sight
from eyot_core.photo.spine import line_from
from eyot_core.photo.strip import Strip, strip_of

from tests.core.photographs import looks_of
from tests.core.second_camera import belly as by_second

WIDTH, HEIGHT = 800, 600


@cache
def belly(**looks: str) -> Taken:
    """A photo of an animal on its back, drawn once for each of its looks: change nothing in it."""
    plain = {"belly_marks": "none", "belly_edge": "clean", "ringer": "none", "belly_color": "white"}
    return photographed({**looks_of(3), **plain, **looks}, 7, "belly", width=WIDTH, height=HEIGHT)


def strip(taken: Taken, *, lit: bool = True) -> Strip:
    """Its belly strip along the true line."""
    line = line_from(taken.line, WIDTH, HEIGHT, taken.start, taken.end)
    light = light_at(taken.pixels, 0.94, 0.92, "grey card") if lit else None
    made = strip_of(taken.pixels, line, light)  # type: ignore[arg-type]
    assert isinstance(made, tuple)
    return made[0]


def number(measured: Measured, name: str) -> float:
    value = measured[name]
    assert isinstance(value, Value)
    assert isinstance(value.value, float)
    return value.value


class Bellies(TestCase):
    takes_long = True

    def suggested(self, **looks: str) -> dict[str, str]:
        return {one.trait: one.level for one in belly_suggestions(belly_of(strip(belly(**looks))))}

    def test_marks_suggest_what_was_drawn(self) -> None:
        for marks, edge in (("none", "clean"), ("normal", "plain"), ("tracks", "plain"), ("checkered", "jagged")):
            with self.subTest(marks):
                self.assertEqual(self.suggested(belly_marks=marks, belly_edge=edge)["belly_marks"], marks)
        self.assertIn(self.suggested(belly_marks="flecked").get("belly_marks", "flecked"), ("flecked",))

    def test_colour_and_ring(self) -> None:
        self.assertEqual(self.suggested(belly_color="yellow")["belly_color"], "yellow")
        self.assertEqual(self.suggested(ringer="full")["ringer"], "partial", "whether it closes is not seen from below")
        plain = self.suggested()
        self.assertEqual((plain["belly_color"], plain["ringer"]), ("white", "none"))

    def test_a_glassy_belly_is_not_surely_told_a_white_one(self) -> None:
        for measured in (belly_of(strip(belly(belly_color="clear"))), by_second(101, belly_color="clear")):
            self.assertIsInstance(measured["belly_lab"], Value)
            made = [one for one in belly_suggestions(measured) if one.trait == "belly_color"]
            self.assertEqual([(one.level, one.clear) for one in made], [("white", False)])

    def test_what_is_marked_is_measured_within_its_uncertainty(self) -> None:
        few, many = (belly_of(strip(belly(belly_marks=marks))) for marks in ("normal", "checkered"))
        self.assertLess(number(few, "belly_marked_share") + 0.15, number(many, "belly_marked_share"))
        self.assertGreater(number(few, "belly_edge_share"), 0.9)
        self.assertLess(number(many, "belly_edge_share"), 0.5)

    def test_marks_are_told_without_a_light_colours_less_surely(self) -> None:
        taken = belly(belly_marks="tracks")
        lit, unlit = belly_of(strip(taken)), belly_of(strip(taken, lit=False))
        self.assertAlmostEqual(number(lit, "belly_two_rows"), number(unlit, "belly_two_rows"), delta=0.1)
        spread = [one["belly_lab"].sd[0] for one in (lit, unlit)]  # type: ignore[union-attr,index]
        self.assertLess(spread[0] * 2, spread[1])

    def test_by_another_renderer_along_a_hands_line_too(self) -> None:
        for marks, seeds in (("normal", (0, 1, 2)), ("tracks", (1, 2, 3)), ("none", (0, 3))):
            for seed in seeds:
                edge = {"belly_edge": "clean" if marks == "none" else "plain"}
                made = {one.trait: one.level for one in belly_suggestions(by_second(seed, belly_marks=marks, **edge))}
                self.assertEqual(made["belly_marks"], marks, seed)

    def test_marks_on_a_belly_that_is_burnt_out_are_told_and_its_colour_is_not(self) -> None:
        measured = by_second(2, belly_marks="tracks", belly_edge="plain")
        self.assertIsInstance(measured["belly_lab"], Missing)
        self.assertGreater(number(measured, "belly_two_rows"), 0.4)

    def test_a_belly_that_is_not_seen_is_not_measured(self) -> None:
        made = strip(belly())
        hidden = belly_of(replace(made, seen=np.zeros_like(made.seen)))
        self.assertTrue(all(isinstance(hidden[measure.id], Missing) for measure in BELLY_MEASURES))
        self.assertEqual(belly_suggestions(hidden), [])

    def test_its_line_is_found_as_one_along_a_back_is(self) -> None:
        taken = belly(belly_marks="normal", belly_edge="plain")
        found = find_animal(Sight.of(taken.pixels))
        assert found.points is not None
        self.assertLess(float(np.hypot(*(found.points[0] - taken.line[0]))), 12)
