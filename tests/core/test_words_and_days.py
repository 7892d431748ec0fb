"""Days, luck, names and figures; and the examples in the docstrings of the core."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
from datetime import date, timedelta
from unittest import TestCase

import eyot_core
from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.shown import ShownClasses
from eyot_core.hatchery.days import expected_days
from eyot_core.hatchery.luck import at_least_one
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.names import Naming

from tests.core.pairings import animal, pairing

LAID = date(2026, 4, 15)


class Examples(TestCase):
    def test_examples_in_docstrings_hold(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(eyot_core.__path__, "eyot_core."):
            result = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(result.failed, 0, module.name)
            tried += result.attempted
        self.assertGreater(tried, 5)


class Days(TestCase):
    def test_hatching_is_due_from_day_53_to_62(self) -> None:
        found = expected_days(LAID)
        self.assertEqual((found.due_from - LAID).days, 53)
        self.assertEqual((found.due_to - LAID).days, 62)
        self.assertTrue(found.due_from < found.out_on < found.due_to)

    def test_cut_eggs_are_left_within_two_days(self) -> None:
        cut = LAID + timedelta(days=55)
        self.assertEqual(expected_days(LAID, cut_on=cut).out_on, cut + timedelta(days=2))

    def test_what_is_to_come_is_never_in_the_past(self) -> None:
        today = LAID + timedelta(days=80)
        self.assertEqual(expected_days(LAID, today=today).out_on, today + timedelta(days=1))

    def test_a_known_day_stands(self) -> None:
        out = LAID + timedelta(days=57)
        found = expected_days(LAID, out_on=out, today=LAID + timedelta(days=90))
        self.assertEqual(found.out_on, out)
        self.assertEqual(found.blue_on, out + timedelta(days=5))


class Luck(TestCase):
    def test_at_least_one(self) -> None:
        self.assertAlmostEqual(at_least_one(1 / 4, 2), 7 / 16, 12)
        self.assertEqual(at_least_one(0.3, 0), 0)
        self.assertEqual(at_least_one(1, 3), 1)

    def test_impossible_arguments_are_named(self) -> None:
        with self.assertRaisesRegex(ValueError, "chance must be from 0 to 1, got 1.2"):
            at_least_one(1.2, 3)
        with self.assertRaisesRegex(ValueError, "eggs must be 0 or more, got -1"):
            at_least_one(0.2, -1)


class Figures(TestCase):
    def test_certain_only_where_it_is(self) -> None:
        self.assertEqual(percent(1.0), ">99\u00a0%")
        self.assertEqual(percent(0.0), "<1\u00a0%")
        self.assertEqual(percent(0.0, certain=True), "0\u00a0%")

    def test_odds_are_simple_ratios(self) -> None:
        wanted = {1 / 4: "1 in 4", 1 / 6: "1 in 6", 2 / 3: "2 in 3", 3 / 5: "3 in 5", 1 / 64: "1 in 64", 1.0: "certain"}
        self.assertEqual({chance: odds(chance) for chance in wanted}, wanted)


class Names(TestCase):
    words = Naming(builtin_catalogue())

    def test_labels_put_what_shows_first_and_hets_last(self) -> None:
        label = self.words.label({"pie": ["piebald"], "hyp": ["hypo", "hypo"], "bel": ["mojave"]})
        self.assertEqual(label, "Mojave Hypo het Piebald")
        self.assertEqual(self.words.label({}), "Normal")

    def test_two_copies_have_their_own_name(self) -> None:
        self.assertEqual(self.words.label({"bel": ["mojave", "mojave"]}), "Super mojave")
        self.assertEqual(self.words.copies("piebald", 1), "het Piebald")

    def test_trade_names_ignore_carried_recessives(self) -> None:
        cross = {"fire": ["fire", "vanilla"]}
        self.assertEqual(self.words.trade_name(cross), "vanilla cream")
        self.assertEqual(self.words.trade_name(cross | {"pie": ["piebald"]}), "vanilla cream")
        self.assertEqual(self.words.trade_name({"fire": ["fire"]}), "")


class WhatShows(TestCase):
    def test_carriers_are_merged_with_normals(self) -> None:
        found = pairing(animal("piebald", "mojave"), animal("piebald"))
        classes = ShownClasses(found)
        merged = classes.merged(found.expected)
        shown = {str(classes.genotype_at(i)): float(chance) for i, chance in enumerate(merged.flat)}
        wanted = {"{}": 3 / 8, "{'bel': ['mojave']}": 3 / 8}
        wanted |= {
            "{'pie': ['piebald', 'piebald']}": 1 / 8,
            "{'bel': ['mojave'], 'pie': ['piebald', 'piebald']}": 1 / 8,
        }
        self.assertEqual(shown.keys(), wanted.keys())
        for name, chance in wanted.items():
            self.assertAlmostEqual(shown[name], chance, 12)

    def test_two_alleles_of_a_recessive_complex_show(self) -> None:
        found = pairing(animal("axanthic_a*2"), animal("axanthic_a"))
        merged = ShownClasses(found).merged(found.expected)
        self.assertEqual(sorted(round(float(chance), 12) for chance in merged.flat), [0.5, 0.5])
