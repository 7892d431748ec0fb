"""The next test pairing, look-alikes bred together, and the drawn pedigree."""

from __future__ import annotations

from itertools import product
from math import comb, log2
from unittest import TestCase

import numpy as np

from eyot_core.drawing.pedigree_plan import planned
from eyot_core.proof.next_pairing import NORMAL, one_locus, same_place, test_pairings
from eyot_core.proof.pedigree import Member
from eyot_core.proof.ways import Figures, Shower

CLEAR = Figures(error=0.0, mistake=0.0, strong_share=0.0, background=0.5, prior={"none": 0.5, "dominant": 0.5})
SHOWER = Shower(Member(), 0, "yes")


class NextPairing(TestCase):
    def test_the_information_of_a_pairing_by_hand(self) -> None:
        """A dam that shows it: not inherited (every second shows it then, 1 in 10 of these strongly) or dominant, one copy or two."""
        figures = CLEAR
        q = figures.frequency
        one, two = 2 * q * (1 - q), q * q
        single = one / (one + two)
        for count in (1, 3):
            (found,) = test_pairings([SHOWER], 0, figures, [(0, NORMAL)], (count,))
            mean, conditional = [], 0.0
            for outcome in product(range(count + 1), repeat=3):
                if sum(outcome) != count:
                    continue
                no, yes, strong = outcome
                ways = comb(count, yes) * comb(count - yes, strong)
                none = ways * 0.5**no * 0.45**yes * 0.05**strong
                dominant = ways * (single * 0.5**count + (1 - single) * (no == 0)) * (strong == 0)
                mean.append((none + dominant) / 2)
                conditional += sum(-0.5 * p * log2(p) for p in (none, dominant) if p > 0)
            entropy = -sum(p * log2(p) for p in mean if p > 0)
            self.assertAlmostEqual(found.bits[0], entropy - conditional, 9)

    def test_more_hatchlings_tell_more_and_the_best_pairing_stands_first(self) -> None:
        animals = [SHOWER, Shower(Member(), 1, "no"), Shower(Member(0, 1), 1, "yes")]
        rows = test_pairings(animals, 0, Figures(), [(0, 1), (0, 2), (0, NORMAL), (NORMAL, 1)])
        for row in rows:
            self.assertLess(row.bits[0], row.bits[1])
            self.assertLess(row.bits[1], row.bits[2])
        self.assertEqual([row.bits[-1] for row in rows], sorted((row.bits[-1] for row in rows), reverse=True))

    def test_two_normals_tell_nothing_where_nothing_is_hidden(self) -> None:
        rare = Figures(frequency=1e-9, prior={"dominant": 0.5, "incomplete_dominant": 0.5})
        animals = [SHOWER, Shower(Member(), 1, "no")]
        (found,) = test_pairings(animals, 0, rare, [(NORMAL, 1)])
        np.testing.assert_allclose(found.bits, 0, atol=1e-6)


class LookAlikes(TestCase):
    def test_by_hand(self) -> None:
        self.assertAlmostEqual(one_locus(0.5, 2, 2, 1, 1, error=0.1), 0.9, 12)
        self.assertAlmostEqual(one_locus(0.5, 1, 1, 2, 0, error=0.0 + 1e-9), (9 / 16) / (9 / 16 + 1), 6)
        self.assertLess(one_locus(0.5, 2, 2, 5, 0), 1e-6)

    def test_one_place_or_two_by_hand(self) -> None:
        self.assertAlmostEqual(same_place(0.5, 0, 4, 0), 0.98**4 / (0.98**4 + 0.5**4), 12)
        self.assertAlmostEqual(same_place(0.5, 1, 0, 1), 0.02**2 / (0.02**2 + 0.5**2), 12)
        with self.assertRaisesRegex(ValueError, "count the young"):
            same_place(0.5, 0, 0, 0)

    def test_what_cannot_be(self) -> None:
        with self.assertRaisesRegex(ValueError, "from 0 to 3"):
            one_locus(0.5, 2, 2, 3, 4)
        with self.assertRaisesRegex(ValueError, "one or two copies"):
            one_locus(0.5, 0, 2, 3, 1)


class DrawnPedigree(TestCase):
    FAMILY = ((None, None), (None, None), (0, 1), (0, 1), (None, None), (4, 2), (4, 2))

    def test_young_stand_below_their_parents_and_mates_beside_one_another(self) -> None:
        plan = planned(self.FAMILY)
        for number, (dam, sire) in enumerate(self.FAMILY):
            for parent in (dam, sire):
                if parent is not None:
                    self.assertGreater(plan.places[number][1], plan.places[parent][1])
        self.assertEqual(plan.places[4][1], plan.places[2][1], "of unknown parents: beside its mate")
        between = [x for x, y in plan.places if y == plan.places[4][1] and plan.places[2][0] < x < plan.places[4][0]]
        self.assertEqual(between, [])
        self.assertEqual(len(plan.links), 2)

    def test_no_two_stand_on_one_place_and_all_stand_within(self) -> None:
        plan = planned(self.FAMILY)
        self.assertEqual(len(set(plan.places)), len(self.FAMILY))
        for x, y in plan.places:
            self.assertTrue(0 < x < plan.width and 0 < y < plan.height)

    def test_nobody(self) -> None:
        self.assertEqual((planned([]).places, planned([]).links), ((), ()))
