"""Rounds by a keeper's school, and incubators' logs: mean, gaps, spikes, and the window they move."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from unittest import TestCase

from eyot_core.hatchery.days import due_window, expected_days
from eyot_core.hatchery.rounds import next_round, rhythm_from
from eyot_core.hatchery.temperatures import log_read

START = datetime(2026, 4, 1, tzinfo=UTC)


def hours(*celsius: float | None) -> list[tuple[datetime, float]]:
    """One reading an hour; ``None`` leaves one out."""
    return [(START + timedelta(hours=at), value) for at, value in enumerate(celsius) if value is not None]


class Rounds(TestCase):
    def test_schools(self) -> None:
        first = date(2026, 1, 1)
        self.assertEqual(next_round([first], rhythm_from("12")), date(2026, 1, 13))
        dense = rhythm_from("7, 7, 30")
        met = [first]
        for _ in range(4):
            following = next_round(met, dense)
            assert following is not None
            met.append(following)
        self.assertEqual([(b - a).days for a, b in pairwise(met)], [7, 7, 30, 30])
        self.assertIsNone(next_round([], dense))

    def test_what_is_no_rhythm_says_why(self) -> None:
        for text in ("", "never", "0", "7 x", "500", " ".join(["7"] * 13)):
            with self.subTest(text), self.assertRaisesRegex(ValueError, "rhythm"):
                rhythm_from(text)


class Temperatures(TestCase):
    def test_the_mean_is_over_time_not_over_readings(self) -> None:
        points = [(START, 31.0), (START + timedelta(hours=2), 31.0), (START + timedelta(hours=2, minutes=30), 33.0)]
        read = log_read(points)
        self.assertAlmostEqual(read.mean or 0, (2 * 31 + 0.5 * 32) / 2.5)
        self.assertEqual(read.hours, 2.5)

    def test_a_gap_is_named_and_not_counted_in_the_mean(self) -> None:
        read = log_read(hours(31, 31, None, None, None, None, 20, 20))
        self.assertEqual(
            [(one.kind, (one.end - one.start).total_seconds() / 3600) for one in read.stretches if one.kind == "gap"],
            [("gap", 5)],
        )
        self.assertAlmostEqual(read.mean or 0, 25.5)
        self.assertEqual(read.hours, 2)

    def test_spikes_and_chills_are_named_with_their_worst(self) -> None:
        read = log_read(hours(31, 33.4, 34.1, 31, 31, 29.0, 28.2, 31, 33.2))
        found = [(one.kind, one.worst, one.start.hour, one.end.hour) for one in read.stretches]
        self.assertEqual(found, [("hot", 34.1, 1, 2), ("cold", 28.2, 5, 6), ("hot", 33.2, 8, 8)])

    def test_an_empty_log_and_a_single_reading_have_no_mean(self) -> None:
        self.assertIsNone(log_read([]).mean)
        self.assertIsNone(log_read(hours(31)).mean)

    def test_cooler_is_later_and_not_without_end(self) -> None:
        laid = date(2026, 4, 15)
        usual, cool, cold, warm = (due_window(laid, mean)[0] for mean in (31.5, 30.5, 10.0, 32.5))
        self.assertEqual([(day - laid).days for day in (usual, cool, warm)], [53, 56, 50])
        self.assertEqual(cold, due_window(laid, 29.0)[0])
        self.assertEqual(expected_days(laid, mean_c=30.5).due_from, cool)
