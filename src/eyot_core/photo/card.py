"""The card that is laid beside an animal, and what it tells in a photo: light, scale, slant, and whose photo it is.

Its corners carry markers of a public dictionary (ArUco, 4 × 4 bits), its left half a QR code (ISO/IEC 18004) with the number of a
hatchling or a clutch, its right half a window that is cut out and laid over a grey card or white paper. Where a marker or two are
hidden the others still tell where the card lies. A card seen in a mirror is told and not used.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from qrcode.constants import ERROR_CORRECT_M, ERROR_CORRECT_Q
from qrcode.exceptions import DataOverflowError
from qrcode.main import QRCode

from eyot_core.colour import linear
from eyot_core.errors import InputError

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]
Box = tuple[int, int, int, int]

WIDTH, HEIGHT = 86.0, 54.0
"""Of the card, millimetres; all places on it are from its upper left corner."""
MARKER = 13.0
CORNERS = ((3.0, 3.0), (70.0, 3.0), (70.0, 38.0), (3.0, 38.0))
"""Left and top of each corner's marker, clockwise from the upper left."""
CUT_OUT, PRINTED, SMALL_ONES = (11, 23, 31, 43), (0, 1, 4, 6), (2, 7, 12, 13)
"""The numbers of the markers in the dictionary: of cards whose window is cut out, of those that carry printed grey in its place, and of
those that stand on labels."""
MARKERS = {
    number: corner for one in (CUT_OUT, PRINTED, SMALL_ONES) for number, corner in zip(one, CORNERS, strict=True)
}
ON_LABELS = 0.5
"""How large a card on a label is, in shares of one that is laid beside an animal. It has no window: it tells no light."""
CODE = (19.0, 3.5, 27.0)
"""Left, top and side of the QR code."""
WINDOW = (50.0, 4.0, 67.0, 30.0)
"""Left, top, right and bottom of the window."""
WORDS, BESIDE_WORDS = ((55.4, 4.7, 61.6, 5.9),), ((51.0, 4.7, 54.0, 5.9), (63.0, 4.7, 66.0, 5.9))
"""Where the window says that it is to be cut out, and what lies beside these words."""
INKED = 0.92
"""How bright the place of the words is beside what lies to its left and right, where they are seen: the window is not cut out."""
PAPER = ((48.0, 10.0), (48.0, 24.0), (43.0, 33.0), (17.5, 45.0), (68.5, 45.0))
"""Places where the card is bare paper."""
SCALE_LINE = (18.0, 68.0, 47.0)
"""Left, right and height of the line of 50 mm."""
LARGEST_CODE = 3
"""Version of the largest code: 29 modules on a side, as many as a photo of a small card still shows."""
ENOUGH = 3
"""Markers of one card that must be seen."""
REACH = 0.35
"""How far from where one marker says that another lies it may be, in widths of the card."""
MOST_OFF = 0.012
"""The largest mean distance between a card's markers and where they should be, in widths of the card."""
SMALL, LARGE = 1_600, 2_200
"""Longer sides in pixels below which a photo is enlarged, and above which it is reduced first."""
WINDOWS, FEWER_WINDOWS = 8, 20
"""By how many pixels one window of the markers' detector is larger than the one before: in the reduced photo, and in the whole."""
PER_MM = 14
PER_MODULE = 8
GREY, WHITE = (0.08, 0.45), (0.62, 1.6)
"""What lies in the window, by how bright it is beside the card's own paper."""
EVEN = 0.12
LEAST_WINDOW = 5
BURNT = 0.97
SHARPENED = (0.0, 0.05, 0.1, 0.16)
UNCUT = "a card's window is not cut out, or it is shown on a screen: it tells whose photo it is, but neither light nor scale"
MIRRORED = "a card is seen in a mirror, or the picture is turned over: it is not used"
FINDER = np.pad(np.pad(np.zeros((3, 3)), 1, constant_values=1.0), 1)
"""A corner of a code, 7 modules on a side; light is 1."""
BLANK = 0.25
"""How far dark and light lie apart where there is a code, in shares of the light."""


