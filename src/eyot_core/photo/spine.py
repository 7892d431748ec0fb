"""The line that a keeper draws along the back, and the smooth midline through it.

Source: a cubic spline with centripetal knots, which makes no loops between uneven points.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import ArrayLike, NDArray

from eyot_core.body import half_widths

Floats = NDArray[np.float64]
STATIONS = 1200
LEAST_POINTS, MOST_POINTS = 4, 60
MOST_CROSSINGS = 3
LEAST_LENGTH = 40.0
END_TOLERANCE = 0.02
CLOSEST = 1.6


@dataclass(frozen=True)
class Line:
    """What the keeper drew: points (n, 2) in pixels of the upright photo, snout first; ``start`` and ``end``: the range
    of u that the line covers (0 to 1 for a whole animal, less for one that is partly hidden)."""

    points: Floats
    start: float = 0.0
    end: float = 1.0

    def scaled(self, factor: float) -> Line:
        """The same line on the photo at another size (pixel centres kept)."""
        return Line((self.points + 0.5) * factor - 0.5, self.start, self.end)


@dataclass(frozen=True)
class BadLine:
    """Why a line can't be used; falsy. ``at``: position of the point meant, or None for the whole line."""

    reason: str
    at: int | None = None

    def __bool__(self) -> bool:
        return False


@dataclass(frozen=True)
class Spine:
    """The midline at even steps: places (stations, 2) in pixels, unit tangents (stations, 2), u (stations,), the shape's
    half-widths there (stations,) and the length of the whole animal, both in pixels."""

    places: Floats
    tangents: Floats
    u: Floats
    half_widths: Floats
    length: float

    @property
    def across(self) -> Floats:
        """Unit vectors to the animal's right side, (stations, 2)."""
        return np.stack([-self.tangents[:, 1], self.tangents[:, 0]], axis=1)


def line_from(points: ArrayLike, width: int, height: int, start: float = 0.0, end: float = 1.0) -> Line | BadLine:
    """A line that can be used on a photo of that size, or what is wrong with it. Points a little outside count as on the
    edge."""
    line = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if not LEAST_POINTS <= len(line) <= MOST_POINTS:
        return BadLine(
            f"a line of {len(line)} points can't follow a body; set 6 to 14 from the snout to the tail"
            if len(line) < LEAST_POINTS
            else f"a line has at most {MOST_POINTS} points, this one has {len(line)}"
        )
    if not (0 <= start < end <= 1):
        return BadLine("the line's range on the body must run from 0 (snout) up to 1 (tail tip)")
    slack = END_TOLERANCE * max(width, height)
    outside = (line < -slack).any(axis=1) | (line > np.array([width, height]) - 1 + slack).any(axis=1)
    if outside.any() or not np.isfinite(line).all():
        at = int(np.nonzero(outside | ~np.isfinite(line).all(axis=1))[0][0])
        return BadLine(f"point {at + 1} lies outside the photo, which has {width} × {height} pixels", at)
    line = np.clip(line, 0, np.array([width, height]) - 1.0)
    steps = np.hypot(*np.diff(line, axis=0).T)
    if (steps < 1e-6).any():
        keep = np.concatenate([[True], steps >= 1e-6])
        return line_from(line[keep], width, height, start, end)
    if steps.sum() < LEAST_LENGTH:
        return BadLine(
            f"the line is {steps.sum():.0f} pixels long; at least {LEAST_LENGTH:.0f} are needed to see a pattern"
        )
    crossings = _crossings(line)
    if crossings > MOST_CROSSINGS:
        return BadLine(f"the line crosses itself {crossings} times; draw it once along the back, from snout to tail")
    return Line(line, start, end)


def _crossings(points: Floats) -> int:
    """How often the straight pieces between the points cross each other."""
    first, second = points[:-1], points[1:]

    def side(a: Floats, b: Floats, c: Floats) -> Floats:
        return np.sign(
            (b[..., 0] - a[..., 0]) * (c[..., 1] - a[..., 1]) - (b[..., 1] - a[..., 1]) * (c[..., 0] - a[..., 0])
        )

    a, b = first[:, None], second[:, None]
    c, d = first[None], second[None]
    crossed = (side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0)
    return int(np.triu(crossed, 2).sum())


def spine_of(line: Line, stations: int = STATIONS) -> Spine:
    """The cubic spline through the line's points with centripetal knots, at even steps of its length."""
    points = _apart(line)
    knots = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T) ** 0.5)])
    curve = scipy.interpolate.CubicSpline(knots, points)(np.linspace(0, knots[-1], 4 * stations))
    return spine_along(curve, line.start, line.end, stations)


def _apart(line: Line) -> Floats:
    """The points, but of those that lie closer than the body is thick only some: they tell of the hand, not of the body."""
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line.points, axis=0).T))])
    thick = float(half_widths(np.linspace(line.start, line.end, 9), along[-1] / (line.end - line.start)).max())
    wanted = int(np.clip(along[-1] / (CLOSEST * thick) + 1, LEAST_POINTS, len(along)))
    if wanted == len(along):
        return line.points
    kept = np.unique(np.abs(along[:, None] - np.linspace(0, along[-1], wanted)).argmin(axis=0))
    return np.asarray(line.points[kept])


def spine_along(curve: Floats, start: float, end: float, stations: int = STATIONS) -> Spine:
    """The midline along a finely stepped curve (steps, 2)."""
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(curve, axis=0).T))])
    even = np.linspace(0, along[-1], stations)
    places = np.stack([np.interp(even, along, curve[:, axis]) for axis in (0, 1)], axis=1)
    tangents = np.gradient(places, axis=0)
    tangents /= np.maximum(np.hypot(*tangents.T), 1e-9)[:, None]
    u = np.linspace(start, end, stations)
    length = float(along[-1]) / (end - start)
    return Spine(places, tangents, u, half_widths(u, length), length)
