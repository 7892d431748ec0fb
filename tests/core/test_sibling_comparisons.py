"""Siblings compared with one another, against the slow way: every state of every hatchling and every true level in turn."""

from __future__ import annotations

import math
from itertools import product
from unittest import TestCase

import numpy as np

from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.inference import Inference
from eyot_core.identify.questions import surprises
from eyot_core.identify.sibling_comparisons import ComparedSiblings, chances_of_answer, comparable, summed
from eyot_core.parsing import Node

from tests.core.pairings import CLEAR, animal, catalogue_of, gene, trait

ORDER = ("very_dark", "darker", "normal", "lighter", "very_light")
LEVELS = ("normal", "darker", "very_dark", "lighter", "very_light")
CLARITY = {**CLEAR, "egg": 0.5, "shed": 0.9}
CATALOGUE = catalogue_of(
    [gene("g", "G"), gene("h", "H")],
    traits=[trait("lightness", *LEVELS, clarity=CLARITY) | {"scale": list(ORDER)}, trait("sign", "no", "yes")],
    effects=[
        {"when": [{"gene": "g", "copies": [1, 2]}], "trait": "lightness", "push": {"lighter": 1.5, "very_light": 1}},
        {"when": [{"gene": "h", "copies": [1, 2]}], "trait": "lightness", "push": {"darker": 1}},
        {"when": [{"gene": "h", "copies": [1, 2]}], "trait": "sign", "push": {"yes": 2}},
    ],
)
DOCUMENT = {
    "dam": animal({"gene": "g", "copies": 1, "chance": "1/2"}, "h"),
    "sires": [animal({"gene": "h", "copies": 1, "chance": "1/3"})],
}
HATCHLINGS = [
    Hatchling("1", (Observation("lightness", "lighter", "shed"), Observation("sign", "yes", "shed"))),
    Hatchling("2", (Observation("sign", "no", "shed", "likely"),)),
    Hatchling("3", (Observation("lightness", "normal", "shed", "hint"),)),
    Hatchling("4", (Observation("lightness", "darker", "shed"),)),
]
COMPARED = (
    ComparedSiblings("lightness", 0, 1, "more", "shed"),
    ComparedSiblings("lightness", 2, 1, "less", "shed", "likely"),
    ComparedSiblings("lightness", 0, 2, "same", "shed", "hint"),
)


def level_chances(g: bool, h: bool) -> list[float]:
    scores = [(1 if h else 0) if level == "darker" else 0.0 for level in LEVELS]
    scores[3] += 1.5 * g
    scores[4] += 1.0 * g
    weights = [math.exp(score) for score in scores]
    return [weight / sum(weights) for weight in weights]


def chance_of_answer(one: str, other: str, comparison: ComparedSiblings) -> float:
    """The answer for two true levels, written out."""
    order = ORDER
    r = CLARITY[comparison.stage] * {"sure": 0.98, "likely": 0.85, "hint": 0.6}[comparison.confidence]
    if order.index(one) == order.index(other):
        clear = {"more": 0.25, "same": 0.5, "less": 0.25}[comparison.answer]
    else:
        truth = "more" if order.index(one) > order.index(other) else "less"
        clear = 1.0 if comparison.answer == truth else 0.0
    return r * clear + (1 - r) / 3


def own_chance(hatchling: Hatchling, h: bool, level: str) -> float:
    """Chance of its own answers, given its genes and its true lightness."""
    found = 1.0
    for look in hatchling.observations:
        r = {"lightness": 0.9, "sign": 1.0}[look.trait] * {"sure": 0.98, "likely": 0.85, "hint": 0.6}[look.confidence]
        if look.trait == "lightness":
            found *= r * (look.level == level) + (1 - r) * mistaken(look.level, level)
        else:
            yes = 1 / (1 + math.exp(-2)) if h else 0.5
            found *= r * (yes if look.level == "yes" else 1 - yes) + (1 - r) / 2
    return found


def mistaken(answer: str, level: str) -> float:
    """Half of the mistakes go anywhere, half to the next levels of the scale."""
    near = [ORDER[place] for place in (ORDER.index(level) - 1, ORDER.index(level) + 1) if 0 <= place < len(ORDER)]
    return 1 / 10 + (answer in near) / (2 * len(near))


def slowly(
    hatchlings: list[Hatchling], compared: tuple[ComparedSiblings, ...]
) -> tuple[float, list[float], list[float]]:
    """Evidence, and for each hatchling the chances of g and of h, by summing over everything."""
    total, with_g, with_h = 0.0, [0.0] * len(hatchlings), [0.0] * len(hatchlings)
    for dam_g, sire_h in product((True, False), repeat=2):
        parents = 0.5 * (1 / 3 if sire_h else 2 / 3)
        each = []
        for hatchling in hatchlings:
            rows = []
            for g, h, level in product((True, False), (True, False), range(5)):
                chance_g = 0.5 if dam_g else float(not g)
                none = 0.5 * (0.5 if sire_h else 1.0)
                chance = chance_g * ((1 - none) if h else none) * level_chances(g, h)[level]
                rows.append((g, h, LEVELS[level], chance * own_chance(hatchling, h, LEVELS[level])))
            each.append([row for row in rows if row[3] > 0])
        for states in product(*each):
            weight = parents * math.prod(state[3] for state in states)
            for one in compared:
                weight *= chance_of_answer(states[one.one][2], states[one.other][2], one)
            total += weight
            for place, state in enumerate(states):
                with_g[place] += weight * state[0]
                with_h[place] += weight * state[1]
    return total, [x / total for x in with_g], [x / total for x in with_h]


