"""Simulated photos: the skin on a tube along a curve, on paper with a grey card or in a cut egg.

Stand-ins for a camera, always marked as such. Pixels take the nearest station of the body's midline: v follows from the
sideways distance, v = asin(t)/π. Shaded in linear light.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.colour import channels, laid_over, linear, to_srgb
from eyot_core.drawing.laid_card import LaidCard, lay_card
from eyot_core.drawing.noise import Floats, noise_along, noise_on_grid, smoothstep
from eyot_core.drawing.palette import aged
from eyot_core.drawing.poses import STATIONS, Body, body_along, coiled_body, crossing_body, head_body, loose_body
from eyot_core.drawing.skin import skin_colours

Mask = NDArray[np.bool_]
Box = tuple[int, int, int, int]
SHOTS = ("loose", "coil", "crossing", "egg", "belly", "head")
WHITE_PAPER, BLUE_PAPER = (226, 227, 225), (150, 166, 186)
CARD = 0.18
HATCHLING_MM = 400.0
"""How long the animal is, beside a card of known size."""
CARD_FROM = (0.88, 0.84)
TEXTURE = (230, 1400)
CLICKS = 11
OPEN = 0.93
SUBSTRATE, SHELL, INSIDE = (146, 128, 104), (240, 234, 220), (58, 36, 28)


@dataclass(frozen=True)
class Lamp:
    """The light of a simulated photo and what the camera makes of it.

    ``toward``: where the lamp is (x right, y down, z up). A surface throws back ambient + direct·cos, less towards the
    body's edge by ``edge``; ``gloss``: (strength, exponent) of its highlights. ``cast``: gain of each channel;
    ``exposure`` in stops; ``noise``: standard deviation in linear light; ``blur`` in shares of the width.
    """

    toward: tuple[float, float, float] = (-0.45, -0.55, 0.7)
    ambient: float = 0.42
    direct: float = 0.72
    edge: float = 0.38
    gloss: tuple[tuple[float, float], ...] = ((0.12, 18.0), (0.25, 90.0))
    falloff: tuple[float, float] = (0.12, 0.1)
    cast: tuple[float, float, float] = (1.0, 1.0, 1.0)
    exposure: float = 0.0
    noise: float = 0.006
    blur: float = 0.0005

    def on_body(self, t: Floats, across: Floats) -> tuple[Floats, Floats]:
        """The light that a body throws back, (pixels,): as a share of its colour, and as neutral gloss on top of it.

        ``t``: sideways position, −1 to 1; ``across`` (pixels, 2): unit direction across the body.
        """
        toward = np.array(self.toward) / np.linalg.norm(self.toward)
        up = np.sqrt(np.clip(1 - t**2, 0, 1))
        facing = np.clip(t * (across @ toward[:2]) + up * toward[2], 0, 1)
        shade = (self.ambient + self.direct * facing) * (1 - self.edge + self.edge * np.sqrt(up))
        return shade, sum((strength * facing**power for strength, power in self.gloss), np.zeros_like(facing))


@dataclass(frozen=True)
class Taken:
    """A simulated photo and what is true of it: the shown midline (points, 2), its range of u, the body's outline.

    ``pixels``: sRGB (rows, columns, 3); ``body``: mask of the animal; ``card``: box inside the grey card, or None.
    """

    pixels: NDArray[np.uint8]
    line: Floats
    start: float
    end: float
    body: Mask
    card: Box | None


@dataclass(frozen=True)
class _Seen:
    """Where the body is seen: mask, and for its pixels u, sideways position t in −1 to 1, direction across."""

    inside: Mask
    u: Floats
    t: Floats
    across: Floats


def photographed(
    looks: Mapping[str, str],
    seed: int,
    shot: str,
    *,
    stage: str = "shed",
    lamp: Lamp | None = None,
    paper: tuple[int, int, int] = WHITE_PAPER,
    width: int = 1000,
    height: int = 750,
    beside: LaidCard | None = None,
) -> Taken:
    """One photo of an animal; ``looks``: a level of every trait; ``beside``: a card that is laid there in place of a plain grey one.
    ValueError if ``shot`` is none of ``SHOTS``."""
    if shot not in SHOTS:
        raise ValueError(f"shot must be one of {', '.join(SHOTS)}, got {shot!r}")
    random = np.random.default_rng([seed, 77 + SHOTS.index(shot)])
    lamp = lamp or Lamp()
    if stage == "blue":
        lamp = replace(lamp, gloss=tuple((0.25 * strength, power) for strength, power in lamp.gloss))
    scene = _Scene(looks, seed, stage, lamp, (height, width))
    return _in_egg(scene, random) if shot == "egg" else _on_paper(scene, shot, paper, random, beside)


@dataclass(frozen=True)
class _Scene:
    looks: Mapping[str, str]
    seed: int
    stage: str
    lamp: Lamp
    shape: tuple[int, int]

    @property
    def places(self) -> tuple[Floats, Floats]:
        """The row and the column of every pixel, (rows, 1) and (1, columns): single precision is enough for a picture of bytes."""
        height, width = self.shape
        return np.arange(height, dtype=np.float32)[:, None], np.arange(width, dtype=np.float32)[None]

    def grain(self, size: float, seed: int) -> Floats:
        """Noise over the picture, its grains so large in thousandths of the width; shape (rows, columns)."""
        height, width = self.shape
        across, down = (np.arange(many, dtype=np.float32) * np.float32(1000 / width / size) for many in (width, height))
        return noise_on_grid(across, down, seed)

    def shot_through(self, scene: Floats, random: np.random.Generator) -> NDArray[np.uint8]:
        """What the camera makes of linear light: cast, exposure, blur, noise."""
        lit = scene * np.array(self.lamp.cast, dtype=np.float32) * np.float32(2.0**self.lamp.exposure)
        sharp = self.lamp.blur * self.shape[1]
        lit = np.asarray(_blurred(lit, sharp), dtype=np.float32) if sharp > 0.2 else lit
        return to_srgb(lit + np.float32(self.lamp.noise) * random.standard_normal(lit.shape, dtype=np.float32))


def _on_paper(
    scene: _Scene, shot: str, paper: tuple[int, int, int], random: np.random.Generator, beside: LaidCard | None
) -> Taken:
    height, width = scene.shape
    posed = {"loose": loose_body, "belly": loose_body, "coil": coiled_body, "crossing": crossing_body}
    body = posed.get(shot, head_body)(width, height, random)
    yy, xx = scene.places
    ground = channels(1 + 0.012 * scene.grain(1000 / 330, scene.seed)) * linear(paper).astype(np.float32)
    parts = _parts(body)
    roll = 1.0 if shot == "belly" else random.uniform(-0.03, 0.03)
    mask = np.zeros(scene.shape, dtype=bool)
    for part in parts:
        seen = _seen(body, part, np.ones(scene.shape, dtype=bool))
        ground *= channels(1 - 0.42 * _shadow(seen.inside, scene.lamp, width))
        ground[seen.inside] = aged(_shaded(scene, seen, roll), scene.stage)
        mask |= seen.inside
    if beside:
        long = float(np.hypot(*np.diff(body.line, axis=0).T).sum())
        card = lay_card(ground, beside, HATCHLING_MM / long, mask)
    else:
        card = _lay_card(ground)
        mask &= (xx < CARD_FROM[0] * width) | (yy < CARD_FROM[1] * height)
    fall = 1 - scene.lamp.falloff[0] * (xx / width - 0.3) - scene.lamp.falloff[1] * (yy / height - 0.3)
    shown = np.linspace(0, 1, CLICKS) if shot != "head" else np.linspace(0, 0.115, CLICKS)
    return Taken(
        scene.shot_through(ground * channels(fall), random),
        body.line[np.round(shown * (STATIONS - 1)).astype(int)],
        0.0,
        float(shown[-1]),
        mask,
        card,
    )


def _parts(body: Body) -> list[slice]:
    """The pieces of a body, lowest first."""
    if body.lower_from is None:
        return [slice(0, STATIONS)]
    return [slice(body.lower_from - 1, STATIONS), slice(0, body.lower_from)]


def _lay_card(ground: Floats) -> Box:
    height, width = ground.shape[:2]
    left, top = int(CARD_FROM[0] * width), int(CARD_FROM[1] * height)
    ground[top:, left:] = CARD
    inset = max(1, width // 80)
    return (left + inset, top + inset, width - 1 - inset, height - 1 - inset)


def _seen(body: Body, part: slice, where: Mask) -> _Seen:
    line, reach = body.line[part], float(body.half_width.max()) * 1.05
    near = np.zeros(where.shape, dtype=np.uint8)
    cv2.polylines(near, [np.round(line).astype(np.int32)], isClosed=False, color=1, thickness=2 * round(reach) + 7)
    yy, xx = np.nonzero(where & near.astype(bool))
    points = np.stack([xx, yy], axis=1).astype(float)
    distance, nearest = scipy.spatial.cKDTree(line).query(points, distance_upper_bound=reach)
    hit = np.isfinite(distance)
    points, nearest, yy, xx = points[hit], nearest[hit] + (part.start or 0), yy[hit], xx[hit]
    offset, tangent = points - body.line[nearest], body.tangent[nearest]
    t = (tangent[:, 0] * offset[:, 1] - tangent[:, 1] * offset[:, 0]) / body.half_width[nearest]
    step = float(np.hypot(*np.diff(line, axis=0).T).max(initial=0.0))
    inside = (np.abs(t) < 1) & (np.abs((offset * tangent).sum(axis=1)) < max(4.0, 0.51 * step))
    mask = np.zeros(where.shape, dtype=bool)
    mask[yy[inside], xx[inside]] = True
    side = np.stack([-tangent[:, 1], tangent[:, 0]], axis=1)
    return _Seen(mask, (nearest / (STATIONS - 1))[inside], t[inside], side[inside])


def _shaded(scene: _Scene, seen: _Seen, roll: float) -> Floats:
    """Linear colours of the seen pixels, (pixels, 3); ``roll``: how far the animal is turned about its axis, in v."""
    rows, columns = TEXTURE
    first, last = float(seen.u.min()), float(seen.u.max())
    around = np.linspace(-0.54, 0.54, rows)
    texture = skin_colours(
        scene.looks, scene.seed, np.linspace(first, max(last, first + 1e-3), columns), (around + roll + 1) % 2 - 1
    )
    place = np.stack(
        [
            (np.arcsin(seen.t) / np.pi + 0.54) / 1.08 * (rows - 1),
            (seen.u - first) / max(last - first, 1e-3) * (columns - 1),
        ]
    )
    albedo = np.stack(
        [scipy.ndimage.map_coordinates(texture[..., channel], place, order=1, mode="nearest") for channel in range(3)],
        axis=1,
    )
    shade, glint = scene.lamp.on_body(seen.t, seen.across)
    return np.asarray(albedo * shade[:, None] + glint[:, None])


def _shadow(inside: Mask, lamp: Lamp, width: int) -> Floats:
    """How much of the light is taken from the ground beside the body, 0 to 1."""
    aside = [-round(lamp.toward[axis] * 0.016 * width) for axis in (1, 0)]
    moved = cv2.warpAffine(
        inside.astype(np.float32), np.array([[1.0, 0, aside[1]], [0, 1.0, aside[0]]]), inside.shape[::-1]
    )
    return _blurred(np.asarray(moved, dtype=np.float32), width * 0.007)


def _blurred(picture: NDArray[np.float32], sigma: float) -> Floats:
    """A picture blurred by so many pixels, to four of them away."""
    across = 2 * int(4 * sigma + 0.5) + 1
    return np.asarray(cv2.GaussianBlur(picture, (across, across), sigma, borderType=cv2.BORDER_REFLECT))


def _in_egg(scene: _Scene, random: np.random.Generator) -> Taken:
    """A cut egg in its substrate; a part of the coil shows through the window."""
    height, width = scene.shape
    yy, xx = scene.places
    grain = scene.grain(9, scene.seed) + 0.6 * scene.grain(3.5, scene.seed + 1)
    ground = channels(0.75 + 0.28 * grain) * linear(SUBSTRATE).astype(np.float32)
    angle = np.arctan2(yy - height / 2, xx - width / 2)
    shell = np.hypot((xx - width / 2) / (0.41 * width), (yy - height / 2) / (0.4 * height))
    shell += 0.012 * np.sin(3 * angle + scene.seed)
    dome = np.sqrt(np.clip(1 - shell**2, 0, 1))
    wall = channels(0.45 + 0.55 * dome + 0.03 * scene.grain(40, scene.seed)) * linear(SHELL).astype(np.float32)
    ground *= channels(1 - 0.5 * smoothstep(1.12, 0.98, shell))
    ground = laid_over(ground, wall, smoothstep(-0.006, 0.006, 1 - shell))
    hole = _window(scene, random)
    body = _before_window(coiled_body(width, height, random, 1.2), hole, scene.seed)
    seen = _seen(body, slice(0, STATIONS), hole < 1.1)
    opened = _through(scene, ground, hole, seen)
    card = _lay_card(opened)
    shown = _longest_run(_at(hole, body.line) < OPEN)
    clicks = np.round(np.linspace(shown[0], shown[1], CLICKS)).astype(int)
    return Taken(
        scene.shot_through(opened, random),
        body.line[clicks],
        float(shown[0] / (STATIONS - 1)),
        float(shown[1] / (STATIONS - 1)),
        seen.inside & (hole < 1),
        card,
    )


def _before_window(coil: Body, hole: Floats, seed: int) -> Body:
    """The coil laid so that much of it shows in the window: the best of a few turns about the egg."""
    height, width = hole.shape
    middle = coil.line - coil.line.mean(axis=0) + np.array([width, height]) / 2
    laid = [
        body_along(middle + 0.235 * width * np.array([np.cos(angle), np.sin(angle)]))
        for angle in seed + np.linspace(0, 2 * np.pi, 8, endpoint=False)
    ]
    return max(laid, key=lambda body: float(body.half_width[_at(hole, body.line) < OPEN].sum()))


def _at(values: Floats, places: Floats) -> Floats:
    """Values (rows, columns) at places (n, 2); those outside count as at the edge."""
    column, row = np.clip(np.round(places).astype(int), 0, np.array(values.shape[::-1]) - 1).T
    return np.asarray(values[row, column])


def _window(scene: _Scene, random: np.random.Generator) -> Floats:
    """How far out of the cut window each pixel lies: below 1 inside."""
    height, width = scene.shape
    yy, xx = scene.places
    cx, cy = width * random.uniform(0.46, 0.54), height * random.uniform(0.46, 0.53)
    angle = np.arctan2(yy - cy, xx - cx)
    ragged = 0.05 * noise_along(angle * 1.6 + 20, 0.0, scene.seed + 3)
    ragged += 0.015 * noise_along(angle * 9 + 20, 0.0, scene.seed + 4)
    return np.asarray(np.hypot((xx - cx) / (0.25 * width), (yy - cy) / (0.255 * height)) + ragged)


def _through(scene: _Scene, ground: Floats, hole: Floats, seen: _Seen) -> Floats:
    inner = np.broadcast_to(linear(INSIDE).astype(ground.dtype), ground.shape).copy()
    inner[seen.inside] = aged(_shaded(scene, seen, 0.05), "egg")
    wet = scene.grain(130, scene.seed + 6)
    inner = laid_over(inner, linear((206, 176, 128)), 0.1 * smoothstep(0.5, 0.95, 0.5 + 0.5 * wet))
    inner *= channels(0.7 + 0.3 * smoothstep(1.0, 0.72, hole))
    lip = smoothstep(1.05, 1.0, hole) * smoothstep(0.95, 0.99, hole)
    mixed = laid_over(ground, inner, smoothstep(1.0, 0.985, hole))
    return laid_over(mixed, linear((250, 246, 236)), 0.8 * lip)


def _longest_run(shown: Mask) -> tuple[int, int]:
    """First and last index of the longest run of True."""
    edges = np.diff(np.concatenate([[0], shown.astype(int), [0]]))
    starts, ends = np.nonzero(edges == 1)[0], np.nonzero(edges == -1)[0]
    longest = int(np.argmax(ends - starts))
    return int(starts[longest]), int(ends[longest] - 1)
