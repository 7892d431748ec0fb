"""How a body lies before the camera: its midline, its half-widths and which part lies on top."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eyot_core.body import half_widths
from eyot_core.drawing.noise import Floats

STATIONS = 1500
TRIES = 200
HEAD_STRAIGHT = 0.08
APART = 90


@dataclass(frozen=True)
class Body:
    """A body on the table: midline (stations, 2) in pixels, unit tangents, half-widths in pixels.

    ``lower_from``: the station from which on the body lies below its own front part; none: it does not cross itself.
    """

    line: Floats
    tangent: Floats
    half_width: Floats
    lower_from: int | None = None


def loose_body(width: int, height: int, random: np.random.Generator) -> Body:
    """An animal lying in loose bends that do not touch."""
    for _ in range(TRIES):
        s = np.linspace(0, 1, STATIONS)
        bends, swing = random.uniform(0.95, 1.4), random.uniform(1.1, 1.9)
        envelope = np.clip((s - HEAD_STRAIGHT) / 0.12, 0, 1)
        heading = swing * envelope * np.sin(2 * np.pi * bends * (s - HEAD_STRAIGHT) + random.uniform(0, 0.9))
        line = _walked(heading + 0.25 * np.sin(4 * np.pi * s + random.uniform(0, 6)) * envelope)
        body = _fitted(_turned(line, random.uniform(0, 2 * np.pi)), width, height, random)
        if not _touches_itself(body):
            return body
    raise RuntimeError("no pose found that does not touch itself")


def crossing_body(width: int, height: int, random: np.random.Generator) -> Body:
    """An animal whose hind part passes below its front part once."""
    s = np.linspace(0, 1, STATIONS)
    turn = random.choice((-1, 1)) * (2 * np.pi * random.uniform(0.78, 0.9))
    heading = turn * np.clip((s - 0.2) / 0.58, 0, 1) + 0.3 * np.sin(3 * np.pi * s + random.uniform(0, 6))
    line = _turned(_walked(heading), random.uniform(0, 2 * np.pi))
    body = _fitted(line, width, height, random)
    return Body(body.line, body.tangent, body.half_width, lower_from=int(0.55 * STATIONS))


def coiled_body(width: int, height: int, random: np.random.Generator, share: float = 0.62) -> Body:
    """An animal coiled up, head in the middle; ``share``: of the picture's height that the coil takes."""
    pitch, inner = 2.12 / (13 * np.pi), 0.058
    outer = np.sqrt(inner**2 + pitch / np.pi)
    radius = np.sqrt(np.linspace(inner**2, outer**2, STATIONS))
    angle = 2 * np.pi * radius / pitch + random.uniform(0, 6)
    wobble = 1 + 0.018 * np.sin(2 * angle + random.uniform(0, 6))
    line = np.stack([radius * wobble * np.cos(angle), 0.93 * radius * wobble * np.sin(angle)], axis=1)
    if random.random() < 0.5:
        line[:, 0] *= -1
    scale = share * height / (2 * outer)
    middle = np.array([width * random.uniform(0.42, 0.5), height * random.uniform(0.45, 0.52)])
    return body_along(line * scale + middle)


def head_body(width: int, height: int, random: np.random.Generator) -> Body:
    """The front of the body, straight and large, snout to the left."""
    length = width * 7.5
    x = width * 0.08 + np.linspace(0, length, STATIONS)
    sway = 0.02 * height * np.sin(np.linspace(0, 40, STATIONS) + random.uniform(0, 6))
    return body_along(np.stack([x, height * random.uniform(0.42, 0.5) + sway], axis=1))


def body_along(line: Floats) -> Body:
    """The body whose midline is this one, even steps apart; its girth follows from its length."""
    steps = np.hypot(*np.diff(line, axis=0).T)
    along = np.concatenate([[0], np.cumsum(steps)])
    even = np.linspace(0, along[-1], STATIONS)
    line = np.stack([np.interp(even, along, line[:, axis]) for axis in (0, 1)], axis=1)
    tangent = np.gradient(line, axis=0)
    tangent /= np.hypot(*tangent.T)[:, None]
    return Body(line, tangent, half_widths(np.linspace(0, 1, STATIONS), float(along[-1])))


def _walked(heading: Floats) -> Floats:
    return np.cumsum(np.stack([np.cos(heading), np.sin(heading)], axis=1), axis=0) / STATIONS


def _turned(line: Floats, angle: float) -> Floats:
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return np.asarray(line @ turn.T)


def _fitted(line: Floats, width: int, height: int, random: np.random.Generator) -> Body:
    """As large as the frame's upper left, away from the card, lets it be."""
    low, high = line.min(axis=0), line.max(axis=0)
    scale = min(width * 0.78 / (high[0] - low[0]), height * 0.74 / (high[1] - low[1]), width * 1.35)
    size = (high - low) * scale
    free = np.array([width * 0.9, height * 0.86]) - size
    corner = np.array([width, height]) * 0.05 + free * random.uniform(0.1, 0.5, 2)
    return body_along((line - low) * scale + corner)


def _touches_itself(body: Body) -> bool:
    thin = slice(None, None, 6)
    line, half = body.line[thin], body.half_width[thin]
    pairs = scipy.spatial.cKDTree(line).query_pairs(2.6 * float(half.max()), output_type="ndarray")
    far = np.abs(pairs[:, 0] - pairs[:, 1]) * 6 > APART * 2
    gap = np.hypot(*(line[pairs[:, 0]] - line[pairs[:, 1]]).T) - half[pairs[:, 0]] - half[pairs[:, 1]]
    return bool((gap[far] < 0.25 * half.max()).any())
