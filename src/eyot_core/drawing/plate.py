"""Plates and strips of an animal as SVG, from its looks, a seed and a stage. Drawings, never photographs.

A strip is the flank in one piece, nose left, spine above. A plate shows the head twice, the flank in two pieces, the back
from above, the belly and the tail from below, all of one animal.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.drawing.heads import head_from_above, head_from_the_side, neck_marks
from eyot_core.drawing.noise import Floats
from eyot_core.drawing.pattern import LENGTH
from eyot_core.drawing.pieces import INK, NECK, Animal, Fields, Frame, Looks, piece
from eyot_core.drawing.svg import element, words
from eyot_core.drawing.trace import Place

STRIP_WIDTH, STRIP_HEIGHT = 1200, 92
PLATE_WIDTH, PLATE_HEIGHT = 1200, 842


ABOVE_AT, ABOVE_SCALE = (10, 30), 1.8
SIDE_AT, SIDE_SCALE = (650, 52), 2.1
"""Where the heads stand on a plate, and how large."""
ABOVE_NECK = ((204, 37, 93), (238, 40, 90), (270, 39, 91), (304, 36, 94), (338, 32, 98))
SIDE_NECK = ((150, 14, 87), (176, 22, 84), (200, 27, 83), (226, 27, 85), (256, 24, 89))
"""The necks behind them, in the heads' units: along, upper edge, lower edge."""
AT = {
    "crown": (10, 30, 610, 254),
    "eye": (650, 52, 540, 220),
    "neck": (10, 320, 333, 128),
    "flank_quarter": (371, 320, 361, 128),
    "flank_middle": (829, 320, 361, 128),
    "belly_edge": (600, 388, 250, 60),
    "belly": (10, 752, 328, 80),
    "vent": (740, 752, 225, 80),
    "tail": (740, 752, 450, 80),
}
"""Where each place on the body lies on a plate: left, top, width, height."""


@cache
def _profile() -> Callable[[NDArray[np.float64]], NDArray[np.float64]]:
    at = [0, 0.012, 0.04, 0.085, 0.13, 0.28, 0.55, 0.78, 0.905, 1]
    return scipy.interpolate.PchipInterpolator(at, [0.2, 0.43, 0.6, 0.4, 0.5, 0.84, 1, 0.8, 0.42, 0.03])  # type: ignore[no-any-return]


def strip(looks: Looks, seed: int, stage: str = "shed", prefix: str = "s") -> str:
    """A flank strip as one SVG text of at most 14 kB; ``prefix`` keeps ids apart where several stand on a page."""
    animal = Animal(looks, seed, stage)
    frame = strip_frame()
    inside = piece(animal, Fields.of(animal, 300, 0, 26), frame, prefix) + element(
        "g",
        head_from_the_side(looks, animal.palette, animal.clouded, fine=False),
        id=f"{prefix}-head",
        transform="translate(2 16.5) scale(.64)",
    )
    return _svg(inside, STRIP_WIDTH, STRIP_HEIGHT, "drawn strip")


def strip_frame() -> Frame:
    """Where on a strip each place of the skin lies."""
    return Frame("flank", (0.08, 1.0), (0.0, 1.0), _tapered(0, 0, STRIP_WIDTH, STRIP_HEIGHT), 16.0, STRIP_HEIGHT)


def plate(looks: Looks, seed: int, stage: str = "shed", prefix: str = "p") -> str:
    """A plate as one SVG text of at most 60 kB."""
    animal = Animal(looks, seed, stage)
    palette = animal.palette
    above = element(
        "g",
        head_from_above(looks, palette, animal.clouded),
        id=f"{prefix}-head-above",
        transform=f"translate({ABOVE_AT[0]} {ABOVE_AT[1]}) scale({ABOVE_SCALE})",
    )
    side = element(
        "g",
        head_from_the_side(looks, palette, animal.clouded),
        id=f"{prefix}-head-side",
        transform=f"translate({SIDE_AT[0]} {SIDE_AT[1]}) scale({SIDE_SCALE})",
    )
    fields = Fields.of(animal, 460, 12, 30)
    necks = "".join(piece(animal, fields, frame, prefix) for frame in _necks())
    marks = element(
        "g",
        neck_marks(looks, palette),
        transform=f"translate({ABOVE_AT[0]} {ABOVE_AT[1]}) scale({ABOVE_SCALE})",
    )
    pieces = "".join(piece(animal, fields, frame, prefix) for frame in _frames())
    return _svg(necks + marks + above + side + pieces + _captions(), PLATE_WIDTH, PLATE_HEIGHT, "drawn plate")


def at_place(plate_svg: str, place: str) -> str:
    """The part of a plate that shows a place on the body, as an SVG of its own. KeyError for a place that no plate has."""
    left, top, width, height = AT[place]
    whole = f'viewBox="0 0 {PLATE_WIDTH} {PLATE_HEIGHT}"'
    return plate_svg.replace(whole, f'viewBox="{left} {top} {width} {height}"', 1)


