"""Families too tangled to be summed: what is drawn agrees with the exact sum, and with animals dropped from their founders."""

from __future__ import annotations

from dataclasses import replace
from random import Random
from unittest import TestCase

import numpy as np

from eyot_core.proof import sampling
from eyot_core.proof.elimination import Factor, TooTangled, summed
from eyot_core.proof.kin import NOT_VISUAL, PATIENT, VISUAL, Kin, KinStanding, standings
from eyot_core.proof.pedigree import Member, autosomal, factors_of

DRAWN = replace(PATIENT, cells=0)
"""Nothing is summed exactly."""
FREQUENCY = 0.2


def mated_at_random(founders: int, animals: int, back: int) -> list[Member]:
    """Each animal of two among so many before it."""
    chosen, members = Random(7), [Member() for _ in range(founders)]
    for place in range(founders, animals):
        dam, sire = chosen.sample(range(max(0, place - back), place), 2)
        members.append(Member(dam, sire))
    return members


def standing(kin: list[Kin], frequency: float = FREQUENCY, effort: object = DRAWN) -> list[KinStanding]:
    rows = standings(kin, frequency, effort)  # type: ignore[arg-type]
    assert rows is not None
    return rows


class Drawn(TestCase):
    def test_what_is_drawn_agrees_with_the_exact_sum_within_its_error(self) -> None:
        kin = [Kin(one, known=NOT_VISUAL) for one in mated_at_random(10, 50, 50)]
        for place in (20, 31):
            kin[place] = replace(kin[place], known=VISUAL)
        exact, drawn = standing(kin, effort=PATIENT), standing(kin)
        self.assertEqual({(a.basis, b.basis) for a, b in zip(exact, drawn, strict=True)}, {("exact", "drawn")})
        off = np.array([b.carrier - a.carrier for a, b in zip(exact, drawn, strict=True)])
        errors = np.array([row.error for row in drawn])
        self.assertLess(abs(off).max(), 0.03)
        self.assertTrue((abs(off) <= 4.5 * errors + 1e-3).all(), (off / np.maximum(errors, 1e-9)).round(1))
        self.assertLess(errors.max(), 0.02)
        self.assertGreater(float(np.sqrt((off**2).mean())), 0.05 * errors.mean(), "an error that means something")

    def test_a_tangle_that_cannot_be_summed_agrees_with_animals_dropped_from_their_founders(self) -> None:
        members = mated_at_random(20, 110, 60)
        known = {100: np.array([0.0, 0.0, 1.0]), 109: np.array(NOT_VISUAL)}
        locus = autosomal(FREQUENCY)
        with self.assertRaises(TooTangled):
            summed(factors_of(members, locus, known, {}), [3] * len(members))
        kin = [Kin(one, known=(1.0, 1.0, 1.0)) for one in members]
        for place, seen in known.items():
            kin[place] = replace(kin[place], known=tuple(seen.tolist()))
        expected, count = dropped(members, known, 200_000)
        rows = standing(kin, effort=PATIENT)
        self.assertGreater([row.basis for row in rows].count("drawn"), 100)
        for place, row in enumerate(rows):
            found, wanted = np.array(row.copies), expected[place]
            slack = 0.02 + 4 * np.sqrt(wanted * (1 - wanted) / count)
            self.assertTrue((abs(found - wanted) < slack).all(), (place, found, wanted))

    def test_what_follows_for_certain_is_certain_and_what_does_not_is_not(self) -> None:
        kin = [Kin(known=NOT_VISUAL), Kin(known=NOT_VISUAL), Kin(known=NOT_VISUAL)]
        kin += [Kin(Member(0, 1), known=VISUAL), Kin(Member(1, 2), known=NOT_VISUAL)]
        rows = standing(kin, frequency=1e-7)
        self.assertEqual([row.carrier for row in rows[:2]], [1.0, 1.0])
        self.assertEqual(rows[3].copies, (0.0, 0.0, 1.0))
        self.assertGreater(rows[2].carrier, 0.0, "hardly ever, but not never")
        self.assertLess(rows[2].carrier, 1e-3)

    def test_records_that_contradict_one_another_are_found_without_a_draw(self) -> None:
        plain = Kin(start=(1.0, 0.0, 0.0))
        self.assertIsNone(standings([plain, plain, Kin(Member(0, 1), known=VISUAL)], FREQUENCY, DRAWN))

    def test_the_same_is_drawn_each_time(self) -> None:
        factors = factors_of(mated_at_random(6, 30, 30), autosomal(FREQUENCY), {29: np.array([0.0, 0.0, 1.0])}, {})
        first, second = sampling.sampled(factors, [3] * 30), sampling.sampled(factors, [3] * 30)
        assert first is not None and second is not None
        np.testing.assert_array_equal(np.array(first.means), np.array(second.means))

    def test_a_table_too_large_for_any_block_is_not_begun(self) -> None:
        self.assertIsNone(sampling.sampled([Factor((0,), np.ones(sampling.AT_ONCE + 1))], [sampling.AT_ONCE + 1]))

    def test_a_family_too_large_to_be_drawn_stands_by_its_own_records(self) -> None:
        kin = [Kin(one, known=NOT_VISUAL) for one in mated_at_random(10, 30, 30)]
        self.assertEqual({row.basis for row in standing(kin, effort=replace(DRAWN, drawn=29))}, {"own"})


def dropped(members: list[Member], known: dict[int, np.ndarray], drops: int) -> tuple[np.ndarray, int]:
    """Copies of each animal in made-up pedigrees that show what is known: founders drawn, one allele of each parent handed down."""
    random = np.random.default_rng(3)
    alleles = np.zeros((len(members), drops, 2), dtype=np.int8)
    for place, member in enumerate(members):
        for side, parent in enumerate((member.dam, member.sire)):
            if parent is None:
                alleles[place, :, side] = random.random(drops) < FREQUENCY
            else:
                alleles[place, :, side] = alleles[parent, np.arange(drops), random.integers(2, size=drops)]
    copies = alleles.sum(axis=2)
    fits = np.all([seen[copies[place]] > 0 for place, seen in known.items()], axis=0)
    left = copies[:, fits]
    return np.stack([(left == number).mean(axis=1) for number in range(3)], axis=1), int(fits.sum())
