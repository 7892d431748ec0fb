"""How strongly looks tell, learned from proven animals: by hand, and recovered from animals drawn under a known factor."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np

from eyot_core.catalogue.overlay import FORMAT, overlaid, trusting_all_looks
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.traits import TraitModel
from eyot_core.identify.tuning import LEAST_HATCHLINGS, TIMES, children_proven, log_scores, tuned
from eyot_core.parsing import Node

from tests.core.pairings import animal, catalogue_of, gene, trait

PLAIN = catalogue_of(
    [gene("g", "G"), gene("r", "R", "recessive")],
    traits=[trait("sign", "no", "yes"), trait("white", "no", "yes"), trait("still", "no", "yes")],
    effects=[
        {"when": [{"gene": "g", "copies": [1, 2]}], "trait": "sign", "push": {"yes": 2}},
        {"when": [{"gene": "r", "copies": [2]}], "trait": "white", "push": {"yes": 3}},
    ],
)
R = 0.98


def models() -> list[TraitModel]:
    """One for each factor, over a pairing of two carriers of both genes."""
    both = animal("g", "r")
    document = {"dam": both, "sires": [both]}
    return [TraitModel(pairing_from(Node(document), trusting_all_looks(PLAIN, times))) for times in TIMES]


def seen(level: str, look: str = "sign") -> Hatchling:
    return Hatchling("1", (Observation(look, level, "shed"),))


class Scores(TestCase):
    def test_the_score_of_a_look_by_hand(self) -> None:
        found = log_scores(models(), {"g": 1}, seen("yes"))["sign"]
        for times, score in zip(TIMES, found, strict=True):
            shown = 1 / (1 + math.exp(-2 * times))
            self.assertAlmostEqual(score, math.log(R * shown + (1 - R) / 2), 12)

    def test_genes_that_were_not_proven_count_as_the_parents_can_give_them(self) -> None:
        (score,) = log_scores(models(), {"r": 0}, seen("yes"))["sign"][[TIMES.index(1.0)]]
        shown = 0.75 / (1 + math.exp(-2)) + 0.25 / 2
        self.assertAlmostEqual(score, math.log(R * shown + (1 - R) / 2), 12)

    def test_a_look_on_which_the_factor_has_no_bearing_is_left_out(self) -> None:
        self.assertEqual(log_scores(models(), {"g": 0, "r": 0}, seen("yes")), {})
        self.assertEqual(log_scores(models(), {"g": 1}, seen("yes", "still")), {})

    def test_a_proof_that_the_parents_cannot_give_is_no_evidence(self) -> None:
        both = models()[0].pairing
        self.assertIsNone(
            children_proven(pairing_from(Node({"dam": animal("g"), "sires": [animal()]}), PLAIN), {"g": 2})
        )
        self.assertIsNotNone(children_proven(both, {"g": 2, "a gene of no parent": 1}))


class Tuning(TestCase):
    def drawn(self, times: float, count: int) -> list[dict[str, np.ndarray]]:
        """Scores of hatchlings with one copy of g whose looks are as often "yes" as under a factor."""
        chance = R / (1 + math.exp(-2 * times)) + (1 - R) / 2
        yes = round(count * chance)
        known, found = models(), []
        for number in range(count):
            found.append(log_scores(known, {"g": 1}, seen("yes" if number < yes else "no")))
        return found

    def test_the_factor_of_many_animals_is_found(self) -> None:
        for times in TIMES:
            with self.subTest(times):
                (found,) = tuned(self.drawn(times, 2000))
                self.assertEqual(found.times, times)
                self.assertGreaterEqual(found.after, found.before)

    def test_few_animals_leave_the_catalogue_and_say_so(self) -> None:
        (found,) = tuned(self.drawn(0.4, 4))
        self.assertEqual((found.times, found.is_enough), (1.0, False))
        (found,) = tuned(self.drawn(0.4, LEAST_HATCHLINGS))
        self.assertTrue(found.is_enough)

    def test_before_and_after_are_the_mean_chances_of_the_answers(self) -> None:
        (found,) = tuned(self.drawn(0.4, 400))
        logs = np.array([one["sign"] for one in self.drawn(0.4, 400)])
        self.assertAlmostEqual(found.before, float(np.exp(logs[:, TIMES.index(1.0)].mean())), 12)
        self.assertAlmostEqual(found.after, float(np.exp(logs[:, TIMES.index(found.times)].mean())), 12)


class InTheLayer(TestCase):
    def test_a_factor_multiplies_every_push_on_its_look_and_no_other(self) -> None:
        layer = {"format": FORMAT, "opinions": [{"kind": "trust", "trait": "sign", "times": 0.5, "hatchlings": 30}]}
        found = overlaid(PLAIN, Node(layer))
        self.assertEqual(found.left_out, ())
        pushes = [effect["push"] for effect in found.catalogue.document["effects"]]
        self.assertEqual(pushes, [{"yes": 1.0}, {"yes": 3}])

    def test_what_is_no_factor_is_left_out_with_its_reason(self) -> None:
        for wrong in ({"times": 3}, {"times": 1, "trait": "tune"}, {"times": 1, "hatchlings": 0}):
            layer = {"format": FORMAT, "opinions": [{"kind": "trust", "trait": "sign"} | wrong]}
            ((place, reason),) = overlaid(PLAIN, Node(layer)).left_out
            self.assertEqual(place, 0)
            self.assertIn(next(key for key in ("hatchlings", "trait", "times") if key in wrong), reason)
