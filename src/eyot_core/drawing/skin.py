"""One skin: colour over (u, v) from trait levels and a seed. Strips and simulated photos are this skin seen two ways.

Units across the pattern: x = 13·u half-girths along, y = |v| around. The pattern is a signed distance D, negative in the
pale marks and positive in the dark ground.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from eyot_core.drawing.noise import Floats, smooth_noise, smoothstep
from eyot_core.drawing.palette import Palette, linear, palette_for

LENGTH = 13.0
HEAD_END = 0.062
LOBES = 24
BASE = 0.74
REDUCED = {"normal": 0.0, "busy": 0.02, "reduced": -0.035, "strong_reduced": -0.09, "patternless": -2.0}
STEMS = {"attached": 1.0, "mixed": 0.5, "floating": 0.08, "absent": 0.0}
SPOTS = {"none": 0, "one": 1, "two": 2, "many": 5}
BANDS = {"normal": 0.12, "some": 0.4, "strong": 0.8, "zigzag": 0.6}
WHITE_SHARE = {"none": 0.0, "low": 0.18, "mid": 0.45, "high": 0.78, "all": 1.0}

_EYE = {
    "dark": linear((24, 18, 16)),
    "green": linear((96, 104, 52)),
    "grey_light": linear((150, 152, 152)),
    "ruby": linear((92, 22, 26)),
    "red": linear((206, 62, 70)),
    "blue": linear((120, 160, 200)),
}


@dataclass(frozen=True)
class Mark:
    """One lobe: its middle, its half-axes, and what hangs on it."""

    x: float
    y: float
    rx: float
    ry: float
    stem: bool
    joined: bool
    over_back: bool
    spots: tuple[tuple[float, float, float], ...]


def marks_of(looks: Mapping[str, str], random: np.random.Generator) -> list[Mark]:
    """The lobes of one flank, nose to tail."""
    if "absent" in (looks["lobe_attach"], looks["lobe_shape"]):
        return []
    shape = looks["lobe_shape"]
    width = {"tall": 0.72, "keyhole": 1.2, "joined": 1.1}.get(shape, 1.0)
    height = {"tall": 1.3, "keyhole": 1.08}.get(shape, 1.0)
    wander = 0.25 if looks["pattern_order"] in ("scrambled", "granite") or shape == "broken" else 0.1
    wander = 0.03 if looks["pattern_order"] == "uniform" else wander
    pitch = (LENGTH - 1.2) / LOBES
    found = []
    for k in range(LOBES):
        x = 1.0 + pitch * (k + 0.5) + random.normal(0, wander * pitch)
        taper = 1 - 0.35 * (k / LOBES) ** 3
        rx = 0.185 * width * taper * (1 + random.normal(0, 0.16))
        ry = 0.17 * height * (1 + random.normal(0, 0.12))
        y = 0.4 + random.normal(0, 0.03 + wander / 5)
        count = SPOTS[looks["lobe_spots"]]
        spots = tuple(
            (random.uniform(-0.5, 0.5) * rx, random.uniform(-0.5, 0.5) * ry, random.uniform(0.03, 0.055))
            for _ in range(count)
        )
        stem = random.random() < STEMS[looks["lobe_attach"]]
        joined = random.random() < (0.7 if shape == "joined" else 0.06)
        over_back = random.random() < BANDS[looks["banding"]]
        found.append(
            Mark(x, y, abs(rx), abs(ry), stem, joined, over_back, spots if count != 1 else ((0.0, 0.0, 0.06),))
        )
    return found


def joined_smoothly(a: Floats, b: Floats, k: float) -> Floats:
    """Smooth minimum with blend width ``k``."""
    h = np.clip(0.5 + 0.5 * (b - a) / k, 0, 1)
    return np.asarray(b + (a - b) * h - k * h * (1 - h))


def capsule(x: Floats, y: Floats, start: tuple[float, float], end: tuple[float, float], radius: float) -> Floats:
    """Distance to a thick line."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    t = np.clip(((x - start[0]) * dx + (y - start[1]) * dy) / (dx * dx + dy * dy + 1e-12), 0, 1)
    return np.asarray(np.hypot(x - start[0] - t * dx, y - start[1] - t * dy) - radius)