@dataclass(frozen=True)
class Card:
    """A card in a photo. ``id``: what its code says, empty where it has none, None where it can't be read; ``corners``: (4, 2) in
    pixels of the upright photo, clockwise from its own upper left; ``mm_per_pixel``: at its middle, of what lies as far away and is
    not slanted; ``slant``: degrees between the card and the plane of the picture; ``window``: a box (left, top, right, bottom) inside
    the window, and ``kind``: what lies in it, "grey", "white" or "printed", or None; ``uncut``: is it still to be cut out? A card that
    is shown on a screen looks so: its white is no paper's, and it may have any size."""

    id: str | None
    corners: Floats
    mm_per_pixel: float
    slant: float
    kind: str | None
    window: Box | None
    uncut: bool = False

    @property
    def box(self) -> Box:
        """The upright box about it, in pixels: left, top, right, bottom."""
        low, high = self.corners.min(axis=0), self.corners.max(axis=0)
        return int(low[0]), int(low[1]), int(high[0]) + 1, int(high[1]) + 1


@dataclass(frozen=True)
class Cards:
    """All cards of a photo, the largest first. ``why``: what was seen and not used, in a sentence, or empty; ``unread``: is a card, or
    a part of one, seen that does not say whose it is?"""

    cards: list[Card]
    why: str
    unread: bool = False


@cache
def code_rows(text: str) -> tuple[tuple[bool, ...], ...]:
    """The modules of a card's code, dark where true, without its quiet edge. InputError where the text is too long."""
    for version in range(1, LARGEST_CODE + 1):
        for correction in (ERROR_CORRECT_Q, ERROR_CORRECT_M):
            code = QRCode(version=version, border=0, error_correction=correction)
            code.add_data(text)
            try:
                code.make(fit=False)
            except (DataOverflowError, ValueError):
                continue
            return tuple(tuple(bool(module) for module in row) for row in code.get_matrix())
    raise InputError(
        f"{text!r} is too long for a card: at most {LONGEST} capitals and digits, or 42 other letters", "id"
    )


LONGEST = 61


def marker_rows(number: int) -> tuple[tuple[bool, ...], ...]:
    """The cells of a corner's marker, dark where true: 6 × 6 with its border."""
    cells = cv2.aruco.generateImageMarker(_dictionary(), number, 6, borderBits=1)
    return tuple(tuple(bool(cell == 0) for cell in row) for row in cells)


@cache
def _dictionary() -> cv2.aruco.Dictionary:
    return cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50)


@cache
def _seen_both_ways() -> cv2.aruco.Dictionary:
    """The card's markers, and after them the same as a mirror shows them: any two differ by three cells or more however they are turned."""
    cells = [~np.array(marker_rows(number))[1:-1, 1:-1] for number in MARKERS]
    rows = [side.astype(np.uint8) for side in (*cells, *(one[:, ::-1] for one in cells))]
    return cv2.aruco.Dictionary(
        np.concatenate([cv2.aruco.Dictionary.getByteListFromBits(np.ascontiguousarray(one)) for one in rows]), 4, 1
    )


Marker = tuple[int, Floats]
"""Number and corners (4, 2) in pixels, clockwise from the upper left as printed."""


@dataclass(frozen=True)
class Markers:
    """Markers of cards. ``mirrored``: those that a mirror shows, where they would lie in the picture turned over."""

    seen: list[Marker]
    mirrored: list[Marker]


def find_cards(photo: Pixels) -> Cards:
    """The cards in an upright photo, sRGB (rows, columns, 3)."""
    grey = np.asarray(cv2.cvtColor(photo, cv2.COLOR_RGB2GRAY), dtype=np.uint8)
    markers = _markers(grey)
    groups, left = _grouped(markers.seen)
    cards = [_card(photo, grey, group) for group in groups]
    cards.sort(key=lambda card: card.mm_per_pixel)
    why = _why(cards, left, markers.mirrored)
    return Cards(cards, why, bool(left) or why == MIRRORED or any(card.id is None for card in cards))


def _why(cards: Sequence[Card], left: int, mirrored: Sequence[Marker]) -> str:
    if not cards and not left and _grouped(mirrored)[0]:
        return MIRRORED
    if left and not cards:
        return f"part of a card is seen, {left} of its 4 corners: lay it so that at least {ENOUGH} show"
    if any(card.uncut for card in cards):
        return UNCUT
    if any(card.id is None for card in cards):
        return "a card's code can't be read: go nearer, or hold the camera still"
    return "" if cards else "no card is seen"


