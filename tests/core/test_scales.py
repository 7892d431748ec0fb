"""Looks of degrees: shifts along a scale, mistakes to neighbours, and signs that nobody sees where they are not."""

from __future__ import annotations

import math
from typing import Any
from unittest import TestCase

import numpy as np

from eyot_core.catalogue import catalogue_from
from eyot_core.catalogue.model import STAGES
from eyot_core.errors import InputError
from eyot_core.identify.evidence import Observation, answering, vector_of
from eyot_core.identify.scales import shifted
from eyot_core.identify.traits import chances_of_look
from eyot_core.parsing import Node

from tests.core.pairings import animal, hatchling, identified, look

LEVELS = [{"id": "none", "base": 2.0}, {"id": "some"}, {"id": "strong", "mistaken": 0.5}, {"id": "gone"}]


def document(**changed: Any) -> dict[str, Any]:
    trait = {
        "id": "flames",
        "levels": LEVELS,
        "clarity": dict.fromkeys(STAGES, 0.9),
        "scale": ["none", "some", "strong"],
    }
    one = {"when": [{"gene": "belly", "copies": [1]}], "trait": "flames", "shift": 1.8}
    return {
        "format": "eyot-catalogue/1",
        "loci": [{"id": "A"}, {"id": "B"}],
        "genes": [
            {"id": "belly", "locus": "A", "inheritance": "dominant"},
            {"id": "thin", "locus": "B", "inheritance": "dominant"},
        ],
        "traits": [trait],
        "effects": [one],
        "dilutions": [{"when": [{"gene": "thin", "copies": [1]}], "gene": "belly", "times": 0.5}],
    } | changed


class Shifts(TestCase):
    def test_proportional_odds_by_hand(self) -> None:
        """Odds of 'at most this level' fall by e^shift; what lies off the scale keeps its chance."""
        before = np.array([0.5, 0.2, 0.1, 0.2])
        after = shifted(before, (0, 1, 2), np.array(math.log(2)))
        first, second = 0.5 / 0.8, 0.7 / 0.8
        new = [1 / (1 + 2 * (1 - q) / q) for q in (first, second)]
        wanted = [0.8 * new[0], 0.8 * (new[1] - new[0]), 0.8 * (1 - new[1]), 0.2]
        np.testing.assert_allclose(after, wanted, rtol=1e-12)

    def test_the_further_level_speaks_more_for_the_shift(self) -> None:
        generator = np.random.default_rng(4)
        for _ in range(200):
            before = generator.dirichlet(np.ones(5))
            after = shifted(before, (4, 2, 0, 1, 3), np.array(generator.uniform(0, 6)))
            ratios = (after / before)[[4, 2, 0, 1, 3]]
            self.assertTrue((np.diff(ratios) >= -1e-9).all(), ratios)
            self.assertAlmostEqual(float(after.sum()), 1, 12)

    def test_the_largest_shifts_stay_chances(self) -> None:
        for shift in (-1e6, -400.0, 400.0, 1e6):
            after = shifted(np.array([0.7, 0.2999999, 1e-7, 0.0]), (0, 1, 2, 3), np.array(shift))
            self.assertAlmostEqual(float(after.sum()), 1, 9)
            self.assertTrue((after >= 0).all())
        self.assertEqual(shifted(np.array([0.7, 0.3, 0.0]), (0, 1, 2), np.array(50.0))[2], 0)

    def test_dilutions_thin_shifts_as_they_thin_pushes(self) -> None:
        catalogue = catalogue_from(Node(document()))
        whole, half = (
            chances_of_look(catalogue, "flames", genotype, ("shed",))[0]
            for genotype in ({"A": ["belly"]}, {"A": ["belly"], "B": ["thin"]})
        )
        plain = chances_of_look(catalogue, "flames", {}, ("shed",))[0]
        np.testing.assert_allclose(whole, shifted(plain, (0, 1, 2), np.array(1.8)), rtol=1e-12)
        np.testing.assert_allclose(half, shifted(plain, (0, 1, 2), np.array(0.9)), rtol=1e-12)

    def test_a_stronger_sign_never_argues_against_the_gene(self) -> None:
        dam, sire, catalogue = animal("belly"), animal(), catalogue_from(Node(document()))
        found = []
        for level in ("none", "some", "strong"):
            seen = hatchling("1", look("flames", level))
            found.append(identified(dam, [sire], [seen], catalogue)["hatchlings"][0]["genes"][0]["copies"]["1"])
        self.assertEqual(found, sorted(found))
        self.assertGreater(found[2], 0.75)


