"""Identification against values worked out by hand."""

from __future__ import annotations

import math
from unittest import TestCase

from eyot_core.errors import InputError

from tests.core.pairings import CLEAR, animal, catalogue_of, chance_of, gene, hatchling, identified, look, trait

# One gene, one look: with the gene "yes" is e² times likelier than without.
PLAIN = catalogue_of(
    [gene("g", "G"), gene("r", "R", "recessive"), gene("other", "O")],
    traits=[
        trait("sign", "no", "yes"),
        trait("white", "no", "yes"),
        trait("third", "x", "y", "z", clarity={**CLEAR, "egg": 0.5}),
    ],
    effects=[{"when": [{"gene": "g", "copies": [1, 2]}], "trait": "sign", "push": {"yes": 2}}],
    masks=[
        {"when": [{"gene": "r", "copies": [2]}], "rank": 1, "show": {"white": {"yes": 1}}},
        {"when": [{"gene": "r", "copies": [0, 1]}], "rank": 2, "show": {"white": {"no": 1}}},
        {"when": [{"gene": "other", "copies": [1, 2]}], "rank": 3, "show": {"third": {"z": 1}}},
    ],
)
R = 0.98


def seen(shown: float, levels: int, r: float = R) -> float:
    """Likelihood of a level that a genotype shows with chance ``shown``."""
    return r * shown + (1 - r) / levels


class OneLook(TestCase):
    def test_posterior_by_hand(self) -> None:
        answer = identified(animal("g"), [animal()], [hatchling("1", look("sign", "yes"))], PLAIN)
        with_gene, without = seen(math.exp(2) / (1 + math.exp(2)), 2), seen(0.5, 2)
        self.assertAlmostEqual(chance_of(answer, 0, "g"), with_gene / (with_gene + without), 12)
        self.assertAlmostEqual(answer["log_evidence"], math.log((with_gene + without) / 2), 12)

    def test_order_of_looks_does_not_matter(self) -> None:
        looks = [look("sign", "yes"), look("white", "no", "wet", "hint"), look("sign", "no", "blue", "likely")]
        forth = identified(animal("g", "r"), [animal("r")], [hatchling("1", *looks)], PLAIN)
        back = identified(animal("g", "r"), [animal("r")], [hatchling("1", *looks[::-1])], PLAIN)
        self.assertAlmostEqual(chance_of(forth, 0, "g"), chance_of(back, 0, "g"), 14)

    def test_unseen_changes_nothing(self) -> None:
        blind = identified(animal("g"), [animal()], [hatchling("1", look("sign", "unseen"))], PLAIN)
        self.assertEqual(chance_of(blind, 0, "g"), 0.5)
        self.assertEqual(blind["hatchlings"][0]["looks"][0]["trait"], "sign")

    def test_a_known_sex_costs_half(self) -> None:
        answer = identified(animal("g"), [animal()], [hatchling("1", sex="female")], PLAIN)
        self.assertAlmostEqual(answer["hatchlings"][0]["log_evidence"], math.log(0.5), 12)
        self.assertEqual(answer["hatchlings"][0]["female"], 1.0)


class SeveralLooksAtOneTrait(TestCase):
    def chance(self, *looks: dict[str, object]) -> float:
        return chance_of(identified(animal("other"), [animal()], [hatchling("1", *looks)], PLAIN), 0, "other")

    def test_looks_of_one_stage_are_averaged(self) -> None:
        z = 0.5 * (seen(1, 3) + seen(0, 3))
        without = 0.5 * (seen(1 / 3, 3) + seen(1 / 3, 3))
        self.assertAlmostEqual(self.chance(look("third", "z"), look("third", "x")), z / (z + without), 12)

    def test_the_more_reliable_stage_counts(self) -> None:
        both = self.chance(look("third", "x", "egg"), look("third", "z", "shed"))
        self.assertAlmostEqual(both, self.chance(look("third", "z", "shed")), 12)

    def test_at_a_tie_the_later_stage_counts(self) -> None:
        both = self.chance(look("third", "x", "wet"), look("third", "z", "shed"))
        self.assertAlmostEqual(both, self.chance(look("third", "z", "shed")), 12)


