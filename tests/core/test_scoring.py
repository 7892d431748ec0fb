"""Shares with their intervals, and calibration."""

from __future__ import annotations

from unittest import TestCase

from eyot_core.hatchery.scoring import calibration, share


class Shares(TestCase):
    def test_published_values_of_wilsons_interval(self) -> None:
        for right, count, low, high in (
            (0, 10, 0.0, 0.278),
            (5, 10, 0.237, 0.763),
            (10, 10, 0.722, 1.0),
            (81, 263, 0.255, 0.366),
        ):
            with self.subTest(f"{right} of {count}"):
                found = share(right, count)
                self.assertAlmostEqual(found.low, low, 3)
                self.assertAlmostEqual(found.high, high, 3)

    def test_no_cases_leave_everything_open_and_more_right_than_there_are_is_refused(self) -> None:
        self.assertEqual((share(0, 0).low, share(0, 0).high), (0.0, 1.0))
        with self.assertRaises(ValueError):
            share(3, 2)


class Calibration(TestCase):
    def test_bins_hold_the_mean_and_the_share(self) -> None:
        found = calibration([0.1, 0.15, 0.9, 1.0], [False, True, True, True])
        self.assertEqual(
            [(round(one.held, 3), one.share.right, one.share.count) for one in found], [(0.125, 1, 2), (0.95, 2, 2)]
        )
        self.assertEqual([(one.low, one.high) for one in found], [(0.0, 0.2), (0.8, 1.0)])

    def test_lengths_must_agree(self) -> None:
        with self.assertRaises(ValueError):
            calibration([0.1], [])
