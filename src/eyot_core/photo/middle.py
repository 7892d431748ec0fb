"""The middle line of a part of a picture, from tip to tip, and its half-widths.

Source: the skeleton is that of Zhang and Suen as scikit-image has it.
"""

from __future__ import annotations

import cv2
import numpy as np
import scipy
import skimage
from numpy.typing import NDArray

from eyot_core.photo.edges import across_of

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

STATIONS = 160
SHORTEST, THINNEST = 40, 1.5
"""Length and half-width in pixels below which a part is no body."""


def middle_of(part: Mask) -> tuple[Floats, Floats] | None:
    """The middle of a part from tip to tip, and its half-widths; None where it is too short or too thin for a body."""
    path = _longest_path(part)
    if path is None:
        return None
    smooth = np.asarray(cv2.GaussianBlur(part.astype(np.float32), (0, 0), 1.0), dtype=np.float32)
    places = evenly(scipy.ndimage.gaussian_filter1d(path, max(1.0, len(path) * 0.012), axis=0))
    places, _ = _recentred(places, smooth)
    places, widths = _to_the_tips(places, smooth)
    length, widest = size_of(places, widths)
    return None if length < SHORTEST or widest < THINNEST else (places, widths)


def size_of(places: Floats, widths: Floats) -> tuple[float, float]:
    """Length and largest half-width."""
    return float(np.hypot(*np.diff(places, axis=0).T).sum()), float(np.percentile(widths, 92))


def _longest_path(part: Mask) -> Floats | None:
    """The longest of the shortest paths through the skeleton, (n, 2) as x and y."""
    around = cv2.boundingRect(part.astype(np.uint8))
    inside = np.s_[around[1] : around[1] + around[3], around[0] : around[0] + around[2]]
    rows, columns = np.nonzero(skimage.morphology.skeletonize(part[inside]))  # type: ignore[no-untyped-call]
    if len(rows) < 12:
        return None
    rows, columns = rows + around[1], columns + around[0]
    index = np.full(part.shape, -1)
    index[rows, columns] = np.arange(len(rows))
    starts, ends, steps = [], [], []
    for down, right in ((0, 1), (1, 0), (1, 1), (1, -1)):
        other_rows, other_columns = rows + down, columns + right
        inside = (other_rows < part.shape[0]) & (other_columns >= 0) & (other_columns < part.shape[1])
        other = np.full(len(rows), -1)
        other[inside] = index[other_rows[inside], other_columns[inside]]
        linked = np.nonzero(other >= 0)[0]
        starts.append(linked)
        ends.append(other[linked])
        steps.append(np.full(len(linked), float(np.hypot(down, right))))
    size = (len(rows), len(rows))
    graph = scipy.sparse.coo_array(
        (np.concatenate(steps), (np.concatenate(starts), np.concatenate(ends))), shape=size
    ).tocsr()
    first = _farthest(graph, 0)[0]
    last, before = _farthest(graph, first)
    path = [last]
    while path[-1] != first and before[path[-1]] >= 0:
        path.append(int(before[path[-1]]))
    return np.stack([columns[path], rows[path]], axis=1).astype(float)


def _farthest(graph: scipy.sparse.coo_array, start: int) -> tuple[int, NDArray[np.int32]]:
    far, before = scipy.sparse.csgraph.dijkstra(graph, directed=False, indices=start, return_predecessors=True)
    return int(np.where(np.isfinite(far), far, -1).argmax()), before


def evenly(path: Floats, stations: int = STATIONS) -> Floats:
    """A line through the same places with even steps, (stations, 2)."""
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    even = np.linspace(0, along[-1], stations)
    return np.stack([np.interp(even, along, path[:, axis]) for axis in (0, 1)], axis=1)


def _recentred(places: Floats, smooth: NDArray[np.float32]) -> tuple[Floats, Floats]:
    """The places moved to the middle between the edges on both sides, and the half-widths there."""
    widths = np.zeros(len(places))
    for _ in range(2):
        sides = [_reach(places, sign * across_of(places), smooth) for sign in (1, -1)]
        widths = (sides[0] + sides[1]) / 2
        usual = float(np.percentile(widths, 90))
        shift = np.clip((sides[0] - sides[1]) / 2, -0.5 * usual, 0.5 * usual)
        places = places + scipy.ndimage.gaussian_filter1d(shift, 2.0)[:, None] * across_of(places)
        places = evenly(scipy.ndimage.gaussian_filter1d(places, 1.5, axis=0, mode="nearest"))
    return places, scipy.ndimage.gaussian_filter1d(widths, 1.0)


def _reach(places: Floats, direction: Floats, smooth: NDArray[np.float32]) -> Floats:
    """How far the mask goes from each place in a direction, in pixels."""
    most = 60
    steps = np.arange(0, most, 0.5)
    at = (places[:, None] + steps[None, :, None] * direction[:, None]).astype(np.float32)
    seen = cv2.remap(smooth, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    outside = seen < 0.5
    first = np.where(outside.any(axis=1), outside.argmax(axis=1), len(steps) - 1)
    return np.asarray(steps[first])


def _to_the_tips(places: Floats, smooth: NDArray[np.float32]) -> tuple[Floats, Floats]:
    """The path carried on from both ends to where the mask ends: a skeleton stops about a half-width before."""
    for _ in range(2):
        places = places[::-1]
        heading = places[0] - places[5]
        heading = heading / max(float(np.hypot(*heading)), 1e-9)
        reach = float(_reach(places[:1], heading[None], smooth)[0])
        if reach > 0.7:
            places = np.concatenate([[places[0] + reach * heading], places])
    places = evenly(places)
    sides = [_reach(places, sign * across_of(places), smooth) for sign in (1, -1)]
    return places, scipy.ndimage.gaussian_filter1d((sides[0] + sides[1]) / 2, 1.0)