def _necks() -> list[Frame]:
    """The necks behind both heads."""
    return [
        Frame("neck-above", (NECK, 0.125), (-0.4, 0.4), _necked(ABOVE_AT, ABOVE_SCALE, ABOVE_NECK), 12.0, 70),
        Frame("neck-side", (NECK, 0.125), (0.0, 1.0), _necked(SIDE_AT, SIDE_SCALE, SIDE_NECK), 12.0, 110),
    ]


def _necked(at: tuple[float, float], scale: float, shape: tuple[tuple[float, float, float], ...]) -> Place:
    """Behind a head that is drawn in its own units. ``shape``: at how far from the snout the neck's upper and lower edge lie where."""
    along, upper, lower = np.array(shape).T
    u = np.linspace(NECK, 0.125, len(shape)) * LENGTH

    def place(points: Floats) -> Floats:
        share = (points[:, 1] - (-0.4 if shape is ABOVE_NECK else 0.0)) / (0.8 if shape is ABOVE_NECK else 1.0)
        x, top, bottom = (np.interp(points[:, 0], u, edge) for edge in (along, upper, lower))
        return np.stack([at[0] + scale * x, at[1] + scale * (top + share * (bottom - top))], axis=1)

    return place


def _frames() -> list[Frame]:
    wide = PLATE_WIDTH - 20
    return [
        Frame("front", (NECK, 0.5), (0.0, 1.0), _flat(10, 320, wide, 128, (NECK, 0.5), (0.0, 1.0)), 11.0, 128),
        Frame("rear", (0.5, 1.0), (0.0, 1.0), _tail_end(10, 480, wide, 128), 11.0, 128),
        Frame("back", (NECK, 0.62), (-0.4, 0.4), _flat(10, 640, wide, 80, (NECK, 0.62), (-0.4, 0.4)), 12.0, 105),
        Frame(
            "belly",
            (0.3, 0.62),
            (22 / 30, 38 / 30),
            _flat(10, 752, 700, 80, (0.3, 0.62), (22 / 30, 38 / 30)),
            11.0,
            158,
        ),
        Frame("tail", (0.86, 1.0), (0.7, 1.3), _tail_below(740, 752, 450, 80), 10.0, 140),
    ]


def _captions() -> str:
    labels = (
        ("Head from above", 10, 18), ("Head from the side", 650, 18), ("Flank, neck to mid-body", 10, 314),
        ("Flank, mid-body to tail", 10, 472), ("Back, from above", 10, 632), ("Belly", 10, 744),
        ("Vent and tail, from below", 740, 744), ("Drawing", 1100, 18),
    )  # fmt: skip
    texts = "".join(words(text, x, y) for text, x, y in labels)
    return element("g", texts, class_="captions", font_family="sans-serif", font_size=21, fill=INK)


def _svg(inside: str, width: int, height: int, kind: str) -> str:
    box = f"0 0 {width} {height}"
    return element("svg", inside, xmlns="http://www.w3.org/2000/svg", viewBox=box, class_=kind, aria_hidden="true")


def _flat(
    left: float, top: float, width: float, height: float, u: tuple[float, float], v: tuple[float, float]
) -> Place:
    low, high = np.array([u[0] * LENGTH, v[0]]), np.array([u[1] * LENGTH, v[1]])

    def place(points: Floats) -> Floats:
        return np.asarray(np.array([left, top]) + (points - low) / (high - low) * np.array([width, height]))

    return place


def _tapered(left: float, top: float, width: float, height: float) -> Place:
    def place(points: Floats) -> Floats:
        u = points[:, 0] / LENGTH
        y = top + height * (0.5 + _profile()(np.clip(u, 0, 1)) * (points[:, 1] - 0.5))
        return np.stack([left + width * u, y], axis=1)

    return place


def _tail_end(left: float, top: float, width: float, height: float) -> Place:
    """The rear half, as thick as it is."""

    def place(points: Floats) -> Floats:
        u = points[:, 0] / LENGTH
        y = top + height * (0.5 + _profile()(np.clip(u, 0, 1)) * (points[:, 1] - 0.5))
        return np.stack([left + width * (u - 0.5) / 0.5, y], axis=1)

    return place


def _tail_below(left: float, top: float, width: float, height: float) -> Place:
    """Vent and tail from below: the belly midline in the middle."""

    def place(points: Floats) -> Floats:
        u = points[:, 0] / LENGTH
        thick = _profile()(np.clip(u, 0, 1)) / _profile()(np.array(0.86))
        y = top + height * (0.5 + thick * (points[:, 1] - 1.0) / 0.6)
        return np.stack([left + width * (u - 0.86) / 0.14, y], axis=1)

    return place
