"""Lines, outlines and strips: geometry against the true body of simulated photos, and every kind of bad input."""

from __future__ import annotations

import tracemalloc
from unittest import TestCase

import numpy as np

from eyot_core.body import half_widths
from eyot_core.drawing.camera import photographed
from eyot_core.photo.outline import NoOutline, Outline, outline_of
from eyot_core.photo.shading import restored
from eyot_core.photo.spine import BadLine, Line, line_from, spine_of
from eyot_core.photo.strip import COLUMNS, ROWS, Strip, preview_of, strip_of

from tests.core.photographs import Case, case, looks_of


def overlap(found: Outline, one: Case) -> float:
    drawn = found.mask(one.taken.body.shape)
    return float((drawn & one.taken.body).sum() / (drawn | one.taken.body).sum())


class Lines(TestCase):
    def reason(self, *points: tuple[float, float], start: float = 0.0, end: float = 1.0) -> BadLine:
        found = line_from(points, 400, 300, start, end)
        assert isinstance(found, BadLine), found
        self.assertFalse(found)
        return found

    def test_what_can_be_no_line_says_why(self) -> None:
        self.assertIn("2 points", self.reason((10, 10), (90, 90)).reason)
        outside = self.reason((10, 10), (90, 90), (500, 90), (20, 200))
        self.assertEqual(outside.at, 2)
        self.assertIn("point 3 lies outside the photo, which has 400 × 300 pixels", outside.reason)
        self.assertIn("outside", self.reason((10, 10), (90, float("nan")), (50, 90), (20, 200)).reason)
        self.assertIn("pixels long", self.reason((10, 10), (12, 10), (14, 12), (15, 15)).reason)
        self.assertIn("4 points", f"{self.reason(*[(10.0, 10.0)] * 4).reason} 4 points")
        self.assertIn("range", self.reason((10, 10), (90, 90), (50, 90), (20, 200), start=0.6, end=0.4).reason)

    def test_a_line_that_crosses_itself_wildly_is_refused_and_one_crossing_is_not(self) -> None:
        zigzag = [(x, y) for x in (20, 380) for y in (20, 280)]
        star = [(20.0 + 360 * (step % 2), 20.0 + 30 * ((step * 5) % 9)) for step in range(10)]
        self.assertIn("crosses itself", self.reason(*star).reason)
        self.assertIsInstance(line_from([zigzag[0], zigzag[3], zigzag[2], zigzag[1]], 400, 300), Line)

    def test_a_point_a_little_outside_counts_as_on_the_edge(self) -> None:
        line = line_from([(-3, 10), (90, 90), (200, 90), (300, 200)], 400, 300)
        assert isinstance(line, Line)
        self.assertEqual(line.points[0, 0], 0)

    def test_the_spline_has_even_steps_and_passes_through_the_points(self) -> None:
        points = [(20, 30), (120, 180), (220, 60), (330, 250), (380, 90)]
        line = line_from(points, 400, 300)
        assert isinstance(line, Line)
        spine = spine_of(line)
        steps = np.hypot(*np.diff(spine.places, axis=0).T)
        self.assertLess(float(steps.std() / steps.mean()), 0.01)
        for point in points:
            self.assertLess(float(np.hypot(*(spine.places - point).T).min()), 1.0)
        self.assertAlmostEqual(spine.length, float(steps.sum()), delta=0.5)

    def test_the_body_is_widest_behind_the_middle(self) -> None:
        self.assertEqual(int(np.argmax(half_widths(np.linspace(0, 1, 101), 1.0))), 55)


