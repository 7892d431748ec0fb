"""From fields on a grid to SVG paths: contours, thinned out and written as relative quadratic curves with whole numbers."""

from __future__ import annotations

from collections.abc import Callable

import contourpy
import numpy as np
from numpy.typing import NDArray

from eyot_core.drawing.noise import Floats

OUTSIDE = -1.0
Place = Callable[[Floats], Floats]


def region(field: Floats, x: Floats, y: Floats, place: Place, step: float, least: float = 0.0) -> str:
    """The path around everything where ``field`` is positive; empty if there is nothing.

    ``field``: (rows, columns) over ``x`` (columns,) and ``y`` (rows,), both ascending. ``place``: from points (n, 2) in
    (x, y) to points on the page. ``step``: distance of the points kept, ``least``: smallest extent of a loop, both on the page.
    Holes come out right with ``fill-rule="evenodd"``.
    """
    padded = np.pad(field, 1, constant_values=OUTSIDE)
    xs = np.concatenate([[2 * x[0] - x[1]], x, [2 * x[-1] - x[-2]]])
    ys = np.concatenate([[2 * y[0] - y[1]], y, [2 * y[-1] - y[-2]]])
    loops = contourpy.contour_generator(xs, ys, padded).lines(0.0)
    return _curves([np.asarray(loop) for loop in loops if loop is not None and len(loop) > 3], place, step, least)


def _curves(loops: list[Floats], place: Place, step: float, least: float) -> str:
    """Closed curves through the middles between points that lie evenly on each loop; all loops are worked out together.

    ``loops``: (n, 2) each, the first point repeated at the end.
    """
    if not loops:
        return ""
    points = place(np.concatenate(loops))
    first = np.cumsum([0, *(len(loop) for loop in loops)])
    long = np.hypot(*np.diff(points, axis=0).T)
    long[first[1:-1] - 1] = 1.0  # from one loop to the next: a gap, never sampled
    along = np.concatenate([[0.0], np.cumsum(long)])
    begin, length = along[first[:-1]], along[first[1:] - 1] - along[first[:-1]]
    extent = np.maximum.reduceat(points, first[:-1]) - np.minimum.reduceat(points, first[:-1])
    kept = extent.max(axis=1) >= least
    counts = np.maximum(4, np.round(length / step)).astype(int)[kept]
    if not len(counts):
        return ""
    start = np.cumsum([0, *counts])
    number = np.arange(start[-1]) - np.repeat(start[:-1], counts)
    at = np.repeat(begin[kept], counts) + number * np.repeat(length[kept] / counts, counts)
    even = np.stack([np.interp(at, along, points[:, axis]) for axis in (0, 1)], axis=1)
    which = np.repeat(np.arange(len(counts)), counts)
    needed = ~_straight(even, which)
    even, counts = even[needed], np.bincount(which[needed], minlength=len(counts))
    start = np.cumsum([0, *counts])
    following = np.arange(start[-1]) + 1
    following[start[1:] - 1] = start[:-1]
    return _written(even, following, start)


def _written(corners: Floats, following: NDArray[np.intp], start: NDArray[np.intp]) -> str:
    """Relative quadratic curves with whole numbers, one closed path for each loop."""
    ends = np.round((corners + corners[following]) / 2).astype(int)
    before = np.empty_like(ends)
    before[following] = ends
    steps = np.concatenate([np.round(corners).astype(int) - before, ends - before], axis=1).tolist()
    segments = [f"{a} {b} {c} {d}" for a, b, c, d in steps]
    origins = before[start[:-1]].tolist()
    loops = zip(origins, start[:-1].tolist(), start[1:].tolist(), strict=True)
    return "".join(f"M{x} {y}q{' '.join(segments[low:high])}z" for (x, y), low, high in loops).replace(" -", "-")


def polyline(points: Floats) -> str:
    """An open line through points, (n, 2), as relative whole numbers."""
    whole = np.round(points).astype(int)
    moves = " ".join(f"{a} {b}" for a, b in np.diff(whole, axis=0).tolist())
    return f"M{whole[0, 0]} {whole[0, 1]}l{moves}".replace(" -", "-")


def _straight(points: Floats, which: NDArray[np.int_]) -> NDArray[np.bool_]:
    """Which points lie between two others on either side on a level or upright line, as the edge of a piece is; (n,). ``which``: the loop
    of each, (n,), in order."""
    straight = np.zeros(len(points), dtype=bool)
    if len(points) < 5:
        return straight
    inside = slice(2, -2)
    for place in np.round(points).T:
        windows = np.lib.stride_tricks.sliding_window_view(place, 5)
        straight[inside] |= (windows == windows[:, :1]).all(axis=1)
    straight[inside] &= which[:-4] == which[4:]
    return straight


def curve(points: Floats) -> str:
    """An open smooth line through points, (n, 2), as quadratic curves through the middles between them."""
    middles = np.vstack([(points[:-1] + points[1:]) / 2, points[-1:]])
    start = np.round(points[0]).astype(int)
    corners, ends = np.round(points).astype(int), np.round(middles).astype(int)
    before = np.vstack([start, ends[:-1]])
    bends, moves = corners - before, ends - before
    curves = " ".join(f"{a} {b} {c} {d}" for (a, b), (c, d) in zip(bends.tolist(), moves.tolist(), strict=True))
    return f"M{start[0]} {start[1]}q{curves}".replace(" -", "-")


def dots(points: Floats) -> str:
    """Strokes without length at points, (n, 2): with round ends they are drawn as dots."""
    places = np.round(points[np.argsort(points[:, 0])]).astype(int)
    steps = np.diff(places, axis=0, prepend=0).tolist()
    return "".join(f"m{x} {y}h0" for x, y in steps).replace(" -", "-")
