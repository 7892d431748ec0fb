"""The animal found in a photo from above, without a hand: ground fitted, animal parted from it, the line through its middle.

Several partings are tried: by colours first (plain differences from the ground, and GrabCut), then, where no body stands out so, by its two
edges (:mod:`eyot_core.photo.edges`), as white skin on pale paper needs it. Of each the longest path through the skeleton is taken, and the
one that is most like a snake counts. What touches itself, leaves the picture, or does not stand out gets no line, with the reason: a wrong
line costs more than a missing one.

Source: GrabCut as OpenCV has it. What a snake is like is told by the shape of :mod:`eyot_core.body`, loosely: a middle that is broadest,
one end that tapers, one that ends blunt behind a neck.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from eyot_core.body import GIRTHS, half_widths
from eyot_core.colour import lab
from eyot_core.photo.edges import Slopes, across_of, between_edges, carried_on, moved_between, slopes_of
from eyot_core.photo.middle import evenly, middle_of, size_of
from eyot_core.photo.sight import Sight

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
Pixels = NDArray[np.uint8]

POINTS = 24
SURELY, HARDLY = 9.0, 3.0
"""Differences from the ground, CIELAB: above is taken for animal, below for ground, before GrabCut."""
DIFFERENCES = (11.0, 7.0, 4.0)
GAPS = (0.0, 0.5, 1.1)
"""How wide gaps are closed, in shares of the body's half-width."""
LEAST_AREA, LEAST_EDGES = 0.004, 0.002
"""Share of the photo below which what differs from the ground, and where edges are, is no animal."""
LEAST_CONFIDENCE, PLAINER = 0.2, 3.2
"""Below which confidence no line is given; from how many times as strong edges about the tail on the head is not to be told."""
PLAINLY, MOST_LEFT = 0.7, 0.25
OPPOSED = 0.8
"""What the likeness of a path counts of which something speaks against a line."""
NEUTRAL, DEEPEST, SHADOWED = 5.0, -20.0, 0.5
"""Difference in hue and darkness, CIELAB, within which a part may be a shadow; how much less such a part counts."""
MOSTLY = 0.6
"""What share of a body must plainly differ from the ground in its colours, that its edges need not be looked for."""
ALIKE = 0.85
"""What share of the best's worth others have that may tell where the head is."""
SAME_PART = 0.97
"""How much of two parts is in both where one is not looked at any more."""
SHORTER = 0.75
"""What share of the best's worth in length a path must have to be looked at."""
LOST = 3.0
"""How much more it counts against a path that edges lie elsewhere, where edges are all that is seen."""
PALE = (62.0, 26.0)
"""Least lightness and largest chroma of what counts as pale, CIELAB, where the ground has a lightness of 82."""
HARDLY_A_SNAKE = 0.003
"""Likeness below which what stands out is no animal: a shadow, an edge."""
LEAVES = "it leaves the picture"
TOUCHES = "it touches itself: what lies in coils needs a line by hand"
COILS = "it lies in coils, or more than one thing lies together"
MORE = "more stands out than one body: only a part of it was found, or something lies beside it"
EDGE = 2
HEADS_LENGTH, HEADS_COLOUR = 0.05, 0.5
"""How much of a body is head, and what it counts, beside the widths of both ends, that only one end is coloured."""
HEADS_AREA, BEFORE_HEAD, COVERED = (0.15, 3.0), 3.0, 0.3
"""Area in squares of the girth of what may be a head before an end of a body; how far before it, in half-widths; from which share of it
that the body covers it is a part of the body."""
CLOSE, PARTLY = 0.06, 0.4
"""Half-width of a body that leaves the picture, in shares of its longer side, from which it is a head seen close; what share of it must
plainly differ from the ground."""


@dataclass(frozen=True)
class Part:
    """What stands out most like an animal, also where no line may be drawn. ``half_width``: of its broadest place, in shares of the
    photo's longer side; ``leaves``: does it leave the picture; ``pale``: how much of a band along its middle is pale, 0 to 1;
    ``lighter``: how much lighter that band is than its two sides, CIELAB; ``likeness``: how like a snake it is, 0 to 1; ``close``: is it
    a body seen so close that it has no such likeness; ``body``: its pixels in the photo made as small as it was searched."""

    half_width: float
    leaves: bool
    pale: float
    lighter: float
    likeness: float = 0.0
    close: bool = False
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
    """A path: places (stations, 2), half-widths (stations,), how like a snake it is 0 to 1, and what speaks against it.

    ``turned``: above 0 where the first end is the head; ``left``: what plainly stands out beside it, as a share of its area; ``plain``: the
    share of it that differs from the ground in colour; ``slopes``: what it was found in, where it was found by its edges alone; ``ends``:
    how strong its edges are then about its first and about its last end; ``close``: is it a head seen close, with the neck leaving the
    picture."""

    places: Floats
    widths: Floats
    likeness: float
    turned: float
    left: float
    against: str = ""
    plain: float = 0.0
    slopes: Slopes | None = None
    ends: tuple[float, float] = (1.0, 1.0)
    close: bool = False

    @property
    def is_plainer_behind(self) -> bool:
        """Do the edges about the end that is taken for the head hardly show beside those about the other? A head is told by how broad it
        is, and that by its edges."""
        head, tail = self.ends if self.turned > 0 else self.ends[::-1]
        return head * PLAINER < tail


