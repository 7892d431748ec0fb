"""Carriers of a recessive gene: textbook values, the slow way, and input that can't be."""

from __future__ import annotations

import json
import math
import random
from typing import Any
from unittest import TestCase

from eyot_core.parsing import Node
from eyot_core.proof.answer import hets_answer
from eyot_core.proof.carriers import Breeding, Standing, after_breeding

from tests.core.test_bad_input import ran

Json = dict[str, Any]


def hets(**document: Any) -> Json:
    return hets_answer(Node(document))


def breeding(partner: Any, hatchlings: int, visuals: int = 0) -> Json:
    return {"partner": partner, "hatchlings": hatchlings, "visuals": visuals}


def printed(command: str, document: Any) -> tuple[int, str, Json]:
    """Exit status, standard output, and the error as it was told."""
    status, out, err = ran(command, json.dumps(document))
    return status, out, json.loads(err) if err else {}


class Textbook(TestCase):
    def test_two_in_three_and_six_non_visual_hatchlings_from_a_visual(self) -> None:
        self.assertAlmostEqual(hets(prior="2/3", breedings=[breeding("visual", 6)])["after_breeding"], 1 / 33, 14)

    def test_one_in_two_and_hatchlings_from_a_het(self) -> None:
        found = hets(prior=0.5, breedings=[breeding("het", 4)])["after_breeding"]
        self.assertAlmostEqual(found, 81 / (81 + 256), 14)

    def test_a_normal_partner_says_nothing(self) -> None:
        self.assertAlmostEqual(hets(prior="2/3", breedings=[breeding("normal", 9)])["after_breeding"], 2 / 3, 14)

    def test_a_partner_of_unknown_state_is_one_state_for_all_of_a_breeding(self) -> None:
        found = hets(prior=0.5, breedings=[breeding({"chance": "1/2"}, 6)])["after_breeding"]
        carrier = 0.5 * 0.75**6 + 0.5
        self.assertAlmostEqual(found, carrier / (carrier + 1), 14)
        twice = hets(prior=0.5, breedings=[breeding({"chance": "1/2"}, 3)] * 2)["after_breeding"]
        carrier = (0.5 * 0.75**3 + 0.5) ** 2
        self.assertAlmostEqual(twice, carrier / (carrier + 1), 14)

    def test_marks_and_tests_multiply_the_odds(self) -> None:
        marks = [
            {"seen": True, "ratio_seen": 4, "ratio_unseen": 0.7},
            {"seen": False, "ratio_seen": 9, "ratio_unseen": 0.5},
        ]
        tests = [{"result": "carrier", "sensitivity": 0.9, "specificity": 0.8}]
        found = hets(prior=0.5, markers=marks, tests=tests)
        self.assertAlmostEqual(found["with_markers"], 2 / 3, 14)
        self.assertAlmostEqual(found["after_breeding"], 2 / 3, 14)
        self.assertAlmostEqual(found["after_tests"], 9 / 10, 14)
        clear = hets(prior=0.5, tests=[{"result": "clear", "sensitivity": 0.9, "specificity": 0.8}])["after_tests"]
        self.assertAlmostEqual(clear, 0.1 / 0.9, 14)

    def test_one_visual_proves_and_nothing_more_is_needed_or_undone(self) -> None:
        tests = [{"result": "clear", "sensitivity": 0.99, "specificity": 0.99}]
        found = hets(prior=0.01, breedings=[breeding("het", 3, 1), breeding("visual", 40)], tests=tests)
        self.assertEqual((found["after_breeding"], found["after_tests"]), (1.0, 1.0))
        self.assertEqual(found["still_needed"]["het"], {"0.05": None, "0.01": None})

    def test_what_is_left_out_changes_nothing(self) -> None:
        found = hets(prior=0.3)
        for step in ("prior", "with_markers", "after_breeding", "after_tests"):
            self.assertAlmostEqual(found[step], 0.3, 14)

    def test_a_thousand_hatchlings_lose_nothing(self) -> None:
        found = hets(prior=0.5, breedings=[breeding("visual", 2000)], tests=[])["after_tests"]
        self.assertEqual(found, 0.0)
        rest = after_breeding(after_breeding(Standing.of(0.5), Breeding(None, 2000, 0)), Breeding(1.0, 4, 1))
        self.assertEqual(rest.chance, 1.0)


class StillNeeded(TestCase):
    def test_the_smallest_number_is_found_and_one_less_is_too_few(self) -> None:
        for prior in (0.02, 0.05, 0.25, 0.5, 2 / 3, 0.99, 1 - 1e-9):
            needed = hets(prior=prior)["still_needed"]
            for partner, none in (("visual", 0.5), ("het", 0.75)):
                for target in (0.05, 0.01):
                    count = needed[partner][f"{target:g}"]
                    left = [prior * none**n / (prior * none**n + 1 - prior) for n in (count, count - 1)]
                    self.assertLessEqual(left[0], target + 1e-12)
                    self.assertTrue(count == 0 or left[1] > target + 1e-12, (prior, partner, target))

    def test_a_chance_that_is_just_reached_counts_as_reached(self) -> None:
        """1/33 after six hatchlings: the odds 1 to 19 are reached with five (2/3: odds 2, 2/64 < 1/19, 2/32 > 1/19)."""
        self.assertEqual(hets(prior="2/3")["still_needed"]["visual"]["0.05"], 6)
        self.assertEqual(hets(prior=0.05)["still_needed"]["visual"]["0.05"], 0)
        self.assertEqual(
            hets(prior=19 / 20 * 0.05 / (0.05 * 19 / 20 + 0.95 * 1 / 20))["still_needed"]["het"]["0.05"], 11
        )

    def test_never_a_carrier_needs_none(self) -> None:
        self.assertEqual(hets(prior=0)["still_needed"]["visual"], {"0.05": 0, "0.01": 0})


