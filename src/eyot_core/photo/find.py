"""The animal found in a photo from above, without a hand: ground fitted, animal parted from it, the line through its middle.

Several partings are tried (GrabCut, and plain differences from the ground that close small gaps, as white skin on pale paper leaves
them); of each the longest path through the skeleton is taken, and the one that is most like a snake counts. What touches itself, leaves the
picture, or does not stand out gets no line, with the reason: a wrong line costs more than a missing one.

Source: GrabCut as OpenCV has it; the skeleton is that of Zhang and Suen as scikit-image has it. What a snake is like is told by the
shape of :mod:`eyot_core.body`, loosely: a middle that is broadest, one end that tapers, one that ends blunt behind a neck.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra
from skimage.morphology import skeletonize

from eyot_core.body import GIRTHS, half_widths
from eyot_core.colour import lab, linear

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
Pixels = NDArray[np.uint8]
Box = tuple[int, int, int, int]

LONGEST = 640
"""The longer side in pixels of the photo in which the animal is sought."""
POINTS = 24
STATIONS = 160
GROUND_TERMS = 6
EVEN, LEAST_GROUND = 0.05, 0.5
"""Median deviation in logs that an even ground keeps below, and the least share of the photo that it fills."""
SURELY, HARDLY = 9.0, 3.0
"""Differences from the ground, CIELAB: above is taken for animal, below for ground, before GrabCut."""
DIFFERENCES = (11.0, 7.0, 4.0)
GAPS = (0.0, 0.5, 1.1)
"""How wide gaps are closed, in shares of the body's half-width."""
LEAST_AREA = 0.004
LEAST_CONFIDENCE = 0.12
PLAINLY, MOST_LEFT = 0.7, 0.25
PALE = (62.0, 26.0)
"""Least lightness and largest chroma of what counts as pale, CIELAB, where the ground has a lightness of 82."""
HARDLY_A_SNAKE = 0.003
"""Likeness below which what stands out is no animal: a shadow, an edge."""
LEAVES = "it leaves the picture"
EDGE = 2


@dataclass(frozen=True)
class Part:
    """What stands out most like an animal, also where no line may be drawn. ``half_width``: of its broadest place, in shares of the
    photo's longer side; ``leaves``: does it leave the picture; ``pale``: how much of a band along its middle is pale, 0 to 1;
    ``lighter``: how much lighter that band is than its two sides, CIELAB; ``likeness``: how like a snake it is, 0 to 1; ``body``: its
    pixels in the photo made as small as it was searched."""

    half_width: float
    leaves: bool
    pale: float
    lighter: float
    likeness: float = 0.0
    body: Mask = field(default_factory=lambda: np.zeros((1, 1), dtype=bool), compare=False, repr=False)


@dataclass(frozen=True)
class Found:
    """What was found. ``points``: (n, 2) in pixels of the photo, snout first, or None; ``confidence``: 0 to 1; ``why``: a sentence;
    ``part``: what was looked at, None where nothing stands out."""

    points: Floats | None
    confidence: float
    why: str
    part: Part | None = None


@dataclass(frozen=True)
class _Candidate:
    """A path through a mask: places (stations, 2), half-widths (stations,), how like a snake it is 0 to 1, and what speaks against it.

    ``turned``: above 0 where the first end is the head; ``left``: what plainly stands out beside it, as a share of its area."""

    places: Floats
    widths: Floats
    likeness: float
    turned: float
    left: float
    against: str = ""


