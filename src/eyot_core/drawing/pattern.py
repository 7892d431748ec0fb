"""The marks of one animal as fields over the skin: the same for strips, plates and simulated photos.

Units: x = 13·u half-girths along the body (u: snout 0, tail tip 1), v around it (spine 0, belly midline ±1), y = |v|.
The pattern is a signed distance, negative in the pale marks and positive in the dark ground.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from eyot_core.drawing.noise import Floats, noise_along, noise_on_grid, smooth_noise, smoothstep
from eyot_core.drawing.palette import BACK

LENGTH = 13.0
HEAD_END = 0.062
LOBES = 24
BASE = 0.74
PIN_AT = 0.27
"""How far from the spine the thin line of a pinstripe runs."""
RAISED = {"web": 0.34, "pin": 0.32, "double": 0.32, "lateral": 0.3, "none": 0.3}
WAVES = {"web": 0.14, "pin": 0.05, "double": 0.06, "lateral": 0.05, "none": 0.07}
REDUCED = {"normal": 0.0, "busy": 0.02, "reduced": -0.035, "strong_reduced": -0.08, "patternless": -2.0}
STEMS = {"attached": 1.0, "mixed": 0.5, "floating": 0.06, "absent": 0.0}
EYES = {"none": 0, "one": 1, "two": 2, "many": 5}
BANDS = {"normal": 0.1, "some": 0.42, "strong": 0.88, "zigzag": 0.7}
GOLDEN = 0.618
OVALS = {"few": 5, "none": 0, "many": 18}
ZIGZAG = 0.45
NARROW = 0.15
"""Half-width of a lobe, in half-girths, up to which two eyes have no room side by side."""
WHITE_SHARE = {"none": 0.0, "low": 0.18, "mid": 0.45, "high": 0.78, "all": 1.0}
LEAST_WHITE = 0.08
MEETING = 0.1
"""So far to both sides of the spine the marks of one flank run into those of the other, in half-girths."""
MOST_WARP = 0.15
"""How far noise moves a place along the body at most, in half-girths."""
AROUND_AN_EYE = 0.015
"""So much of a lobe is left pale about its eyes, in half-girths."""
SHARPLY = 2.0
"""How steep the field of white saddles is: their edge is sharp, also where the field hardly rises."""
SIDE_WHITE = {"none": 0.0, "low": 0.3, "mid": 0.5, "high": 0.82}
Looks = Mapping[str, str]


@dataclass(frozen=True)
class Mark:
    """One lobe: its middle, its half-axes, and what hangs on it. ``over_back``: how far along it leans where it runs over the back; None
    where it does not; ``foot``: half the width of its stem."""

    x: float
    y: float
    rx: float
    ry: float
    stem: bool
    joined: bool
    over_back: float | None
    eyes: tuple[tuple[float, float, float], ...]
    foot: float


@dataclass(frozen=True)
class Line:
    """A thin dark line: points (n, 2) in (x, v) and its width in half-girths."""

    points: Floats
    width: float


def marks_of(looks: Looks, random: np.random.Generator) -> list[Mark]:
    """The lobes of one flank, nose to tail."""
    if "absent" in (looks["lobe_attach"], looks["lobe_shape"]):
        return []
    shape = looks["lobe_shape"]
    width = {"tall": 0.62, "keyhole": 1.04, "joined": 1.1}.get(shape, 1.0)
    height = {"tall": 1.3, "keyhole": 1.05}.get(shape, 1.0)
    wander = 0.05 if shape == "keyhole" else 0.14
    wander = 0.3 if looks["pattern_order"] in ("scrambled", "granite") or shape == "broken" else wander
    wander = 0.03 if looks["pattern_order"] == "uniform" else wander
    higher = {"narrow": 1.25, "wide": 0.72}.get(looks["dorsal_width"], 1.0)
    first = random.random()
    (apart,) = random.spawn(1)  # the lobes lie where they lie, whatever is in them
    marks = []
    for k, x in enumerate(_places(wander, random)):
        taper = 1 - 0.3 * (k / LOBES) ** 3
        rx = 0.2 * width * taper * (1 + random.normal(0, 1.4 * wander))
        ry = 0.21 * height * higher * (1 + random.normal(0, wander))
        y = 0.38 - 0.2 * (higher - 1) + random.normal(0, 0.03 + wander / 5)
        stem = random.random() < STEMS[looks["lobe_attach"]]
        joined = random.random() < {"joined": 0.75, "keyhole": 0.0}.get(shape, 0.08)
        leans = ZIGZAG if looks["banding"] == "zigzag" else 0.05
        # Bands are as many as the word says: every lobe in turn takes the next step of a row that is spread evenly.
        # None crosses a dark back.
        share = BANDS[looks["banding"]] if looks["dorsal_tone"] != "dark" else 0.0
        over_back = leans if (first + k * GOLDEN) % 1 < share else None
        eyes = _eyes(looks["lobe_spots"], rx, ry, apart)
        marks.append(Mark(x, y, abs(rx), abs(ry), stem, joined, over_back, eyes, 0.04 if shape == "keyhole" else 0.085))
    return marks


def _places(wander: float, random: np.random.Generator) -> list[float]:
    """Middles of the lobes; they stand closer towards the tail."""
    even = np.linspace(0, 1, LOBES + 1)[:-1] + 0.5 / LOBES
    along = 0.95 + (LENGTH - 1.15) * even * (1.12 - 0.12 * even)
    return [float(x + random.normal(0, wander * (LENGTH - 1.2) / LOBES)) for x in along]


def _eyes(kind: str, rx: float, ry: float, random: np.random.Generator) -> tuple[tuple[float, float, float], ...]:
    """Where the dark eyes of a lobe lie from its middle, and their half-widths: two stand side by side, in a narrow lobe over one another;
    more lie in a ring."""
    count, turn = EYES[kind], random.uniform(0, 2 * np.pi)
    if count < 2:
        return ((0.0, 0.0, random.uniform(0.074, 0.086)),) * count
    size = (0.056, 0.066) if count == 2 else (0.036, 0.046)
    if count == 2:
        turn = 0.0 if abs(rx) > NARROW else np.pi / 2
    angles = turn + 2 * np.pi * np.arange(count) / count + random.normal(0, 0.12, count)
    reach = 0.48 if count == 2 else 0.62
    return tuple(
        (float(reach * rx * np.cos(angle)), float(reach * ry * np.sin(angle)), random.uniform(*size))
        for angle in angles
    )


def joined_smoothly(a: Floats, b: Floats, k: float) -> Floats:
    """Smooth minimum with blend width ``k``."""
    h = np.clip(0.5 + 0.5 * (b - a) / k, 0, 1)
    return np.asarray(b + (a - b) * h - k * h * (1 - h))


def capsule(x: Floats, y: Floats, start: tuple[float, float], end: tuple[float, float], radius: float) -> Floats:
    """Distance to a thick line."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    t = np.clip(((x - start[0]) * dx + (y - start[1]) * dy) / (dx * dx + dy * dy + 1e-12), 0, 1)
    return np.asarray(np.hypot(x - start[0] - t * dx, y - start[1] - t * dy) - radius)