def _markers(grey: Pixels) -> Markers:
    longest = max(grey.shape)
    for factor, windows in dict.fromkeys(((_factor(longest), WINDOWS), (1.0, FEWER_WINDOWS))):
        found = _markers_at(grey, factor, windows)
        if len({number for number, _ in found.seen}) >= ENOUGH:
            break
    return found


def _factor(longest: int) -> float:
    return 2.0 if longest < SMALL else min(1.0, LARGE / longest)


def _markers_at(grey: Pixels, factor: float, windows: int) -> Markers:
    how = cv2.aruco.DetectorParameters()
    how.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    how.adaptiveThreshWinSizeMin, how.adaptiveThreshWinSizeMax, how.adaptiveThreshWinSizeStep = 5, 45, windows
    how.minMarkerPerimeterRate = 0.015
    shape = (max(1, round(grey.shape[1] * factor)), max(1, round(grey.shape[0] * factor)))
    interpolation = cv2.INTER_AREA if factor < 1 else cv2.INTER_CUBIC
    sized = grey if factor == 1 else cv2.resize(grey, shape, interpolation=interpolation)
    corners, places, _ = cv2.aruco.ArucoDetector(_seen_both_ways(), how).detectMarkers(sized)
    found = Markers([], [])
    numbers = [] if places is None else [int(place) for place in np.ravel(places)]
    for place, corner in zip(numbers, corners, strict=True):
        at = (np.asarray(corner, dtype=np.float64).reshape(4, 2) + 0.5) / factor - 0.5
        if place < len(MARKERS):
            found.seen.append((list(MARKERS)[place], at))
        else:
            at[:, 0] = grey.shape[1] - 1 - at[:, 0]
            found.mirrored.append((list(MARKERS)[place - len(MARKERS)], at[[1, 0, 3, 2]]))
    return found


def _printed(number: int) -> Floats:
    """The corners of a marker on the card, (4, 2) in millimetres."""
    left, top = MARKERS[number]
    return np.array([(left, top), (left + MARKER, top), (left + MARKER, top + MARKER), (left, top + MARKER)])


@dataclass(frozen=True)
class _Group:
    """The markers of one card: the homography from millimetres on it to pixels, as on a card of full size, and of which kind they are."""

    place: Floats
    kind: tuple[int, ...]


def _grouped(seen: Sequence[Marker]) -> tuple[list[_Group], int]:
    """For each card that shows enough of its markers where it lies; and how many markers of others are seen."""
    free = list(range(len(seen)))
    groups: list[_Group] = []
    while best := max((_around(seen, start, free) for start in free), key=len, default=None):
        if len(best) < ENOUGH:
            break
        place = _fitted({seen[at][0]: seen[at][1] for at in best.values()})
        free = [at for at in free if at not in best.values()]
        if place is not None:
            groups.append(_Group(place, _kind_of(next(iter(best)))))
    return groups, len(free)


def _kind_of(number: int) -> tuple[int, ...]:
    """The markers of the kind of card that a marker belongs to."""
    return next(kind for kind in (CUT_OUT, PRINTED, SMALL_ONES) if number in kind)


def _around(seen: Sequence[Marker], start: int, free: Sequence[int]) -> dict[int, int]:
    """The markers that may belong to one card with a certain one, by number: each the nearest to where that one says."""
    number, corners = seen[start]
    pair = _printed(number).astype(np.float32), corners.astype(np.float32)
    alone = np.asarray(cv2.getPerspectiveTransform(*pair), dtype=np.float64)
    reach = REACH * float(np.linalg.norm(corners[1] - corners[0])) * WIDTH / MARKER
    group = {number: start}
    for other in set(_kind_of(number)) - {number}:
        expected = _through(alone, _printed(other).mean(axis=0))
        off = {at: float(np.linalg.norm(seen[at][1].mean(axis=0) - expected)) for at in free if seen[at][0] == other}
        nearest = min(off, key=off.__getitem__, default=None)
        if nearest is not None and off[nearest] < reach:
            group[other] = nearest
    return group


def _fitted(corners: Mapping[int, Floats]) -> Floats | None:
    """The homography of a card by all of its markers that are seen; None where they do not lie as printed."""
    on_card = np.concatenate([_printed(number) for number in corners])
    in_photo = np.concatenate(list(corners.values()))
    fitted, _ = cv2.findHomography(on_card, in_photo, 0)
    if fitted is None:
        return None
    place = np.asarray(fitted, dtype=np.float64)
    width = float(np.linalg.norm(_through(place, (WIDTH, 0.0)) - _through(place, (0.0, 0.0))))
    off = np.linalg.norm(_through(place, on_card) - in_photo, axis=1).mean()
    return place if off < MOST_OFF * width else None


