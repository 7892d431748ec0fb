"""The body's own shading and gloss taken away, so that a flank is as light in the strip as in the hand.

No lamp is known. What is used: the ground's light; that left and right are alike on the whole, so that a difference that
turns with the body comes from the lamp; that gloss is neutral, added, and sits where the body faces one direction. How
much a body darkens towards both edges can't be told from its pattern: a typical course stands in, tied to the lamp's side.

Source: gloss as powers of the cosine to the direction it faces; the typical course of the shading is ours, from simulated photos.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.colour import channels, lab, summed
from eyot_core.photo.spine import Floats

Light = NDArray[np.float32]
Mask = NDArray[np.bool_]
CELLS = (27, 80)
SIDE_BINS = 9
GLOSS_POWERS = (8.0, 24.0, 80.0)
ELEVATIONS = (0.45, 0.65, 0.85, 1.0, 1.15, 1.3)
TURNS = (-0.5, 0.0, 0.5)
AROUND_GLOSS, PALE_AROUND, WITHOUT = (81, 81), 0.25, 0.8
"""How far around a place skin is looked at, in pixels of the strip; how light it is where it is pale, linear; and what share of that skin
has without gloss."""
EDGE = 0.25
LIFT = 1.1
MOST_LEAN = 0.8
LEAST_CELLS = 60
PALE_L, PALE_CHROMA, LEAST_PALE = 48.0, 13.0, 0.2
LEAST_TINT = 0.05
"""From which log ratio of two channels skin has a colour."""
WHITE_LIGHT = 0.54
"""Linear lightness above which the best lit pale skin in an egg is white: L* 78.5. The best lit grey skin that was tried had 0.48 (an
axanthic's), the worst lit white skin of a back 0.60."""
MOSTLY_BURNT, UNKNOWN_WHITE = 0.5, 0.6
"""What share of the pale skin must be burnt out to be white as such, and the linear lightness of white that does not show its own."""
LOBE_L, LOBE_CHROMA, LEAST_LOBES, LEAST_FLANK, UNBROKEN = 45.0, 16.0, 0.2, 0.5, 0.85
"""Coloured lobes: from which L* and chroma, and what share of the back; and of how much of the back's length a white flank is to be seen,
and what share of it is pale."""
SHADE_CELLS, SURE_PALE, MOST_LIFT = 1.2, 0.25, 2.5


@dataclass(frozen=True)
class Skin:
    """``light``: linear RGB (rows, columns, 3); ``seen`` and ``counted`` (rows, columns): where the body shows, and where
    it is neither too bright nor too dark; ``burnt``: too bright in every channel; ``t``: share of the half-width, −1 to 1,
    of the same shape; ``across`` (columns, 2): unit vectors to the right side in the photo; ``v`` (rows,)."""

    light: Light
    seen: Mask
    counted: Mask
    burnt: Mask
    t: Floats
    across: Floats
    v: Floats


def evened(skin: Skin, ground: Floats | None) -> Light:
    """The colours of the skin as if every place faced the same even light, (rows, columns, 3)."""
    light: Light = skin.light if ground is None else np.asarray(skin.light / ground[..., None], dtype=np.float32)
    lean = _lean(skin, light)
    gloss = np.where(skin.burnt, 0, _gloss(skin, light, lean))
    if ground is None:
        gloss = _bounded(gloss, light, skin.seen)
    light = np.asarray(np.maximum(light - channels(gloss), 0.08 * light), dtype=np.float32)
    lean = _lean(skin, light)
    return (light / channels(_shade(skin, lean))).astype(np.float32)


def restored(light: Light, clipped: Mask, counted: Mask) -> Light:
    """Colours with the channels that were clipped taken from what unclipped skin of the same brightness shows elsewhere.

    ``clipped`` (rows, columns, 3): the channels at the camera's end; what is clipped in all three counts as neutral. Never
    darker than what was seen. Without this an overexposed photo would count its dark pattern only.
    """
    restored_light = light.copy()
    many = summed(clipped.astype(np.uint8))
    lost = many > 0
    if not lost.any() or not counted.any():
        return restored_light
    every = many == 3
    restored_light[every] = light[every].max(axis=1, keepdims=True)
    known = light[counted]
    for kept in range(3):
        here = lost & ~clipped[..., kept] & (many == 2)
        _filled(restored_light, here, known, clipped, [kept])
    for gone in range(3):
        kept_two = [channel for channel in range(3) if channel != gone]
        here = clipped[..., gone] & (many == 1)
        _filled(restored_light, here, known, clipped, kept_two)
    return restored_light


def _filled(light: Light, here: Mask, known: Light, clipped: Mask, kept: list[int]) -> None:
    """Sets the clipped channels of some pixels from the ratio that the brightest known skin has; where two channels are left and their
    own ratio is nearer to white's, the third is as well: white is not given the yellow of the skin beside it."""
    if not here.any():
        return
    sums = known[:, kept].sum(axis=1)
    bright = np.maximum(known[sums >= np.percentile(sums, 85)].mean(axis=0), 1e-6)
    tints = np.log(bright / bright[kept].mean())
    left = light[here][:, kept]
    coloured = np.ones(len(left))
    if len(kept) == 2 and (usual := float(np.log(bright[kept[0]] / bright[kept[1]]))) ** 2 > LEAST_TINT**2:
        coloured = np.clip(np.log(np.maximum(left[:, 0], 1e-6) / np.maximum(left[:, 1], 1e-6)) / usual, 0, 1)
    guess = left.mean(axis=1, keepdims=True) * np.exp(coloured[:, None] * tints)
    light[here] = np.where(clipped[here], np.maximum(light[here], guess), light[here])


def _whole(light: Light) -> Light:
    """The mean of the channels, (rows, columns)."""
    return np.asarray(summed(light) / np.float32(3))


def _cells(values: Floats | Light, counted: Mask) -> tuple[Floats, Mask]:
    """Means over a coarse grid, and where most of a cell counts."""
    size = (CELLS[1], CELLS[0])
    weight = cv2.resize(counted.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    total = cv2.resize((values * counted).astype(np.float32), size, interpolation=cv2.INTER_AREA)
    return np.asarray(total / np.maximum(weight, 1e-6), dtype=np.float64), weight > 0.6


def _thinned(across: Floats) -> Floats:
    """The directions at the columns of the coarse grid, (columns, 2)."""
    thin = cv2.resize(across.astype(np.float32), (2, CELLS[1]), interpolation=cv2.INTER_AREA)
    return np.asarray(thin, dtype=np.float64)


def _lean(skin: Skin, light: Light) -> Floats:
    """How much lighter the side is that faces a direction in the photo: log gain per unit of t, as a vector (2,)."""
    whole = _whole(light)
    mean, known = _cells(whole, skin.seen)
    counted = _cells(whole, skin.counted)[1]
    half = CELLS[0] // 2
    left, right = mean[:half][::-1], mean[-half:]
    both = known[:half][::-1] & known[-half:] & (counted[:half][::-1] | counted[-half:])
    t = np.sin(np.pi * np.linspace(0, 0.4, half + 1)[1:])[:, None]
    across = _thinned(skin.across)
    use = both & (t > 0.35)
    if use.sum() < LEAST_CELLS:
        return np.zeros(2)
    ratio = np.log(np.maximum(right, 1e-4) / np.maximum(left, 1e-4))[use]
    known_by = (2 * t[..., None] * across[None])[use]
    weight = np.sqrt(np.minimum(left, right))[use]
    lean = np.zeros(2)
    for _ in range(6):
        lean = np.linalg.lstsq(known_by * weight[:, None], ratio * weight, rcond=None)[0]
        off = np.abs(ratio - known_by @ lean)
        weight = np.sqrt(np.minimum(left, right))[use] / np.sqrt(1 + (off / 0.25) ** 2)
    strength = float(np.hypot(*lean))
    return np.asarray(lean * min(1.0, MOST_LEAN / max(strength, 1e-9)))


def _shade(skin: Skin, lean: Floats) -> Light:
    """What the skin's light is divided by: the lamp's side, and the typical darkening towards both edges."""
    up = np.sqrt(np.clip(1 - skin.t**2, 0.02, 1))
    straight = min(0.75, LIFT * float(np.hypot(*lean)))
    side = skin.t * (skin.across @ lean)[None]
    even = (1 - straight + straight * up) * (1 - EDGE + EDGE * np.sqrt(up))
    return np.asarray(np.maximum(even * np.exp(side), 0.12), dtype=np.float32)


def _gloss(skin: Skin, light: Light, lean: Floats) -> Light:
    """The neutral highlights, (rows, columns), fitted to the darkest skin: a smooth course over |v| with the lamp's side,
    and lobes around one direction."""
    darkest = np.minimum(np.minimum(light[..., 0], light[..., 1]), light[..., 2])
    low = cv2.erode(cv2.GaussianBlur(darkest, (0, 0), 1.5), np.ones((3, 9), np.uint8))
    cells, known = _cells(np.asarray(low, dtype=np.float64), skin.seen)
    v = np.linspace(skin.v[0], skin.v[-1], CELLS[0])
    t, across = np.sin(np.pi * v), _thinned(skin.across)
    if known.sum() < 4 * LEAST_CELLS:
        return np.zeros(light.shape[:2], dtype=np.float32)
    base = _courses(t, across, lean)[known]
    seen = cells[known]
    first = float(np.arctan2(lean[1], lean[0]))
    turns = TURNS if np.hypot(*lean) > 0.12 else tuple(np.linspace(-np.pi, np.pi, 9)[:-1])
    best: tuple[float, Floats, Floats] | None = None
    for turn in turns:
        for elevation in ELEVATIONS:
            toward = _direction(first + turn, elevation)
            lobes = _lobes(t, across, toward)[known]
            cost, weights = _low_fit(np.hstack([base, lobes]), seen)
            if best is None or cost < best[0]:
                best = (cost, weights[base.shape[1] :], toward)
    assert best is not None
    facing = np.clip(skin.t * (skin.across @ best[2][:2])[None] + np.sqrt(1 - skin.t**2) * best[2][2], 0, 1)
    gloss = sum(weight * facing**power for weight, power in zip(best[1], GLOSS_POWERS, strict=True))
    return np.asarray(gloss, dtype=np.float32)


def _bounded(gloss: Light, light: Light, seen: Mask) -> Light:
    """Gloss on pale skin no more than what is lighter than the skin around: what is fitted to dark skin may be too much for white in an
    egg's uneven shade."""
    whole, weight = _whole(light), seen.astype(np.float32)
    over = np.maximum(cv2.GaussianBlur(weight, AROUND_GLOSS, 0), 1e-3)
    around = cv2.GaussianBlur(whole * weight, AROUND_GLOSS, 0) / over
    most = np.where(around > PALE_AROUND, np.maximum(whole - WITHOUT * around, 0), gloss)
    return np.asarray(np.minimum(gloss, most), dtype=np.float32)


def _direction(azimuth: float, elevation: float) -> Floats:
    return np.array([np.cos(azimuth) * np.cos(elevation), np.sin(azimuth) * np.cos(elevation), np.sin(elevation)])


def _courses(t: Floats, across: Floats, lean: Floats) -> Floats:
    """Hat functions over |t| times the lamp's side: (rows, columns, SIDE_BINS)."""
    knots = np.linspace(0, np.abs(t).max(), SIDE_BINS)
    hats = np.clip(1 - np.abs(np.abs(t)[:, None] - knots) / (knots[1] - knots[0]), 0, 1)
    return np.asarray(hats[:, None] * np.exp(t[:, None] * (across @ lean)[None])[..., None])


def _lobes(t: Floats, across: Floats, toward: Floats) -> Floats:
    facing = np.clip(t[:, None] * (across @ toward[:2])[None] + np.sqrt(1 - t**2)[:, None] * toward[2], 0, 1)
    return np.stack([facing**power for power in GLOSS_POWERS], axis=-1)


def _low_fit(known_by: Floats, seen: Floats) -> tuple[float, Floats]:
    """Non-negative weights that lie along the low side of what was seen (pale pattern above it counts little)."""
    scale = np.ones_like(seen)
    weights = np.zeros(known_by.shape[1])
    for _ in range(4):
        gram, seen_by = (known_by * scale[:, None]).T @ known_by, known_by.T @ (scale * seen)
        root = np.linalg.cholesky(gram + 1e-6 * np.eye(len(gram)))
        weights, _ = scipy.optimize.nnls(root.T, np.linalg.solve(root, seen_by))
        left = seen - known_by @ weights
        scale = np.where(left > 0, 0.08, 1.0) / (1 + np.abs(left) / 0.02)
    return float((scale * left**2).sum()), weights


def unshaded_white(light: Light, lit: Mask, burnt: Mask) -> Light:
    """White skin in a shade that no ground tells of, lifted to the white beside it, as in the window of a cut egg.

    ``light`` (rows, columns, 3): corrected and evened; ``lit``, ``burnt`` (rows, columns): where skin shows that is not black, and where
    it was at the camera's end in every channel. Where much of the back is pale and neutral and its best lit part is white, slow changes
    of its lightness are taken for light; where most of what is pale is burnt out it is white, whatever it was darkened to. The back
    tells, but where a flank that is pale all along goes with coloured lobes. Skin without any white is left as it is.
    """
    colours = lab(light)
    chroma = np.hypot(colours[..., 1], colours[..., 2])
    pale = lit & (colours[..., 0] > PALE_L) & (chroma < PALE_CHROMA)
    whole = _whole(light)
    white = _white_on_back(whole, pale, lit, burnt)
    if white < WHITE_LIGHT and _has_white_flank(pale, lit, lit & (colours[..., 0] > LOBE_L) & (chroma > LOBE_CHROMA)):
        white = UNKNOWN_WHITE
    if white < WHITE_LIGHT:
        return light
    size, weight = (CELLS[1], CELLS[0]), pale.astype(np.float32)
    cells, known = (cv2.resize(values, size, interpolation=cv2.INTER_AREA) for values in (whole * weight, weight))
    cells, known = (cv2.GaussianBlur(values, (0, 0), SHADE_CELLS) for values in (cells, known))
    lift = np.clip(white / np.maximum(cells / np.maximum(known, 1e-4), 1e-4), 1, MOST_LIFT)
    sure = np.clip(known / SURE_PALE, 0, 1)
    gain = cv2.resize(1 + (lift - 1) * sure, light.shape[1::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(light * channels(gain), dtype=np.float32)


def _white_on_back(whole: Light, pale: Mask, lit: Mask, burnt: Mask) -> float:
    """How light the best lit pale skin of the back is, linear; 0 where there is too little of it to tell."""
    back = _back(pale)
    if pale[back].sum() < LEAST_PALE * max(1, lit[back].sum()):
        return 0.0
    white = float(np.percentile(whole[back][pale[back]], 80))
    return max(white, UNKNOWN_WHITE) if burnt[back][pale[back]].mean() > MOSTLY_BURNT else white


def _has_white_flank(pale: Mask, lit: Mask, coloured: Mask) -> bool:
    """Does one flank lack colour and pattern all along, beside a back that has coloured lobes? Only white does that: on a grey animal the
    lobes are grey too, and pattern reaches down between them."""
    back = _back(pale)
    if coloured[back].sum() < LEAST_LOBES * max(1, lit[back].sum()):
        return False
    along = lit[back].any(axis=0).sum()
    flanks = (slice(0, back.start), slice(back.stop, None))
    return any(
        lit[flank].any(axis=0).sum() > LEAST_FLANK * along and pale[flank].sum() > UNBROKEN * lit[flank].sum()
        for flank in flanks
    )


def _back(pale: Mask) -> slice:
    """The rows between the flanks."""
    flank = len(pale) // 5
    return slice(flank, len(pale) - flank)
