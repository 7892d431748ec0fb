"""Where the body lies in a photo: the paper around it, the outline by GrabCut, the midline moved to its middle.

GrabCut works on the photo divided by its paper, in CIELAB, so that uneven light doesn't count; it is told the core of the
body's shape along the drawn line as animal, and what lies far from it as ground.

Source: GrabCut as OpenCV has it; the edge is where the step across the rim is largest.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.colour import brightest, lab, linear
from eyot_core.photo.edges import moved_between, slopes_of
from eyot_core.photo.sight import quadratic
from eyot_core.photo.spine import Floats, Line, Spine, spine_along, spine_of

Mask = NDArray[np.bool_]
Pixels = NDArray[np.uint8]
RADIUS = 13.0
MOST_PIXELS = 2_000_000
"""Of the photo in which the body is sought: a short line in a large photo asks for no more."""
"""Half-width of the widest place in pixels at which the outline is sought."""
THIN, STRAYS = 0.45, 0.3
"""Below which share of the widest half-width a line may lie beside the body, and by how much of it."""
CORE, LIKELY, NEAR, FAR = 0.5, 1.0, 1.75, 3.0
ROUNDS = 3
RECENTRINGS = 4
SEARCH_STATIONS, EDGE_SPACING, FEWEST = 240, 1.7, 24
"""Stations of a line; where its edges are sought, how many pixels lie between two, and how many there are at least."""
REACH = 1.7
SIDE_STEPS = 47
SHARP_WITHIN, SHARP_STEPS, SHARP_SPREAD, SHARPER = (0.4, 1.7), 61, 0.4, 1.25
ALONG = 0.022
"""The share of the body length over which edges are smoothed: about a half-width."""
LEAST_MOVE, HEAD, CLEAR_STEP = 0.2, 0.03, 12.0
PAPER_TERMS = 6
MOST_PAPER_SPREAD = 0.09
OFF = 0.22
LEAST_SEEN = 0.2
LEAST_STEP = 3.0
SHELL_L, SHELL_SLOPE, LEAST_SHELL, SHELL_ON_BACK, SHELL_AROUND = 55.0, 2.5, 0.05, 0.15, 0.8
LIP, DARKER_THAN_SHELL = 5, 8.0
"""A shell: how light it is (L* of a picture whose lightest has 91), how little its colour changes (CIELAB a pixel), what share of the
picture it has at least, and of the back at most, and what share of the back it lies around at least; how many pixels wide its lip is, and
by how much L* that is darker at most."""


@dataclass(frozen=True)
class Paper:
    """The ground's light: log of linear RGB as quadratics of the place, (terms, 3), places in shares of ``shape``."""

    terms: Floats
    shape: tuple[int, int]

    def at(self, places: Floats) -> Floats:
        """Linear RGB of the bare ground at places (…, 2), (x, y) in pixels of the photo that it was found in; (…, 3)."""
        return self._of(places[..., 0], places[..., 1])

    def everywhere(self) -> Floats:
        """The same at each pixel of that photo, (rows, columns, 3)."""
        y, x = np.ogrid[0.0 : self.shape[0], 0.0 : self.shape[1]]
        return self._of(x, y)

    def _of(self, x: Floats, y: Floats) -> Floats:
        return np.asarray(np.exp(quadratic(x / self.shape[1] - 0.5, y / self.shape[0] - 0.5) @ self.terms))


@dataclass(frozen=True)
class Shown:
    """What GrabCut took for animal, and the shell of an egg that lies over it; both at a scale of the photo."""

    mask: Mask
    shell: Mask
    factor: float

    def at(self, places: Floats) -> Mask:
        """Is it animal at places (rows, columns, 2) in pixels of the photo?"""
        return self._of(self.mask, places) > 0.5

    def covers(self, places: Floats) -> Mask:
        """Is there shell at places (rows, columns, 2) in pixels of the photo?"""
        return self._of(self.shell, places) > 0.01

    def _of(self, mask: Mask, places: Floats) -> Floats:
        scaled = ((places + 0.5) * self.factor - 0.5).astype(np.float32)
        return np.asarray(cv2.remap(mask.astype(np.float32), scaled[..., 0], scaled[..., 1], cv2.INTER_LINEAR))


