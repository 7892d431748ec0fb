"""From fields on a grid to SVG paths: contours, thinned out and written as relative quadratic curves with whole numbers."""

from __future__ import annotations

from collections.abc import Callable

import contourpy
import numpy as np

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
    return "".join(
        _closed(place(np.asarray(loop)), step, least) for loop in loops if loop is not None and len(loop) > 3
    )


def _closed(points: Floats, step: float, least: float) -> str:
    if np.ptp(points, axis=0).max() < least:
        return ""
    ends = np.vstack([points, points[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ends, axis=0).T))])
    count = max(4, round(float(along[-1]) / step))
    at = np.linspace(0, along[-1], count, endpoint=False)
    kept = np.stack([np.interp(at, along, ends[:, axis]) for axis in (0, 1)], axis=1)
    return smooth_loop(kept)


def smooth_loop(points: Floats) -> str:
    """A closed curve that runs through the middles between points, (n, 2), bending towards them."""
    middles = (points + np.roll(points, -1, axis=0)) / 2
    start = np.round(middles[-1]).astype(int)
    corners, ends = np.round(points).astype(int), np.round(middles).astype(int)
    before = np.vstack([start, ends[:-1]])
    bends, moves = corners - before, ends - before
    curves = " ".join(f"{a} {b} {c} {d}" for (a, b), (c, d) in zip(bends.tolist(), moves.tolist(), strict=True))
    return f"M{start[0]} {start[1]}q{curves}z".replace(" -", "-")


def polyline(points: Floats) -> str:
    """An open line through points, (n, 2), as relative whole numbers."""
    whole = np.round(points).astype(int)
    moves = " ".join(f"{a} {b}" for a, b in np.diff(whole, axis=0).tolist())
    return f"M{whole[0, 0]} {whole[0, 1]}l{moves}".replace(" -", "-")


def curve(points: Floats) -> str:
    """An open smooth line through points, (n, 2), as quadratic curves through the middles between them."""
    middles = np.vstack([(points[:-1] + points[1:]) / 2, points[-1:]])
    start = np.round(points[0]).astype(int)
    corners, ends = np.round(points).astype(int), np.round(middles).astype(int)
    before = np.vstack([start, ends[:-1]])
    bends, moves = corners - before, ends - before
    curves = " ".join(f"{a} {b} {c} {d}" for (a, b), (c, d) in zip(bends.tolist(), moves.tolist(), strict=True))
    return f"M{start[0]} {start[1]}q{curves}".replace(" -", "-")


def diamonds(points: Floats, sizes: Floats) -> str:
    """Small diamonds at points, (n, 2), with half-widths (n,)."""
    found = []
    for (x, y), size in zip(
        np.round(points).astype(int).tolist(), np.maximum(1, np.round(sizes)).astype(int), strict=True
    ):
        found.append(f"M{x - size} {y}l{size}-{size} {size} {size}-{size} {size}z")
    return "".join(found)
