"""One skin: colour over (u, v) from trait levels and a seed. Strips and simulated photos are this skin seen two ways.

Units across the pattern: x = 13·u half-girths along, y = |v| around. The pattern is a signed distance D, negative in the
pale marks and positive in the dark ground.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

import cv2
import numpy as np

from eyot_core.colour import channels, laid_over, linear
from eyot_core.drawing.belly import MARKED, belly_edge, flames, is_marked
from eyot_core.drawing.heads import SHAPES, STAMP_STRENGTH, STAMPS, STRIPE, head_colours
from eyot_core.drawing.noise import Floats, smoothstep
from eyot_core.drawing.palette import Palette, palette_for, tone_of_back
from eyot_core.drawing.pattern import (
    HEAD_END,
    LENGTH,
    Pattern,
    capsule,
    fill_of,
    lines_of,
    pattern_of,
    specks_of,
    white_field,
)
from eyot_core.drawing.svg import flattened

FINER = 4
NECK_END = HEAD_END * 1.25
"""Where nothing of the head's colours is left, in u."""
ABOVE_BELLY = 0.7
"""Where nothing of the belly shows yet, in |v|: below its highest teeth."""
_EYE = {
    "dark": linear((24, 18, 16)),
    "green": linear((96, 104, 52)),
    "grey_light": linear((150, 152, 152)),
    "ruby": linear((92, 22, 26)),
    "red": linear((206, 62, 70)),
    "blue": linear((120, 160, 200)),
}


def skin_colours(looks: Mapping[str, str], seed: int, u: Floats, v: Floats) -> Floats:
    """Linear-light colours, shape (rows, columns, 3). ``u`` (columns,) ascending, ``v`` (rows,)."""
    palette = palette_for(looks)
    u, v = u.astype(np.float32), v.astype(np.float32)
    x = u * LENGTH
    pattern = pattern_of(looks, seed, x, v)
    white = smoothstep(-0.006, 0.006, white_field(looks, seed, x, v))
    uu, vv = np.meshgrid(u, v)
    return _scaled(_coloured(pattern, white, uu, vv, looks, palette, seed), uu * LENGTH, vv)


def _coloured(
    pattern: Pattern, white: Floats, u: Floats, v: Floats, looks: Mapping[str, str], palette: Palette, seed: int
) -> Floats:
    y, distance = np.abs(v[:, :1]), pattern.dark
    low = smoothstep(0.25, 0.8, y)[..., None]
    pale = palette.lobe + (palette.lobe_low - palette.lobe) * low
    if strength := {"none": 0.0, "thin": 0.5, "strong": 1.0}[looks["lobe_outline"]]:
        pale = laid_over(pale, palette.rim, strength * smoothstep(-0.075, -0.02, distance))
    inner = fill_of(looks)
    ground = palette.ground
    if inner.share:
        ground = laid_over(
            ground, palette.fill, inner.share * smoothstep(inner.start, inner.start + inner.soft, distance)
        )
    if (tone := tone_of_back(looks, palette)) is not None:
        reach, over, share = tone
        ground = laid_over(ground, over, share * (1 - smoothstep(-0.01, 0.01, y - reach)))
    colour = laid_over(pale, ground, smoothstep(-0.012, 0.012, distance))
    if looks["lobe_spots"] != "none":
        colour = laid_over(colour, palette.ground, smoothstep(-0.012, 0.012, pattern.eyes))
    if looks["flank_flames"] != "none":
        colour = laid_over(colour, palette.flame, smoothstep(-0.008, 0.008, flames(looks, seed, u * LENGTH, v)))
    thin = np.maximum(_lines(u * LENGTH, v, looks, seed), _specks(u * LENGTH, v, looks, seed))
    if thin.any():
        colour = laid_over(colour, palette.ground, thin)
    colour = _with_head(colour, u, v, looks, palette)
    colour = _with_belly(colour, u * LENGTH, v, looks, palette, seed)
    return laid_over(colour, palette.white, white) if white.any() else colour