@dataclass(frozen=True)
class Outline:
    """Where the body lies: its midline, half-widths to the left and the right of it (stations,), in pixels of the photo.

    ``sure``: stations where the edges were seen; elsewhere the body's shape stands in. ``paper``: None if no even ground;
    ``shown`` then tells what is animal, since other things (a shell, a sibling) may cover its flanks. ``scale``: how much smaller the
    photo was made before, 1 at most.
    """

    spine: Spine
    half_widths: Floats
    sure: Mask
    paper: Paper | None
    shown: Shown | None = None
    scale: float = 1.0

    @property
    def polygon(self) -> Floats:
        """The outline as a closed line, (2 · stations, 2), up one side and down the other."""
        reach = self.half_widths[:, None] * self.spine.across
        return np.concatenate([self.spine.places + reach, (self.spine.places - reach)[::-1]])

    def mask(self, shape: tuple[int, int]) -> Mask:
        """The body's pixels in a photo of that shape (rows, columns); what is filled takes in its rim, half a pixel."""
        drawn = np.zeros(shape, dtype=np.uint8)
        for start in range(0, len(self.half_widths) - 4, 4):
            piece = slice(start, start + 5)
            reach = np.maximum(self.half_widths[piece, None] - 0.5, 0.2) * self.spine.across[piece]
            middle = self.spine.places[piece]
            corners = np.concatenate([middle + reach, (middle - reach)[::-1]])
            cv2.fillPoly(drawn, [np.round(corners * 16).astype(np.int32)], 1, shift=4)
        return drawn.astype(bool)


@dataclass(frozen=True)
class NoOutline:
    """Why no body was found; falsy."""

    reason: str

    def __bool__(self) -> bool:
        return False


def outline_of(photo: Pixels, line: Line, brushed: NDArray[np.int8] | None = None) -> Outline | NoOutline:
    """The body along a line in a photo, sRGB (rows, columns, 3).

    ``brushed``: the keeper's corrections (rows, columns at any scale): 1 animal, −1 ground, 0 untouched.
    """
    spine = spine_of(line)
    fewest = (MOST_PIXELS / (photo.shape[0] * photo.shape[1])) ** 0.5
    factor = min(1.0, RADIUS / max(1.0, float(spine.half_widths.max())), fewest)
    shape = max(2, round(photo.shape[0] * factor)), max(2, round(photo.shape[1] * factor))
    small = cv2.resize(photo, shape[::-1], interpolation=cv2.INTER_AREA)
    near = spine_of(line.scaled(factor), SEARCH_STATIONS)
    light = np.maximum(linear(small), 2e-4)
    paper = _paper(light, near)
    against = _against(light, paper)
    shell = np.zeros(shape, dtype=bool) if paper else _shell(against, near) & ~_brushed_in(brushed, shape)
    if paper is None and brushed is None:
        edges, ratio, seen = _between_edges(against, near, shell)
        mask = _cut(against, _seeds(shape, edges, None))
    else:
        mask = _cut(against, _seeds(shape, near, brushed))
        edges, ratio, seen = _fitted(against, mask, near, _touched(brushed, near, shape))
    if _step(against, edges, ratio) < LEAST_STEP:
        return NoOutline("no animal stands out from the ground along this line")
    full = spine_along((_fine(edges.places) + 0.5) / factor - 0.5, line.start, line.end)
    steps, fine = np.linspace(0, 1, SEARCH_STATIONS), np.linspace(0, 1, len(full.u))
    widths = full.half_widths * np.interp(fine, steps, ratio)
    sure = np.interp(fine, steps, seen.astype(float)) > 0.5
    shown = None if paper else Shown(mask & ~shell, shell, factor)
    return Outline(full, widths, sure, _rescaled(paper, photo.shape[:2]), shown)


def _fine(places: Floats) -> Floats:
    at = np.linspace(0, 1, len(places))
    return np.asarray(scipy.interpolate.CubicSpline(at, places)(np.linspace(0, 1, 4 * len(places))))


def _rescaled(paper: Paper | None, shape: tuple[int, ...]) -> Paper | None:
    return paper and Paper(paper.terms, (shape[0], shape[1]))


def _drawn(shape: tuple[int, int], spine: Spine, factor: float, more: float = 0.0, where: Mask | None = None) -> Mask:
    """The pixels within so many half-widths, and so many of the widest place more (at least one pixel), of the midline."""
    drawn = np.zeros(shape, dtype=np.uint8)
    reach = np.maximum(spine.half_widths * factor + more * spine.half_widths.max(), 1.0)
    for index in np.arange(len(reach)) if where is None else np.nonzero(where)[0]:
        place = np.round(spine.places[index] * 16).astype(int).tolist()
        cv2.circle(drawn, place, round(float(reach[index]) * 16), 1, -1, shift=4)
    return drawn.astype(bool)


