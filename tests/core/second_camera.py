"""A second renderer of photos from above, that shares nothing with the first but, if wanted, the skin: its own body, lamp, shadow, camera.

What finds an animal must not lean on how one renderer draws. Here the body is a height field under a large lamp: every scale has its own
tilt, the shadow is cast by that height, the girth and the shape of head and tail differ from animal to animal.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d, map_coordinates
from scipy.spatial import cKDTree

from eyot_core.colour import channels
from eyot_core.drawing.skin import skin_colours
from eyot_core.photo.belly import belly_of
from eyot_core.photo.light import light_in
from eyot_core.photo.measures import Measured, Value, measures_of
from eyot_core.photo.spine import line_from
from eyot_core.photo.strip import Strip, strip_of

from tests.core.photographs import looks_of, true_strip

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]
STATIONS = 1200
KINDS = ("patterned", "dark", "orange", "pied", "white")
GROUNDS = {"white": (238, 238, 236), "cream": (236, 226, 204), "grey": (168, 170, 170), "blue": (142, 160, 184)}
LAMPS, CLICKS = 6, 11


@dataclass(frozen=True)
class Shot:
    """One photo and what is true of it: midline (stations, 2) in pixels, snout first, and the girth (twice the broadest half-width)."""

    pixels: Pixels
    line: Floats
    girth: float
    card: tuple[int, int, int, int]


def shot(
    kind: str,
    ground: str,
    seed: int,
    width: int = 1000,
    height: int = 750,
    looks: Mapping[str, str] | None = None,
    roll: float = 0.0,
) -> Shot:
    """An animal in loose bends on a ground, under a cast of up to 25 % and up to a stop more or less; all of it follows from the seed.
    ``looks``: the skin that the drawings give to these looks, in place of the kind's own, so that its measures are known; ``roll``: how far
    it is turned about its axis then, in v: 1 lies on its back."""
    random = np.random.default_rng([71, seed, KINDS.index(kind), sorted(GROUNDS).index(ground)])
    line, half = _posed(width, height, random)
    u, t, across, inside = _unrolled(line, half, (height, width))
    tall = np.where(inside, np.sqrt(np.clip(1 - t**2, 0, 1)) * half[(u * (STATIONS - 1)).astype(int)], 0.0)
    lit = _paper(GROUNDS[ground], (height, width), random)
    lamps = _lamps(random)
    open_sky = 1 - random.uniform(0.25, 0.5) * _blurred(inside.astype(np.float32), float(half.max()) * 0.45)
    ambient = random.uniform(0.35, 0.65)
    direct = np.mean([~_shadow(tall, lamp) for lamp in lamps], axis=0)
    lit *= channels(ambient * open_sky + (1 - ambient) * direct)
    skin = _drawn_skin(looks, seed, u[inside], t[inside], roll) if looks else _skin(kind, u[inside], t[inside], random)
    body, gloss = _shaded(t[inside], across[inside], u[inside], lamps, ambient, half.max(), random)
    lit[inside] = skin * body[:, None] + gloss[:, None]
    card = _lay_card(lit, random)
    return Shot(_taken(lit, random), line, 2 * float(half.max()), card)


def _posed(width: int, height: int, random: np.random.Generator) -> tuple[Floats, Floats]:
    """A walk whose bend comes and goes, that does not come near itself."""
    shape = PchipInterpolator(
        [
            0,
            0.01,
            random.uniform(0.025, 0.04),
            random.uniform(0.06, 0.08),
            0.3,
            random.uniform(0.45, 0.6),
            0.82,
            random.uniform(0.88, 0.92),
            1,
        ],
        [
            0.25,
            0.45,
            random.uniform(0.62, 0.85),
            random.uniform(0.42, 0.56),
            0.85,
            1,
            0.78,
            random.uniform(0.36, 0.5),
            0.06,
        ],
    )
    diameters = random.uniform(16.5, 23)
    while True:
        bend = gaussian_filter1d(random.normal(0, 1, STATIONS), random.uniform(70, 130), mode="wrap")
        heading = np.cumsum(bend / np.abs(bend).max()) * random.uniform(0.006, 0.0125)
        steps = np.stack([np.cos(heading), np.sin(heading)], axis=1)
        path = np.cumsum(steps, axis=0) / STATIONS @ _turn(random.uniform(0, 2 * np.pi))
        low, high = path.min(axis=0), path.max(axis=0)
        scale = min(
            width * random.uniform(0.6, 0.85) / (high[0] - low[0]),
            height * random.uniform(0.6, 0.85) / (high[1] - low[1]),
            1.5 * width,
        )
        half = shape(np.linspace(0, 1, STATIONS)) * scale / diameters / 2
        room = np.array([width, height]) - (high - low) * scale
        line = (path - low) * scale + room * random.uniform(0.3, 0.6, 2)
        thin = slice(None, None, 8)
        pairs = cKDTree(line[thin]).query_pairs(3.2 * float(half.max()), output_type="ndarray")
        far = np.abs(pairs[:, 0] - pairs[:, 1]) * 8 > 240
        on_card = (line[:, 0] > 0.84 * width) & (line[:, 1] > 0.76 * height)
        if not far.any() and not on_card.any():
            return line, half


def counted_lobes(number: int, seed: int) -> tuple[float, float]:
    """Lobes a body of an animal of ``looks_of(number)``, as counted in a photo along a hand's line, and on the skin itself; NaN where a
    photo lets none be counted."""
    looks = looks_of(number)
    in_photo, on_skin = (
        measures_of(strip)["lobes_per_length"]
        for strip in (_by_hand(looks, seed), true_strip(looks, seed, "shed", 0, 1))
    )
    assert isinstance(on_skin, Value), on_skin
    return float(in_photo.value) if isinstance(in_photo, Value) else np.nan, float(on_skin.value)


@cache
def belly(seed: int, **looks: str) -> Measured:
    """What is measured of a belly with some looks, else plain and white, along a hand's line; once for each: change nothing in it."""
    plain = {"belly_marks": "none", "belly_edge": "clean", "ringer": "none", "belly_color": "white"}
    return belly_of(_by_hand({**looks_of(3), **plain, **looks}, seed, roll=1.0))


