"""What a text on a label promises beyond the call."""

from __future__ import annotations

from fractions import Fraction
from unittest import TestCase

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.label import Part, by_gene, by_trade_names
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.promise import promises, with_proofs, wording_of, young_without

LOOKUP = Lookup(builtin_catalogue())
PARTS = [
    Part("pastel", "shown", 1, Fraction(1)),
    Part("enchi", "shown", 1, Fraction(1)),
    Part("fire", "likely", 1, Fraction(1)),
    Part("vanilla", "possible", 1, Fraction(3, 10)),
    Part("albino", "het", 1, Fraction(1)),
    Part("clown", "possible_het", 1, Fraction(2, 3)),
]


def beyond(text: str) -> list[str]:
    return [one.gene or "?" for one in promises(LOOKUP, text, PARTS)]


class Promises(TestCase):
    def test_what_is_made_from_the_call_never_promises_more(self) -> None:
        for text in (by_gene(PARTS, LOOKUP.naming), by_trade_names(PARTS, LOOKUP.naming)):
            self.assertEqual(beyond(text), [], text)

    def test_less_may_be_said(self) -> None:
        for text in (
            "",
            "Normal",
            "Pastel",
            "Enchi, het Albino",
            "poss Fire",
            "likely Fire",
            "50% het Clown",
            "poss het Clown",
        ):
            self.assertEqual(beyond(text), [], text)

    def test_more_is_told_by_its_gene(self) -> None:
        for text, gene in (
            ("Pastel Fire", "fire"),
            ("het Clown", "clown"),
            ("100% het Clown", "clown"),
            ("80% het Clown", "clown"),
            ("visual Clown", "clown"),
            ("Super Pastel", "pastel"),
            ("Vanilla", "vanilla"),
            ("50% Vanilla", "vanilla"),
            ("Pastel Butter", "butter"),
            ("Albino", "albino"),
        ):
            self.assertEqual(beyond(text), [gene], text)

    def test_words_that_nobody_knows_are_told_too(self) -> None:
        self.assertEqual(beyond("Pastel Sunburst"), ["?"])

    def test_each_gene_has_its_ground_and_how_to_settle_it(self) -> None:
        wording = wording_of(PARTS, LOOKUP.naming)
        self.assertEqual([one.words for one in wording.sure], ["Pastel", "Enchi", "het Albino"])
        self.assertEqual([one.words for one in wording.likely], ["likely Fire"])
        self.assertEqual([one.words for one in wording.possible], ["possible Vanilla", "66 % possible het Clown"])
        self.assertIn("2 of 3 siblings that don’t show it", wording.possible[1].ground)
        self.assertIn("none among 6 young", wording.possible[1].proof)
        self.assertTrue(all(not one.proof for one in wording.sure))

    def test_so_many_young_leave_less_than_one_in_twenty(self) -> None:
        for chance in (0.25, 0.5, 2 / 3, 0.9):
            count = young_without(chance)
            left = [chance * 0.5**n / (chance * 0.5**n + 1 - chance) for n in (count - 1, count)]
            self.assertGreaterEqual(left[0], 0.05)
            self.assertLess(left[1], 0.05)

    def test_what_was_proven_since_stands_over_the_call(self) -> None:
        known = with_proofs(PARTS, {"clown": 1, "vanilla": 0, "pastel": 2, "banana": 1}, LOOKUP.catalogue)
        self.assertEqual(by_gene(known, LOOKUP.naming), "Enchi Super pastel Banana, likely Fire, het Albino, het Clown")
        self.assertEqual(
            [one.gene for one in promises(LOOKUP, "possible Vanilla, het Clown, Super Pastel", known)], ["vanilla"]
        )
        wording = wording_of(known, LOOKUP.naming, {"clown": "proven by a test"})
        self.assertEqual(next(one.ground for one in wording.sure if one.gene == "clown"), "proven by a test")