@dataclass(frozen=True)
class Pattern:
    """What is dark on a grid, (rows, columns) each: D, and how far inside an eye of a lobe a place lies, below 0 outside."""

    dark: Floats
    eyes: Floats


def pattern_of(looks: Looks, seed: int, x: Floats, v: Floats) -> Pattern:
    """The pattern on a grid: ``x`` (columns,) ascending, ``v`` (rows,)."""
    xx, vv = np.meshgrid(x, v)
    y = np.abs(vv)
    wild = 1.7 if looks["pattern_order"] == "scrambled" else 1.0
    fade = wild * np.clip(y * 4, 0, 1)
    wx = xx + 0.075 * fade * noise_on_grid(x * 2.2, v * 2.2, seed) + 0.018 * noise_on_grid(x * 7, v * 7, seed + 1)
    wy = (
        y
        + 0.06 * fade * noise_on_grid(x * 2.2 + 50, v * 2.2, seed + 2)
        + 0.016 * noise_on_grid(x * 7, v * 7 + 9, seed + 3)
    )
    distance, eyes = np.zeros_like(xx), np.full_like(xx, -1.0)
    right = smoothstep(-MEETING, MEETING, v)
    for side, rows, share in ((0, v < 0, 1 - right), (1, v >= 0, right)):
        reached = share > 0
        if reached.any():
            marks = marks_of(looks, np.random.default_rng([seed, side]))
            flank = _flank_distance(wx[reached], wy[reached], looks, marks, seed + side, x)
            distance[reached] += share[reached, np.newaxis] * flank
            if rows.any() and looks["pattern_order"] != "granite" and looks["pattern_amount"] != "patternless":
                eyes[rows] = _in_eyes(wx[rows], wy[rows], marks, x)
    if looks["dorsal_tone"] == "dark":
        distance = np.maximum(distance, BACK[looks["dorsal_width"]] - wy)
    distance = np.minimum(distance, _back_marks(wx, wy, looks, seed, x))
    dark = _ordered(distance, xx, vv, looks, seed) + pattern_shift(looks)
    return Pattern(dark, np.minimum(eyes, -dark - AROUND_AN_EYE))