def _flank_distance(x: Floats, y: Floats, looks: Mapping[str, str], marks: list[Mark], seed: int) -> Floats:
    """D for one flank; x, y of shape (rows, columns) with x ascending along columns."""
    flames = {"none": 0.0, "some": 0.12, "strong": 0.24}[looks["flank_flames"]]
    spikes = np.clip(smooth_noise(x * 3.1, x * 0 + 3.7, seed + 5), 0, 1) ** 1.5
    raised = {"pin": 0.46, "double": 0.44, "web": 0.2}.get(looks["flank_lines"], 0.0)
    distance = np.asarray(BASE - raised - flames * spikes - y)
    for k, mark in enumerate(marks):
        near = np.flatnonzero(np.abs(x[0] - mark.x) < 1.0)
        if not len(near):
            continue
        part = slice(near[0], near[-1] + 1)
        px, py = x[:, part], y[:, part]
        radius = min(mark.rx, mark.ry)
        own = (np.hypot((px - mark.x) / mark.rx, (py - mark.y) / mark.ry) - 1) * radius
        if mark.stem:
            own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (mark.x, 0.85), 0.075), 0.07)
        if mark.over_back:
            own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (mark.x + 0.05, -0.2), 0.09), 0.07)
        if mark.joined and k + 1 < len(marks):
            own = joined_smoothly(own, capsule(px, py, (mark.x, mark.y), (marks[k + 1].x, marks[k + 1].y), 0.09), 0.07)
        distance[:, part] = joined_smoothly(own, distance[:, part], 0.1 if mark.stem else 0.02)
    for mark in marks:
        for sx, sy, size in mark.spots:
            near = np.flatnonzero(np.abs(x[0] - mark.x) < 0.5)
            if len(near):
                part = slice(near[0], near[-1] + 1)
                hole = size - np.hypot(x[:, part] - mark.x - sx, y[:, part] - mark.y - sy)
                distance[:, part] = np.maximum(distance[:, part], hole)
    return distance


def _back_marks(x: Floats, y: Floats, looks: Mapping[str, str], seed: int) -> Floats:
    """Distance to the pale marks along the spine."""
    stripe = looks["dorsal_stripe"]
    width = {"narrow": 0.05, "wide": 0.15}.get(looks["dorsal_width"], 0.085)
    along = smooth_noise(x * 1.7, x * 0 + 9.1, seed + 11)
    if stripe == "full":
        return np.asarray(y - width * (1 + 0.25 * along))
    if stripe == "chain":
        return np.asarray(y - width * (0.2 + 1.2 * np.abs(np.sin(x * 4.5))))
    share = {"partial": -0.2, "none": 0.45}[stripe] - {"few": 0.0, "none": -0.5, "many": 0.25}[looks["dorsal_marks"]]
    return np.asarray(y - width * smoothstep(share, share + 0.25, along) * 1.2 + 0.02)


def _white(u: Floats, v: Floats, looks: Mapping[str, str], seed: int) -> Floats:
    """Share of white at each place, 0 or 1 with a narrow edge."""
    share = WHITE_SHARE[looks["white_share"]]
    if looks["white_layout"] == "none" or share == 0:
        return np.zeros_like(u)
    if share == 1:
        return np.ones_like(u)
    field = smooth_noise(u * 5.5 + 0.06 * smooth_noise(u * 40, v * 6, seed + 31), v * 0.35, seed + 29)
    limit = np.quantile(smooth_noise(np.linspace(0, 5.5, 400), np.zeros(400), seed + 29), share)
    white = smoothstep(-0.02, 0.02, limit - field)
    return np.asarray(np.where(u < HEAD_END * 1.3, 0.0, white))


