"""Products and sums over large arrays of genotypes, arranged so that the machine runs along memory.

An array over genotypes has one short axis a group (two to six states). NumPy's own sums and products over several such axes
spend their time on loops of two or three steps; here axes are taken away one at a time, each as a sum of long stretches,
and tables over few axes are multiplied among themselves before they meet the whole.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from math import prod

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Table = tuple[tuple[int, ...], Floats]
MERGED_CELLS = 16384
INNER_CELLS = 512
SMALL_CELLS = 4096


def as_chance(value: float) -> float:
    """A sum of chances, without what rounding put above 1."""
    return min(1.0, float(value))


class Marginals:
    """Sums of one array over all groups but a few. What was summed once is kept.

    >>> Marginals(np.array([[0.1, 0.2], [0.3, 0.4]])).of([1]).round(12).tolist()
    [0.4, 0.6]
    """

    def __init__(self, values: Floats) -> None:
        self._axes = tuple(range(values.ndim))
        self._known: dict[tuple[int, ...], Floats] = {self._axes: values}

    @property
    def whole(self) -> Floats:
        """The array itself."""
        return self._known[self._axes]

    def of(self, groups: Iterable[int]) -> Floats:
        """The sum over all other groups; one axis for each of ``groups``, ascending."""
        kept = frozenset(groups)
        axes = self._start(kept)
        found = self._known[axes]
        while run := _first_run(axes, kept):
            start, end = (
                run if found.size <= SMALL_CELLS else (run[0], run[0] + 1)
            )  # of large arrays every step is shared
            rest = axes[:start] + axes[end:]
            if rest not in self._known:
                self._known[rest] = without_axes(found, start, end)
            axes, found = rest, self._known[rest]
        return found

    def _start(self, kept: frozenset[int]) -> tuple[int, ...]:
        """The smallest of the whole and its two halves that holds all wanted axes."""
        split = len(self._axes) // 2
        for half in (self._axes[:split], self._axes[split:]):
            if half and kept <= set(half):
                if half not in self._known:
                    shape = self.whole.shape
                    rows = np.ascontiguousarray(self.whole).reshape(prod(shape[:split]), -1)
                    sums = rows.sum(axis=1) if half[0] == 0 else np.ones(len(rows)) @ rows
                    self._known[half] = sums.reshape([shape[axis] for axis in half])
                return half
        return self._axes


def _first_run(axes: tuple[int, ...], kept: frozenset[int]) -> tuple[int, int] | None:
    """Positions of the first neighbouring axes that are not kept: from, and up to but not with; ``None`` if all are kept."""
    unwanted = [axis not in kept for axis in axes]
    if True not in unwanted:
        return None
    start = unwanted.index(True)
    length = unwanted[start:].index(False) if False in unwanted[start:] else len(axes) - start
    return start, start + length


def without_axes(values: Floats, start: int, end: int) -> Floats:
    """The sum over the axes from ``start`` up to ``end``."""
    shape = values.shape
    before, own, after = prod(shape[:start]), prod(shape[start:end]), prod(shape[end:])
    blocks = np.ascontiguousarray(values).reshape(before, own, after)
    if after == 1:
        found = blocks.reshape(before, own) @ np.ones(own)
    elif before == 1:
        found = np.ones(own) @ blocks.reshape(own, after)
    else:
        found = blocks.sum(axis=1)
    return np.asarray(found.reshape(shape[:start] + shape[end:]))


def product_of(tables: Sequence[Table], shape: tuple[int, ...]) -> Floats:
    """The product of tables over few groups each, as an array over all groups.

    ``tables``: the groups of each (ascending) with its values, shape (children of each of them …).
    """
    split = _split(shape)
    outer, inner = prod(shape[:split]), prod(shape[split:])
    found: Floats | None = None
    for groups, values in _merged(tables, shape):
        first = [size if axis in groups else 1 for axis, size in enumerate(shape[:split])]
        last = [size if axis + split in groups else 1 for axis, size in enumerate(shape[split:])]
        rows = np.broadcast_to(values.reshape(first + last), first + list(shape[split:])).reshape(prod(first), inner)
        spread = rows[_row_of(tuple(first), shape[:split])] if len(rows) > 1 else rows
        if found is None:
            found = np.array(np.broadcast_to(spread, (outer, inner)))
        else:
            found *= spread
    return np.ones(shape) if found is None else found.reshape(shape)


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
    found: list[Table] = []
    for groups, values in sorted(tables, key=lambda table: table[0]):
        for place, (others, product) in enumerate(found):
            union = tuple(sorted({*groups, *others}))
            if prod(shape[axis] for axis in union) <= MERGED_CELLS:
                found[place] = (union, _over(union, groups, values) * _over(union, others, product))
                break
        else:
            found.append((groups, values))
    return found


def _over(union: tuple[int, ...], groups: tuple[int, ...], values: Floats) -> Floats:
    sizes = iter(values.shape)
    return values.reshape([next(sizes) if axis in groups else 1 for axis in union])
