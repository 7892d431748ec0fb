"""A body unrolled to a straight strip, nose left: linear colours over u and v in one light, and what must not be counted.

The window is that of a photo from above, |v| ≤ 0.40, u from 0 to 1. Rows run from the animal's left flank to its right,
v = asin(t)/π at the share t of the half-width.

Source: seen from above, a round body's place across is the sine of its place around.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.colour import brightest, linear, to_srgb
from eyot_core.photo.light import CLIPPED_FROM, Light, spoilt
from eyot_core.photo.outline import Mask, NoOutline, Outline, Pixels, outline_of
from eyot_core.photo.shading import Skin, evened, restored, unshaded_white
from eyot_core.photo.spine import Floats, Line, spine_of

COLUMNS, ROWS = 1200, 161
MOST_PIXELS = 16_000_000
"""Larger photos are made smaller first: a strip has no more detail, and a worker needs some 100 bytes a pixel."""
V_MOST = 0.40
LONGEST = 1700.0
"""Length of the body in pixels above which the photo is made smaller before it is unrolled."""
V_MEASURED = 0.36
"""How far around the body colours are measured."""
V_BACK = 0.12
"""How far around the body nothing is taken for a cover."""
LIKE_GROUND = 0.16
APART = 0.07
BESIDE, OVER = 0.97, 0.75
THINNEST = 2.5
"""Half-width in pixels below which a tail is too thin to show anything."""


@dataclass(frozen=True)
class Strip:
    """``light``: linear RGB (rows, columns, 3), float32, corrected where ``corrected``; the masks (rows, columns):
    ``seen``: the body shows there; ``clipped``, ``dark``: too bright or too dark in the photo to be measured.
    ``on_ground``: even ground around the animal told the course of the light."""

    light: NDArray[np.float32]
    seen: Mask
    clipped: Mask
    dark: Mask
    corrected: bool
    on_ground: bool
    start: float
    end: float

    @property
    def u(self) -> Floats:
        """u of the columns."""
        return (np.arange(COLUMNS) + 0.5) / COLUMNS

    @property
    def v(self) -> Floats:
        """v of the rows."""
        return np.linspace(-V_MOST, V_MOST, ROWS)

    @property
    def counted(self) -> Mask:
        """Where colours can be measured."""
        return self.seen & ~self.clipped & ~self.dark

    @property
    def shown_share(self) -> float:
        """How much of the whole strip shows, 0 to 1."""
        return float(self.seen.mean())

    def spoilt_picture(self) -> NDArray[np.uint8]:
        """What is not measured, to be laid over the strip (rows, columns, 4): stripes where it is burnt out, dots where it
        is too dark, transparent elsewhere."""
        row, column = np.indices(self.seen.shape)
        stripes, dots = (row + column) // 3 % 2 == 0, (row % 4 < 2) & (column % 4 < 2)
        tone = np.where(stripes, 255, 0).astype(np.uint8)
        shown = self.clipped | (self.dark & dots)
        tone[self.dark] = 255
        return np.dstack([tone, tone, tone, np.where(shown, 255, 0).astype(np.uint8)])

    def picture(self) -> NDArray[np.uint8]:
        """The strip as sRGB with alpha (rows, columns, 4); what doesn't show is transparent."""
        return np.dstack([to_srgb(self.light), np.where(self.seen, 255, 0).astype(np.uint8)])


def strip_of(
    photo: Pixels, line: Line, light: Light | None = None, brushed: NDArray[np.int8] | None = None
) -> tuple[Strip, Outline] | NoOutline:
    """The strip along a line in a photo, sRGB (rows, columns, 3), and the outline it was taken from; or why there is none.

    ``light``: what each channel of linear light is multiplied by; without it colours stay as the camera gave them.
    """
    photo, line, factor = _smaller(photo, line)
    outline = outline_of(photo, line, brushed)
    if isinstance(outline, NoOutline):
        return outline
    return unrolled(photo, outline, light), replace(outline, scale=factor)


def _smaller(photo: Pixels, line: Line) -> tuple[Pixels, Line, float]:
    """A photo and the line in it, made smaller where it has more pixels than strips are taken from; and by how much, 1 at most."""
    factor = min(1.0, (MOST_PIXELS / (photo.shape[0] * photo.shape[1])) ** 0.5)
    if factor == 1:
        return photo, line, factor
    size = (max(1, round(photo.shape[1] * factor)), max(1, round(photo.shape[0] * factor)))
    smaller = cv2.resize(photo, size, interpolation=cv2.INTER_AREA)
    return np.asarray(smaller, dtype=np.uint8), line.scaled(factor), factor