class Proof(TestCase):
    def test_visual_child_proves_both_parents(self) -> None:
        answer = identified(animal("r?2/3"), [animal("r?1/2")], [hatchling("1", look("white", "yes"))], PLAIN)
        prior = 2 / 3 * 1 / 2 * 1 / 4
        yes, no = seen(1, 2), seen(0, 2)
        visual = prior * yes / (prior * yes + (1 - prior) * no)
        self.assertAlmostEqual(chance_of(answer, 0, "r", "2"), visual, 12)
        not_visual_het_dam = 2 / 3 - prior
        dam = (prior * yes + not_visual_het_dam * no) / (prior * yes + (1 - prior) * no)
        self.assertAlmostEqual(answer["parents"]["dam"][0]["copies"]["1"], dam, 12)
        self.assertGreater(answer["parents"]["sires"][0][0]["copies"]["1"], 0.9)

    def test_a_visual_child_raises_its_siblings(self) -> None:
        alone = identified(animal("r?2/3"), [animal("r")], [hatchling("1")], PLAIN)
        beside = identified(
            animal("r?2/3"), [animal("r")], [hatchling("1"), hatchling("2", look("white", "yes"))], PLAIN
        )
        self.assertAlmostEqual(chance_of(alone, 0, "r", "2"), 1 / 6, 12)
        self.assertAlmostEqual(chance_of(beside, 0, "r", "2"), 1 / 4, 2)
        self.assertGreater(chance_of(beside, 0, "r", "2"), chance_of(alone, 0, "r", "2"))

    def test_no_visual_among_many_speaks_against_a_possible_het(self) -> None:
        """Bred to a visual, n babies without a visual leave (1/2)^n."""
        n, p, no, yes = 7, 0.5, seen(1, 2), seen(0, 2)
        clutch = [hatchling(str(i), look("white", "no")) for i in range(n)]
        answer = identified(animal("r?1/2"), [animal("r*2")], clutch, PLAIN)
        het = p * (0.5 * no + 0.5 * yes) ** n
        self.assertAlmostEqual(answer["parents"]["dam"][0]["copies"]["1"], het / (het + (1 - p) * no**n), 12)

    def test_two_copies_shine_through_many_children(self) -> None:
        clutch = [hatchling(str(i), look("sign", "yes")) for i in range(12)]
        answer = identified(animal({"gene": "g", "copies": {"1": 0.5, "2": 0.5}}), [animal()], clutch, PLAIN)
        one = (0.5 * seen(math.exp(2) / (1 + math.exp(2)), 2) + 0.5 * seen(0.5, 2)) ** 12
        two = seen(math.exp(2) / (1 + math.exp(2)), 2) ** 12
        self.assertAlmostEqual(answer["parents"]["dam"][0]["copies"]["2"], two / (one + two), 12)

    def test_two_sires_are_told_apart(self) -> None:
        answer = identified(animal(), [animal("g*2"), animal("r*2")], [hatchling("1", look("sign", "yes"))], PLAIN)
        with_gene, without = seen(math.exp(2) / (1 + math.exp(2)), 2), seen(0.5, 2)
        self.assertAlmostEqual(answer["hatchlings"][0]["sires"][0], with_gene / (with_gene + without), 12)