def place_of(card: Card, spots: Sequence[tuple[float, float]]) -> Floats:
    """Where places on a card, millimetres from its upper left corner, lie in the photo: (n, 2) in pixels."""
    printed = np.array([(0.0, 0.0), (WIDTH, 0.0), (WIDTH, HEIGHT), (0.0, HEIGHT)], dtype=np.float32)
    place = cv2.getPerspectiveTransform(printed, card.corners.astype(np.float32))
    return _through(np.asarray(place, dtype=np.float64), np.array(spots))


def _through(place: Floats, points: Floats | tuple[float, float]) -> Floats:
    """Points through a homography: (…, 2)."""
    flat = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    moved = np.c_[flat, np.ones(len(flat))] @ place.T
    return np.asarray((moved[:, :2] / moved[:, 2:]).reshape(np.shape(points)))


def _card(photo: Pixels, grey: Pixels, group: _Group) -> Card:
    place = group.place
    corners = _through(place, np.array([(0.0, 0.0), (WIDTH, 0.0), (WIDTH, HEIGHT), (0.0, HEIGHT)]))
    longest, shortest = _stretch(place)
    window = _box_in(_through(place, _rectangle(WINDOW)), photo.shape) if group.kind != SMALL_ONES else None
    uncut = group.kind == CUT_OUT and _shows_words(grey, place)
    kind = _in_window(photo, place, window) if window else None
    if group.kind == PRINTED:
        kind = "printed" if kind == "grey" else None
    size = ON_LABELS if group.kind == SMALL_ONES else 1.0
    return Card(
        _read(grey, place),
        corners,
        size / longest,
        float(np.degrees(np.arccos(min(1.0, shortest / longest)))),
        kind,
        window if kind else None,
        uncut,
    )


def _shows_words(grey: Pixels, place: Floats) -> bool:
    """Are the words in the window seen that say that it is to be cut out?"""
    inked, beside = ([_mean_in(grey, place, box) for box in boxes] for boxes in (WORDS, BESIDE_WORDS))
    return float(np.mean(inked)) < INKED * min(beside)


def _mean_in(grey: Pixels, place: Floats, box: tuple[float, float, float, float]) -> float:
    """How bright a rectangle on a card is, linear."""
    left, top, right, bottom = box
    x, y = np.meshgrid(np.linspace(left, right, 25), np.linspace(top, bottom, 7))
    at = _through(place, np.stack([x, y], axis=-1)).astype(np.float32)
    seen = cv2.remap(grey, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return float(linear(seen).mean())


def _stretch(place: Floats) -> tuple[float, float]:
    """Pixels of a millimetre at the card's middle: along the direction that is not foreshortened, and across it."""
    middle, step = np.array([WIDTH / 2, HEIGHT / 2]), 0.5
    along = [_through(place, middle + step * axis) - _through(place, middle - step * axis) for axis in np.eye(2)]
    values = np.linalg.svd(np.stack(along, axis=1) / (2 * step), compute_uv=False)
    return float(values[0]), float(values[1])


def _rectangle(box: tuple[float, float, float, float]) -> Floats:
    left, top, right, bottom = box
    return np.array([(left, top), (right, top), (right, bottom), (left, bottom)])


def _box_in(quad: Floats, shape: tuple[int, ...]) -> Box | None:
    """An upright box well inside a quadrangle, in pixels; None where it is too small or leaves the picture."""
    middle, half = quad.mean(axis=0), np.ptp(quad, axis=0) / 2
    inside = ((quad - middle) * 0.85 + middle).astype(np.float32)
    for share in np.linspace(1.0, 0.2, 33):
        low, high = middle - share * half, middle + share * half
        corners = [(low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1])]
        if all(cv2.pointPolygonTest(inside, (float(x), float(y)), measureDist=False) >= 0 for x, y in corners):
            left, top, right, bottom = (round(float(value)) for value in (*low, *high))
            fits = min(left, top) >= 0 and right < shape[1] and bottom < shape[0]
            return (left, top, right, bottom) if fits and min(right - left, bottom - top) >= LEAST_WINDOW else None
    return None