def preview_of(photo: Pixels, line: Line, light: Light | None = None) -> NDArray[np.uint8]:
    """A quick strip along a line, sRGB with alpha, by the body's shape alone: no outline is sought, no shading taken away."""
    spine = spine_of(line)
    outline = Outline(spine, spine.half_widths, np.ones(len(spine.u), dtype=bool), None)
    pixels, seen, _ = _lifted(photo, outline)
    picture = light.on(linear(pixels).astype(np.float32)) if light else linear(pixels)
    return np.dstack([to_srgb(picture), np.where(seen, 255, 0).astype(np.uint8)])


def unrolled(photo: Pixels, outline: Outline, light: Light | None = None) -> Strip:
    """The strip along a known outline."""
    pixels, seen, at = _lifted(photo, outline)
    start, end = float(outline.spine.u[0]), float(outline.spine.u[-1])
    seen = np.asarray(seen & ~_ground_shows(linear(pixels), outline, at) & ~_cut_off(outline, at))
    ends = (pixels >= CLIPPED_FROM) & seen[..., None]
    clipped = ends[..., 0] | ends[..., 1] | ends[..., 2]
    dark = seen & spoilt(pixels)[1]
    picture = linear(pixels).astype(np.float32)
    picture = light.on(picture) if light else picture
    strip = Strip(picture, seen, clipped, dark, light is not None, outline.paper is not None, start, end)
    whole = restored(picture, ends, strip.counted)
    t = np.broadcast_to(np.sin(np.pi * strip.v)[:, None], seen.shape)
    burnt = ends[..., 0] & ends[..., 1] & ends[..., 2]
    skin = Skin(whole, seen, strip.counted, burnt, t, _stations(outline)[1], strip.v)
    even = evened(skin, _ground(outline, at, light))
    if strip.corrected and not strip.on_ground:
        even = unshaded_white(even, seen & ~dark, skin.burnt)
    return replace(strip, light=even)