class Contradiction(TestCase):
    def test_a_sire_of_no_weight_is_a_contradiction(self) -> None:
        clutch = [hatchling("1", sire=1), hatchling("2", look("sign", "yes"))]
        answer = identified(animal("g"), [animal(), animal(weight=0)], clutch, PLAIN)
        first, second = answer["hatchlings"]
        self.assertIsNone(answer["log_evidence"])
        self.assertTrue(first["contradiction"])
        self.assertIsNone(first["log_evidence"])
        self.assertEqual(first["sires"], [0.0, 1.0])  # as it was stated
        self.assertNotIn("odd", first)
        self.assertNotIn("contradiction", second)
        self.assertGreater(chance_of(answer, 1, "g"), 0.5)

    def test_impossible_together_marks_all(self) -> None:
        """Under one hypothesis only sons live, under the other only daughters: one of each can't be."""
        lethal = catalogue_of(
            [gene("k", "S", viability={"1": 0, "2": 0})],
            [{"id": "S", "location": "sex", "recombination": 0}],
        )
        sire = animal({"gene": "k", "copies": 1, "on": {"X": 0.5, "Y": 0.5}})
        clutch = [hatchling("1", sex="male"), hatchling("2", sex="female")]
        answer = identified(animal(), [sire], clutch, lethal)
        self.assertTrue(all(row["contradiction"] for row in answer["hatchlings"]))
        self.assertEqual([row["female"] for row in answer["hatchlings"]], [0.0, 1.0])
        alone = identified(animal(), [sire], clutch[:1], lethal)
        self.assertEqual(alone["makers"], [{"sire": 0, "gene": "k", "on_x": 1.0}])

    def test_nothing_can_hatch_is_an_error(self) -> None:
        lethal = catalogue_of([gene("x", "X", viability={"1": 0, "2": 0})])
        with self.assertRaisesRegex(InputError, "hatch"):
            identified(animal("x*2"), [animal()], [], lethal)


class Scale(TestCase):
    def test_a_large_clutch_does_not_underflow(self) -> None:
        looks = [look("sign", "yes"), look("white", "no"), look("third", "z")]
        clutch = [hatchling(str(i), *looks) for i in range(600)]
        answer = identified(animal("g?1/2", "r?1/2"), [animal("r?1/2")], clutch, PLAIN)
        self.assertLess(answer["log_evidence"], -700)
        self.assertTrue(math.isfinite(answer["log_evidence"]))
        self.assertAlmostEqual(sum(answer["parents"]["dam"][0]["copies"].values()), 1, 12)

    def test_no_hatchlings_is_fine(self) -> None:
        self.assertEqual(identified(animal("g"), [animal()], [], PLAIN)["hatchlings"], [])


class Questions(TestCase):
    def test_the_gain_of_a_look_by_hand(self) -> None:
        answer = identified(animal("g"), [animal()], [hatchling("1")], PLAIN)
        p = seen(math.exp(2) / (1 + math.exp(2)), 2)

        def entropy(x: float) -> float:
            return -x * math.log2(x) - (1 - x) * math.log2(1 - x)

        wanted = entropy((p + 0.5) / 2) - (entropy(p) + entropy(0.5)) / 2
        self.assertEqual(answer["hatchlings"][0]["looks"][0]["trait"], "sign")
        self.assertAlmostEqual(answer["hatchlings"][0]["looks"][0]["gain"], wanted, 12)

    def test_an_answer_that_hardly_fits_is_named(self) -> None:
        answer = identified(animal("g"), [animal()], [hatchling("1", look("white", "yes"))], PLAIN)
        odd = answer["hatchlings"][0]["odd"]
        self.assertEqual([row["trait"] for row in odd], ["white"])
        self.assertAlmostEqual(odd[0]["expected"], seen(0, 2) / seen(1, 2), 12)

    def test_a_gene_outside_the_pairing_that_explains_is_named(self) -> None:
        answer = identified(animal("g"), [animal()], [hatchling("1", look("white", "yes"), look("third", "z"))], PLAIN)
        rows = {row["gene"]: row for row in answer["hatchlings"][0]["unlisted"]}
        self.assertAlmostEqual(rows["r"]["factor"], seen(1, 2) / seen(0, 2), 9)
        self.assertEqual(rows["r"]["copies"], 2)
        self.assertNotIn("other", rows)  # 1/3 to 1: less than threefold