def _lines(x: Floats, v: Floats, looks: Mapping[str, str], seed: int) -> Floats:
    """Thin dark lines of the flanks, 0 to 1."""
    covered = np.zeros_like(x)
    for side in (-1, 1):
        for line in lines_of(looks, seed, side):
            low, high = np.searchsorted(x[0], (line.points[:, 0].min() - 0.1, line.points[:, 0].max() + 0.1))
            part = slice(low, high)
            for start, end in pairwise(line.points.tolist()):
                reach = line.width / 2 + 0.01
                top, foot = min(start[1], end[1]) - reach, max(start[1], end[1]) + reach
                rows = np.flatnonzero((v[:, 0] >= top) & (v[:, 0] <= foot))
                if not len(rows):
                    continue
                near = (slice(rows[0], rows[-1] + 1), part)
                away = capsule(x[near], v[near], start, end, line.width / 2)
                covered[near] = np.maximum(covered[near], 1 - smoothstep(-0.004, 0.008, away))
    return covered


def _specks(x: Floats, v: Floats, looks: Mapping[str, str], seed: int) -> Floats:
    """Freckles and pepper, 0 to 1."""
    covered = np.zeros_like(x)
    specks = specks_of(looks, seed)
    for (at, around), size in zip(specks.places.tolist(), specks.sizes.tolist(), strict=True):
        low, high = np.searchsorted(x[0], (at - size, at + size))
        part = slice(low, high)
        away = np.hypot(x[:, part] - at, v[:, part] - around)
        covered[:, part] = np.maximum(covered[:, part], 1 - smoothstep(0.7 * size, size, away))
    return covered


def _with_head(colour: Floats, u: Floats, v: Floats, looks: Mapping[str, str], palette: Palette) -> Floats:
    """The skin with its head: only the columns up to the neck change."""
    columns = slice(0, int(np.searchsorted(u[0], NECK_END)))
    if columns.stop:
        colour[:, columns] = _headed(colour[:, columns], u[:, columns], v[:, columns], looks, palette)
    return colour


def _headed(colour: Floats, u: Floats, v: Floats, looks: Mapping[str, str], palette: Palette) -> Floats:
    y = np.abs(v)
    crown, pale = head_colours(looks, palette), palette.lobe_low
    cap = smoothstep(0.0, 0.008, u) * (1 - smoothstep(-0.05, 0.05, y - _cap_edge(u, y, looks)))
    stripe = (1 - smoothstep(0.05, 0.07, np.abs(y - 0.5))) * smoothstep(0.016, 0.022, u) * (u < HEAD_END)
    on_head = 1 - smoothstep(HEAD_END * 0.9, NECK_END, u + 0.02 * smoothstep(0.2, 0.5, y))
    cap = cap * on_head
    side = laid_over(laid_over(colour, pale, on_head), palette.ground, stripe)
    stamped = laid_over(crown.crown, crown.mark, _stamp(u, v, looks))
    stamped = laid_over(stamped, crown.stripe, _shape_mark(u, v, looks))
    head = laid_over(side, stamped, cap)
    eye = np.hypot((u - 0.026) / 0.006, (y - 0.44) / 0.055)
    head = laid_over(head, _EYE.get(looks["eye_color"], _EYE["dark"]), 1 - smoothstep(0.85, 1.0, eye))
    glint = np.hypot((u - 0.0245) / 0.006, (y - 0.42) / 0.055)
    return np.asarray(head + channels(0.5 * (1 - smoothstep(0.2, 0.3, glint))))