def _by_hand(looks: Mapping[str, str], seed: int, roll: float = 0.0) -> Strip:
    """The strip of an animal along a line that a hand drew, a tenth of the girth off, in the light of its card."""
    taken = shot("patterned", sorted(GROUNDS)[seed % len(GROUNDS)], seed, 760, 570, looks=looks, roll=roll)
    drawn = taken.line[np.linspace(0, STATIONS - 1, CLICKS).astype(int)]
    hand = (
        np.random.default_rng(seed).normal(0, 0.1 * taken.girth, drawn.shape)
        * np.array([0.3, *[1] * (CLICKS - 2), 0.3])[:, None]
    )
    line = line_from(drawn + hand, *taken.pixels.shape[1::-1], 0.0, 1.0)
    left, top, right, bottom = taken.card
    light = light_in(taken.pixels, (left + 6, top + 6, right - 6, bottom - 6), "grey card", 0.18)
    made = strip_of(taken.pixels, line, light)  # type: ignore[arg-type]
    assert isinstance(made, tuple), made
    return made[0]


def _turn(angle: float) -> Floats:
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def _unrolled(line: Floats, half: Floats, shape: tuple[int, int]) -> tuple[Floats, Floats, Floats, NDArray[np.bool_]]:
    """For every pixel the share of the length, the share of the half-width (signed), the direction across, and whether it is body."""
    reach = 1.1 * float(half.max())
    near = np.zeros(shape, dtype=np.uint8)
    cv2.polylines(near, [np.round(line).astype(np.int32)], isClosed=False, color=1, thickness=2 * round(reach) + 7)
    yy, xx = np.nonzero(near)
    places = np.stack([xx, yy], axis=1).astype(float)
    away, nearest = cKDTree(line).query(places, distance_upper_bound=reach)
    hit = np.isfinite(away)
    places, away, nearest, yy, xx = places[hit], away[hit], nearest[hit], yy[hit], xx[hit]
    tangent = np.gradient(line, axis=0)
    tangent /= np.hypot(*tangent.T)[:, None]
    side = np.stack([-tangent[:, 1], tangent[:, 0]], axis=1)[nearest]
    t = np.sign(((places - line[nearest]) * side).sum(axis=1)) * away / half[nearest]
    along, beside, across = np.zeros(shape), np.ones(shape), np.zeros((*shape, 2))
    along[yy, xx], beside[yy, xx], across[yy, xx] = nearest / (STATIONS - 1), np.clip(t, -1, 1), side
    return along, beside, across, np.abs(beside) < 1