def find_animal(photo: Pixels, cards: Sequence[Box] = ()) -> Found:
    """The line along an animal's back in an upright photo, sRGB (rows, columns, 3). ``cards``: what is known to be cards, (left,
    top, right, bottom) in pixels of the photo."""
    factor = min(1.0, LONGEST / max(photo.shape[:2]))
    small = made_small(photo)
    light = np.maximum(linear(small), 2e-4)
    free = beside_cards(small.shape[:2], cards, factor)
    ground = ground_of(light, free)
    if ground is None:
        return Found(None, 0.0, "the ground is not even: lay the animal on plain paper or cloth")
    against = _against(light, ground)
    best = _best(_candidates(against, free))
    if best is None:
        return Found(None, 0.0, "nothing of an animal's shape stands out from the ground")
    part = _part(best, against)
    if best.against:
        return Found(None, 0.0, best.against, part)
    places = best.places if best.turned > 0 else best.places[::-1]
    confidence = _confidence(best)
    if confidence < LEAST_CONFIDENCE:
        return Found(None, confidence, "what stands out is not plainly one body from head to tail", part)
    points = (places[np.linspace(0, len(places) - 1, POINTS).round().astype(int)] + 0.5) / factor - 0.5
    points = np.clip(points, 0, np.array(photo.shape[1::-1]) - 1.0)
    words = "the middle of one long body, its blunt end taken for the head"
    return Found(points, confidence, words if confidence >= 0.5 else f"{words}; not sure of it", part)


def animal_in(found: Found) -> Part | None:
    """What stands out, where it may be an animal."""
    return found.part if found.part is not None and found.part.likeness > HARDLY_A_SNAKE else None


def made_small(photo: Pixels) -> Pixels:
    """The photo as small as an animal is sought in it."""
    factor = min(1.0, LONGEST / max(photo.shape[:2]))
    shape = max(2, round(photo.shape[0] * factor)), max(2, round(photo.shape[1] * factor))
    return np.asarray(cv2.resize(photo, shape[::-1], interpolation=cv2.INTER_AREA), dtype=np.uint8)


def beside_cards(shape: tuple[int, ...], cards: Sequence[Box], factor: float) -> Mask:
    """What of a photo that was made smaller by a factor is no card."""
    free = np.ones(shape, dtype=bool)
    for card in cards:
        left, top, right, bottom = (round(value * factor) for value in card)
        free[max(0, top - 4) : bottom + 5, max(0, left - 4) : right + 5] = False
    return free


def _part(one: _Candidate, against: Floats) -> Part:
    """What is told of the part that a path runs through: along a band in its middle, and along two at its sides."""
    across = _across(one.places) * one.widths[:, None]
    middle = _seen(np.concatenate([one.places + share * across for share in (-0.2, 0.0, 0.2)]), against)
    sides = _seen(np.concatenate([one.places + share * across for share in (-0.8, 0.8)]), against)
    pale = (middle[:, 0] > PALE[0]) & (np.hypot(middle[:, 1], middle[:, 2]) < PALE[1])
    lighter = float(np.median(middle[:, 0]) - np.median(sides[:, 0]))
    half_width = float(one.widths.max()) / max(against.shape[:2])
    body = _tube(one.places, one.widths, against.shape[:2])
    return Part(half_width, one.against == LEAVES, float(pale.mean()), lighter, one.likeness, body)


def _seen(places: Floats, against: Floats) -> Floats:
    """The colours at some places."""
    x, y = (np.clip(places[:, axis].round().astype(int), 0, against.shape[1 - axis] - 1) for axis in (0, 1))
    return np.asarray(against[y, x])


def _best(candidates: Iterator[_Candidate]) -> _Candidate | None:
    """The one most like a snake; the first that is plainly one ends the search."""
    best: _Candidate | None = None
    for one in candidates:
        if best is None or one.likeness > best.likeness:
            best = one
        if best.likeness > PLAINLY and not best.against:
            break
    return best


def ground_of(light: Floats, free: Mask) -> Floats | None:
    """Linear RGB of the bare ground at every pixel, or None where it is not even."""
    rows, columns = np.nonzero(free)
    pick = np.linspace(0, len(rows) - 1, min(len(rows), 9000)).astype(int)
    rows, columns = rows[pick], columns[pick]
    logs = np.log(light[rows, columns])
    known = _quadratic(columns / light.shape[1] - 0.5, rows / light.shape[0] - 0.5)
    kept = np.abs(logs - _commonest(logs)).max(axis=1) < 0.45
    terms = np.zeros((GROUND_TERMS, 3))
    for limit in (0.3, 0.18, 0.12, 0.09):
        if kept.mean() < 0.2:
            return None
        terms = np.linalg.lstsq(known[kept], logs[kept], rcond=None)[0]
        kept = np.abs(logs - known @ terms).max(axis=1) < limit
    left = np.abs(logs - known @ terms)[kept]
    if kept.mean() < LEAST_GROUND or float(np.median(left)) > EVEN:
        return None
    yy, xx = np.mgrid[0 : light.shape[0], 0 : light.shape[1]]
    return np.asarray(np.exp(_quadratic(xx / light.shape[1] - 0.5, yy / light.shape[0] - 0.5) @ terms))


