"""One recessive gene over a collection: textbook cases, one visual for all relatives, and the trade's figure kept apart."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.proof.carriers import Breeding
from eyot_core.proof.kin import NOT_VISUAL, VISUAL, Kin, breeding_likelihood, standings, times
from eyot_core.proof.pedigree import Member

HET = (0.0, 1.0, 0.0)
TWO_THIRDS = (1 / 3, 2 / 3, 0.0)
PLAIN = Kin(known=NOT_VISUAL)


def child(dam: int, sire: int, known: tuple[float, float, float] = NOT_VISUAL) -> Kin:
    return Kin(Member(dam, sire), known=known)


class Standings(TestCase):
    def found(self, kin: list[Kin], frequency: float = 0.0) -> list[tuple[float, float]]:
        """By the parents, and after everything."""
        rows = standings(kin, frequency)
        assert rows is not None
        return [(row.from_parents, row.carrier) for row in rows]

    def test_the_trades_figures(self) -> None:
        dam, sire, visual = Kin(start=HET, known=NOT_VISUAL), Kin(start=HET, known=NOT_VISUAL), Kin(start=VISUAL)
        for parents, expected in (
            ((dam, sire), 2 / 3),
            ((dam, PLAIN), 1 / 2),
            ((visual, PLAIN), 1.0),
            ((visual, dam), 1.0),
        ):
            _, _, (by_parents, after) = self.found([*parents, child(0, 1)])
            self.assertAlmostEqual(by_parents, expected, 12)
            self.assertAlmostEqual(after, expected, 12)
        possible = Kin(start=TWO_THIRDS, known=NOT_VISUAL)
        self.assertAlmostEqual(self.found([possible, PLAIN, child(0, 1)])[2][0], 1 / 3, 12)

    def test_one_visual_proves_both_parents_and_raises_its_siblings(self) -> None:
        dam, sire = Kin(start=TWO_THIRDS, known=NOT_VISUAL), Kin(start=TWO_THIRDS, known=NOT_VISUAL)
        rows = self.found([dam, sire, child(0, 1, VISUAL), child(0, 1)])
        self.assertEqual([round(after, 12) for _, after in rows[:2]], [1, 1])
        self.assertAlmostEqual(rows[3][1], 2 / 3, 12)
        self.assertLess(rows[3][0], 0.6, "the trade's figure stays that of the parents' records")

    def test_a_half_sibling_learns_by_the_parent_they_share(self) -> None:
        dam = Kin(start=TWO_THIRDS, known=NOT_VISUAL)
        sires = [Kin(start=HET, known=NOT_VISUAL), PLAIN]
        before = self.found([dam, *sires, child(0, 2)])[3][1]
        after = self.found([dam, *sires, child(0, 2), child(0, 1, VISUAL)])[3][1]
        self.assertAlmostEqual(before, 1 / 3, 12)
        self.assertAlmostEqual(after, 1 / 2, 12)

    def test_of_several_sires_each_hatchling_has_one(self) -> None:
        """A possible het by a visual or a plain sire: a visual proves the dam, and that it is the visual's own."""
        dam = Kin(start=TWO_THIRDS, known=NOT_VISUAL)
        sires = ((1, 1.0), (2, 3.0))
        family = [dam, Kin(start=VISUAL), PLAIN]
        visual, sibling = Kin(Member(0, None, sires), known=VISUAL), Kin(Member(0, None, sires), known=NOT_VISUAL)
        rows = self.found([*family, visual, sibling])
        self.assertAlmostEqual(rows[0][1], 1, 12)
        by_visual, by_plain = (0.25 * 0.5, 0.0), (0.75 * 0.5, 0.75 * 0.5)  # het, without: of those that do not show it
        het, without = by_visual[0] + by_plain[0], by_visual[1] + by_plain[1]
        self.assertAlmostEqual(rows[4][1], het / (het + without), 12)
        parents = self.found([*family, sibling])[3][0]
        dam_passes, sire_passes = 1 / 3, 1 / 4
        one = dam_passes * (1 - sire_passes) + sire_passes * (1 - dam_passes)
        self.assertAlmostEqual(parents, one / (1 - dam_passes * sire_passes), 12)

    def test_one_of_several_sires_of_an_unknown_dam(self) -> None:
        sires = ((0, 1.0), (1, 1.0))
        rows = self.found([Kin(start=VISUAL), PLAIN, Kin(Member(None, None, sires), known=NOT_VISUAL)])
        self.assertAlmostEqual(rows[2][1], 1 / 2, 12)

    def test_six_plain_hatchlings_from_a_visual_leave_one_in_33(self) -> None:
        kin = [Kin(start=TWO_THIRDS, known=NOT_VISUAL), Kin(start=VISUAL), *(child(0, 1) for _ in range(6))]
        self.assertAlmostEqual(self.found(kin)[0][1], 1 / 33, 12)
        outside = Kin(start=TWO_THIRDS, known=NOT_VISUAL, bred=breeding_likelihood(Breeding(None, 6, 0)))
        self.assertAlmostEqual(self.found([outside])[0][1], 1 / 33, 12)

    def test_marks_stand_apart_from_the_trades_figure(self) -> None:
        (row,) = standings([Kin(start=(0.5, 0.5, 0.0), known=NOT_VISUAL, marks=(1.0, 3.0, 1.0))], 0.0) or []
        self.assertAlmostEqual(row.from_parents, 0.5, 12)
        self.assertAlmostEqual(row.with_marks, 0.75, 12)
        self.assertAlmostEqual(row.carrier, 0.75, 12)

    def test_a_visual_of_two_of_which_nothing_is_stated_proves_them(self) -> None:
        rows = self.found([PLAIN, PLAIN, child(0, 1, VISUAL)], frequency=0.01)
        self.assertAlmostEqual(rows[0][1], 1, 12)
        self.assertEqual(rows[0][0], 0.0)

    def test_records_that_contradict_one_another_give_nothing(self) -> None:
        never = Kin(known=(1.0, 0.0, 0.0))
        self.assertIsNone(standings([never, PLAIN, child(0, 1, VISUAL)], 0.01))

    def test_breedings_of_every_state(self) -> None:
        self.assertEqual(breeding_likelihood(Breeding(1.0, 2, 1)), (0.0, 1 / 4 * 3 / 4, 1 / 2 * 1 / 2))
        none, one, two = breeding_likelihood(Breeding(0.5, 2, 0))
        self.assertAlmostEqual(none, 1, 12)
        self.assertAlmostEqual(one, 0.5 * (3 / 4) ** 2 + 0.5, 12)
        self.assertAlmostEqual(two, 0.5 * (1 / 2) ** 2 + 0.5, 12)

    def test_likelihoods_together(self) -> None:
        self.assertEqual(times(), (1.0, 1.0, 1.0))
        self.assertEqual(times((1.0, 2.0, 0.0), (0.5, 3.0, 1.0)), (0.5, 6.0, 0.0))
