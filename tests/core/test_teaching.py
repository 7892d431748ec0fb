"""What a clutch teaches: forecasts over hypotheses, luck, and the evidence for two copies."""

from __future__ import annotations

from math import comb
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from eyot_core.hatchery.luck import at_least_one, binomial, copies_from_count, eggs_needed, luck, spread_of_counts
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.inference import Inference
from eyot_core.identify.teaching import forecast, forecast_given

from tests.core.pairings import animal, catalogue_of, gene, pairing

CHANCES = st.floats(min_value=0, max_value=1)


def piebald(genotype: dict[str, list[str]]) -> bool:
    return genotype.get("pie", []).count("piebald") == 2


class Forecasts(TestCase):
    def test_siblings_share_their_parents_state(self) -> None:
        """A possible het: one in six each, but the chance of at least one is not that of independent eggs."""
        found = forecast(pairing(animal("piebald?2/3"), animal("piebald")), piebald, 5)
        self.assertAlmostEqual(found.each, 1 / 6, 12)
        self.assertAlmostEqual(found.at_least_one, 2 / 3 * (1 - 0.75**5), 12)
        self.assertLess(found.at_least_one, at_least_one(1 / 6, 5))

    def test_the_spread_is_exact(self) -> None:
        found = forecast(pairing(animal("piebald"), animal("piebald")), piebald, 4)
        for k, chance in enumerate(found.spread):
            self.assertAlmostEqual(float(chance), comb(4, k) * 0.25**k * 0.75 ** (4 - k), 12)

    def test_what_has_hatched_changes_what_is_to_come(self) -> None:
        parents = pairing(animal("piebald?2/3"), animal("piebald"))
        seen = Hatchling("3", (Observation("white_layout", "saddles", "shed"),))
        after = forecast_given(Inference(parents, [seen]), piebald, 2)
        self.assertAlmostEqual(after.each, 1 / 4, delta=0.01)
        none = Hatchling("3", (Observation("white_layout", "none", "shed"),))
        self.assertLess(forecast_given(Inference(parents, [none] * 6), piebald, 2).each, 1 / 8)

    def test_nothing_seen_is_the_forecast_from_the_parents(self) -> None:
        parents = pairing(animal("fire", "enchi"), animal("vanilla"))

        def both(genotype: dict[str, list[str]]) -> bool:
            return genotype.get("fire") == ["fire", "vanilla"]

        self.assertAlmostEqual(forecast(parents, both, 6).each, 1 / 4, 12)
        self.assertAlmostEqual(forecast_given(Inference(parents, []), both, 6).each, 1 / 4, 12)

    def test_survivors_are_counted_among_the_living(self) -> None:
        found = forecast(pairing(animal("spider"), animal("spider")), lambda genotype: bool(genotype), 1)
        self.assertAlmostEqual(found.each, 2 / 3, 12)

    def test_a_pairing_of_which_nothing_hatches_is_refused(self) -> None:
        lethal = catalogue_of([gene("x", "X", viability={"1": 0, "2": 0})])
        with self.assertRaisesRegex(ValueError, "reach hatching"):
            forecast(pairing(animal("x*2"), animal(), catalogue=lethal), bool, 3)


class Luck(TestCase):
    def test_seven_of_seven_happens_in_one_of_sixty_four_both_ways(self) -> None:
        self.assertEqual(luck(7, 7, 0.5), 2 / 128)

    def test_the_likeliest_count_is_never_unusual(self) -> None:
        self.assertEqual(luck(2, 8, 0.25), 1.0)

    def test_lopsided_odds_by_hand(self) -> None:
        """3 of 3 at a quarter: 1/64; no count is rarer."""
        self.assertAlmostEqual(luck(3, 3, 0.25), 1 / 64, 12)
        self.assertAlmostEqual(luck(2, 3, 0.25), 9 / 64 + 1 / 64, 12)

    @given(CHANCES, st.integers(0, 20), st.data())
    def test_luck_is_a_chance(self, chance: float, eggs: int, data: st.DataObject) -> None:
        found = data.draw(st.integers(0, eggs))
        self.assertTrue(0 <= luck(found, eggs, chance) <= 1)
        self.assertAlmostEqual(float(binomial(chance, eggs).sum()), 1, 12)

    def test_two_copies_are_another_question(self) -> None:
        """Luck is the same whatever is known of the parent; the chance of two copies is not."""
        self.assertAlmostEqual(copies_from_count(7, 7, 0.2).factor, 128, 9)
        self.assertAlmostEqual(copies_from_count(7, 7, 0.0).two, 0, 12)
        self.assertAlmostEqual(copies_from_count(14, 14, 0.01).two, 0.01 / (0.01 + 0.99 / 2**14), 12)

    def test_one_child_without_it_rules_two_copies_out(self) -> None:
        self.assertEqual(copies_from_count(6, 7, 0.9).two, 0)

    def test_eggs_needed(self) -> None:
        self.assertEqual(eggs_needed(1 / 2, 0.5), 1)
        self.assertEqual(eggs_needed(1 / 4, 0.95), 11)
        self.assertGreaterEqual(at_least_one(1 / 4, 11), 0.95)
        self.assertLess(at_least_one(1 / 4, 10), 0.95)
        self.assertEqual(eggs_needed(1.0), 1)

    def test_wrong_arguments_are_named(self) -> None:
        for call, message in (
            (lambda: luck(8, 7, 0.5), "came must be from 0 to 7, got 8"),
            (lambda: spread_of_counts([0.5], [0.5, 0.5], 2), "got 1 and 2"),
            (lambda: spread_of_counts([0.5], [0.7], 2), "sum to 0.7"),
            (lambda: eggs_needed(0.5, 1.0), "wanted must be from 0 to below 1"),
            (lambda: copies_from_count(1, 2, 1.5), "two_before must be from 0 to 1"),
            (lambda: copies_from_count(1, 1, 0.5, 0.0), "can't give 1 of 1"),
        ):
            with self.subTest(message), self.assertRaisesRegex(ValueError, message):
                call()
