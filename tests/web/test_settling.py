"""What settles a doubt and what a mistake costs."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue

from eyot.bench.settling import cost_of_a_mistake, what_settles


class Settling(TestCase):
    def settled_by(self, *candidates: dict[str, int]) -> str:
        return " ".join(what_settles(builtin_catalogue(), candidates))

    def cost(self, *candidates: dict[str, int]) -> str:
        return cost_of_a_mistake(builtin_catalogue(), candidates).split(":")[0]

    def test_a_double_is_settled_by_its_babies(self) -> None:
        self.assertIn("One baby without it ends the claim", self.settled_by({"enchi": 1}, {"enchi": 2}))

    def test_a_carrier_is_settled_by_a_visual_or_by_dna(self) -> None:
        settled_by = self.settled_by({"clown": 1}, {})
        self.assertIn("one visual proves it", settled_by)
        self.assertIn("DNA test", settled_by)
        self.assertNotIn("DNA test", self.settled_by({"sunset": 1}, {}))

    def test_alleles_of_one_locus_name_the_partner_that_parts_them(self) -> None:
        settled_by = self.settled_by({"fire": 1}, {"vanilla": 1})
        self.assertIn("sit at one locus", settled_by)
        self.assertIn("with Fire", settled_by)

    def test_what_both_have_settles_nothing(self) -> None:
        self.assertEqual(self.settled_by({"pastel": 1, "clown": 2}, {"pastel": 1, "clown": 2}), "")

    def test_the_cost_of_a_mistake(self) -> None:
        self.assertEqual(self.cost({"spider": 1}, {"woma": 1}), "high")
        self.assertEqual(self.cost({"desert": 1}, {"pastel": 1}), "high")
        self.assertEqual(self.cost({"piebald": 1}, {}), "high")
        self.assertEqual(self.cost({"cinnamon": 1}, {"black_pastel": 1}), "medium")
        self.assertEqual(
            cost_of_a_mistake(builtin_catalogue(), [{"pastel": 1}, {"enchi": 1}]),
            "medium: a wrong label; a pairing gives fewer morphs than hoped.",
        )