def _paper(light: Floats, spine: Spine) -> Paper | None:
    """The even ground around the animal, or None where there is none (an egg, a busy table)."""
    shape = light.shape[:2]
    free = ~_drawn(shape, spine, FAR)
    free[: shape[0] // 50 + 1], free[:, : shape[1] // 50 + 1] = False, False
    rows, columns = np.nonzero(free)
    if len(rows) < 200:
        return None
    pick = np.linspace(0, len(rows) - 1, min(len(rows), 6000)).astype(int)
    seen = light[rows[pick], columns[pick]]
    logs = np.log(seen)
    terms = np.zeros((PAPER_TERMS, 3))
    terms[0] = np.median(logs, axis=0)
    known = quadratic(columns[pick] / shape[1] - 0.5, rows[pick] / shape[0] - 0.5)
    kept = brightest(np.abs(logs - terms[0])) < 0.6
    for limit in (0.35, 0.2, 0.12):
        if kept.sum() < 0.3 * len(kept):
            return None
        terms = np.linalg.lstsq(known[kept], logs[kept], rcond=None)[0]
        kept = brightest(np.abs(logs - known @ terms)) < limit
    left = np.abs(logs - known @ terms)[kept]
    even = kept.mean() > 0.5 and float(np.median(left)) < MOST_PAPER_SPREAD
    return Paper(terms, (shape[0], shape[1])) if even else None


def _against(light: Floats, paper: Paper | None) -> Pixels:
    """The photo in CIELAB with the ground made even and light grey, 8 bits a channel."""
    even = light / paper.everywhere() * 0.6 if paper else light / np.percentile(light, 99, axis=(0, 1)) * 0.8
    shown = lab(even) * np.array([2.55, 2.2, 2.2]) + np.array([0, 128, 128])
    return np.asarray(np.clip(cv2.GaussianBlur(shown, (0, 0), 0.6), 0, 255), dtype=np.uint8)


def _colours_of(picture: Pixels) -> Floats:
    """CIELAB of such a picture, (rows, columns, 3)."""
    return np.asarray((picture - np.array([0.0, 128, 128])) / np.array([2.55, 2.2, 2.2]))


def _seeds(shape: tuple[int, int], spine: Spine, brushed: NDArray[np.int8] | None) -> Pixels:
    """What GrabCut is told. Where the body is thin, a drawn line easily lies beside it: nothing there is sure."""
    seeds = np.full(shape, cv2.GC_BGD, dtype=np.uint8)
    thick = spine.half_widths > THIN * spine.half_widths.max()
    seeds[_drawn(shape, spine, NEAR, STRAYS)] = cv2.GC_PR_BGD
    seeds[_drawn(shape, spine, LIKELY)] = cv2.GC_PR_FGD
    seeds[_drawn(shape, spine, CORE, where=thick)] = cv2.GC_FGD
    if brushed is not None:
        touched = cv2.resize(brushed, shape[::-1], interpolation=cv2.INTER_NEAREST)
        seeds[touched > 0], seeds[touched < 0] = cv2.GC_FGD, cv2.GC_BGD
    return seeds


def _brushed_in(brushed: NDArray[np.int8] | None, shape: tuple[int, int]) -> Mask:
    """Where a keeper said that it is animal, whatever it looks like."""
    if brushed is None:
        return np.zeros(shape, dtype=bool)
    return np.asarray(cv2.resize(brushed, shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _touched(brushed: NDArray[np.int8] | None, spine: Spine, shape: tuple[int, int]) -> Mask:
    """The stations near which a keeper has brushed, (stations,)."""
    if brushed is None:
        return np.zeros(len(spine.u), dtype=bool)
    there = cv2.resize((brushed != 0).astype(np.float32), shape[::-1], interpolation=cv2.INTER_AREA)
    reach = spine.half_widths[:, None] * np.linspace(-REACH, REACH, 25)
    at = (spine.places[:, None] + reach[..., None] * spine.across[:, None]).astype(np.float32)
    touched = np.asarray(cv2.remap(there, at[..., 0], at[..., 1], cv2.INTER_LINEAR))
    return np.asarray(touched.max(axis=1) > 0.05)


def _cut(picture: Pixels, seeds: Pixels) -> Mask:
    rows, columns = np.nonzero(seeds != cv2.GC_BGD)
    margin = round(RADIUS * 1.5)
    box = (
        slice(max(0, rows.min() - margin), rows.max() + margin + 1),
        slice(max(0, columns.min() - margin), columns.max() + margin + 1),
    )
    body = np.zeros(seeds.shape, dtype=bool)
    cv2.setRNGSeed(1)  # the same photo and line give the same outline
    cut, _, _ = cv2.grabCut(
        np.ascontiguousarray(picture[box]),
        np.ascontiguousarray(seeds[box]),
        (0, 0, 1, 1),
        np.zeros((1, 65)),
        np.zeros((1, 65)),
        ROUNDS,
        cv2.GC_INIT_WITH_MASK,
    )
    body[box] = (cut == cv2.GC_FGD) | (cut == cv2.GC_PR_FGD)
    return body


def _between_edges(picture: Pixels, spine: Spine, shell: Mask) -> tuple[Spine, Floats, Mask]:
    """As :func:`_fitted`, where no even ground parts animal and ground, as in an egg, whose inside may look like dark skin: the two edges
    that lie about the line all along as the body's would. The shell has none, nor has its lip."""
    colours = _colours_of(picture)
    slopes = slopes_of(colours, ~shell)
    count = len(spine.u)
    fewer = int(np.clip(spine.length * (spine.u[-1] - spine.u[0]) / EDGE_SPACING, FEWEST, count))
    few = np.linspace(0, count - 1, fewer).round().astype(int)
    between = moved_between(slopes, spine.places[few], spine.half_widths[few], shell)
    moved = spine_along(_fine(between.places), float(spine.u[0]), float(spine.u[-1]), count)
    every = np.linspace(0, fewer - 1, count)
    widths, has_both = (np.interp(every, np.arange(fewer), one) for one in (between.widths, between.has_both))
    return moved, widths / moved.half_widths, has_both > 0.5


def _shell(picture: Pixels, spine: Spine) -> Mask:
    """The shell of an egg, where one lies over the flanks: the largest smooth bright part of the picture, up to the lip of its window. None
    where it would take in the back, which the line follows, or does not lie around it."""
    colours = _colours_of(picture)
    slopes = [
        scipy.ndimage.gaussian_filter1d(scipy.ndimage.gaussian_filter1d(colours, 1.0, 1 - axis), 1.0, axis, order=1)
        for axis in (0, 1)
    ]
    smooth = np.hypot.reduce(np.concatenate(slopes, axis=2), axis=2) < SHELL_SLOPE
    bright = (smooth & (colours[..., 0] > SHELL_L)).astype(np.uint8)
    parts, label, about, _ = cv2.connectedComponentsWithStats(bright, connectivity=4)
    none = np.zeros(bright.shape, dtype=bool)
    if parts == 1:
        return none
    shell = np.asarray(label == 1 + about[1:, cv2.CC_STAT_AREA].argmax())
    back = _drawn(shell.shape, spine, CORE)
    if shell[back].mean() > SHELL_ON_BACK or _hull(shell)[back].mean() < SHELL_AROUND or shell.mean() < LEAST_SHELL:
        return none
    return _up_to_the_lip(shell, colours[..., 0])


def _hull(part: Mask) -> Mask:
    """The least convex part of the picture that takes it in."""
    rows, columns = np.nonzero(part)
    drawn = np.zeros(part.shape, dtype=np.uint8)
    cv2.fillConvexPoly(drawn, cv2.convexHull(np.stack([columns, rows], axis=1).astype(np.int32)), 1)
    return drawn > 0


def _up_to_the_lip(shell: Mask, lightness: Floats) -> Mask:
    """With what lies beside it and is as light, some pixels wide, and one pixel more that the lip's blur takes."""
    lightest = np.where(shell, lightness, 0)
    square = np.ones((3, 3), np.uint8)
    for _ in range(LIP):
        lightest = np.where(lightest > 0, lightest, cv2.dilate(lightest, square))
        lightest = np.where(lightness > lightest - DARKER_THAN_SHELL, lightest, 0)
    return np.asarray(cv2.dilate((lightest > 0).astype(np.uint8), square) > 0)


def _fitted(picture: Pixels, mask: Mask, spine: Spine, touched: Mask) -> tuple[Spine, Floats, Mask]:
    """The midline moved to the middle of the mask, half-widths as a ratio to the shape's (stations,), and where seen.

    ``touched`` (stations,): where a keeper has brushed; there the mask alone counts.
    """
    count = len(spine.u)
    smooth = _along(spine)
    limit = np.maximum(0.6 * spine.half_widths, STRAYS * spine.half_widths.max())
    for _ in range(RECENTRINGS):
        left, right, seen = _edges(mask, spine)
        aside = np.where(seen, (right - left) / 2, 0.0)
        weight = scipy.ndimage.gaussian_filter1d(seen.astype(float), smooth) + 1e-3
        aside = scipy.ndimage.gaussian_filter1d(aside, smooth) / weight
        moved = spine.places + np.clip(aside, -limit, limit)[:, None] * spine.across
        spine = spine_along(_fine(moved), float(spine.u[0]), float(spine.u[-1]), count)
    left, right, seen = _edges(mask, spine)
    if not seen.any():
        return spine, np.ones(count), seen
    free = seen & ~touched
    sides = [_sharp(picture, spine, side, edge, free) for side, edge in ((-1, left), (1, right))]
    placed = _by_girth(spine, *sides)
    left, right = (np.where(free, edge, was) for edge, was in zip(placed, (left, right), strict=True))
    aside = scipy.ndimage.gaussian_filter1d(np.where(seen, (right - left) / 2, 0.0), smooth / 2)
    moved = spine.places + np.clip(aside, -limit, limit)[:, None] * spine.across
    spine = spine_along(_fine(moved), float(spine.u[0]), float(spine.u[-1]), count)
    ratio = (left + right) / 2 / spine.half_widths
    middle = float(np.median(ratio[seen]))
    filled = np.where(seen, ratio, middle)
    trend = scipy.ndimage.gaussian_filter1d(
        scipy.ndimage.median_filter(filled, round(3 * smooth), mode="nearest"), smooth, mode="nearest"
    )
    seen &= np.abs(ratio - trend) < OFF * trend
    weight = scipy.ndimage.gaussian_filter1d(seen.astype(float), smooth / 2, mode="nearest") + 1e-3
    ratio = (
        scipy.ndimage.gaussian_filter1d(np.where(seen, ratio, 0.0), smooth / 2, mode="nearest") + 1e-3 * middle
    ) / weight
    return spine, ratio, seen


def _along(spine: Spine) -> float:
    """The stations over which edges are smoothed; of a short piece no more than a fifth."""
    count = len(spine.u)
    return min(ALONG * count / float(spine.u[-1] - spine.u[0]), count / 5)


def _by_girth(spine: Spine, left: tuple[Floats, Floats], right: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    """Edges of which one hardly shows, put where the body's girth wants them: a pale flank in full light may look just like
    its paper. Edges that show stay. Each side: (pixels from the midline, how clearly the edge shows)."""
    girth = (left[0] + right[0]) / 2 / spine.half_widths
    clear = np.minimum(left[1], right[1]) > CLEAR_STEP
    wanted = float(np.clip(np.median(girth[clear]), 0.85, 1.2)) if clear.mean() > LEAST_SEEN else 1.0
    lacking = (
        scipy.ndimage.gaussian_filter1d(wanted - girth, 0.75 * _along(spine), mode="nearest") * 2 * spine.half_widths
    )
    weak = [np.exp(-((step / CLEAR_STEP) ** 2)) for _, step in (left, right)]
    parts = [weakness / (weak[0] + weak[1] + 1e-9) * weakness for weakness in weak]
    return left[0] + parts[0] * lacking, right[0] + parts[1] * lacking


def _sharp(picture: Pixels, spine: Spine, side: int, edge: Floats, seen: Mask) -> tuple[Floats, Floats]:
    """The mask's edge on one side, moved to a sharper one near by where there is one all along a stretch: a shadow beside a
    pale animal ends softly, its body does not. ``edge``: pixels from the midline, (stations,). What is found: the same, and
    how clearly the edge shows there, in 8-bit units of the picture."""
    share = np.linspace(*SHARP_WITHIN, SHARP_STEPS)
    at = spine.places[:, None] + side * (spine.half_widths[:, None] * share)[..., None] * spine.across[:, None]
    # Beyond the photo its rim goes on: the black of nothing would look like the sharpest edge of all.
    across, down = (at[..., axis].astype(np.float32) for axis in (0, 1))
    sharp = cv2.remap(picture.astype(np.float32), across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    smooth = scipy.ndimage.gaussian_filter1d(
        np.asarray(sharp, dtype=np.float64), 0.75 * _along(spine), axis=0, mode="nearest"
    )
    change = np.hypot.reduce(smooth[:, 2:] - smooth[:, :-2], axis=2)
    likely = change * np.exp(-((share[1:-1] - 1) ** 2) / (2 * SHARP_SPREAD**2))
    best = likely.argmax(axis=1)
    now = np.clip(np.searchsorted(share[1:-1], edge / spine.half_widths), 0, len(share) - 3)
    rows = np.arange(len(edge))
    around = np.stack([change[rows, np.clip(now + by, 0, len(share) - 3)] for by in (-2, -1, 0, 1, 2)]).max(axis=0)
    moved = share[1:-1][best] - edge / spine.half_widths
    sharper = seen & (change[rows, best] > SHARPER * around) & (np.abs(moved) > LEAST_MOVE) & (spine.u > HEAD)
    sharper &= spine.half_widths > THIN * spine.half_widths.max()
    placed = np.where(sharper, share[1:-1][best] * spine.half_widths, edge)
    return np.asarray(placed), np.asarray(np.where(sharper, change[rows, best], around))


def _step(picture: Pixels, spine: Spine, ratio: Floats) -> float:
    """How much the picture changes across the body's edge, in its 8-bit units: mean over the edge, noise averaged out."""
    sides = []
    for side in (-1, 1):
        inner, outer = (
            _sampled(picture, spine.places + side * (share * ratio * spine.half_widths)[:, None] * spine.across)
            for share in (0.85, 1.25)
        )
        sides.append(scipy.ndimage.gaussian_filter1d(inner - outer, 2.0, axis=0))
    return float(np.hypot.reduce(np.concatenate(sides), axis=1).mean())


def _sampled(picture: Pixels, at: Floats) -> Floats:
    places = at.astype(np.float32)[None]
    sampled = cv2.remap(picture.astype(np.float32), places[..., 0], places[..., 1], cv2.INTER_LINEAR)
    return np.asarray(sampled[0], dtype=np.float64)


def _edges(mask: Mask, spine: Spine) -> tuple[Floats, Floats, Mask]:
    """How far the mask reaches to the left and right of each station, in pixels, and whether both ends were seen.

    Where a station lies beside the mask, what is meant is the nearest run of it; one of the two is negative then.
    """
    stray = STRAYS * spine.half_widths.max()
    reach = np.maximum(REACH * spine.half_widths, 1.5) + np.where(spine.half_widths < 2 * stray, stray, 0.0)
    steps = np.linspace(-1, 1, 2 * SIDE_STEPS + 1)
    at = spine.places[:, None] + (reach[:, None] * steps)[..., None] * spine.across[:, None]
    inside = cv2.remap(
        mask.astype(np.float32), at[..., 0].astype(np.float32), at[..., 1].astype(np.float32), cv2.INTER_LINEAR
    )
    first, last = _nearest_runs(inside > 0.5)
    shown = last > first
    left = np.where(shown, (SIDE_STEPS - first + 0.5) / SIDE_STEPS, 0.0)
    right = np.where(shown, (last - SIDE_STEPS - 0.5) / SIDE_STEPS, 0.0)
    return left * reach, right * reach, (first > 0) & (last < len(steps)) & (last - first > 2)


def _nearest_runs(inside: Mask) -> tuple[Floats, Floats]:
    """Of each row (rows, columns) the run that lies nearest its middle: the first column and the one after the last; both 0 without any."""
    columns, middle = np.arange(inside.shape[1]), inside.shape[1] // 2
    before = np.where(inside & (columns <= middle), columns, -1).max(axis=1)
    after = np.where(inside & (columns >= middle), columns, len(columns)).min(axis=1)
    has_before, has_after = before >= 0, after < len(columns)
    nearest = np.where(has_before & (~has_after | (middle - before <= after - middle)), before, after)[:, None]
    first = np.where(~inside & (columns <= nearest), columns, -1).max(axis=1) + 1
    last = np.where(~inside & (columns >= nearest), columns, len(columns)).min(axis=1)
    found = has_before | has_after
    return np.where(found, first, 0), np.where(found, last, 0)