def find_animal(sight: Sight) -> Found:
    """The line along an animal's back in a photo."""
    photo, ground = sight.photo, sight.ground
    if ground is None:
        return Found(None, 0.0, "the ground is not even: lay the animal on plain paper or cloth")
    against = _against(sight.light, ground)
    search = _Search.of(against, sight.free)
    best, agreed = _best(search)
    if best is None:
        return Found(None, 0.0, "nothing of an animal's shape stands out from the ground")
    best = search.with_its_head(best)
    best = replace(best, turned=best.turned + HEADS_COLOUR * search.coloured_end(best))
    part = _part(best, against)
    if best.against:
        return Found(None, 0.0, best.against, part)
    places = best.places if best.turned > 0 else best.places[::-1]
    confidence = round(agreed * _confidence(best), 3)
    if best.is_plainer_behind:
        return Found(None, 0.0, "one end hardly shows, so that it is not to be told which is the head", part)
    if confidence < LEAST_CONFIDENCE:
        return Found(None, confidence, "what stands out is not plainly one body from head to tail", part)
    points = (places[np.linspace(0, len(places) - 1, POINTS).round().astype(int)] + 0.5) / sight.factor - 0.5
    points = np.clip(points, 0, np.array(photo.shape[1::-1]) - 1.0)
    words = "the middle of one long body, its blunt end taken for the head"
    return Found(points, confidence, words if confidence >= 0.5 else f"{words}; not sure of it", part)


def animal_in(found: Found) -> Part | None:
    """What stands out, where it may be an animal."""
    part = found.part
    return part if part is not None and (part.close or part.likeness > HARDLY_A_SNAKE) else None


def _part(one: _Candidate, against: Floats) -> Part:
    """What is told of the part that a path runs through: along a band in its middle, and along two at its sides."""
    across = across_of(one.places) * one.widths[:, None]
    middle = _seen(np.concatenate([one.places + share * across for share in (-0.2, 0.0, 0.2)]), against)
    sides = _seen(np.concatenate([one.places + share * across for share in (-0.8, 0.8)]), against)
    pale = (middle[:, 0] > PALE[0]) & (np.hypot(middle[:, 1], middle[:, 2]) < PALE[1])
    lighter = float(np.median(middle[:, 0]) - np.median(sides[:, 0]))
    half_width = float(one.widths.max()) / max(against.shape[:2])
    body = _tube(one.places, one.widths, against.shape[:2])
    return Part(half_width, one.against == LEAVES, float(pale.mean()), lighter, one.likeness, one.close, body)


def _seen(places: Floats, against: Floats) -> Floats:
    """The colours at some places."""
    x, y = (np.clip(places[:, axis].round().astype(int), 0, against.shape[1 - axis] - 1) for axis in (0, 1))
    return np.asarray(against[y, x])


def _best(search: _Search) -> tuple[_Candidate | None, float]:
    """The longest of those most like a snake, and what share of its likes agree with it where the head is. What is plainly one by its
    colours ends the search; edges are looked at where nothing is."""
    seen: list[_Candidate] = []
    for candidates in (search.by_colours(), search.by_edges(lighter=True), search.by_edges(lighter=False)):
        for one in candidates:
            seen.append(one)
            if not one.slopes and one.likeness > PLAINLY and not one.against:
                return one, 1.0
        close = [one for one in seen if search.is_close_up(one)]
        if close:
            return replace(max(close, key=lambda one: one.likeness), close=True), 1.0
        if any(one.likeness > PLAINLY and not one.against for one in seen) or _is_plain(seen):
            break
    if not seen:
        return None, 0.0
    best = max(seen, key=_worth)
    if best.slopes is None:
        return best, 1.0
    best = max(best, _between(evenly(carried_on(best.slopes, best.places)), best.slopes), key=_worth)
    likes = [one for one in seen if one.slopes and _worth(one) > ALIKE * _worth(best)]
    return best, (1 + sum(_is_same_way(one, best) for one in likes)) / (1 + len(likes))