class Outlines(TestCase):
    takes_long = True

    def test_the_outline_lies_on_the_true_body(self) -> None:
        for number in range(8):
            one = case(number)
            with self.subTest(number):
                found = outline_of(one.taken.pixels, one.line)
                assert isinstance(found, Outline), found
                self.assertGreaterEqual(overlap(found, one), 0.93)

    def test_the_end_of_the_photo_is_not_an_edge_of_the_body(self) -> None:
        one = case(225)
        found = outline_of(one.taken.pixels, one.line)
        assert isinstance(found, Outline), found
        self.assertGreaterEqual(overlap(found, one), 0.93)

    def test_coils_and_blue_animals_and_crossings(self) -> None:
        for number, shot, stage in ((3, "coil", "shed"), (8, "loose", "blue"), (9, "crossing", "shed")):
            one = case(number, shot, stage)
            with self.subTest(shot, stage=stage):
                found = outline_of(one.taken.pixels, one.line)
                assert isinstance(found, Outline), found
                self.assertGreaterEqual(overlap(found, one), 0.86)

    def test_in_an_egg_the_shell_over_a_flank_is_not_the_bodys_edge(self) -> None:
        for number in (6, 70, 102):
            one = case(number, "egg", "egg")
            found = outline_of(one.taken.pixels, one.line)
            assert isinstance(found, Outline), found
            true = one.taken.line.repeat(2, axis=0)[:-1]
            true[1::2] = (one.taken.line[1:] + one.taken.line[:-1]) / 2
            off = np.hypot(*(found.spine.places[:, None] - true[None]).transpose(2, 0, 1)).min(axis=1)
            self.assertLess(float(off.mean()), 0.25 * float(found.half_widths.max()), number)
            assert found.shown is not None
            flank = found.spine.places + 0.9 * found.half_widths[:, None] * found.spine.across
            other = found.spine.places - 0.9 * found.half_widths[:, None] * found.spine.across
            covered = [float(found.shown.covers(side[None]).mean()) for side in (flank, other, found.spine.places)]
            self.assertGreater(max(covered[:2]), 0.3, (number, covered))
            self.assertLess(covered[2], 0.1, (number, covered))

    def test_a_brush_elsewhere_leaves_the_shell_covered_and_one_on_it_has_the_last_word(self) -> None:
        one = case(6, "egg", "egg")
        brushed = np.zeros(one.taken.body.shape, dtype=np.int8)
        brushed[:40, :40] = -1
        found = outline_of(one.taken.pixels, one.line, brushed)
        assert isinstance(found, Outline) and found.shown is not None, found
        rows, columns = np.nonzero(found.shown.shell)
        place = np.array([columns.mean(), rows.min() + 3]) / found.shown.factor
        column, row = place.round().astype(int)
        self.assertTrue(found.shown.covers(place[None, None]).all())
        brushed[row - 25 : row + 25, column - 25 : column + 25] = 1
        again = outline_of(one.taken.pixels, one.line, brushed)
        assert isinstance(again, Outline) and again.shown is not None, again
        self.assertFalse(again.shown.covers(place[None, None]).any())

    def test_a_brush_takes_ground_away(self) -> None:
        one = case(0)
        brushed = np.zeros(one.taken.body.shape, dtype=np.int8)
        spine = spine_of(one.line)
        for x, y in spine.places[520:680] + 0.95 * spine.half_widths[520:680, None] * spine.across[520:680]:
            brushed[int(y) - 4 : int(y) + 5, int(x) - 4 : int(x) + 5] = -1
        plain, mended = outline_of(one.taken.pixels, one.line), outline_of(one.taken.pixels, one.line, brushed)
        assert isinstance(plain, Outline), plain
        assert isinstance(mended, Outline), mended
        self.assertLess(mended.half_widths[560:640].mean(), plain.half_widths[560:640].mean() - 0.5)

    def test_nothing_has_no_outline(self) -> None:
        line = line_from([(60, 200), (160, 120), (260, 220), (360, 120)], 420, 320)
        assert isinstance(line, Line)
        noise = np.random.default_rng(3).normal(200, 2, (320, 420, 3)).astype(np.uint8)
        for name, photo in (("paper", noise), ("black", np.zeros_like(noise)), ("white", np.full_like(noise, 255))):
            with self.subTest(name):
                found = outline_of(photo, line)
                assert isinstance(found, NoOutline), found
                self.assertIn("no animal stands out", found.reason)


