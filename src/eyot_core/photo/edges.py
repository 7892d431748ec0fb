"""Bodies that are told by their two edges alone: white skin on white paper has the paper's colour, but an edge on either side.

For each place, direction and half-width the weaker of the two edges at that distance counts; where it is strong, something like a tube
runs. The half-width is not known beforehand, so that one mask is made for each largest half-width: a wider one also fills the gap between
two bends. A line that was found so is then moved between the two edges that lie about it as a body's would, all along.

Source: ours; two edges on either side of a place are the classical sign of a vessel or a road seen from above.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.body import GIRTHS, half_widths
from eyot_core.colour import summed

Floats = NDArray[np.float64]
Single = NDArray[np.float32]
Mask = NDArray[np.bool_]

DIRECTIONS = 16
RADII = (2.4, 3.0, 3.8, 4.7, 5.9, 7.4, 9.2, 11.5, 14.0)
"""Half-widths in pixels of the photo at half the size in which it is searched."""
WIDEST = (4.7, 5.9, 7.4, 9.2, 11.5, 14.0)
ALONG = 9
"""Over how many pixels along itself an edge is averaged."""
STRONG = 3.0
"""From which multiple of the usual two edges count."""
PLAIN = 6.0
"""From which multiple of the usual a slope is plainly an edge."""
NEARLY = 0.97
"""What share of the strongest pair about itself a pair must have to be drawn."""
LEAST_USUAL = 0.05
"""The least usual difference between neighbouring pixels, CIELAB: where all is burnt out there is no noise at all."""
DARKER = 0.5
"""What an edge counts beyond which it grows lighter: rather the edge of a shadow than of pale skin."""
STEP = 0.75
GIRTHS_TRIED = np.geomspace(0.5, 1.7, 14)
"""Half-widths that are tried, in shares of what is usual for the length."""
BEND_COSTS, OFF_COSTS = 0.06, 0.02
ASIDE = 0.45
"""How far beside a line that somebody drew the middle of the body may lie, in its largest half-width."""
ASIDE_COSTS = 8.0
"""What it costs at each place to lie a half-width beside such a line."""
CARRIED = 2.5
"""How far a line is carried on at both ends, in half-widths that are usual for its length."""
LIKELY_GIRTH, LIKELY_PART = 0.5, 0.3
"""How far half-widths may be from the usual share of the length, as a standard deviation of logs: of a whole body, and of a part whose
place on the body was said."""


@dataclass(frozen=True)
class Slopes:
    """How colours change from pixel to pixel: to the right and downwards, CIELAB (rows, columns, 3), in multiples of the usual."""

    right: Single
    down: Single

    def across(self, x: float, y: float) -> Single:
        """In a direction, (rows, columns, 3)."""
        return np.asarray(self.right * x + self.down * y, dtype=np.float32)

    @cached_property
    def edges(self) -> Mask:
        """Where anything has an edge, (rows, columns)."""
        return np.asarray(np.sqrt(summed(self.right**2 + self.down**2)) > PLAIN)


@dataclass(frozen=True)
class _Seen:
    """At each pixel (rows, columns) the strength of the best pair of edges, the direction across it in radians, its half-width."""

    strength: Single
    across: Single
    radius: Single


def slopes_of(against: Floats, free: Mask, size: float = 1.0) -> Slopes:
    """Of a picture, CIELAB (rows, columns, 3), made smaller by a factor; what is not ``free`` has none."""
    picture = against.astype(np.float32)
    if size != 1:
        picture = _single(cv2.resize(picture, None, fx=size, fy=size, interpolation=cv2.INTER_AREA))
    picture = _single(cv2.GaussianBlur(picture, (0, 0), 1.0))
    right, down = (cv2.Scharr(picture, cv2.CV_32F, *order) / 32 for order in ((1, 0), (0, 1)))
    searched = cv2.resize(free.astype(np.uint8), picture.shape[1::-1], interpolation=cv2.INTER_NEAREST)
    searched = cv2.erode(searched, np.ones((5, 5), dtype=np.uint8))
    steep = np.sqrt(summed(down**2 + right**2))
    usual = LEAST_USUAL + float(np.median(steep[searched > 0])) if searched.any() else 1.0
    weight = searched[..., None] / usual
    return Slopes(_single(right * weight), _single(down * weight))


def _single(picture: NDArray[Any]) -> Single:
    return np.asarray(picture, dtype=np.float32)


def between_edges(against: Floats, free: Mask, *, lighter: bool) -> Iterator[Mask]:
    """Masks of what lies between two edges, one for each largest half-width, narrow first. ``against``: CIELAB (rows, columns, 3);
    ``free``: (rows, columns), what is to be searched; ``lighter``: only of what is lighter than its edges."""
    edges = _edges_by_direction(slopes_of(against, free, 0.5), lighter=lighter)
    shape = edges[0][1].shape
    strength, across, half_width = (np.zeros(shape, dtype=np.float32) for _ in range(3))
    for radius in RADII:
        for direction, left, right in edges:
            x, y = radius * float(np.cos(direction)), radius * float(np.sin(direction))
            pair = np.minimum(_moved(left, x, y), _moved(right, -x, -y))
            better = pair > strength
            strength[better], across[better], half_width[better] = pair[better], direction, radius
        if radius in WIDEST:
            yield _filled(_Seen(strength, across, half_width), free.shape)


def _edges_by_direction(slopes: Slopes, *, lighter: bool) -> list[tuple[float, Single, Single]]:
    """Directions across a body in radians, and how strong the edges on its one and its other side would be there, (rows, columns)."""
    found = []
    for direction in np.arange(DIRECTIONS) * np.pi / DIRECTIONS:
        x, y = float(np.cos(direction)), float(np.sin(direction))
        slope = slopes.across(x, y)
        any_edge = np.sqrt(summed(slope**2))
        edges = [np.maximum(sign * slope[..., 0], 0) if lighter else any_edge for sign in (1, -1)]
        left, right = (_single(cv2.filter2D(_single(edge), -1, _stroke(-y, x))) for edge in edges)
        found.append((float(direction), left, right))
    return found


def _stroke(x: float, y: float) -> Single:
    """A line in a direction, to average along."""
    drawn = np.zeros((ALONG, ALONG), dtype=np.float32)
    middle = ALONG // 2
    ends = [(round(middle + sign * middle * x), round(middle + sign * middle * y)) for sign in (-1, 1)]
    cv2.line(drawn, ends[0], ends[1], 1)
    return np.asarray(drawn / drawn.sum(), dtype=np.float32)


def _moved(edge: Single, right: float, down: float) -> Single:
    move = np.array([[1, 0, right], [0, 1, down]], dtype=np.float32)
    return np.asarray(cv2.warpAffine(edge, move, edge.shape[::-1]), dtype=np.float32)


def _filled(seen: _Seen, shape: tuple[int, ...]) -> Mask:
    """The stretches between two edges, drawn where a pair is hardly weaker than any other across it."""
    rows, columns = np.mgrid[0 : seen.strength.shape[0], 0 : seen.strength.shape[1]].astype(np.float32)
    x, y = np.cos(seen.across), np.sin(seen.across)
    is_ridge = seen.strength > STRONG
    for share in (-0.9, -0.7, -0.5, -0.35, -0.2, 0.2, 0.35, 0.5, 0.7, 0.9):
        away = share * seen.radius
        beside = cv2.remap(seen.strength, columns + away * x, rows + away * y, cv2.INTER_LINEAR)
        is_ridge &= seen.strength >= NEARLY * beside
    drawn = np.zeros(seen.strength.shape, dtype=np.uint8)
    middle = np.stack([columns[is_ridge], rows[is_ridge]], axis=1)
    reach = seen.radius[is_ridge, None] * np.stack([x[is_ridge], y[is_ridge]], axis=1)
    ends = np.stack([middle - reach, middle + reach], axis=1)
    cv2.polylines(drawn, list(np.round(ends * 16).astype(np.int32)), False, 1, 2, shift=4)
    return np.asarray(cv2.resize(drawn, shape[::-1], interpolation=cv2.INTER_LINEAR) > 0)


@dataclass(frozen=True)
class Between:
    """A line between the edges of a body: places (stations, 2), half-widths (stations,), and how strong the weaker of its two edges is
    (stations,), in multiples of the usual."""

    places: Floats
    widths: Floats
    strength: Floats

    @property
    def has_both(self) -> Mask:
        """Where it has both edges, (stations,)."""
        return np.asarray(self.strength > STRONG)

    @property
    def support(self) -> float:
        """The share of it that has both edges, but for the tips."""
        inner = slice(len(self.places) // 30, -(len(self.places) // 20))
        return float(self.has_both[inner].mean())


def moved_between(
    slopes: Slopes, places: Floats, expected: Floats | None = None, covered: Mask | None = None
) -> Between:
    """A line moved to where a body's two edges are strongest all along. ``places``: (stations, 2); ``expected``: half-widths (stations,),
    where it is known which part of a body it is; else it is taken for a whole one, either end first. ``covered`` (rows, columns): what
    lies over the body; where one of its edges may be under it, the other one tells alone."""
    usual = _usual(places) if expected is None else float(expected.max())
    across = across_of(places)
    reach = (GIRTHS_TRIED.max() * 1.3 + 1) * usual + 2
    left, right = _edges_along(slopes, places, across, np.arange(-reach, reach + STEP, STEP))
    most = usual if expected is None else ASIDE * usual
    aside = np.arange(-most, most + STEP, STEP)
    whole = usual * half_widths(np.linspace(0, 1, len(places)), GIRTHS * np.pi)
    bodies = (whole, whole[::-1]) if expected is None else (expected,)
    shapes = np.stack([share * body for body in bodies for share in GIRTHS_TRIED])
    stations = np.arange(len(places))[None, :, None]
    to_edge = shapes[:, :, None]
    ends = [aside - to_edge + reach, aside + to_edge + reach]
    shown = [_at(side, stations, end) for side, end in zip((left, right), ends, strict=True)]
    scores = np.sqrt(shown[0] * shown[1])
    if covered is not None:
        hidden = _under(covered, places, across, np.arange(-reach, reach + STEP, STEP))
        under = [_at(hidden, stations, end) for end in ends]
        scores = np.maximum(scores, np.maximum(shown[0] * under[1], shown[1] * under[0]))
    if expected is not None:
        scores -= ASIDE_COSTS * (aside / usual) ** 2
    totals = _smoothest(scores)
    spread = LIKELY_GIRTH if expected is None else LIKELY_PART
    likely = np.exp(-0.5 * (np.log(np.tile(GIRTHS_TRIED, len(bodies))) / spread) ** 2)
    which = int((totals[:, -1].max(axis=1) * likely).argmax())
    moved = scipy.ndimage.gaussian_filter1d(aside[_way(totals[which])], 2.0)
    half = shapes[which]
    sides = [_own_edge(side, moved, half, reach, sign) for side, sign in ((left, -1), (right, 1))]
    widths = np.maximum(0.5, (sides[0] + sides[1]) / 2)
    moved = moved + (sides[1] - sides[0]) / 2
    rows = np.arange(len(places))
    weaker = np.minimum(_at(left, rows, moved - widths + reach), _at(right, rows, moved + widths + reach))
    return Between(places + moved[:, None] * across, scipy.ndimage.gaussian_filter1d(widths, 1.0), np.expm1(weaker))


def carried_on(slopes: Slopes, places: Floats) -> Floats:
    """A line carried on straight at both ends, as far as a body's two edges go there. ``places``: (stations, 2)."""
    step = max(1e-6, float(np.hypot(*np.diff(places, axis=0).T).mean()))
    on = np.arange(1, int(CARRIED * _usual(places) / step) + 1)[:, None] * step
    ends = []
    for line in (places, places[::-1]):
        heading = line[0] - line[5]
        ends.append(line[0] + on * heading / max(1e-9, float(np.hypot(*heading))))
    between = moved_between(slopes, np.concatenate([ends[0][::-1], places, ends[1]]))
    kept = np.flatnonzero(np.convolve(between.has_both, np.ones(5), mode="same") > 2)
    return between.places[kept[0] : kept[-1] + 1] if len(kept) > len(places) // 2 else places