def _ordered(distance: Floats, x: Floats, v: Floats, looks: Looks, seed: int) -> Floats:
    """What a busy, broken or speckled pattern does to the marks."""
    if looks["pattern_order"] == "granite":
        return np.asarray(0.25 * distance + 0.09 * smooth_noise(x * 9, v * 9, seed + 71) + 0.03)
    if looks["pattern_amount"] == "busy" or looks["lobe_shape"] == "broken":
        return np.asarray(
            np.maximum(
                distance,
                0.15 * smooth_noise(x * 4.2, v * 5, seed + 73) - (0.155 if looks["lobe_shape"] == "joined" else 0.08),
            )
        )
    return distance


def pattern_shift(looks: Looks) -> float:
    """How far the pattern gives way: to the pale field, but in a dark animal to the dark ground."""
    if looks["pattern_amount"] == "patternless" and looks["lightness"] in ("darker", "very_dark"):
        return -REDUCED["patternless"]
    if looks["flank_lines"] != "none" and "absent" in (looks["lobe_attach"], looks["lobe_shape"]):
        return min(0.0, REDUCED[looks["pattern_amount"]] + 0.08)  # the thin lines are what is left
    return REDUCED[looks["pattern_amount"]]


def _flank_distance(x: Floats, y: Floats, looks: Looks, marks: list[Mark], seed: int, columns: Floats) -> Floats:
    """D for one flank; ``columns``: where the columns of the warped grid lay before."""
    distance = _base(x, looks, bool(marks), seed) - y
    for k, mark in enumerate(marks):
        near = np.flatnonzero((columns > mark.x - 0.6) & (columns < mark.x + (0.95 if mark.joined else 0.6)))
        if not len(near):
            continue
        part = slice(near[0], near[-1] + 1)
        following = marks[k + 1] if k + 1 < len(marks) else None
        own = _lobe(x[:, part], y[:, part], mark, following)
        round_off = 0.02 if not mark.stem else 0.05 if looks["lobe_shape"] == "keyhole" else 0.15
        distance[:, part] = joined_smoothly(own, distance[:, part], round_off)
    return distance


