"""Products and sums over large arrays of genotypes, arranged so that the machine runs along memory.

An array over genotypes has one short axis a group (two to six states). NumPy's own sums and products over several such axes
spend their time on loops of two or three steps; here axes are taken away one at a time, each as a sum of long stretches,
and tables over few axes are multiplied among themselves before they meet the whole.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache
from math import prod

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Table = tuple[tuple[int, ...], Floats]
MERGED_CELLS = 16384
INNER_CELLS = 512
SMALL_CELLS = 4096
CHUNK_CELLS = 65_536


def as_chance(value: float) -> float:
    """A sum of chances, without what rounding put above 1."""
    return min(1.0, float(value))


Axes = tuple[int, ...]


class Marginals:
    """Sums of one array over all groups but a few. What was summed once is kept.

    >>> Marginals(np.array([[0.1, 0.2], [0.3, 0.4]])).of([1]).round(12).tolist()
    [0.4, 0.6]
    """

    def __init__(self, values: Floats) -> None:
        self.whole = values
        self._known: dict[Axes, Floats] = {tuple(range(values.ndim)): values}

    def of(self, groups: Iterable[int]) -> Floats:
        """The sum over all other groups; one axis for each of ``groups``, ascending."""
        sums = self.whole
        for axes, blocks, shape in _way_to(self.whole.shape, tuple(groups)):
            known = self._known.get(axes)
            if known is None:
                known = self._known[axes] = _summed(sums, blocks).reshape(shape)
            sums = known
        return sums


def _summed(values: Floats, blocks: tuple[int, int, int]) -> Floats:
    """The sum over the middle of three axes: (before, own, after)."""
    before, own, after = blocks
    if after == 1:
        return np.asarray(np.ascontiguousarray(values).reshape(before, own) @ np.ones(own))
    if before == 1:
        return np.asarray(np.ones(own) @ np.ascontiguousarray(values).reshape(own, after))
    return np.asarray(np.ascontiguousarray(values).reshape(blocks).sum(axis=1))


@lru_cache(maxsize=8192)
def _way_to(shape: tuple[int, ...], kept: Axes) -> tuple[tuple[Axes, tuple[int, int, int], tuple[int, ...]], ...]:
    """The steps from the whole to the kept axes: which axes are left, how to sum for it, and the shape of what is left.

    A half of the array that holds all kept axes comes first. Of large arrays one axis is taken away at a time, always the
    first one that is not wanted, so that many ways share their first steps; of small ones a whole run of axes.
    """
    axes = tuple(range(len(shape)))
    steps = []
    middle = len(axes) // 2
    for start, end in ((middle, len(axes)), (0, middle)):
        if end - start < len(axes) and start < end and not set(kept) & set(axes[start:end]):
            steps.append(_step(shape, axes, start, end))
            axes = steps[-1][0]
            break
    while len(axes) > len(kept):
        start = next(place for place, axis in enumerate(axes) if axis not in kept)
        end = start + 1
        if prod(shape[axis] for axis in axes) <= SMALL_CELLS:
            while end < len(axes) and axes[end] not in kept:
                end += 1
        steps.append(_step(shape, axes, start, end))
        axes = steps[-1][0]
    return tuple(steps)


def _step(
    shape: tuple[int, ...], axes: Axes, start: int, end: int
) -> tuple[Axes, tuple[int, int, int], tuple[int, ...]]:
    sizes = [shape[axis] for axis in axes]
    rest = axes[:start] + axes[end:]
    return rest, (prod(sizes[:start]), prod(sizes[start:end]), prod(sizes[end:])), tuple(shape[axis] for axis in rest)


def product_of(tables: Sequence[Table], shape: tuple[int, ...]) -> Floats:
    """The product of tables over few groups each, as an array over all groups.

    ``tables``: the groups of each (ascending) with its values, shape (children of each of them …).
    """
    split = _split(shape)
    outer, inner = prod(shape[:split]), prod(shape[split:])
    ready = [_ready(table, shape, split) for table in _merged(tables, shape)]
    product = np.empty((outer, inner))
    step = max(1, CHUNK_CELLS // inner)
    for start in range(0, outer, step):  # in pieces that stay in the processor's cache
        piece = product[start : start + step]
        piece[:] = 1.0
        for rows, row_of in ready:
            piece *= rows if row_of is None else rows[row_of[start : start + step]]
    return product.reshape(shape)


def _ready(table: Table, shape: tuple[int, ...], split: int) -> tuple[Floats, NDArray[np.intp] | None]:
    """A table as rows of the inner block, and for each outer cell its row (``None``: one row serves all)."""
    groups, values = table
    first = [size if axis in groups else 1 for axis, size in enumerate(shape[:split])]
    last = [size if axis + split in groups else 1 for axis, size in enumerate(shape[split:])]
    rows = np.broadcast_to(values.reshape(first + last), first + list(shape[split:])).reshape(prod(first), -1)
    return rows, _row_of(tuple(first), shape[:split]) if len(rows) > 1 else None


def _split(shape: tuple[int, ...]) -> int:
    """Where the inner block begins: as many of the last axes as fit."""
    split = len(shape)
    while split > 0 and prod(shape[split - 1 :]) <= INNER_CELLS:
        split -= 1
    return split


def _row_of(sizes: tuple[int, ...], shape: tuple[int, ...]) -> NDArray[np.intp]:
    """For each outer cell its row in a table over some of the outer axes (``sizes`` is 1 at the others)."""
    rows = np.arange(prod(sizes)).reshape(sizes)
    return np.ascontiguousarray(np.broadcast_to(rows, shape)).reshape(-1)


def _merged(tables: Sequence[Table], shape: tuple[int, ...]) -> list[Table]:
    """Tables multiplied among themselves as long as the product stays small."""
    merged: list[Table] = []
    for groups, values in sorted(tables, key=lambda table: table[0]):
        for place, (others, product) in enumerate(merged):
            union = tuple(sorted({*groups, *others}))
            if prod(shape[axis] for axis in union) <= MERGED_CELLS:
                merged[place] = (union, _over(union, groups, values) * _over(union, others, product))
                break
        else:
            merged.append((groups, values))
    return merged


def _over(union: tuple[int, ...], groups: tuple[int, ...], values: Floats) -> Floats:
    sizes = iter(values.shape)
    return values.reshape([next(sizes) if axis in groups else 1 for axis in union])
