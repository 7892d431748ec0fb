"""Sums and products over large arrays agree with NumPy's own, whatever is asked first."""

from __future__ import annotations

import itertools
import random
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from eyot_core.genetics import tables
from eyot_core.genetics.cross import _least_of_top
from eyot_core.genetics.tables import Marginals, as_chance, product_of

SHAPE = (2, 3, 4, 2, 3, 2)


class Sums(TestCase):
    def test_every_marginal_in_any_order(self) -> None:
        values = np.random.default_rng(1).random(SHAPE)
        wanted = [groups for count in range(7) for groups in itertools.combinations(range(6), count)]
        for seed, small in itertools.product(range(4), (0, 50, 10_000)):
            sums = Marginals(values)
            tables._way_to.cache_clear()
            self.addCleanup(tables._way_to.cache_clear)
            with patch.object(tables, "SMALL_CELLS", small):
                for groups in random.Random(seed).sample(wanted, len(wanted)):
                    others = tuple(axis for axis in range(6) if axis not in groups)
                    np.testing.assert_allclose(sums.of(groups), values.sum(axis=others), rtol=1e-12)

    def test_nothing_in_play(self) -> None:
        self.assertEqual(float(Marginals(np.array(1.0)).of([])), 1.0)


class Products(TestCase):
    def test_small_tables_over_the_whole(self) -> None:
        draw = np.random.default_rng(2)
        r = random.Random(2)
        for merged, inner in itertools.product((1, 12, 4096), (1, 6, 512)):
            with patch.multiple(tables, MERGED_CELLS=merged, INNER_CELLS=inner):
                chosen = [tuple(sorted(r.sample(range(6), r.randint(0, 4)))) for _ in range(5)]
                small = [(groups, draw.random([SHAPE[g] for g in groups])) for groups in chosen]
                wanted = np.ones(SHAPE)
                for groups, values in small:
                    wanted = wanted * values.reshape([size if axis in groups else 1 for axis, size in enumerate(SHAPE)])
                np.testing.assert_allclose(product_of(small, SHAPE), wanted, rtol=1e-12)

    def test_no_tables_are_one_everywhere(self) -> None:
        self.assertTrue((product_of([], SHAPE) == 1).all())


class Tops(TestCase):
    def test_the_kth_largest_by_blocks(self) -> None:
        values = np.random.default_rng(3).random(50_000)
        for top in (1, 20, 48):
            self.assertEqual(_least_of_top(values, top), float(np.sort(values)[-top]))

    def test_rounding_never_leaves_a_chance_above_one(self) -> None:
        self.assertEqual(as_chance(1 + 2e-16), 1.0)
        self.assertEqual(as_chance(0.25), 0.25)
