"""Whose photo it is, by cards: card first, then the animal; what is not sure waits, and nobody's card counts for somebody else."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from eyot_core.drawing.camera import photographed
from eyot_core.photo.filing import BY_CARD, BY_LAST_CARD, WAITS, Shot, filed
from eyot_core.photo.find import find_animal
from eyot_core.photo.fingerprint import fingerprint, same_among
from eyot_core.photo.shows import shown_in
from eyot_core.photo.sight import Sight

from tests.core.photographs import looks_of, small_photo

HATCHLINGS, CLUTCHES = ("26-W02-1", "26-W02-2"), ("W-02",)
EVENING = datetime(2026, 8, 14, 19, 0)  # noqa: DTZ001  a camera's clock knows no zone


def shot(minute: float, *ids: str, **more: Any) -> Shot:
    """A photo so many minutes into the evening."""
    return Shot(minute, EVENING + timedelta(minutes=minute), ids, **more)


def told(*shots: Shot) -> list[tuple[str, str]]:
    """Whose each is, and by what or why not."""
    return [(one.id, one.by or one.why) for one in filed(shots, HATCHLINGS, CLUTCHES)]


class ByTheCard(TestCase):
    def test_a_card_counts_for_its_photo_and_for_what_follows(self) -> None:
        got = told(shot(0, "26-W02-1"), shot(1), shot(2), shot(3, "26-W02-2"), shot(4))
        first, second = "26-W02-1", "26-W02-2"
        self.assertEqual(
            got,
            [(first, BY_CARD), (first, BY_LAST_CARD), (first, BY_LAST_CARD), (second, BY_CARD), (second, BY_LAST_CARD)],
        )

    def test_before_the_first_card_everything_waits(self) -> None:
        self.assertEqual(told(shot(0), shot(1, "26-W02-1")), [("", "no-card"), ("26-W02-1", BY_CARD)])

    def test_the_same_card_twice_in_a_photo_is_one(self) -> None:
        self.assertEqual(told(shot(0, "26-W02-1", "26-W02-1")), [("26-W02-1", BY_CARD)])

    def test_a_session_may_be_long_but_not_interrupted(self) -> None:
        long = told(shot(0, "26-W02-1"), shot(15), shot(30), shot(45))
        self.assertEqual({by for _, by in long[1:]}, {BY_LAST_CARD})
        self.assertEqual(told(shot(0, "26-W02-1"), shot(25), shot(26))[1:], [("", "after-pause")] * 2)

    def test_a_card_that_cannot_be_used_ends_the_one_before(self) -> None:
        for bad, why in (
            (shot(1, unread=True), "unread-card"),
            (shot(1, "26-W02-1", "26-W02-2"), "several-cards"),
            (shot(1, "31-X01-9"), "stranger"),
        ):
            with self.subTest(why):
                got = told(shot(0, "26-W02-1"), bad, shot(2), shot(3, "26-W02-2"), shot(4))
                self.assertEqual(got[1:3], [("", why), ("", "after-unread")])
                self.assertEqual(got[4], ("26-W02-2", BY_LAST_CARD))

    def test_a_photo_that_shows_nothing_may_have_been_a_card(self) -> None:
        got = told(shot(0, "26-W02-1"), shot(1, shows=False), shot(2))
        self.assertEqual(got[1:], [("", "unclear"), ("", "after-unclear")])

    def test_a_clutchs_card_proposes_the_clutch(self) -> None:
        got = told(shot(0, "26-W02-1"), shot(1, "W-02"), shot(2))
        self.assertEqual(got[1:], [("W-02", "clutch-card")] * 2)

    def test_what_is_not_looked_at_may_hold_a_card(self) -> None:
        got = told(shot(0, "26-W02-1"), shot(1, looked=False), shot(2), shot(3, "26-W02-2"), shot(4))
        self.assertEqual([by for _, by in got[1:3]], ["not-looked-at"] * 2)
        self.assertEqual(got[4], ("26-W02-2", BY_LAST_CARD))

    def test_without_a_date_nothing_is_put_behind_a_card(self) -> None:
        undated = Shot("x", None)
        self.assertEqual(told(shot(0, "26-W02-1"), undated)[1], ("", "no-date"))
        self.assertEqual(told(Shot("y", None, ("26-W02-1",))), [("26-W02-1", BY_CARD)])

    def test_every_reason_is_told_in_words(self) -> None:
        for row in filed(
            [shot(0), shot(1, unread=True), shot(2), shot(3, "?"), shot(4, "a", "b")], HATCHLINGS, CLUTCHES
        ):
            self.assertIn(row.why, WAITS)


class WhatAPhotoShows(TestCase):
    """Shapes and lightness tell; a white animal's two sides look alike, and it is said so."""

    takes_long = True

    def kind(self, number: int, pose: str) -> tuple[str, float]:
        pixels = photographed(looks_of(number), number, pose, width=640, height=480).pixels
        sight = Sight.of(pixels)
        shown = shown_in(sight, find_animal(sight))
        return shown.kind, shown.confidence

    def test_poses_are_recognised(self) -> None:
        for pose, kind in (
            ("coil", "back"),
            ("crossing", "back"),
            ("egg", "egg"),
            ("belly", "belly"),
            ("head", "head"),
        ):
            with self.subTest(pose):
                self.assertEqual(self.kind(3, pose)[0], kind)

    def test_white_animals_are_doubted(self) -> None:
        for pose in ("loose", "belly"):
            self.assertLess(self.kind(1, pose)[1], 0.7, pose)
        self.assertGreater(self.kind(3, "coil")[1], 0.8)

    def test_bare_paper_shows_nothing(self) -> None:
        paper = np.full((120, 160, 3), 226, dtype=np.uint8)
        sight = Sight.of(paper)
        self.assertEqual(shown_in(sight, find_animal(sight)).kind, "")


class TheSamePhoto(TestCase):
    def test_smaller_and_saved_again_it_is_known_and_another_is_not(self) -> None:
        first, second = small_photo(3).pixels, small_photo(4).pixels
        _, coded = cv2.imencode(".jpg", cv2.resize(first, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA))
        again = np.asarray(cv2.imdecode(coded, cv2.IMREAD_COLOR), dtype=np.uint8)
        known = [fingerprint(second), fingerprint(first)]
        self.assertEqual(same_among(fingerprint(again), known), 1)
        self.assertIsNone(same_among(fingerprint(again), known[:1]))
        moved = np.roll(first, (0, 12), axis=(0, 1))
        self.assertIsNone(same_among(fingerprint(np.ascontiguousarray(moved)), known))
        self.assertIsNone(same_among(fingerprint(again), []))