def _cap_edge(u: Floats, y: Floats, looks: Mapping[str, str]) -> Floats:
    """Where around the head the crown ends and the pale eye stripe begins, in |v|: the wider the stripe, the nearer the top."""
    edge = 0.35 + 0.11 * (1 - STRIPE[looks["eye_stripe_width"]]) - 0.16 * smoothstep(0.02, 0.0, u)
    if looks["eye_stripe_edge"] == "jagged":
        edge = edge + 0.035 * np.sign(np.sin(2 * np.pi * u / 0.006))
    if looks["eye_stripe_edge"] == "broken":
        edge = edge + 0.14 * (np.sin(2 * np.pi * u / 0.017) > 0.5).astype(u.dtype)
    if looks["head_shape_mark"] == "pinched":
        edge = edge - 0.14 * np.exp(-(((u - 0.55 * HEAD_END) / (0.12 * HEAD_END)) ** 2))
    return np.asarray(edge)


def _above(u: Floats, v: Floats) -> tuple[Floats, Floats]:
    """The places of the drawing of a head from above, in its units, that lie at u and v of the skin."""
    return 10 + 226 * u / HEAD_END, 65 + 52 * np.sin(np.pi * np.clip(v, -0.5, 0.5))


def _stamp(u: Floats, v: Floats, looks: Mapping[str, str]) -> Floats:
    """How much the head stamp's ovals show, 0 to 1."""
    (x, y), covered = _above(u, v), np.zeros_like(u)
    for at_x, at_y, across, down in STAMPS.get(looks["head_stamp"], ()):
        covered = np.maximum(covered, 1 - smoothstep(0.8, 1.2, np.hypot((x - at_x) / across, (y - at_y) / down)))
    return np.asarray(STAMP_STRENGTH.get(looks["head_stamp"], 0.75) * covered)


def _shape_mark(u: Floats, v: Floats, looks: Mapping[str, str]) -> Floats:
    """Where the pale figure on the crown lies, 0 to 1."""
    drawn = np.zeros((130 * FINER, 260 * FINER), dtype=np.uint8)
    figures = [np.round(figure * FINER * 16).astype(np.int32) for figure in flattened(SHAPES[looks["head_shape_mark"]])]
    if not figures:
        return np.zeros_like(u)
    cv2.fillPoly(drawn, figures, 255, shift=4)
    x, y = (places.astype(np.float32) * FINER for places in _above(u, v))
    return np.asarray(cv2.remap(drawn, x, y, cv2.INTER_LINEAR) / np.float32(255))


def _with_belly(colour: Floats, x: Floats, v: Floats, looks: Mapping[str, str], palette: Palette, seed: int) -> Floats:
    """The skin with its belly: only the rows that lie low enough change."""
    low = np.abs(v[:, 0]) > ABOVE_BELLY
    if low.any():
        colour[low] = _bellied(colour[low], x[low], v[low], looks, palette, seed)
    return colour


def _bellied(colour: Floats, x: Floats, v: Floats, looks: Mapping[str, str], palette: Palette, seed: int) -> Floats:
    side = np.sign(v)
    belly = smoothstep(-0.01, 0.01, np.abs(v) - belly_edge(looks, seed, x, side))
    marks = is_marked(looks, seed, x, v - side).astype(x.dtype)
    return laid_over(colour, laid_over(palette.belly, palette.ground, MARKED * marks), belly)


def _scaled(colour: Floats, x: Floats, v: Floats) -> Floats:
    """The fine relief of the scales: diamond cells, darker at their edges."""
    s = LENGTH / 205
    p, q = x / s + v / 0.052, x / s - v / 0.052
    edge = np.minimum(np.abs(p / 2 - np.round(p / 2)), np.abs(q / 2 - np.round(q / 2)))
    colour *= channels(0.9 + 0.1 * smoothstep(0.02, 0.12, edge))
    return colour


def strip_colours(
    looks: Mapping[str, str], seed: int, width: int, height: int, v_from: float = -0.12, v_to: float = 0.95
) -> Floats:
    """A flank strip, nose left, spine above: shape (height, width, 3)."""
    return skin_colours(looks, seed, np.linspace(0.002, 0.985, width), np.linspace(v_from, v_to, height))