def _in_window(photo: Pixels, place: Floats, window: Box) -> str | None:
    """Whether grey or white lies in the window, by the card's own paper; None where it is neither, uneven, or burnt out."""
    left, top, right, bottom = window
    light = linear(photo[top : bottom + 1, left : right + 1]).reshape(-1, 3)
    own = light.mean(axis=0)
    if photo[top : bottom + 1, left : right + 1].max(axis=-1).mean() > BURNT * 255 or own.min() <= 0:
        return None
    if (light.std(axis=0) / own).max() > EVEN:
        return None
    paper = np.median([_at(photo, _through(place, spot)) for spot in PAPER])
    share = float(own.mean() / max(float(paper), 1e-4))
    return next((kind for kind, (least, most) in (("grey", GREY), ("white", WHITE)) if least < share < most), None)


def _at(photo: Pixels, spot: Floats) -> float:
    """How bright a photo is around a place, linear."""
    x, y = np.clip(spot.round().astype(int), 1, np.array(photo.shape[1::-1]) - 2)
    return float(linear(photo[y - 1 : y + 2, x - 1 : x + 2]).mean())


def _read(grey: Pixels, place: Floats) -> str | None:
    """What the card's code says: each module's middle is looked at, and what is seen drawn anew for the reader."""
    flat = _code_flat(grey, place)
    if float(np.percentile(flat, 95) - np.percentile(flat, 5)) < BLANK * float(np.percentile(flat, 95)):
        return ""
    for rows in _sampled(flat):
        edge = np.pad(rows, 4)
        clean = np.where(np.kron(edge, np.ones((PER_MODULE, PER_MODULE), dtype=bool)), 0, 255).astype(np.uint8)
        text, _, _ = cv2.QRCodeDetector().detectAndDecode(clean)
        if text and code_fits(text, rows):
            return str(text)
    return None


def code_fits(text: str, rows: NDArray[np.bool_]) -> bool:
    """Is a code that was read one that a card can carry, with as many modules?"""
    try:
        return len(code_rows(text)) == len(rows)
    except InputError:
        return False


def _code_flat(grey: Pixels, place: Floats) -> NDArray[np.float32]:
    """The place of the code as if it were seen from straight above."""
    left, top, side = CODE
    to_code = np.array([[PER_MM, 0.0, -left * PER_MM], [0.0, PER_MM, -top * PER_MM], [0.0, 0.0, 1.0]])
    size = round(side * PER_MM)
    flat = cv2.warpPerspective(
        grey, to_code @ np.linalg.inv(place), (size, size), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
    )
    return flat.astype(np.float32)


def _sampled(flat: NDArray[np.float32]) -> Iterator[NDArray[np.bool_]]:
    """The code's modules, dark where true: for the number of modules that fits best first, sharpened more and more."""
    sides = sorted(
        (17 + 4 * version for version in range(1, LARGEST_CODE + 1)), key=lambda side: -_corners_fit(flat, side)
    )
    for side in sides:
        values = _values(flat, side)
        around = cv2.blur(values, (3, 3), borderType=cv2.BORDER_REFLECT) * 9 - values
        for much in SHARPENED:
            sharp = values * (1 + 8 * much) - much * around
            level, _ = cv2.threshold(sharp.clip(0, 255).astype(np.uint8), 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
            yield sharp <= level
            yield sharp < cv2.blur(sharp, (7, 7), borderType=cv2.BORDER_REFLECT)


def _values(flat: NDArray[np.float32], side: int) -> NDArray[np.float32]:
    """How bright the middle of each module is, (side, side)."""
    smooth = cv2.GaussianBlur(flat, (0, 0), 0.2 * len(flat) / side)
    middles = ((np.arange(side) + 0.5) * len(flat) / side).astype(int)
    return np.asarray(smooth[np.ix_(middles, middles)], dtype=np.float32)


def _corners_fit(flat: NDArray[np.float32], side: int) -> float:
    """How well three corners look like those of a code of so many modules: correlation, -1 to 1."""
    values = _values(flat, side)
    seen = np.stack([values[:7, :7], values[:7, -7:], values[-7:, :7]]).ravel()
    return float(np.corrcoef(seen, np.tile(FINDER.ravel(), 3))[0, 1])