def _usual(places: Floats) -> float:
    """The half-width that is usual for a line's length."""
    return float(np.hypot(*np.diff(places, axis=0).T).sum()) / (GIRTHS * np.pi)


def across_of(places: Floats) -> Floats:
    """Unit directions across a line, (stations, 2)."""
    tangents = scipy.ndimage.gaussian_filter1d(np.gradient(places, axis=0), 1.5, axis=0)
    tangents /= np.maximum(np.hypot(*tangents.T), 1e-9)[:, None]
    return np.stack([-tangents[:, 1], tangents[:, 0]], axis=1)


def _edges_along(slopes: Slopes, places: Floats, across: Floats, away: Floats) -> tuple[Floats, Floats]:
    """How strong an edge is at each distance from each place (stations, distances), as logs: as a body's left one, as its right one."""
    at = (places[:, None] + away[None, :, None] * across[:, None]).astype(np.float32)
    right, down = (cv2.remap(one, at[..., 0], at[..., 1], cv2.INTER_LINEAR) for one in (slopes.right, slopes.down))
    slope = right * across[:, None, :1] + down * across[:, None, 1:]
    slope = scipy.ndimage.gaussian_filter1d(slope, 1.5, axis=0)
    hue = (slope[..., 1:] ** 2).sum(axis=-1)
    found = []
    for sign in (1, -1):
        light = sign * slope[..., 0]
        found.append(np.log1p(np.sqrt(hue + np.where(light > 0, light, DARKER * light) ** 2)))
    return found[0], found[1]