def _quadratic(x: Floats, y: Floats) -> Floats:
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)


def _commonest(logs: Floats) -> Floats:
    """The colour that most pixels have about, as logs of linear RGB."""
    steps = np.round(logs / 0.25).astype(int)
    _, which, counts = np.unique(steps, axis=0, return_inverse=True, return_counts=True)
    return np.asarray(np.median(logs[which.ravel() == int(counts.argmax())], axis=0))


def _against(light: Floats, ground: Floats) -> Floats:
    """CIELAB of the photo with its ground made even and light grey, (rows, columns, 3)."""
    blurred = cv2.GaussianBlur(light / ground * 0.6, (0, 0), 0.8)
    return np.asarray(lab(np.clip(blurred, 0, 4)))


def _candidates(against: Floats, free: Mask) -> Iterator[_Candidate]:
    plain = lab(np.full((1, 1, 3), 0.6))[0, 0]
    off = against - plain
    shade = np.minimum(off[..., 0], 0)
    hue = np.hypot(off[..., 1], off[..., 2])
    # A shadow is darker and has the ground's hue: of what is a little darker only a part counts.
    difference = np.hypot(hue, np.where(off[..., 0] < 0, np.maximum(0, -shade - 6.0), off[..., 0]))
    difference[~free] = 0
    if _without_cards(difference > min(DIFFERENCES)).mean() < LEAST_AREA:
        return
    plainly = _without_cards(difference > SURELY)
    tried: set[bytes] = set()
    for mask in _masks(against, difference, free):
        for part in _parts(mask):
            key = np.packbits(part[::4, ::4]).tobytes()
            if key not in tried:
                tried.add(key)
                yield from _of_part(part, plainly)