def _paper(colour: tuple[int, int, int], shape: tuple[int, int], random: np.random.Generator) -> Floats:
    yy, xx = np.mgrid[0 : shape[0], 0 : shape[1]] / max(shape)
    toward = random.uniform(-0.3, 0.3, 2)
    fall = (
        1
        + toward[0] * (xx - 0.5)
        + toward[1] * (yy - 0.4)
        - random.uniform(0, 0.35) * ((xx - 0.5) ** 2 + (yy - 0.4) ** 2)
    )
    grain = _blurred(random.normal(0, 1, shape), 1.2) * random.uniform(0.005, 0.03)
    return np.asarray(_linear(colour) * channels(fall * (1 + grain)))


def _blurred(picture: NDArray[Any], sigma: float) -> NDArray[Any]:
    across = 2 * int(4 * sigma + 0.5) + 1
    return np.asarray(cv2.GaussianBlur(picture, (across, across), sigma, borderType=cv2.BORDER_REFLECT))


def _lamps(random: np.random.Generator) -> list[Floats]:
    """Directions to the parts of one large lamp."""
    azimuth, height, size = random.uniform(0, 2 * np.pi), random.uniform(0.7, 1.8), random.uniform(0.1, 0.4)
    lamps = []
    for _ in range(LAMPS):
        toward = np.array([np.cos(azimuth), np.sin(azimuth), height]) + random.normal(0, size, 3)
        toward[2] = max(toward[2], 0.4)
        lamps.append(toward / np.linalg.norm(toward))
    return lamps


def _shadow(tall: Floats, lamp: Floats) -> NDArray[np.bool_]:
    """Where something between a place and the lamp is higher than the ray that comes from there."""
    rise = lamp[2] / np.hypot(*lamp[:2])
    heading = lamp[:2] / np.hypot(*lamp[:2])
    steps = np.arange(1, tall.max() / rise + 1, 1.5)
    dark = np.zeros(tall.shape, dtype=bool)
    reach = int(steps[-1]) + 2
    near = tuple(slice(max(0, at.min() - reach), at.max() + reach) for at in np.nonzero(tall))
    high, shaded = tall[near].astype(np.float32), dark[near]
    for step in steps:
        move = np.array([[1, 0, -heading[0] * step], [0, 1, -heading[1] * step]])
        shaded |= cv2.warpAffine(high, move, high.shape[::-1]) > step * rise + 0.2
    return dark


def _skin(kind: str, u: Floats, t: Floats, random: np.random.Generator) -> Floats:
    """Linear colours (pixels, 3)."""
    dark, light, belly = {
        "patterned": ((40, 28, 22), (168, 124, 74), (222, 208, 178)),
        "dark": ((26, 20, 20), (70, 50, 36), (150, 138, 120)),
        "orange": ((214, 150, 84), (238, 196, 92), (246, 238, 214)),
        "pied": ((44, 30, 22), (176, 128, 72), (232, 228, 218)),
        "white": ((236, 232, 222), (238, 232, 214), (238, 236, 230)),
    }[kind]
    waves = np.zeros_like(u)
    for _ in range(7):
        waves += np.sin(u * random.uniform(40, 160) + t * random.uniform(-2, 2) + random.uniform(0, 6))
    share = 1 / (1 + np.exp(-4 * waves / 2.6 + random.uniform(-1, 1)))
    colour = share[:, None] * _linear(light) + (1 - share[:, None]) * _linear(dark)
    low = np.clip((np.abs(t) - 0.82) / 0.15, 0, 1)[:, None]
    colour = (1 - low) * colour + low * _linear(belly)
    if kind == "pied":
        edges = np.sort(random.uniform(0.08, 0.95, 2 * int(random.integers(1, 4))))
        soft = np.sin(t * 5 + random.uniform(0, 6)) * 0.006
        bare = np.zeros_like(u)
        for start, end in edges.reshape(-1, 2):
            bare = np.maximum(bare, ((u + soft > start) & (u + soft < end)).astype(float))
        colour = np.where(bare[:, None] > 0.5, _linear((240, 237, 230)), colour)
    return np.asarray(colour)