def skin_colours(looks: Mapping[str, str], seed: int, u: Floats, v: Floats) -> Floats:
    """Linear-light colours, shape (rows, columns, 3). ``u`` (columns,) ascending, ``v`` (rows,)."""
    palette = palette_for(looks)
    uu, vv = np.meshgrid(u, v)
    x, y = uu * LENGTH, np.abs(vv)
    fade = np.clip(y * 4, 0, 1)
    wx = x + 0.075 * fade * smooth_noise(x * 2.2, vv * 2.2, seed) + 0.018 * smooth_noise(x * 7, vv * 7, seed + 1)
    wy = (
        y
        + 0.06 * fade * smooth_noise(x * 2.2 + 50, vv * 2.2, seed + 2)
        + 0.016 * smooth_noise(x * 7, vv * 7 + 9, seed + 3)
    )
    columns = u * LENGTH
    distance = np.empty_like(uu)
    for side, rows in ((0, v < 0), (1, v >= 0)):
        if rows.any():
            marks = marks_of(looks, np.random.default_rng([seed, side]))
            grid = np.broadcast_to(columns, wx[rows].shape)
            distance[rows] = _flank_distance(grid + (wx[rows] - x[rows]), wy[rows], looks, marks, seed + side)
    distance = np.minimum(distance, _back_marks(wx, wy, looks, seed))
    distance = distance + _pattern_shift(looks)
    colour = _coloured(distance, uu, vv, looks, palette, seed)
    return _scaled(colour, x, vv)


def _pattern_shift(looks: Mapping[str, str]) -> float:
    """How far the pattern gives way: to the pale field, but in a dark animal to the dark ground."""
    if looks["pattern_amount"] == "patternless" and looks["lightness"] in ("darker", "very_dark"):
        return -REDUCED["patternless"]
    return REDUCED[looks["pattern_amount"]]


def _coloured(distance: Floats, u: Floats, v: Floats, looks: Mapping[str, str], palette: Palette, seed: int) -> Floats:
    y = np.abs(v)
    low = smoothstep(0.25, 0.8, y)[..., None]
    pale = palette.lobe + (palette.lobe_low - palette.lobe) * low
    rim = {"none": 0.0, "thin": 0.5, "strong": 1.0}[looks["lobe_outline"]] * smoothstep(-0.075, -0.02, distance)
    pale = pale + (palette.rim - pale) * rim[..., None]
    blush = {"none": 0.0, "slight": 0.14, "strong": 0.85}[looks["flank_blush"]]
    fill = (blush * smoothstep(0.05, 0.16, distance))[..., None]
    ground = palette.ground + (palette.fill - palette.ground) * fill
    dark = smoothstep(-0.012, 0.012, distance)
    dark = np.maximum(dark, _lines(u * LENGTH, v, looks, seed))[..., None]
    colour = pale + (ground - pale) * dark
    colour = _with_head(colour, u, v, looks, palette)
    colour = _with_belly(colour, u * LENGTH, y, looks, palette, seed)
    white = _white(u, v, looks, seed)[..., None]
    return np.asarray(colour + (palette.white - colour) * white)


def _lines(x: Floats, v: Floats, looks: Mapping[str, str], seed: int) -> Floats:
    """Thin dark lines of the flanks, 0 to 1."""
    kind, y = looks["flank_lines"], np.abs(v)
    if kind in ("pin", "double"):
        wave = 0.27 + 0.03 * smooth_noise(x * 1.3, np.sign(v) * 5, seed + 41)
        gap = smoothstep(-0.55, -0.3, smooth_noise(x * 2.1, np.sign(v) * 8, seed + 43))
        return np.asarray((1 - smoothstep(0.012, 0.03, np.abs(y - wave))) * gap)
    if kind == "web":
        phase = x * 2.4 + 0.5 * smooth_noise(x * 1.2, v * 3, seed + 47)
        thin = 1 - smoothstep(0.05, 0.12, np.abs(phase - np.round(phase)))
        return np.asarray(thin * (y > 0.12) * (1 - smoothstep(0.55, 0.75, y)))
    return np.zeros_like(x)