class Mistakes(TestCase):
    def test_half_of_the_mistakes_go_to_the_neighbours(self) -> None:
        """From 'some' (neighbours none and strong): 1/2 · w / 3.5 anywhere, 1/2 by weight to the neighbours."""
        trait = catalogue_from(Node(document())).traits["flames"]
        channel = answering(trait, 0.8)
        self.assertAlmostEqual(channel[1, 0], 0.2 * (1 / 7 + 1 / 3), 12)
        self.assertAlmostEqual(channel[1, 1], 0.8 + 0.2 / 7, 12)
        self.assertAlmostEqual(channel[1, 2], 0.2 * (0.5 / 7 + 0.5 / 3), 12)
        self.assertAlmostEqual(channel[1, 3], 0.2 / 7, 12)
        self.assertAlmostEqual(channel[3, 2], 0.2 * 0.5 / 3.5, 12)  # off the scale: anywhere
        np.testing.assert_allclose(channel.sum(axis=1), 1)

    def test_where_neighbours_are_never_mistaken_all_mistakes_go_anywhere(self) -> None:
        levels = [{"id": "none", "mistaken": 0}, {"id": "some"}, {"id": "strong", "mistaken": 0}]
        trait = {
            "id": "flames",
            "levels": levels,
            "clarity": dict.fromkeys(STAGES, 1),
            "scale": ["none", "some", "strong"],
        }
        read = catalogue_from(Node(document(traits=[trait], effects=[], dilutions=[]))).traits["flames"]
        np.testing.assert_allclose(answering(read, 0)[1], [0, 1, 0])

    def test_what_nobody_sees_where_it_is_not_settles_at_once(self) -> None:
        """A look of poor clarity: with mistakes anywhere it is a hint, never mistaken it is as good as proof."""
        for mistaken, least, most in ((1.0, 0.5, 0.9), (0.0, 0.999, 1.0)):
            levels = [{"id": "full", "base": 20}, {"id": "red", "mistaken": mistaken}]
            trait = {"id": "eye", "levels": levels, "clarity": dict.fromkeys(STAGES, 0.5)}
            effect = {"when": [{"gene": "belly", "copies": [1]}], "trait": "eye", "push": {"red": 25}}
            changed = document(traits=[trait], effects=[effect], dilutions=[])
            seen = [hatchling("1", look("eye", "red")), hatchling("2", look("eye", "full"))]
            answers = identified(animal("belly"), [animal()], seen, catalogue_from(Node(changed)))["hatchlings"]
            there = [one["genes"][0]["copies"]["1"] for one in answers]
            self.assertTrue(least <= there[0] <= most, (mistaken, there))
            self.assertTrue(0 < there[1] < 0.5, (mistaken, there))

    def test_looks_that_no_animal_could_give_are_a_contradiction_with_sex_and_sire_as_stated(self) -> None:
        levels = [{"id": "full", "base": 3}, {"id": "red", "mistaken": 0}]
        trait = {"id": "eye", "levels": levels, "clarity": dict.fromkeys(STAGES, 0.5)}
        mask = {"when": [], "show": {"eye": {"full": 1}}}
        changed = document(traits=[trait], effects=[], dilutions=[], masks=[mask])
        seen = [hatchling("1", look("eye", "red"), sex="male", sire=1), hatchling("2", look("eye", "full"))]
        catalogue = catalogue_from(Node(changed))
        answer = identified(animal("belly"), [animal(), animal(weight=3)], seen, catalogue)
        self.assertIsNone(answer["log_evidence"])
        first, second = answer["hatchlings"]
        self.assertTrue(first["contradiction"])
        self.assertEqual((first["female"], first["sires"]), (0.0, [0.0, 1.0]))
        self.assertNotIn("contradiction", second)
        stranger = hatchling("1", look("eye", "red"), sex="male")
        alone = identified(None, [], [stranger], catalogue)["hatchlings"][0]
        self.assertTrue(alone["contradiction"])
        self.assertEqual((alone["female"], alone["missed"]), (0.0, 0))


class WrongScales(TestCase):
    def refused(self, at: str, says: str, **changed: Any) -> None:
        with self.assertRaisesRegex(InputError, says) as caught:
            catalogue_from(Node(document(**changed)))
        self.assertEqual(caught.exception.at, at)

    def test_each_mistake_is_told_with_its_place(self) -> None:
        clarity = dict.fromkeys(STAGES, 0.9)
        plain = {"id": "flames", "levels": LEVELS, "clarity": clarity}
        when = [{"gene": "belly", "copies": [1]}]
        self.refused("traits[0].scale[1]", "twice", traits=[plain | {"scale": ["none", "none"]}])
        self.refused("traits[0].scale[1]", "level of the scale", traits=[plain | {"scale": ["none", "big"]}])
        self.refused("traits[0].scale", "at least two", traits=[plain | {"scale": ["none"]}])
        self.refused("effects[0].shift", "no scale", traits=[plain])
        self.refused("effects[0].push", "push, a shift", effects=[{"when": when, "trait": "flames"}])
        never = [level | {"mistaken": 0} for level in LEVELS]
        self.refused("traits[0].levels", "not be 0 for all", traits=[plain | {"levels": never}], effects=[])
        below = [LEVELS[0] | {"mistaken": -1}]
        self.refused("traits[0].levels[0].mistaken", "at least 0", traits=[plain | {"levels": below}], effects=[])

    def test_one_observation_is_one_column_of_the_channel(self) -> None:
        trait = catalogue_from(Node(document())).traits["flames"]
        vector = vector_of(trait, Observation("flames", "strong", "shed", "likely"))
        np.testing.assert_allclose(vector, answering(trait, 0.9 * 0.85)[:, 2])
