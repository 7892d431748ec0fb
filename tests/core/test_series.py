"""A series: what has plainly changed between two photos of an animal, and what its genes let expect at each stage."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue
from eyot_core.identify.looks import chances_of_looks
from eyot_core.photo.measures import Measured, Missing, Value
from eyot_core.photo.series import changes, course, followed


def measured(
    lightness: float = 40.0, white: float = 0.0, ground: tuple[float, float, float] = (18.0, 3.0, 4.0)
) -> Measured:
    """Some measures of a photo."""
    return {
        "lightness": Value(float(lightness), 1.5),
        "white_share": Value(white, 0.02),
        "ground_lab": Value(ground, (1.0, 0.6, 0.8)),
        "freckle_count": Missing("too small in the photo"),
    }


class Changes(TestCase):
    def test_only_what_two_deviations_bear_out_is_told(self) -> None:
        found = {one.measure: one for one in changes(measured(40), measured(46))}
        self.assertEqual((found["lightness"].by, found["lightness"].word), (6.0, "more"))
        self.assertAlmostEqual(found["lightness"].sd, 1.5 * 2**0.5)
        self.assertEqual({one.measure: one.word for one in changes(measured(40), measured(44))}["lightness"], "")
        self.assertEqual(changes(measured(46), measured(40))[0].word, "less")

    def test_brown_is_how_far_the_dark_pattern_is_from_grey(self) -> None:
        brown = followed(measured(), "brown")
        assert isinstance(brown, Value)
        self.assertEqual((brown.value, brown.sd), (5.0, 1.0))
        words = {one.measure: one.word for one in changes(measured(), measured(ground=(24.0, 6.0, 8.0)))}
        self.assertEqual(words, {"lightness": "", "white_share": "", "brown": "more"})

    def test_what_is_missing_in_one_of_them_is_left_out(self) -> None:
        self.assertEqual(changes(measured(), {"lightness": Missing("too dark")}), [])


class Course(TestCase):
    catalogue = builtin_catalogue()

    def test_chances_are_those_of_the_look_at_that_stage(self) -> None:
        genotype = {"piebald": ("piebald", "piebald")}
        found = course(self.catalogue, genotype, "shed", "white_share")
        chances = chances_of_looks(self.catalogue, genotype, "shed")["white_share"]
        names = [level.id for level in self.catalogue.traits["white_share"].levels]
        self.assertEqual(
            [one.chance for one in found],
            [chances[names.index(name)] for name in ("none", "low", "mid", "high", "all")],
        )
        self.assertAlmostEqual(sum(one.chance for one in found), 1.0)

    def test_freckles_of_a_banana_come_with_age(self) -> None:
        def none(stage: str) -> float:
            return course(self.catalogue, {"ban": ("banana",)}, stage, "freckle_count")[0].chance

        self.assertGreater(none("shed"), 2 * none("adult"))

    def test_where_no_look_tells_of_a_measure_nothing_is_expected(self) -> None:
        self.assertEqual(course(self.catalogue, {}, "shed", "brown"), [])
        self.assertEqual(course(self.catalogue, {}, "shed", "symmetry"), [])