def _in_eyes(x: Floats, y: Floats, marks: list[Mark], columns: Floats) -> Floats:
    """How far inside an eye of a lobe a place lies, -1 where none is near; they are a little higher than wide."""
    inside = np.full_like(x, -1.0)
    lowest, highest = y.min(axis=1, initial=np.inf), y.max(axis=1, initial=-np.inf)
    for mark in marks:
        for ex, ey, size in mark.eyes:
            reach = 3 * size
            across = np.flatnonzero(np.abs(columns - mark.x - ex) < reach + MOST_WARP)
            down = np.flatnonzero((lowest < mark.y + ey + reach) & (highest > mark.y + ey - reach))
            if not len(across) or not len(down):
                continue
            part = slice(down[0], down[-1] + 1), slice(across[0], across[-1] + 1)
            own = size - np.hypot(x[part] - mark.x - ex, 0.85 * (y[part] - mark.y - ey))
            inside[part] = np.maximum(inside[part], own)
    return inside


def _base(x: Floats, looks: Looks, lobed: bool, seed: int) -> Floats:
    """Where the pale field of the flank begins, from the belly upwards: under its lobes, or with the edge of a dark back."""
    if lobed:
        return np.full_like(x, BASE if looks["lobe_attach"] != "floating" else BASE + 0.04)
    kind = looks["flank_lines"]
    narrow = {"narrow": 0.7, "wide": 1.3}.get(looks["dorsal_width"], 1.0)
    waves = noise_along(x * 1.6, 3.3, seed + 6) + 0.5 * noise_along(x * 4.1, 8.3, seed + 7)
    teeth = np.zeros_like(x)
    if kind == "none" and looks["pattern_amount"] in ("normal", "reduced", "busy"):
        teeth += 0.3 * np.clip(noise_along(x * 3.4, 5.3, seed + 9) - 0.35, 0, 1)
    return np.asarray(RAISED[kind] * narrow + WAVES[kind] * waves + teeth)


def _lobe(px: Floats, py: Floats, mark: Mark, following: Mark | None) -> Floats:
    own = (np.hypot((px - mark.x) / mark.rx, (py - mark.y) / mark.ry) - 1) * min(mark.rx, mark.ry)
    if mark.stem:
        own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (mark.x, 0.85), mark.foot), 0.8 * mark.foot)
    if mark.over_back is not None:
        own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (mark.x + mark.over_back, -0.2), 0.1), 0.07)
    if mark.joined and following:
        own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (following.x, following.y), 0.1), 0.07)
    return np.asarray(own)


def _back_marks(x: Floats, y: Floats, looks: Looks, seed: int, columns: Floats) -> Floats:
    """Distance to the pale marks along the spine; ``columns``: where the columns of the warped grid lay before."""
    stripe = looks["dorsal_stripe"]
    width = {"narrow": 0.05, "wide": 0.16}.get(looks["dorsal_width"], 0.085)
    along = noise_along(x * 1.7, 9.1, seed + 11)
    if stripe == "full" and looks["dorsal_tone"] == "dark":
        return np.full_like(x, 1.0)
    if stripe == "full":
        return np.asarray(y - width * (1 + 0.25 * along))
    if stripe == "chain":
        return np.asarray(y - width * (0.1 + 1.4 * np.abs(np.sin(x * 4.5))))
    ovals = _ovals(x, y, OVALS[looks["dorsal_marks"]], width, seed, columns)
    if stripe != "partial":
        return ovals
    # Of a dark stripe no pale mark is seen where it runs; a pale one covers them.
    runs = width * smoothstep(-0.2, 0.05, along) * 1.2 - 0.02
    return np.maximum(ovals, runs) if looks["dorsal_tone"] == "dark" else np.minimum(ovals, y - runs)


def _ovals(x: Floats, y: Floats, count: int, width: float, seed: int, columns: Floats) -> Floats:
    """Distance to single pale ovals along the spine, as many as are counted."""
    distance, random = np.ones_like(x), np.random.default_rng([seed, 17])
    off, long = random.normal(0, 0.16, count), random.uniform(0.8, 1.2, count)
    every = 1.2 + (LENGTH - 2.2) * (np.arange(count) + 0.5 + off) / max(1, count)
    for at, share in zip(every.tolist(), long.tolist(), strict=True):
        near = np.flatnonzero(np.abs(columns - at) < 0.4)
        if len(near):
            part = slice(near[0], near[-1] + 1)
            own = (np.hypot((x[:, part] - at) / (0.13 * share), y[:, part] / width) - 1) * width
            distance[:, part] = np.minimum(distance[:, part], own)
    return distance