def _is_plain(seen: Sequence[_Candidate]) -> bool:
    """Is what is most like a snake parted from the ground by its colours, and lies so that it can have no line?"""
    best = max(seen, key=lambda one: one.likeness, default=None)
    return best is not None and best.plain > MOSTLY and best.against in (LEAVES, TOUCHES, COILS)


def _worth(one: _Candidate) -> float:
    """Of two that are as much like a snake the longer one counts: the other is a part of it."""
    return one.likeness * size_of(one.places, one.widths)[0]


def _is_same_way(one: _Candidate, other: _Candidate) -> bool:
    """Do both have the head at the same end?"""
    first, last = one.places[[0, -1]] if one.turned > 0 else one.places[[-1, 0]]
    head = other.places[0 if other.turned > 0 else -1]
    return bool(np.hypot(*(first - head)) < np.hypot(*(last - head)))


def _against(light: Floats, ground: Floats) -> Floats:
    """CIELAB of the photo with its ground made even and light grey, (rows, columns, 3)."""
    blurred = cv2.GaussianBlur(light / ground * 0.6, (0, 0), 0.8)
    return np.asarray(lab(np.clip(blurred, 0, 4)))


@dataclass(frozen=True)
class _Search:
    """What the animal is sought in, all of (rows, columns): CIELAB of the photo on an even grey ground (rows, columns, 3), the
    difference from it, the same in hue alone and in darkness (negative) alone; what is no card; what plainly stands out."""

    against: Floats
    difference: Floats
    hue: Floats
    shade: Floats
    free: Mask
    plainly: Mask

    @classmethod
    def of(cls, against: Floats, free: Mask) -> _Search:
        off = against - lab(np.full((1, 1, 3), 0.6))[0, 0]
        shade = np.minimum(off[..., 0], 0)
        hue = np.hypot(off[..., 1], off[..., 2])
        # A shadow is darker and has the ground's hue: of what is a little darker only a part counts.
        difference = np.hypot(hue, np.where(off[..., 0] < 0, np.maximum(0, -shade - 6.0), off[..., 0]))
        difference[~free] = 0
        return cls(against, difference, hue, shade, free, _without_cards(difference > SURELY))

    def by_colours(self) -> Iterator[_Candidate]:
        """Paths through what differs from the ground."""
        if _without_cards(self.difference > min(DIFFERENCES)).mean() < LEAST_AREA:
            return
        shadow = (self.hue < NEUTRAL) & (self.shade < 0) & (self.shade > DEEPEST)
        for part in _all_parts(self._masks(), GAPS):
            yield from _of_part(part, self.plainly, shadow)

    def _masks(self) -> Iterator[Mask]:
        for least in DIFFERENCES:
            yield self.difference > least
        yield _cut(self.against, self.difference, self.free)

    def is_close_up(self, one: _Candidate) -> bool:
        """Is it a broad body that plainly differs from the ground, begins in the picture and leaves it? Its ends are not to be sought."""
        shape = self.free.shape
        width = float(np.median(one.widths))  # where bodies cross they seem broad, too
        ends = one.places[[0, -1]]
        from_rim = np.minimum(ends, np.array(shape[::-1]) - 1 - ends).min(axis=1)
        is_broad = one.against == LEAVES and one.plain > PARTLY and width > CLOSE * max(shape)
        return bool(is_broad and from_rim.min() < width < from_rim.max() * 2)

    def with_its_head(self, one: _Candidate) -> _Candidate:
        """A body that was found by its edges, carried on into what plainly stands out just before one of its ends: the edges of
        white skin on white paper are lost where the neck is lit out, and a coloured head lies beyond."""
        if one.slopes is None or one.against:
            return one
        widest = size_of(one.places, one.widths)[1]
        count, labels, stats, _ = cv2.connectedComponentsWithStats((self.difference > SURELY).astype(np.uint8))
        covered = np.bincount(labels[_tube(one.places, one.widths, labels.shape)], minlength=count)
        for index in range(1, count):
            area = stats[index, cv2.CC_STAT_AREA] / (4 * widest * widest)
            is_own = covered[index] > COVERED * stats[index, cv2.CC_STAT_AREA]
            if is_own or not HEADS_AREA[0] < area < HEADS_AREA[1]:
                continue
            rows, columns = np.nonzero(labels == index)
            places = np.stack([columns, rows], axis=1).astype(np.float64)
            for last in (0, -1):
                from_end = np.hypot(*(places - one.places[last]).T)
                ahead = one.places[last] - one.places[4 if last == 0 else -5]
                is_ahead = float((places.mean(axis=0) - one.places[last]) @ ahead) > 0
                if is_ahead and from_end.min() < BEFORE_HEAD * widest:
                    return _carried_to(one, last, np.stack([places.mean(axis=0), places[from_end.argmax()]]))
        return one

    def coloured_end(self, one: _Candidate) -> float:
        """Above 0, up to 1: of a body that is mostly of the ground's colour only the first end differs plainly from the ground;
        below 0, down to -1: only the last. Pied animals have coloured heads, whatever else is white."""
        seen = self.difference > SURELY
        near = max(1, round(len(one.places) * HEADS_LENGTH))
        first, middle, last = (
            float(seen[_tube(one.places[part], 0.8 * one.widths[part], seen.shape)].mean())
            for part in (slice(near), slice(near, -near), slice(-near, None))
        )
        return (first - last) * float(np.clip(3 - 5 * middle, 0, 1))

    def by_edges(self, *, lighter: bool) -> Iterator[_Candidate]:
        """Paths through what lies between two edges, with what is too coloured or too dark for a shadow."""
        bare = self.free & ~_grown((self.difference > SURELY) & ~self.plainly)
        surely = ((self.hue > SURELY) | (self.shade < 2 * DEEPEST)) & bare
        slopes = slopes_of(self.against, bare)
        if slopes.edges.mean() < LEAST_EDGES:
            return
        masks = (mask | surely for mask in between_edges(self.against, bare, lighter=lighter))
        worth = 0.0
        for part in _all_parts(masks, GAPS[:2]):
            path = middle_of(part)
            # A likeness is 1 at most: what is so much shorter can't be worth as much.
            if path and size_of(*path)[0] > SHORTER * worth:
                one = _between(path[0], slopes)
                worth = max(worth, _worth(one))
                yield one