class Strips(TestCase):
    takes_long = True

    def test_the_pattern_lies_where_it_is_on_the_skin(self) -> None:
        one = case(0)
        found = strip_of(one.taken.pixels, one.line, one.light)
        assert not isinstance(found, NoOutline), found
        strip = found[0]
        self.assertEqual(strip.picture().shape, (ROWS, COLUMNS, 4))
        rows, columns = np.abs(strip.v) < 0.3, (strip.u > 0.1) & (strip.u < 0.92)
        seen = strip.light.mean(axis=2)[np.ix_(rows, columns)]
        true = one.truth[..., 0]
        at = np.ix_(
            np.round((strip.v[rows] + 0.36) / 0.72 * 116).astype(int),
            np.round((strip.u[columns] - 0.09) / 0.84 * 799).astype(int),
        )
        self.assertGreater(float(np.corrcoef(seen.ravel(), true[at].ravel())[0, 1]), 0.75)
        self.assertLess(float(np.corrcoef(seen[::-1].ravel(), true[at].ravel())[0, 1]), 0.5)

    def test_a_part_lies_where_it_belongs_and_the_rest_stays_empty(self) -> None:
        one = case(3, "egg", "egg")
        found = strip_of(one.taken.pixels, one.line, one.light)
        assert not isinstance(found, NoOutline), found
        strip = found[0]
        shown = strip.u[strip.seen.any(axis=0)]
        self.assertAlmostEqual(float(shown.min()), one.taken.start, delta=0.006)
        self.assertAlmostEqual(float(shown.max()), one.taken.end, delta=0.006)

    def test_where_coils_cross_the_part_below_stays_empty(self) -> None:
        for number in (10, 13, 15):
            with self.subTest(number):
                one = case(number, "crossing")
                found = strip_of(one.taken.pixels, one.line, one.light)
                assert not isinstance(found, NoOutline), found
                hidden = np.nonzero((~found[0].seen).mean(axis=0) > 0.5)[0] / COLUMNS
                self.assertGreater(len(hidden), 10)
                self.assertGreater(float(np.median(hidden)), 0.55, "the hind part passes below")

    def test_burnt_and_black_places_are_marked(self) -> None:
        one = case(0)
        spoilt = one.taken.pixels.copy()
        x, y = spine_of(one.line).places[600].astype(int)
        spoilt[y - 6 : y + 6, x - 6 : x + 6] = 255
        found = strip_of(spoilt, one.line, one.light)
        assert not isinstance(found, NoOutline), found
        self.assertTrue(found[0].clipped[70:90, 590:610].any())
        self.assertFalse((found[0].counted & found[0].clipped).any())

    def test_burnt_white_beside_tan_skin_stays_white(self) -> None:
        white, tan = (0.9, 0.9, 0.9), (0.5, 0.36, 0.2)
        light = np.tile(np.array([white, tan], dtype=np.float32), (40, 20, 1))
        clipped = np.zeros(light.shape, dtype=bool)
        clipped[:, ::2, 0] = True
        light[:, ::2, 0] = 0.7
        whole = restored(light, clipped, ~clipped.any(axis=2))
        self.assertTrue(np.allclose(whole[:, ::2], 0.9, atol=0.01), whole[0, 0])
        self.assertTrue(np.array_equal(whole[:, 1::2], light[:, 1::2]))
        light[:, ::2] = (0.5, 0.72, 0.4)
        whole = restored(light, clipped, ~clipped.any(axis=2))
        self.assertTrue(np.allclose(whole[:, ::2], 2 * np.array(tan), atol=0.01), "what has tan's tint has its red")

    def test_the_quick_strip_shows_the_same_animal(self) -> None:
        quick, whole = {}, {}
        for seed in (4, 7):
            taken = photographed(looks_of(3), seed, "loose")
            line = line_from(taken.line, 1000, 750)
            assert isinstance(line, Line)
            found = strip_of(taken.pixels, line)
            assert isinstance(found, tuple)
            quick[seed] = preview_of(taken.pixels, line)[40:120, 120:1100, 1].ravel()
            whole[seed] = found[0].picture()[40:120, 120:1100, 1].ravel()
        for seed, other in ((4, 7), (7, 4)):
            self.assertGreater(float(np.corrcoef(quick[seed], whole[seed])[0, 1]), 0.55)
            self.assertLess(float(np.corrcoef(quick[seed], whole[other])[0, 1]), 0.15)

    def test_without_a_reference_the_strip_says_so(self) -> None:
        one = case(0)
        found = strip_of(one.taken.pixels, one.line)
        assert isinstance(found, tuple)
        assert isinstance(found[0], Strip)
        self.assertFalse(found[0].corrected)

    def test_a_short_line_in_a_large_photo_asks_for_little_memory(self) -> None:
        photo = np.full((3000, 4000, 3), 200, dtype=np.uint8)
        photo[1500:1540, 2000:2060] = (90, 70, 50)
        short = Line(np.array([[2005.0, 1520.0], [2030.0, 1521.0], [2055.0, 1520.0]]))
        tracemalloc.start()
        try:
            strip_of(photo, short)
            peak = tracemalloc.get_traced_memory()[1]
        finally:
            tracemalloc.stop()
        self.assertLess(peak, 500e6, "it was 2 GB while the body was sought among all pixels")