class TheSlowWay(TestCase):
    def test_random_documents_against_plain_products(self) -> None:
        chooser = random.Random(7)
        for _ in range(200):
            prior = chooser.uniform(0.01, 0.99)
            marks = [
                {
                    "seen": chooser.random() < 0.5,
                    "ratio_seen": chooser.uniform(0.1, 9),
                    "ratio_unseen": chooser.uniform(0.1, 2),
                }
                for _ in range(chooser.randrange(4))
            ]
            breedings = [
                breeding(
                    chooser.choice(["visual", "het", "normal", {"chance": chooser.random()}]), chooser.randrange(9)
                )
                for _ in range(chooser.randrange(4))
            ]
            tests = [
                {
                    "result": chooser.choice(["carrier", "clear"]),
                    "sensitivity": chooser.uniform(0.5, 1),
                    "specificity": chooser.uniform(0.5, 0.99),
                }
                for _ in range(chooser.randrange(3))
            ]
            carrier, other = prior, 1 - prior
            for mark in marks:
                carrier *= mark["ratio_seen"] if mark["seen"] else mark["ratio_unseen"]
            for one in breedings:
                chance = {"visual": 0.5 ** one["hatchlings"], "het": 0.75 ** one["hatchlings"], "normal": 1.0}
                if isinstance(one["partner"], dict):
                    share = one["partner"]["chance"]
                    carrier *= share * chance["het"] + 1 - share
                else:
                    carrier *= chance[one["partner"]]
            for test in tests:
                is_carrier = test["result"] == "carrier"
                carrier *= test["sensitivity"] if is_carrier else 1 - test["sensitivity"]
                other *= 1 - test["specificity"] if is_carrier else test["specificity"]
            found = hets(prior=prior, markers=marks, breedings=breedings, tests=tests)["after_tests"]
            self.assertTrue(math.isclose(found, carrier / (carrier + other), rel_tol=1e-9))


BAD_HETS: dict[str, tuple[Json, str, str]] = {
    "no prior": ({}, "prior", "missing"),
    "a prior above one": ({"prior": 1.5}, "prior", "from 0 to 1"),
    "a key that is not known": ({"prior": 0.5, "marks": []}, "marks", "not known"),
    "more visuals than hatchlings": (
        {"prior": 0.5, "breedings": [breeding("het", 2, 3)]},
        "breedings[0].visuals",
        "at most",
    ),
    "a ratio of nothing": (
        {"prior": 0.5, "markers": [{"seen": True, "ratio_seen": 0, "ratio_unseen": 1}]},
        "markers[0].ratio_seen",
        "above 0",
    ),
    "a negative ratio": (
        {"prior": 0.5, "markers": [{"seen": True, "ratio_seen": 2, "ratio_unseen": -1}]},
        "markers[0].ratio_unseen",
        "above 0",
    ),
    "a sensitivity above one": (
        {"prior": 0.5, "tests": [{"result": "clear", "sensitivity": 1.1, "specificity": 1}]},
        "tests[0].sensitivity",
        "from 0 to 1",
    ),
    "a partner of no kind": (
        {"prior": 0.5, "breedings": [breeding("super", 1)]},
        "breedings[0].partner",
        "visual, het, normal",
    ),
    "a chance of no chance": (
        {"prior": 0.5, "breedings": [breeding({"chance": "3/2"}, 1)]},
        "breedings[0].partner.chance",
        "fraction",
    ),
    "a result of no kind": (
        {"prior": 0.5, "tests": [{"result": "maybe", "sensitivity": 1, "specificity": 1}]},
        "tests[0].result",
        "carrier, clear",
    ),
    "half a hatchling": (
        {"prior": 0.5, "breedings": [{"partner": "het", "hatchlings": 2.5, "visuals": 0}]},
        "breedings[0].hatchlings",
        "whole number",
    ),
}
IMPOSSIBLE_HETS: dict[str, tuple[Json, str, str]] = {
    "a visual of one that can't carry": (
        {"prior": 0, "breedings": [breeding("visual", 2, 1)]},
        "breedings[0].visuals",
        "prior is 0",
    ),
    "a visual by a normal partner": (
        {"prior": 0.5, "breedings": [breeding("normal", 2, 1)]},
        "breedings[0].visuals",
        "partner is normal",
    ),
    "a visual by one that is never het": (
        {"prior": 0.5, "breedings": [breeding({"chance": 0}, 2, 1)]},
        "breedings[0].visuals",
        "partner is normal",
    ),
    "a certain test against a visual": (
        {
            "prior": 0.5,
            "breedings": [breeding("het", 2, 1)],
            "tests": [{"result": "clear", "sensitivity": 1, "specificity": 1}],
        },
        "tests[0].result",
        "impossible",
    ),
}


class BadInput(TestCase):
    def test_told_with_place_and_reason_and_nothing_is_printed(self) -> None:
        for name, (document, at, reason) in (BAD_HETS | IMPOSSIBLE_HETS).items():
            with self.subTest(name):
                status, out, error = printed("hets", document)
                self.assertEqual((status, out, error["at"]), (2, "", at))
                self.assertIn(reason, error["error"])