@dataclass(frozen=True)
class Fill:
    """How the dark ground is filled with a paler tone: ``share`` of it, from ``start`` inwards, over ``soft`` half-girths."""

    share: float
    start: float
    soft: float


def fill_of(looks: Looks) -> Fill:
    """One rule makes the blush of the flanks, the thin margins of pin lines and of webs."""
    if looks["flank_lines"] in ("pin", "double"):
        return Fill(0.85, 0.05, 0.025)
    if looks["flank_lines"] == "web":
        return Fill(0.62, 0.03, 0.03)
    return Fill({"none": 0.0, "slight": 0.15, "strong": 0.9}[looks["flank_blush"]], 0.035, 0.05)


def lines_of(looks: Looks, seed: int, side: int) -> list[Line]:
    """The thin dark lines of one flank (``side`` −1 or 1), nose to tail."""
    random = np.random.default_rng([seed, 41, side + 1])
    kind = looks["flank_lines"]
    lines: list[Line] = []
    if kind == "lateral":
        lines += [_lengthwise(y, side, random, seed) for y in (0.36, 0.56)]
    bare = looks["pattern_amount"] in ("strong_reduced", "patternless")
    if bare and looks["dorsal_stripe"] in ("full", "partial") and looks["dorsal_tone"] != "dark" and kind == "none":
        lines.append(_lengthwise(0.16, side, random, seed))  # what is left of the dark beside the stripe
    if kind in ("pin", "double", "web"):
        count = {"pin": 0, "double": 14, "web": 28}[kind]
        for x in np.sort(random.uniform(1.1, LENGTH - 0.8, count)):
            lines.append(_upright(float(x), side, kind, random))
            if kind == "web" and random.random() < 0.5:
                lines.append(_branch(lines[-1], random))
    if kind in ("pin", "double"):
        lines.append(_lengthwise(PIN_AT, side, random, seed))
        even = np.linspace(1.2, LENGTH - 1.0, 13 if kind == "pin" else 7)
        lines += [_flame(float(x), side, random) for x in even + random.normal(0, 0.16, len(even))]
    return lines


def _flame(x: float, side: int, random: np.random.Generator) -> Line:
    """A thin line from the edge of the back down around what is left of the flank's pattern, and up again, or not."""
    wide, low = random.uniform(0.1, 0.19), random.uniform(0.5, 0.74)
    turn = np.linspace(0, np.pi if random.random() < 0.7 else np.pi * 0.55, 9)
    across = -wide * np.cos(turn) * (0.55 + 0.45 * np.abs(np.cos(turn))) + random.normal(0, 0.012, 9)
    down = PIN_AT + (low - PIN_AT) * np.sin(turn) ** 0.6
    return Line(np.stack([x + across, side * down], axis=1), random.uniform(0.022, 0.034))


def _upright(x: float, side: int, kind: str, random: np.random.Generator) -> Line:
    low = random.uniform(0.5, 0.8 if kind == "web" else 0.66)
    y = np.linspace(0.2, low, 5)
    bend = np.cumsum(random.normal(0, 0.04, 5)) + random.normal(0, 0.1) * (y - 0.2)
    return Line(np.stack([x + bend, side * y], axis=1), random.uniform(0.012, 0.024))


def _branch(line: Line, random: np.random.Generator) -> Line:
    start = line.points[2]
    reach = np.linspace(0, 1, 4)[:, np.newaxis] * np.array([random.choice([-1, 1]) * 0.22, np.sign(start[1]) * 0.16])
    return Line(start + reach + random.normal(0, 0.012, (4, 2)), 0.017)