def chance(inference: Inference, place: int, name: str) -> float:
    g, counting = inference.pairing.counting[name]
    return float((counting @ inference.posteriors[place].sums.of([g]))[1:].sum())


def inference(count: int, compared: tuple[ComparedSiblings, ...]) -> Inference:
    return Inference(pairing_from(Node(DOCUMENT), CATALOGUE), HATCHLINGS[:count], comparisons=compared)


class Compared(TestCase):
    def test_exact_against_every_state_in_turn(self) -> None:
        for count, compared in ((2, COMPARED[:1]), (3, COMPARED[:2]), (3, COMPARED)):
            with self.subTest(compared=compared):
                total, with_g, with_h = slowly(HATCHLINGS[:count], compared)
                found = inference(count, compared)
                self.assertAlmostEqual(found.log_evidence or 0, math.log(total), 10)
                for place in range(count):
                    self.assertAlmostEqual(chance(found, place, "g"), with_g[place], 10)
                    self.assertAlmostEqual(chance(found, place, "h"), with_h[place], 10)
                    self.assertAlmostEqual(float(found.posteriors[place].children.sum()), 1, 12)
                    self.assertAlmostEqual(float(found.posteriors[place].sires.sum()), 1, 12)

    def test_one_that_is_not_compared_learns_through_the_parents(self) -> None:
        total, with_g, _ = slowly(HATCHLINGS, COMPARED[:1])
        found = inference(4, COMPARED[:1])
        self.assertAlmostEqual(found.log_evidence or 0, math.log(total), 10)
        self.assertAlmostEqual(chance(found, 3, "g"), with_g[3], 10)

    def test_without_comparisons_nothing_is_other_than_before(self) -> None:
        plain = Inference(pairing_from(Node(DOCUMENT), CATALOGUE), HATCHLINGS)
        self.assertEqual(inference(4, ()).log_evidence, plain.log_evidence)
        self.assertEqual(plain.beside, {})

    def test_lighter_than_a_sibling_speaks_for_the_gene_that_lightens_and_for_its_lack_in_the_other(self) -> None:
        pairing = pairing_from(Node({"dam": animal("g"), "sires": [animal()]}), CATALOGUE)
        after = Inference(pairing, [Hatchling("1"), Hatchling("2")], comparisons=COMPARED[:1])
        self.assertGreater(chance(after, 0, "g"), 0.55)
        self.assertLess(chance(after, 1, "g"), 0.45)

    def test_said_the_other_way_round_it_is_the_same(self) -> None:
        turned = ComparedSiblings("lightness", 1, 0, "less", "shed")
        one, other = inference(2, COMPARED[:1]), inference(2, (turned,))
        np.testing.assert_allclose(one.posteriors[0].children, other.posteriors[0].children, atol=1e-15)

    def test_own_answers_of_another_stage_do_not_count_beside(self) -> None:
        """The true level is one at the stage of the comparison; a clearer answer of another stage is left out for it."""
        early = ComparedSiblings("lightness", 0, 1, "more", "egg")
        bare = [Hatchling("1", (Observation("sign", "yes", "shed"),)), HATCHLINGS[1]]
        pairing = pairing_from(Node(DOCUMENT), CATALOGUE)
        with_shed = Inference(pairing, HATCHLINGS[:2], comparisons=(early,))
        without = Inference(pairing, bare, comparisons=(early,))
        np.testing.assert_allclose(with_shed.posteriors[0].children, without.posteriors[0].children, atol=1e-15)

    def test_the_compared_look_is_not_called_odd_by_itself(self) -> None:
        odd = [Hatchling("1", (Observation("lightness", "very_dark", "shed"),)), Hatchling("2")]
        found = Inference(pairing_from(Node(DOCUMENT), CATALOGUE), odd, comparisons=COMPARED[:1])
        self.assertEqual([one.trait for one in found.own_evidence(0)], [])
        self.assertEqual(surprises(found, 0), [])


class Answers(TestCase):
    def test_the_three_answers_sum_to_one_for_every_pair_of_levels(self) -> None:
        lightness = CATALOGUE.traits["lightness"]
        made = [
            chances_of_answer(lightness, ComparedSiblings("lightness", 0, 1, answer, "shed"))
            for answer in ("more", "same", "less")
        ]
        np.testing.assert_allclose(sum(made), np.ones((5, 5)), atol=1e-15)
        np.testing.assert_allclose(made[0], made[2].T, atol=1e-15)

    def test_looks_with_an_order_are_in_the_built_in_catalogue(self) -> None:
        self.assertLess({"lightness", "contrast", "flank_flames", "side_white"}, set(comparable(builtin_catalogue())))
        self.assertNotIn("lobe_tone", comparable(builtin_catalogue()))
        self.assertEqual(comparable(CATALOGUE), ["lightness"])

    def test_too_many_compared_are_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "at most 20"):
            summed({place: np.ones((2, 1)) for place in range(21)}, [])