def _lifted(photo: Pixels, outline: Outline) -> tuple[Pixels, Mask, Floats]:
    """The photo's pixels along the body (rows, columns, 3), where the body shows, and the places (rows, columns, 2)."""
    factor = min(1.0, LONGEST / outline.spine.length)
    if factor < 1:
        size = (round(photo.shape[1] * factor), round(photo.shape[0] * factor))
        photo = np.asarray(cv2.resize(photo, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
    places, across, half = _stations(outline)
    t = np.sin(np.pi * np.linspace(-V_MOST, V_MOST, ROWS))[:, None]
    at = places[None] + (t * half)[..., None] * across[None]
    scaled = ((at + 0.5) * factor - 0.5).astype(np.float32)
    pixels = cv2.remap(photo, scaled[..., 0], scaled[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    u = (np.arange(COLUMNS) + 0.5) / COLUMNS
    shown = (u >= outline.spine.u[0]) & (u <= outline.spine.u[-1]) & (half > THINNEST)
    seen = np.broadcast_to(shown, (ROWS, COLUMNS)) & _on_photo(scaled, photo.shape)
    return (
        np.asarray(pixels, dtype=np.uint8),
        seen & ~_covered(photo, at, shown, _Stretch(places, across, half), factor),
        at,
    )


def _stations(outline: Outline) -> tuple[Floats, Floats, Floats]:
    """Places, directions across and half-widths at the strip's columns; outside the line's range those of its ends."""
    u = np.clip((np.arange(COLUMNS) + 0.5) / COLUMNS, outline.spine.u[0], outline.spine.u[-1])
    spine = outline.spine

    def at(values: Floats) -> Floats:
        return np.interp(u, spine.u, values)

    places = np.stack([at(spine.places[:, axis]) for axis in (0, 1)], axis=1)
    across = np.stack([at(spine.across[:, axis]) for axis in (0, 1)], axis=1)
    return places, across / np.hypot(*across.T)[:, None], at(outline.half_widths)


def _on_photo(at: NDArray[np.float32], shape: tuple[int, ...]) -> Mask:
    return np.asarray((at[..., 0] >= -1) & (at[..., 1] >= -1) & (at[..., 0] <= shape[1]) & (at[..., 1] <= shape[0]))


def _ground(outline: Outline, at: Floats, light: Light | None) -> Floats | None:
    """The ground's light under each pixel of the strip, as a ratio to that at the card (or in the middle of the photo)."""
    if outline.paper is None:
        return None
    thin = outline.paper.at(at[::20, ::10]).mean(axis=2)
    place = light.place if light and light.place else (outline.paper.shape[1] / 2, outline.paper.shape[0] / 2)
    ratio = thin / outline.paper.at(np.array(place)).mean()
    whole = cv2.resize(np.clip(ratio, 0.6, 1.6), (COLUMNS, ROWS), interpolation=cv2.INTER_LINEAR)
    return np.asarray(whole, dtype=np.float64)


def _cut_off(outline: Outline, at: Floats) -> Mask:
    """Where something else covers a flank, from the strip's edge inwards to the first animal or to the back; and where a shell does."""
    if outline.shown is None:
        return np.zeros(at.shape[:2], dtype=bool)
    animal = outline.shown.at(at) | (np.abs(np.linspace(-V_MOST, V_MOST, ROWS)) < V_BACK)[:, None]
    half = ROWS // 2
    beyond = np.zeros(animal.shape, dtype=bool)
    beyond[: half + 1] = ~np.logical_or.accumulate(animal[: half + 1], axis=0)
    beyond[half:] = ~np.logical_or.accumulate(animal[half:][::-1], axis=0)[::-1]
    return np.asarray(beyond | outline.shown.covers(at))


def _ground_shows(light: Floats, outline: Outline, at: Floats) -> Mask:
    """Where, beyond the window that is measured, the bare ground shows at the body's edge."""
    if outline.paper is None:
        return np.zeros(light.shape[:2], dtype=bool)
    bare = cv2.resize(outline.paper.at(at[::8, ::10]), (COLUMNS, ROWS), interpolation=cv2.INTER_LINEAR)
    like = brightest(np.abs(np.log(np.maximum(light, 1e-4) / bare))) < LIKE_GROUND
    return np.asarray(like & (np.abs(np.linspace(-V_MOST, V_MOST, ROWS)) > V_MEASURED)[:, None])


def _covered(photo: Pixels, at: Floats, shown: Mask, pieces: _Stretch, factor: float) -> Mask:
    """Where another stretch of the same body lies on top: of two stretches that cross, the one whose own edges show."""
    gap, step = round(APART * COLUMNS), 4
    line, radius, there = pieces.places[::step], pieces.half[::step], shown[::step]
    hidden = np.zeros(at.shape[:2], dtype=bool)
    pairs = scipy.spatial.cKDTree(line).query_pairs(2 * float(radius.max()), output_type="ndarray")
    distance = np.hypot(*(line[pairs[:, 0]] - line[pairs[:, 1]]).T)
    apart = (np.abs(pairs[:, 0] - pairs[:, 1]) * step > gap) & there[pairs].all(axis=1)
    meet = pairs[apart & (distance < 0.75 * (radius[pairs[:, 0]] + radius[pairs[:, 1]]))]
    if len(meet) == 0:
        return hidden
    colours = cv2.cvtColor(photo, cv2.COLOR_RGB2LAB).astype(np.float32)
    for pair in _stretches(meet):
        first, second = (pieces.part(_around(part * step, gap)) for part in pair)
        upper_is_first = _edge(colours, first, second, factor) >= _edge(colours, second, first, factor)
        upper, below = (first, pair[1]) if upper_is_first else (second, pair[0])
        columns = _around(below * step, gap)
        away, nearest = scipy.spatial.cKDTree(upper.places).query(at[:, columns])
        hidden[:, columns] |= away < upper.half[nearest] * BESIDE
    return hidden


@dataclass(frozen=True)
class _Stretch:
    """A piece of the body: places, directions across, half-widths."""

    places: Floats
    across: Floats
    half: Floats

    def part(self, columns: slice) -> _Stretch:
        """Some columns of it."""
        return _Stretch(self.places[columns], self.across[columns], self.half[columns])


def _around(stations: NDArray[np.intp], gap: int) -> slice:
    """The columns of some stations and a little on both sides."""
    return slice(max(0, int(stations[0]) - gap // 2), min(COLUMNS, int(stations[-1]) + gap // 2))


def _stretches(meet: NDArray[np.intp]) -> list[tuple[NDArray[np.intp], NDArray[np.intp]]]:
    """The places where two stretches meet, each as the station numbers of the one and of the other."""
    ordered = meet[np.argsort(meet[:, 0])]
    cuts = np.nonzero(np.diff(ordered[:, 0]) > 12)[0] + 1
    return [(np.unique(part[:, 0]), np.unique(part[:, 1])) for part in np.split(ordered, cuts)]


def _edge(colours: NDArray[np.float32], own: _Stretch, other: _Stretch, factor: float) -> float:
    """How clearly a stretch's edges show where they run over another: mean step of CIELAB across them. Of the stretch below
    no edge shows there."""
    steps = []
    tree = scipy.spatial.cKDTree(other.places)
    for side in (-1, 1):
        rim = own.places + side * own.half[:, None] * own.across
        away, nearest = tree.query(rim)
        over = away < OVER * other.half[nearest]
        for inner, outer in ((0.84, 1.16), (0.92, 1.08)):
            first, second = (
                _sampled(colours, own.places + side * share * own.half[:, None] * own.across, factor)
                for share in (inner, outer)
            )
            steps += np.hypot.reduce(first - second, axis=1)[over].tolist()
    return float(np.mean(steps)) if steps else 0.0


def _sampled(colours: NDArray[np.float32], at: Floats, factor: float) -> NDArray[np.float32]:
    scaled = ((at + 0.5) * factor - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(colours, scaled[None, :, 0], scaled[None, :, 1], cv2.INTER_LINEAR)[0])