def _drawn_skin(looks: Mapping[str, str], seed: int, u: Floats, t: Floats, roll: float) -> Floats:
    """Linear colours (pixels, 3) of the skin as it is drawn."""
    around, along = np.linspace(-0.54, 0.54, 230), np.linspace(0, 1, 1400)
    texture = skin_colours(looks, seed, along, (around + roll + 1) % 2 - 1)
    place = [(np.arcsin(np.clip(t, -1, 1)) / np.pi + 0.54) / 1.08 * 229, u * 1399]
    return np.stack([map_coordinates(texture[..., channel], place, order=1, mode="nearest") for channel in range(3)], 1)


def _shaded(
    t: Floats, across: Floats, u: Floats, lamps: list[Floats], ambient: float, half: float, random: np.random.Generator
) -> tuple[Floats, Floats]:
    """The light that the skin throws back as a share of its colour, and the gloss on top; scales tilt it."""
    around, along = np.arcsin(np.clip(t, -1, 1)), u * 40
    rows = max(6.0, min(14.0, half / 1.6))
    bump = random.uniform(0.05, 0.22)
    tilt_across = bump * np.sin(2 * rows * around) * np.cos(np.pi * rows * along / 2)
    tilt_along = bump * np.cos(2 * rows * around) * np.sin(np.pi * rows * along / 2)
    normal = np.stack([np.sin(around + tilt_across), tilt_along, np.cos(around + tilt_across)], axis=1)
    normal /= np.linalg.norm(normal, axis=1)[:, None]
    heading = np.stack([across[:, 1], -across[:, 0]], axis=1)
    shade, gloss = np.zeros_like(t), np.zeros_like(t)
    shine, hard = random.uniform(0.02, 0.3), random.uniform(12, 90)
    for lamp in lamps:
        here = np.stack([across @ lamp[:2], heading @ lamp[:2], np.full(len(t), lamp[2])], axis=1)
        shade += np.clip((normal * here).sum(axis=1), 0, 1) / lamp[2] / len(lamps)
        between = here + np.array([0, 0, 1])
        between /= np.linalg.norm(between, axis=1)[:, None]
        gloss += shine * np.clip((normal * between).sum(axis=1), 0, 1) ** hard / len(lamps)
    sky = 0.45 + 0.55 * normal[:, 2]
    return ambient * sky + (1 - ambient) * shade, gloss


def _lay_card(lit: Floats, random: np.random.Generator) -> tuple[int, int, int, int]:
    """A grey card with a dark rim in the lower right corner."""
    height, width = lit.shape[:2]
    left, top = round(width * random.uniform(0.86, 0.9)), round(height * random.uniform(0.8, 0.88))
    right, bottom = left + round(0.09 * width), top + round(0.09 * height)
    lit[top:bottom, left:right] = 0.03
    lit[top + 3 : bottom - 3, left + 3 : right - 3] = 0.18
    return left, top, right, bottom


def _taken(lit: Floats, random: np.random.Generator) -> Pixels:
    """Cast, exposure, blur, noise that grows with the light, and JPEG."""
    seen = (lit * (random.uniform(0.75, 1.25, 3) * 2.0 ** random.uniform(-1, 1))).astype(np.float32)
    soft = random.uniform(0.3, 1.0) * lit.shape[1] / 1000
    seen = cv2.GaussianBlur(seen, (0, 0), soft)
    noise = random.normal(0, 1, seen.shape).astype(np.float32)
    seen = seen + noise * (random.uniform(0.002, 0.012) * np.sqrt(np.clip(seen, 0.01, 1)))
    shown = np.where(seen <= 0.0031308, 12.92 * seen, 1.055 * cv2.pow(np.clip(seen, 1e-6, 1), 1 / 2.4) - 0.055)
    pixels = (np.clip(shown, 0, 1) * 255).round().astype(np.uint8)
    _, coded = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, int(random.integers(82, 96))])
    return np.ascontiguousarray(cv2.imdecode(coded, cv2.IMREAD_COLOR)[..., ::-1])


def _linear(colour: tuple[int, int, int]) -> Floats:
    shown = np.array(colour) / 255
    return np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