def _carried_to(one: _Candidate, last: int, more: Floats) -> _Candidate:
    """A path carried on through some places at its first end (0) or its last (-1), with as many stations as before."""
    places = np.concatenate([more[::-1], one.places] if last == 0 else [one.places, more])
    end = np.full(len(more), one.widths[last])
    widths = np.concatenate([end, one.widths] if last == 0 else [one.widths, end])
    along = np.append(0, np.cumsum(np.hypot(*np.diff(places, axis=0).T)))
    at = np.linspace(0, along[-1], len(one.places))
    moved = np.stack([np.interp(at, along, places[:, axis]) for axis in (0, 1)], axis=1)
    return replace(one, places=moved, widths=np.interp(at, along, widths))


def _all_parts(masks: Iterable[Mask], gaps: Sequence[float]) -> Iterator[Mask]:
    """The parts of some masks; of those that are nearly the same the first."""
    tried: list[Mask] = []
    for mask in masks:
        for part in _parts(mask, gaps):
            coarse = part[::4, ::4]
            if not any((coarse & other).sum() > SAME_PART * (coarse | other).sum() for other in tried):
                tried.append(coarse)
                yield part


def _without_cards(mask: Mask) -> Mask:
    """A mask without its parts that fill a rectangle, and without specks."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    kept = [
        index
        for index in range(1, count)
        if stats[index, cv2.CC_STAT_AREA] > 0.0004 * mask.size and not _is_card(labels == index)
    ]
    return np.isin(labels, kept)


def _grown(mask: Mask) -> Mask:
    """The large parts of a mask and what is just beside them: cards, with their edges."""
    opened = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, _disc(5))
    return np.asarray(cv2.dilate(opened, _disc(7)), dtype=bool)


def _cut(against: Floats, difference: Floats, free: Mask) -> Mask:
    shape = difference.shape[1] // 2, difference.shape[0] // 2
    small, seeds = cv2.resize(difference, shape, interpolation=cv2.INTER_AREA), np.zeros(shape[::-1], dtype=np.uint8)
    bare = cv2.resize(free.astype(np.uint8), shape, interpolation=cv2.INTER_NEAREST) == 0
    seeds[:] = cv2.GC_PR_BGD
    seeds[small > SURELY] = cv2.GC_PR_FGD
    seeds[(small < HARDLY) | bare] = cv2.GC_BGD
    if not (seeds == cv2.GC_PR_FGD).any():
        return np.zeros(difference.shape, dtype=bool)
    shown = np.clip(against * np.array([2.55, 2.2, 2.2]) + np.array([0, 128, 128]), 0, 255).astype(np.uint8)
    shown = cv2.resize(shown, shape, interpolation=cv2.INTER_AREA)
    cv2.setRNGSeed(1)
    cv2.grabCut(shown, seeds, (0, 0, 1, 1), np.zeros((1, 65)), np.zeros((1, 65)), 2, cv2.GC_INIT_WITH_MASK)
    cut = ((seeds == cv2.GC_FGD) | (seeds == cv2.GC_PR_FGD)).astype(np.float32)
    return np.asarray(cv2.resize(cut, difference.shape[::-1], interpolation=cv2.INTER_LINEAR) > 0.5)


def _parts(mask: Mask, gaps: Sequence[float]) -> Iterator[Mask]:
    """The large connected parts of a mask, with gaps closed more and more; cards left out."""
    rough = np.asarray(cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, _disc(1)), dtype=np.uint8)
    distance = cv2.distanceTransform(rough, cv2.DIST_L2, 5)
    thick = float(np.percentile(distance[distance > 1], 97)) if (distance > 1).any() else 0.0
    if thick < 2:
        return
    for gap in gaps:
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


def _of_part(part: Mask, plainly: Mask, shadow: Mask) -> Iterator[_Candidate]:
    """The path of a part. ``shadow``: where it is a little darker than the ground and of its hue, which counts half."""
    path = middle_of(part)
    if path is None:
        return
    places, widths = path
    widest = size_of(places, widths)[1]
    tube = _tube(places, widths, part.shape)
    explained = float((tube & part).sum() / max(1, (tube | part).sum()))
    explained *= 1 - SHADOWED * float((shadow & tube).sum() / max(1, tube.sum()))
    around = _tube(places, widths + 0.45 * widest, part.shape)
    left = float((plainly & ~around).sum() / max(1, tube.sum()))
    plain = float((plainly & ~shadow & tube).sum() / max(1, tube.sum()))
    yield replace(_judged(places, widths, explained, left, _trouble(part, widest, explained, left)), plain=plain)


def _between(places: Floats, slopes: Slopes) -> _Candidate:
    """A path moved to the middle between two edges."""
    between = moved_between(slopes, places)
    widest = size_of(between.places, between.widths)[1]
    edges = slopes.edges
    around = _tube(between.places, between.widths + 1.2 * widest, edges.shape)
    left = float((edges & ~around).sum() / max(1, (edges & around).sum()))
    rim = np.array(edges.shape[::-1]) - 1 - between.places[[0, -1]]
    leaves = min(float(rim.min()), float(between.places[[0, -1]].min())) < 0.6 * widest
    against = LEAVES if leaves else MORE if left > MOST_LEFT else ""
    explained = between.support * float(np.exp(-LOST * left))
    judged = _judged(between.places, between.widths, explained, left, against)
    near = _near_ends(between.widths, *size_of(between.places, between.widths))
    return replace(
        judged,
        slopes=slopes,
        ends=(float(np.median(between.strength[near[0]])), float(np.median(between.strength[near[1]]))),
    )


def _judged(places: Floats, widths: Floats, explained: float, left: float, against: str) -> _Candidate:
    """How like a snake a path is. ``explained``: how much of what stands out it is, 0 to 1."""
    length, widest = size_of(places, widths)
    turned = _which_end(widths, length, widest)
    usual = 1 / (GIRTHS * np.pi)
    proportion = float(np.exp(-0.5 * (np.log(widest / length / usual) / 0.35) ** 2))
    shape = _like_a_body(widths if turned > 0 else widths[::-1])
    likeness = explained * proportion * shape * float(np.exp(-left)) * (OPPOSED if against else 1.0)
    return _Candidate(places, widths, likeness, turned, left, against)


def _which_end(widths: Floats, length: float, widest: float) -> float:
    """Above 0: the first end is the head; the size tells how plainly. The head is blunt, the tail tapers over a long way."""
    first, last = (float(widths[near].mean()) for near in _near_ends(widths, length, widest))
    return float((first - last) / widest)


def _near_ends(widths: Floats, length: float, widest: float) -> tuple[Mask, Mask]:
    """The stations near the first and near the last end, but for the tips."""
    along = np.linspace(0, length, len(widths)) / widest
    near = np.asarray((along > 0.4) & (along < 4.0))
    return near, near[::-1]


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
        return TOUCHES
    if left > MOST_LEFT:
        return MORE
    if explained < 0.72:
        return COILS
    return ""


def _confidence(one: _Candidate) -> float:
    """How surely the line is right: by the likeness to a body, and how plainly the two ends differ."""
    ends = 1 - np.exp(-((abs(one.turned) / 0.14) ** 2))
    likely = 1 / (1 + np.exp(-(one.likeness - 0.5) * 11))
    return float(np.round(min(0.99, ends * likely * max(0.0, 1 - 2 * one.left)), 3))
