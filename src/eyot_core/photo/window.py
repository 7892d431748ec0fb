"""The way back from the body into a photo: a window of the photo's own pixels at a place on the body, head to the left.

A window stands square to the body at its place and holds as much of the body's length as the place asks for, with as much again
around it to be moved into; so windows of animals of every size, at any distance, are at one scale.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from eyot_core.body_places import WHOLE, BodyPlace
from eyot_core.colour import linear, to_srgb
from eyot_core.photo.frame import is_framed
from eyot_core.photo.light import Light, Pixels
from eyot_core.photo.spine import BadLine, Floats, line_from, spine_of

AROUND = 2.0
"""How much wider a picture is than its window."""
ASPECT = 0.75
LEAST, MOST = 480, 1440
"""Width of a picture in pixels."""
GREY = (198, 198, 198)
ON_BODY = {"head": (0.0, 0.085), "vent": (0.835, 0.925), "tail": (0.88, 1.0), "belly": (0.085, 0.88)}
"""Where on the body the two marks of a framed photo lie."""
OUTSIDE = 0.02


@dataclass(frozen=True)
class Window:
    """A place in a photo: its middle (x, y) and the unit vector towards the tail (x, y), in pixels of the upright original; ``length``: of
    the whole body, in the same pixels."""

    middle: Floats
    along: Floats
    length: float


def shows(line: Mapping[str, Any], kind: str, place: BodyPlace) -> bool:
    """Does a photo with a line show a place, as far as its line reaches?"""
    points = line.get("points", [])
    if place.id == WHOLE or len(points) < 2:
        return False
    reaches = ON_BODY[kind] if is_framed(kind, len(points)) else (line.get("from", 0.0), line.get("to", 1.0))
    return bool(reaches[0] - OUTSIDE <= place.u <= reaches[1] + OUTSIDE)


def window_at(line: Mapping[str, Any], kind: str, size: tuple[int, int], place: BodyPlace) -> Window | None:
    """Where a place lies in a photo. ``line``: as a photo keeps it, with ``points``, ``from`` and ``to``; ``size``: width and height of the
    photo. None where the photo has no line, or shows another part of the body."""
    if not shows(line, kind, place):
        return None
    points = np.asarray(line["points"], dtype=np.float64).reshape(-1, 2)
    if is_framed(kind, len(points)):
        return _between(points[0], points[-1], ON_BODY[kind], place)
    drawn = line_from(points, size[0], size[1], line.get("from", 0.0), line.get("to", 1.0))
    if isinstance(drawn, BadLine):
        return None
    spine = spine_of(drawn)
    station = int(np.abs(spine.u - place.u).argmin())
    reach = max(1, round(len(spine.u) * place.span / 4 / (drawn.end - drawn.start)))
    ahead, behind = max(0, station - reach), min(len(spine.u) - 1, station + reach)
    chord = spine.places[behind] - spine.places[ahead]
    length = float(np.hypot(*chord))
    along = chord / length if length > 1 else spine.tangents[station]
    return Window(spine.places[station], np.asarray(along), spine.length)


def _between(first: Floats, last: Floats, on_body: tuple[float, float], place: BodyPlace) -> Window | None:
    start, end = on_body
    distance = float(np.hypot(*(last - first)))
    if distance < 1:
        return None
    share = (place.u - start) / (end - start)
    return Window(first + share * (last - first), (last - first) / distance, distance / (end - start))


def window_picture(photo: Pixels, window: Window, place: BodyPlace, light: Light | None = None) -> Pixels:
    """The picture of a window, sRGB (rows, columns, 3), in its light where one is known: the photo's own pixels, turned. What lies outside
    the photo is grey; a picture is never larger than its pixels, but for ``LEAST``."""
    across = window.length * place.span * AROUND
    width = int(np.clip(round(across), LEAST, MOST))
    height = round(width * ASPECT)
    scale = width / across
    photo, middle = _near(photo, window.middle, across)
    if scale < 1:
        size = (max(1, round(photo.shape[1] * scale)), max(1, round(photo.shape[0] * scale)))
        factors = np.array(size) / np.array(photo.shape[1::-1])
        photo = np.asarray(cv2.resize(photo, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
        middle, scale = (middle + 0.5) * factors - 0.5, 1.0
    along = window.along * scale
    turn = np.array([[along[0], along[1]], [-along[1], along[0]]])
    shift = np.array([width / 2, height / 2]) - turn @ middle
    turned = cv2.warpAffine(
        photo, np.column_stack([turn, shift]), (width, height), flags=cv2.INTER_CUBIC, borderValue=GREY
    )
    pixels = np.asarray(turned, dtype=np.uint8)
    return to_srgb(light.on(linear(pixels).astype(np.float32))) if light else pixels


def _near(photo: Pixels, middle: Floats, across: float) -> tuple[Pixels, Floats]:
    """The part of a photo that a window can show, and where its middle lies in it."""
    reach = across * (1 + ASPECT) / 2 + 2
    low = np.clip(np.floor(middle - reach), 0, None).astype(int)
    high = np.ceil(middle + reach).astype(int) + 1
    part = photo[low[1] : max(low[1] + 1, high[1]), low[0] : max(low[0] + 1, high[0])]
    return part, middle - low
