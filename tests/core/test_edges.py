"""Bodies told by their two edges alone, in pictures whose edges are known."""

from __future__ import annotations

from unittest import TestCase

import cv2
import numpy as np

from eyot_core.body import half_widths
from eyot_core.photo.edges import between_edges, carried_on, moved_between, slopes_of

SHAPE = (240, 480)
HALF = 20.0


def drawn(*, filled: bool = False) -> tuple[np.ndarray, np.ndarray]:
    """CIELAB of a bent body and its middle (n, 2): of the ground's own colour between two soft lines that are darker, or dark all over."""
    u = np.linspace(0, 1, 200)
    middle = np.stack([20 + 440 * u, 120 + 45 * np.sin(5 * u)], axis=1)
    widths = half_widths(u, HALF * 13 * np.pi)
    heading = np.gradient(middle, axis=0)
    heading /= np.hypot(*heading.T)[:, None]
    side = np.stack([-heading[:, 1], heading[:, 0]], axis=1) * widths[:, None]
    around = np.concatenate([middle + side, (middle - side)[::-1]]).round().astype(np.int32)
    lines = np.zeros(SHAPE, dtype=np.float32)
    if filled:
        cv2.fillPoly(lines, [around], 1)
    else:
        cv2.polylines(lines, [around], True, 1, 2)
    picture = np.zeros((*SHAPE, 3))
    picture[..., 0] = 82 - 8 * cv2.GaussianBlur(lines, (0, 0), 1.0)
    return picture + np.random.default_rng(2).normal(0, 0.5, picture.shape), middle


class Edges(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, cls.middle = drawn()
        cls.free = np.ones(SHAPE, dtype=bool)

    def test_what_lies_between_two_edges_is_filled_where_it_is_not_too_wide(self) -> None:
        masks = list(between_edges(self.picture, self.free, lighter=True))
        rows, columns = self.middle[50:140].round().astype(int).T[::-1]
        self.assertGreater(masks[4][rows, columns].mean(), 0.95, "half-widths of up to 23 pixels")
        self.assertLess(masks[0][rows, columns].mean(), 0.1, "half-widths of up to 9 pixels")
        self.assertLess(masks[4][:40].mean() + masks[4][-40:].mean(), 0.05, "nothing lies there")

    def test_what_is_darker_than_its_edges_is_no_pale_body(self) -> None:
        dark, _ = drawn(filled=True)
        rows, columns = self.middle[50:140].round().astype(int).T[::-1]
        found = {lighter: list(between_edges(dark, self.free, lighter=lighter))[4] for lighter in (True, False)}
        self.assertLess(found[True][rows, columns].mean(), 0.1)
        self.assertGreater(found[False][rows, columns].mean(), 0.95)

    def test_a_line_beside_the_middle_is_moved_into_it(self) -> None:
        beside = self.middle[10:-10] + np.array([0.0, 11.0])
        between = moved_between(slopes_of(self.picture, self.free), beside)
        off = np.abs(between.places[20:-20] - self.middle[30:-30])[:, 1]
        self.assertLess(float(off.mean()), 1.5, "it was eleven pixels off")
        self.assertAlmostEqual(float(between.widths.max()), HALF, delta=3)
        self.assertGreater(between.support, 0.8)

    def test_where_there_are_no_edges_there_is_no_support(self) -> None:
        bare = np.full((*SHAPE, 3), 82.0) + np.random.default_rng(3).normal(0, 0.5, (*SHAPE, 3))
        self.assertLess(moved_between(slopes_of(bare, self.free), self.middle).support, 0.2)

    def test_a_line_that_ends_too_soon_is_carried_on_to_the_end(self) -> None:
        short = self.middle[12:]
        longer = carried_on(slopes_of(self.picture, self.free), short)
        self.assertLess(float(np.hypot(*(longer[0] - self.middle[0]))), 12)
        self.assertGreater(float(np.hypot(*(short[0] - self.middle[0]))), 24)