def _lengthwise(y: float, side: int, random: np.random.Generator, seed: int) -> Line:
    x = np.linspace(0.9, LENGTH - 0.5, 70)
    wave = 0.03 * noise_along(x * 1.1, y * 20, seed + 81)
    return Line(np.stack([x, side * (y + wave)], axis=1), 0.045)


def white_field(looks: Looks, seed: int, x: Floats, v: Floats) -> Floats:
    """Positive where the skin is white, about as a distance; grid as in :func:`pattern_of`."""
    xx, vv = np.meshgrid(x, v)
    u = xx / LENGTH
    field = np.maximum(_white_patches(looks, seed, u, vv), _white_sides(looks, seed, xx, np.abs(vv)))
    if looks["ringer"] != "none":
        depth = 1.1 if looks["ringer"] == "full" else 0.2  # a part of a ring leaves the belly's edges as they are
        wobble = 0.004 * noise_along(vv * 6, 1.5, seed + 91)
        ring = np.minimum(0.014 - np.abs(u - 0.9 + wobble), 0.03 * (np.abs(vv) - (1 - depth)))
        field = np.maximum(field, ring)
    return field


def _white_patches(looks: Looks, seed: int, u: Floats, v: Floats) -> Floats:
    share, layout = WHITE_SHARE[looks["white_share"]], looks["white_layout"]
    if layout == "none" and share == 0:
        return np.full_like(u, -1.0)
    share = max(share, LEAST_WHITE)  # a layout without white can't be seen, nor white that lies nowhere
    if layout == "yellow_marks":
        patches = smooth_noise(u * 16, v * 1.5, seed + 33) - 0.62
        return np.asarray(np.where(u < HEAD_END, 0.05, -0.4 * patches))
    if share == 1 or layout == "whole":
        return np.ones_like(u)
    if layout in ("splash", "sides"):
        limit = {"splash": 0.66}.get(layout, 0.4) - 0.5 * share
        return np.asarray(
            0.3 * (smooth_noise(u * 17, v * 2.2, seed + 35) - limit) - 0.2 * (u < HEAD_END).astype(u.dtype)
        )
    edge = 0.05 * smooth_noise(u * 40, v * 6, seed + 31)
    field = smooth_noise(u * 5.5 + edge, v * 0.35, seed + 29)
    along = noise_along(np.linspace(0, 5.5, 400), 0.0, seed + 29)
    limit = float(np.quantile(along[30:], share))
    return np.asarray(np.where(u < HEAD_END * 1.3, -1.0, SHARPLY * (limit - field)))


def _white_sides(looks: Looks, seed: int, x: Floats, y: Floats) -> Floats:
    height = SIDE_WHITE[looks["side_white"]]
    if height == 0:
        return np.full_like(x, -1.0)
    wave = 0.14 * noise_along(x * 1.5, 2.5, seed + 95) + 0.07 * smooth_noise(x * 5.5, y * 9, seed + 96)
    return np.asarray(y - (0.98 - height + wave) - 0.6 * (x < LENGTH * HEAD_END * 1.5).astype(x.dtype))


@dataclass(frozen=True)
class Specks:
    """Small dark dots: middles (n, 2) in (x, v) and sizes (n,) in half-girths."""

    places: Floats
    sizes: Floats


def specks_of(looks: Looks, seed: int) -> Specks:
    """Freckles and the pepper of the ground, of both flanks."""
    random = np.random.default_rng([seed, 51])
    freckles = {"none": 0, "few": 22, "many": 120}[looks["freckles"]]
    pepper = {"clean": 0, "slight": 30, "peppered": 380}[looks["ground_speckle"]]
    count = freckles + pepper
    places = np.stack([random.uniform(0.9, LENGTH - 0.3, count), random.uniform(-0.8, 0.8, count)], axis=1)
    sizes = np.concatenate([random.uniform(0.026, 0.045, freckles), random.uniform(0.012, 0.018, pepper)])
    return Specks(places, sizes)