def _without_cards(mask: Mask) -> Mask:
    """A mask without its parts that fill a rectangle, and without specks."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    kept = [
        index
        for index in range(1, count)
        if stats[index, cv2.CC_STAT_AREA] > 0.0004 * mask.size and not _is_card(labels == index)
    ]
    return np.isin(labels, kept)


def _masks(against: Floats, difference: Floats, free: Mask) -> Iterator[Mask]:
    for least in DIFFERENCES:
        yield difference > least
    yield _cut(against, difference, free)


def _cut(against: Floats, difference: Floats, free: Mask) -> Mask:
    seeds = np.full(difference.shape, cv2.GC_PR_BGD, dtype=np.uint8)
    seeds[difference > SURELY] = cv2.GC_PR_FGD
    seeds[(difference < HARDLY) | ~free] = cv2.GC_BGD
    if not (seeds == cv2.GC_PR_FGD).any():
        return np.zeros(difference.shape, dtype=bool)
    shown = np.clip(against * np.array([2.55, 2.2, 2.2]) + np.array([0, 128, 128]), 0, 255).astype(np.uint8)
    cv2.setRNGSeed(1)
    cv2.grabCut(shown, seeds, (0, 0, 1, 1), np.zeros((1, 65)), np.zeros((1, 65)), 2, cv2.GC_INIT_WITH_MASK)
    return np.asarray((seeds == cv2.GC_FGD) | (seeds == cv2.GC_PR_FGD))


def _parts(mask: Mask) -> Iterator[Mask]:
    """The large connected parts of a mask, with gaps closed more and more; cards left out."""
    rough = np.asarray(cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, _disc(1)), dtype=np.uint8)
    distance = cv2.distanceTransform(rough, cv2.DIST_L2, 5)
    thick = float(np.percentile(distance[distance > 1], 97)) if (distance > 1).any() else 0.0
    if thick < 2:
        return
    for gap in GAPS:
        closed = _closed(rough, gap * thick)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(closed, connectivity=8)
        order = sorted(range(1, count), key=lambda index: -int(stats[index, cv2.CC_STAT_AREA]))[:2]
        for index in order:
            part = labels == index
            if stats[index, cv2.CC_STAT_AREA] >= LEAST_AREA * mask.size and not _is_card(part):
                yield _without_specks(part, thick)


def _closed(mask: Pixels, radius: float) -> Pixels:
    """Gaps of up to twice a radius closed, by distances: however wide, it takes the same time."""
    if radius < 1:
        return mask
    wide = (cv2.distanceTransform(1 - mask, cv2.DIST_L2, 5) <= radius).astype(np.uint8)
    return np.asarray(cv2.distanceTransform(wide, cv2.DIST_L2, 5) > radius, dtype=np.uint8)


def _disc(radius: int) -> Pixels:
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1)), dtype=np.uint8)


def _is_card(part: Mask) -> bool:
    """Does it fill a rectangle?"""
    contours, _ = cv2.findContours(part.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    _, (width, height), _ = cv2.minAreaRect(max(contours, key=len))
    return bool(part.sum() > 0.85 * width * height and min(width, height) > 0.3 * max(width, height))


def _without_specks(part: Mask, thick: float) -> Mask:
    """With holes filled that are too small to lie between two coils: gloss, and white scales on white paper."""
    holes = ~part
    count, labels, stats, _ = cv2.connectedComponentsWithStats(holes.astype(np.uint8), connectivity=4)
    small = [index for index in range(1, count) if stats[index, cv2.CC_STAT_AREA] < 2.0 * thick * thick]
    return np.asarray(part | np.isin(labels, small)) if small else part


def _of_part(part: Mask, plainly: Mask) -> Iterator[_Candidate]:
    path = _longest_path(part)
    if path is None:
        return
    smooth = np.asarray(cv2.GaussianBlur(part.astype(np.float32), (0, 0), 1.0), dtype=np.float32)
    places = _even(gaussian_filter1d(path, max(1.0, len(path) * 0.012), axis=0))
    places, widths = _recentred(places, smooth)
    places, widths = _to_the_tips(places, smooth)
    length = float(np.hypot(*np.diff(places, axis=0).T).sum())
    widest = float(np.percentile(widths, 92))
    if length < 40 or widest < 1.5:
        return
    turned = _which_end(widths, length, widest)
    tube = _tube(places, widths, part.shape)
    explained = float((tube & part).sum() / max(1, (tube | part).sum()))
    around = _tube(places, widths + 0.45 * widest, part.shape)
    left = float((plainly & ~around).sum() / max(1, tube.sum()))
    fat = widest / length
    usual = 1 / (GIRTHS * np.pi)
    proportion = float(np.exp(-0.5 * (np.log(fat / usual) / 0.35) ** 2))
    shape = _like_a_body(widths if turned > 0 else widths[::-1])
    likeness = explained * proportion * shape * float(np.exp(-left))
    yield _Candidate(places, widths, likeness, turned, left, _trouble(part, widest, explained, left))


def _longest_path(part: Mask) -> Floats | None:
    """The longest of the shortest paths through the skeleton, (n, 2) as x and y."""
    rows, columns = np.nonzero(skeletonize(part))  # type: ignore[no-untyped-call]
    if len(rows) < 12:
        return None
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
    graph = coo_array((np.concatenate(steps), (np.concatenate(starts), np.concatenate(ends))), shape=size).tocsr()
    first = _farthest(graph, 0)[0]
    last, before = _farthest(graph, first)
    path = [last]
    while path[-1] != first and before[path[-1]] >= 0:
        path.append(int(before[path[-1]]))
    return np.stack([columns[path], rows[path]], axis=1).astype(float)


def _farthest(graph: coo_array, start: int) -> tuple[int, NDArray[np.int32]]:
    far, before = dijkstra(graph, directed=False, indices=start, return_predecessors=True)
    return int(np.where(np.isfinite(far), far, -1).argmax()), before


def _even(path: Floats, stations: int = STATIONS) -> Floats:
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    even = np.linspace(0, along[-1], stations)
    return np.stack([np.interp(even, along, path[:, axis]) for axis in (0, 1)], axis=1)


def _across(places: Floats) -> Floats:
    tangents = gaussian_filter1d(np.gradient(places, axis=0), 1.5, axis=0)
    tangents /= np.maximum(np.hypot(*tangents.T), 1e-9)[:, None]
    return np.stack([-tangents[:, 1], tangents[:, 0]], axis=1)


def _recentred(places: Floats, smooth: NDArray[np.float32]) -> tuple[Floats, Floats]:
    """The places moved to the middle between the edges on both sides, and the half-widths there."""
    widths = np.zeros(len(places))
    for _ in range(2):
        sides = [_reach(places, sign * _across(places), smooth) for sign in (1, -1)]
        widths = (sides[0] + sides[1]) / 2
        usual = float(np.percentile(widths, 90))
        shift = np.clip((sides[0] - sides[1]) / 2, -0.5 * usual, 0.5 * usual)
        places = places + gaussian_filter1d(shift, 2.0)[:, None] * _across(places)
        places = _even(gaussian_filter1d(places, 1.5, axis=0, mode="nearest"))
    return places, gaussian_filter1d(widths, 1.0)


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
    places = _even(places)
    sides = [_reach(places, sign * _across(places), smooth) for sign in (1, -1)]
    return places, gaussian_filter1d((sides[0] + sides[1]) / 2, 1.0)


def _which_end(widths: Floats, length: float, widest: float) -> float:
    """Above 0: the first end is the head; the size tells how plainly. The head is blunt, the tail tapers over a long way."""
    along = np.linspace(0, length, len(widths)) / widest
    near = (along > 0.4) & (along < 4.0)
    first, last = float(widths[near].mean()), float(widths[::-1][near].mean())
    return float((first - last) / widest)


def _like_a_body(widths: Floats) -> float:
    """How like the shape of a body the half-widths are, snout first: 0 to 1."""
    u = np.linspace(0, 1, len(widths))
    shape = half_widths(u, GIRTHS * np.pi)
    scale = float((widths * shape).sum() / (shape * shape).sum())
    off = float(np.sqrt(np.mean((widths / max(scale, 1e-9) - shape) ** 2)))
    return float(np.exp(-0.5 * (off / 0.22) ** 2))


def _tube(places: Floats, widths: Floats, shape: tuple[int, ...]) -> Mask:
    """The pixels within the half-widths of the path."""
    drawn = np.zeros(shape, dtype=np.uint8)
    for place, width in zip(places, widths, strict=True):
        cv2.circle(drawn, np.round(place * 16).astype(int).tolist(), round(float(width) * 16), 1, -1, shift=4)
    return drawn.astype(bool)


def _trouble(part: Mask, widest: float, explained: float, left: float) -> str:
    """Why no line may be drawn though something is there; empty where one may."""
    rim = np.concatenate([part[:EDGE].ravel(), part[-EDGE:].ravel(), part[:, :EDGE].ravel(), part[:, -EDGE:].ravel()])
    if rim.sum() > 2 * EDGE * 0.6 * widest:
        return LEAVES
    holes, _, stats, _ = cv2.connectedComponentsWithStats((~part).astype(np.uint8), connectivity=4)
    if any(stats[index, cv2.CC_STAT_AREA] > 1.5 * widest * widest for index in range(1, holes)) and holes > 2:
        return "it touches itself: what lies in coils needs a line by hand"
    if left > MOST_LEFT:
        return "more stands out than one body: only a part of it was found, or something lies beside it"
    if explained < 0.72:
        return "it lies in coils, or more than one thing lies together"
    return ""


def _confidence(one: _Candidate) -> float:
    """How surely the line is right: by the likeness to a body, and how plainly the two ends differ."""
    ends = 1 - np.exp(-((abs(one.turned) / 0.14) ** 2))
    likely = 1 / (1 + np.exp(-(one.likeness - 0.5) * 11))
    return float(np.round(min(0.99, ends * likely * max(0.0, 1 - 2 * one.left)), 3))
