"""Simulated photos: the skin on a tube along a curve, or a coil in an egg. Stand-ins for a camera, always marked as such.

Poses do not cross themselves. Pixels take the nearest station of the body's midline: v follows from the sideways
distance, v = asin(t)/π. Shaded in linear light.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter, map_coordinates
from scipy.spatial import cKDTree

from eyot_core.colour import linear, to_srgb
from eyot_core.drawing.noise import Floats, smooth_noise, smoothstep
from eyot_core.drawing.palette import aged
from eyot_core.drawing.skin import skin_colours

PROFILE = PchipInterpolator(
    [0, 0.012, 0.04, 0.085, 0.28, 0.55, 0.78, 0.905, 1], [0.2, 0.43, 0.66, 0.465, 0.86, 1, 0.8, 0.42, 0.03]
)
STATIONS = 1500
TEXTURE = (192, 1400)
PAPER = (206, 208, 206)
CARD = 0.18
ROLL = 0.13


@dataclass(frozen=True)
class Body:
    """A body on the table: midline (stations, 2) in pixels, unit tangents, half-widths in pixels."""

    line: Floats
    tangent: Floats
    half_width: Floats


def loose_body(width: int, height: int, random: np.random.Generator) -> Body:
    """An animal lying in loose bends."""
    t = np.linspace(0, 1, STATIONS)
    bends = random.uniform(1.15, 1.45)
    phase = random.uniform(0, 2 * np.pi) if random.random() < 0.5 else 0.4
    x = width * (0.1 + 0.8 * t + 0.02 * np.sin(9 * t))
    y = height * (0.5 + 0.3 * np.sin(2 * np.pi * bends * t + phase) * (0.65 + 0.35 * np.sin(np.pi * t)))
    return _body(np.stack([x, y], axis=1), 0.043 * width)


def coiled_body(width: int, height: int, random: np.random.Generator, thick: float = 0.05, turns: float = 2.4) -> Body:
    """An animal coiled up tightly, head in the middle."""
    t = np.linspace(0, 1, STATIONS)
    pitch = 1.75 * thick * width
    turned = turns * np.sqrt(0.06 + 0.94 * t)
    angle = 2 * np.pi * turned + random.uniform(0, 6)
    radius = pitch * (turned - 0.2)
    wobble = 1 + 0.02 * np.sin(3 * angle + random.uniform(0, 6))
    line = np.stack(
        [width / 2 + radius * wobble * np.cos(angle), height / 2 + 0.88 * radius * wobble * np.sin(angle)], axis=1
    )
    return _body(line, thick * width)


def _body(line: Floats, widest: float) -> Body:
    steps = np.hypot(*np.gradient(line, axis=0).T)
    along = np.concatenate([[0], np.cumsum((steps[1:] + steps[:-1]) / 2)])
    even = np.linspace(0, along[-1], STATIONS)
    line = np.stack([np.interp(even, along, line[:, axis]) for axis in (0, 1)], axis=1)
    tangent = np.gradient(line, axis=0)
    tangent /= np.hypot(*tangent.T)[:, None]
    return Body(line, tangent, widest * PROFILE(np.linspace(0, 1, STATIONS)))


@dataclass(frozen=True)
class _Seen:
    """Where the body is seen: mask, and for its pixels u, sideways position t in −1 to 1."""

    inside: np.typing.NDArray[np.bool_]
    u: Floats
    t: Floats
    normal: Floats


def _seen(body: Body, where: np.typing.NDArray[np.bool_]) -> _Seen:
    yy, xx = np.nonzero(where)
    points = np.stack([xx, yy], axis=1).astype(float)
    distance, nearest = cKDTree(body.line).query(
        points, distance_upper_bound=float(body.half_width.max()) * 1.02, workers=-1
    )
    found = np.isfinite(distance)
    index = np.where(found, nearest, 0)
    offset = points - body.line[index]
    across = body.tangent[index, 0] * offset[:, 1] - body.tangent[index, 1] * offset[:, 0]
    ahead = (offset * body.tangent[index]).sum(axis=1)
    t = across / body.half_width[index]
    inside = found & (np.abs(t) < 1) & (np.abs(ahead) < 4)
    side = np.stack([-body.tangent[index, 1], body.tangent[index, 0]], axis=1)
    mask = np.zeros(where.shape, dtype=bool)
    mask[yy[inside], xx[inside]] = True
    return _Seen(mask, (index / (STATIONS - 1))[inside], t[inside], side[inside])


def _shaded(looks: Mapping[str, str], seed: int, seen: _Seen, gloss: float) -> Floats:
    rows, columns = TEXTURE
    texture = skin_colours(looks, seed, np.linspace(0, 1, columns), np.linspace(-0.7, 0.7, rows))
    v = np.clip(np.arcsin(seen.t) / np.pi + ROLL, -0.7, 0.7)
    place = np.stack([(v + 0.7) / 1.4 * (rows - 1), seen.u * (columns - 1)])
    albedo = np.stack(
        [map_coordinates(texture[..., channel], place, order=1, mode="nearest") for channel in range(3)], axis=1
    )
    nz = np.sqrt(np.clip(1 - seen.t**2, 0, 1))
    light = np.array([-0.45, -0.55, 0.7])
    facing = seen.t * (seen.normal @ light[:2]) + nz * light[2]
    shade = (0.42 + 0.72 * np.clip(facing, 0, 1)) * (0.62 + 0.38 * np.sqrt(nz))
    glint = gloss * (0.12 * np.clip(facing, 0, 1) ** 18 + 0.25 * np.clip(facing, 0, 1) ** 90)
    return np.asarray(albedo * shade[:, None] + glint[:, None])


def table_photo(
    looks: Mapping[str, str], seed: int, stage: str, width: int = 1000, height: int = 750
) -> np.typing.NDArray[np.uint8]:
    """The animal from above on paper with a grey card, sRGB, shape (height, width, 3)."""
    random = np.random.default_rng([seed, 77])
    body = coiled_body(width, height, random, 0.05) if stage in ("wet", "blue") else loose_body(width, height, random)
    seen = _seen(body, np.ones((height, width), dtype=bool))
    yy, xx = np.mgrid[0:height, 0:width]
    scene = np.ones((height, width, 1)) * linear(PAPER)
    scene *= (1 - 0.12 * (xx / width - 0.3) - 0.1 * (yy / height - 0.3) + 0.012 * smooth_noise(xx / 3, yy / 3, seed))[
        ..., None
    ]
    shadow = _shadow(seen.inside, width)
    scene *= (1 - 0.42 * shadow)[..., None]
    card = (xx > 0.87 * width) & (yy > 0.83 * height)
    scene[card] = CARD
    scene[seen.inside] = aged(_shaded(looks, seed, seen, 1.0 if stage != "blue" else 0.3), stage)
    return to_srgb(scene + random.normal(0, 0.006, scene.shape))


def _shadow(inside: np.typing.NDArray[np.bool_], width: int) -> Floats:
    moved = np.roll(inside.astype(float), (int(width * 0.008), int(width * 0.008)), axis=(0, 1))
    return np.asarray(gaussian_filter(moved, width * 0.007))


def egg_photo(looks: Mapping[str, str], seed: int, width: int = 1000, height: int = 750) -> np.typing.NDArray[np.uint8]:
    """A cut egg in its substrate; a part of the coil shows through the window. sRGB, shape (height, width, 3)."""
    random = np.random.default_rng([seed, 78])
    yy, xx = np.mgrid[0:height, 0:width]
    grain = smooth_noise(xx / 9, yy / 9, seed) + 0.6 * smooth_noise(xx / 3.5, yy / 3.5, seed + 1)
    scene = linear((146, 128, 104)) * (0.75 + 0.28 * grain)[..., None]
    cx, cy = width * 0.5, height * 0.5
    angle = np.arctan2(yy - cy, xx - cx)
    shell = np.hypot((xx - cx) / (0.41 * width), (yy - cy) / (0.4 * height)) + 0.012 * np.sin(3 * angle + seed)
    dome = np.sqrt(np.clip(1 - shell**2, 0, 1))
    egg = smoothstep(-0.006, 0.006, 1 - shell)[..., None]
    wall = linear((240, 234, 220)) * (0.45 + 0.55 * dome + 0.03 * smooth_noise(xx / 40, yy / 40, seed + 2))[..., None]
    scene *= (1 - 0.5 * smoothstep(1.12, 0.98, shell))[..., None]
    scene = scene + (wall - scene) * egg
    return to_srgb(_through_window(scene, looks, seed, random))


def _through_window(scene: Floats, looks: Mapping[str, str], seed: int, random: np.random.Generator) -> Floats:
    height, width = scene.shape[:2]
    yy, xx = np.mgrid[0:height, 0:width]
    cx, cy = width * random.uniform(0.46, 0.54), height * random.uniform(0.46, 0.53)
    angle = np.arctan2(yy - cy, xx - cx)
    ragged = 0.05 * smooth_noise(angle * 1.6 + 20, angle * 0, seed + 3) + 0.015 * smooth_noise(
        angle * 9 + 20, angle * 0, seed + 4
    )
    hole = np.hypot((xx - cx) / (0.25 * width), (yy - cy) / (0.255 * height)) + ragged
    coil = coiled_body(width, height, random, 0.082, 3.0)
    aside = 0.16 * width * np.array([np.cos(seed), np.sin(seed)])
    seen = _seen(Body(coil.line + aside, coil.tangent, coil.half_width), hole < 1.1)
    inner = np.ones_like(scene) * linear((58, 36, 28))
    inner[seen.inside] = aged(_shaded(looks, seed, seen, 2.2), "egg")
    film = smoothstep(0.5, 0.95, 0.5 + 0.5 * smooth_noise(xx / 130, yy / 130, seed + 6))[..., None]
    inner = inner + (linear((206, 176, 128)) - inner) * (0.16 * film)
    inner *= (0.55 + 0.45 * smoothstep(1.0, 0.72, hole))[..., None]
    lip = smoothstep(1.05, 1.0, hole)[..., None] * smoothstep(0.95, 0.99, hole)[..., None]
    opened = smoothstep(1.0, 0.985, hole)[..., None]
    mixed = scene + (inner - scene) * opened
    return np.asarray(mixed + (linear((250, 246, 236)) - mixed) * 0.8 * lip)