def _under(covered: Mask, places: Floats, across: Floats, away: Floats) -> Floats:
    """Is it covered at each distance from each place (stations, distances), 0 to 1."""
    at = (places[:, None] + away[None, :, None] * across[:, None]).astype(np.float32)
    return np.asarray(cv2.remap(covered.astype(np.float32), at[..., 0], at[..., 1], cv2.INTER_LINEAR), dtype=np.float64)


def _at(edge: Floats, stations: NDArray[np.int_], distance: Floats) -> Floats:
    """At the nearest distance that was looked at."""
    return np.asarray(edge[stations, np.clip(np.round(distance / STEP).astype(int), 0, edge.shape[1] - 1)])


def _smoothest(scores: Floats) -> Floats:
    """The best sum of scores (tables, stations, distances) of a way up to each place that steps by one at most; the same shape."""
    totals = scores.copy()
    stepped = np.full((len(scores), scores.shape[2] + 2), -np.inf)
    for station in range(1, scores.shape[1]):
        stepped[:, 1:-1] = totals[:, station - 1] - BEND_COSTS
        best = np.maximum(stepped[:, :-2], stepped[:, 2:])
        totals[:, station] += np.maximum(best, totals[:, station - 1], out=best)
    return totals


def _way(totals: Floats) -> NDArray[np.int_]:
    """The way that has the best sum, as a place at each station. ``totals``: of one table (stations, distances)."""
    way = [int(totals[-1].argmax())]
    for before in totals[-2::-1]:
        low = max(0, way[-1] - 1)
        near = before[low : way[-1] + 2] - BEND_COSTS
        near[way[-1] - low] += BEND_COSTS
        way.append(low + int(near.argmax()))
    return np.array(way[::-1])


def _own_edge(edge: Floats, moved: Floats, half: Floats, reach: float, sign: int) -> Floats:
    """The half-widths on one side by that side's own edge, near to those that a body would have."""
    off = np.arange(-0.3 * half.max() - 1, 0.3 * half.max() + 1 + STEP, STEP)
    scores = _at(
        edge, np.arange(len(moved))[:, None], moved[:, None] + sign * (half[:, None] + off[None]) + reach
    ) - OFF_COSTS * np.abs(off)
    [totals] = _smoothest(scores[None])
    return np.asarray(half + scipy.ndimage.gaussian_filter1d(off[_way(totals)], 2.0))