def _with_head(colour: Floats, u: Floats, v: Floats, looks: Mapping[str, str], palette: Palette) -> Floats:
    y = np.abs(v)
    cap = smoothstep(0.0, 0.008, u) * (1 - smoothstep(0.3, 0.4, y + 0.16 * smoothstep(0.02, 0.0, u)))
    stripe = (1 - smoothstep(0.05, 0.07, np.abs(y - 0.5))) * smoothstep(0.016, 0.022, u) * (u < HEAD_END)
    tone = {"lighter": 0.45, "white": 0.9, "darker": -0.15, "same": 0.06}[looks["head_lightness"]]
    washed = {"washed_out": 0.35, "wiped": 0.75, "reduced": 0.2}.get(looks["head_stamp"], 0.0)
    crown = palette.ground + (palette.lobe_low - palette.ground) * min(0.95, max(0.0, tone + washed))
    on_head = 1 - smoothstep(HEAD_END * 0.9, HEAD_END * 1.25, u + 0.02 * smoothstep(0.2, 0.5, y))
    cap = cap * on_head
    side = colour + (palette.lobe_low - colour) * on_head[..., None]
    side = side + (palette.ground - side) * stripe[..., None]
    head = side + (crown - side) * cap[..., None]
    eye = np.hypot((u - 0.026) / 0.006, (y - 0.44) / 0.055)
    head = head + (_EYE.get(looks["eye_color"], _EYE["dark"]) - head) * (1 - smoothstep(0.85, 1.0, eye))[..., None]
    return np.asarray(
        head + 0.5 * (1 - smoothstep(0.2, 0.3, np.hypot((u - 0.0245) / 0.006, (y - 0.42) / 0.055)))[..., None]
    )


def _with_belly(colour: Floats, x: Floats, y: Floats, looks: Mapping[str, str], palette: Palette, seed: int) -> Floats:
    jagged = {"jagged": 0.07, "flecked": 0.03, "clean": 0.0}.get(looks["belly_edge"], 0.012)
    edge = 0.86 + jagged * smooth_noise(x * 9, x * 0, seed + 61)
    belly = smoothstep(-0.01, 0.01, y - edge)
    marks = np.zeros_like(x)
    if looks["belly_marks"] in ("checkered", "flecked", "normal"):
        strength = {"checkered": 0.1, "flecked": 0.35, "normal": 0.55}[looks["belly_marks"]]
        marks = (smooth_noise(np.floor(x * 12), np.floor(y * 40), seed + 67) > strength) * belly
    shown = palette.belly + (palette.ground - palette.belly) * (0.8 * marks[..., None])
    return np.asarray(colour + (shown - colour) * belly[..., None])


def _scaled(colour: Floats, x: Floats, v: Floats) -> Floats:
    """The fine relief of the scales: diamond cells, darker at their edges."""
    s = LENGTH / 205
    p, q = x / s + v / 0.052, x / s - v / 0.052
    edge = np.minimum(np.abs(p / 2 - np.round(p / 2)), np.abs(q / 2 - np.round(q / 2)))
    return np.asarray(colour * (0.9 + 0.1 * smoothstep(0.02, 0.12, edge))[..., None])


def strip_colours(
    looks: Mapping[str, str], seed: int, width: int, height: int, v_from: float = -0.12, v_to: float = 0.95
) -> Floats:
    """A flank strip, nose left, spine above: shape (height, width, 3)."""
    return skin_colours(looks, seed, np.linspace(0.002, 0.985, width), np.linspace(v_from, v_to, height))
