"""One piece of an animal's skin as SVG: ground, blush, pale marks, lines, belly, specks, white, scales and shading.

A piece is a part of the animal's fields in a frame, which says where on the page its points come to lie.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from eyot_core.drawing.belly import BELLY_FROM, MARKED, belly_edge, belly_marks, flames
from eyot_core.drawing.noise import Floats
from eyot_core.drawing.palette import Palette, palette_for, tone_of_back
from eyot_core.drawing.pattern import LENGTH, Pattern, fill_of, lines_of, pattern_of, specks_of, white_field
from eyot_core.drawing.svg import element, hexed, mixed, path
from eyot_core.drawing.trace import Place, curve, dots, polyline, region

Looks = Mapping[str, str]
NECK = 0.075
INK = "#1e221f"
SHADE = (
    '<linearGradient id="{id}" x1="0" y1="0" x2="0" y2="1"><stop stop-color="#000" stop-opacity=".2"/>'
    '<stop offset=".2" stop-color="#fff" stop-opacity=".1"/><stop offset=".6" stop-opacity="0"/>'
    '<stop offset="1" stop-opacity=".3"/></linearGradient>'
)
SCALES = (
    '<pattern id="{id}" width="{w}" height="{h}" patternUnits="userSpaceOnUse"><path d="M0 {m}L{n} 0L{w} {m}L{n} {h}z"'
    ' fill="none" stroke="#000" stroke-opacity=".13" stroke-width=".7"/></pattern>'
)


@dataclass(frozen=True)
class Animal:
    """One animal to be drawn: its looks, the seed of its marks, its stage and the colours that follow."""

    looks: Looks
    seed: int
    stage: str

    @cached_property
    def palette(self) -> Palette:
        """The colours of this stage."""
        return palette_for(self.looks, self.stage)

    @property
    def clouded(self) -> bool:
        """Are its eyes milky before a shed?"""
        return self.stage == "blue"


@dataclass(frozen=True)
class Fields:
    """The pattern of one animal on one grid, of which every piece of skin shows a part.

    ``x`` (columns,), ``v`` (rows,) ascending up to the belly midline; ``white``: (rows, columns).
    """

    x: Floats
    v: Floats
    pattern: Pattern
    white: Floats

    @staticmethod
    def of(animal: Animal, columns: int, above: int, below: int) -> Fields:
        """A grid from the neck to the tail tip; rows 1/``below`` half-girths apart, ``above`` of them past the spine."""
        x = np.linspace(NECK, 1.0, columns) * LENGTH
        v = np.arange(-above, below + 1) / below
        pattern = pattern_of(animal.looks, animal.seed, x, v)
        return Fields(x, v, pattern, white_field(animal.looks, animal.seed, x, v))

    def within(self, u: tuple[float, float], v: tuple[float, float]) -> Fields:
        """The part from u to u and v to v, and one column more on each side; past the belly midline it is mirrored."""
        first, last = np.searchsorted(self.x, (u[0] * LENGTH, u[1] * LENGTH))
        columns = slice(max(0, int(first) - 1), int(last) + 1)
        rows = (self.v > v[0] - 1e-9) & (self.v < v[1] + 1e-9)
        own = self.v[rows]
        fields = [field[rows, columns] for field in (self.pattern.dark, self.pattern.eyes, self.white)]
        if v[1] > 1:
            own = np.concatenate([own, 2 - own[-2::-1]])
            fields = [np.concatenate([field, field[-2::-1]]) for field in fields]
        dark, eyes, white = fields
        return Fields(self.x[columns], own, Pattern(dark, eyes), white)


@dataclass(frozen=True)
class Frame:
    """A piece of skin on the page: u and v shown, where its points come to lie, and how finely it is traced.

    ``step``: units between the points of a contour; ``scale``: units to a half-girth.
    """

    name: str
    u: tuple[float, float]
    v: tuple[float, float]
    place: Place
    step: float
    scale: float


def piece(animal: Animal, fields: Fields, frame: Frame, prefix: str) -> str:
    """One piece of skin: ground, fill, pale marks with rims, lines, belly, specks, white, scales and shading."""
    looks, palette, name = animal.looks, animal.palette, f"{prefix}-{frame.name}"
    part = fields.within(frame.u, frame.v)
    outline, box = _outline(frame), _box(frame)
    layers = [
        box(hexed(palette.ground)),
        _filled(part, frame, looks, palette),
        _toned_back(animal, frame, palette),
        _pale(part, frame, looks, palette, name),
        _eyes(animal, frame, part),
        _flames(animal, frame, part),
        _lines(animal, frame, palette),
        _belly(animal, frame, part),
        _freckles(animal, frame, palette),
        _white(animal, frame, part),
        box(f"url(#{name}-scales)") + box(f"url(#{name}-shade)"),
    ]
    defs = (
        element("clipPath", path(outline), id=f"{name}-clip")
        + _gradient(palette, frame, name)
        + SHADE.format(id=f"{name}-shade")
    )
    defs += _scales(frame, name)
    skin = element("g", "".join(layers), clip_path=f"url(#{name}-clip)")
    line = path(outline, fill="none", stroke=INK, stroke_opacity=0.55)
    return element("g", element("defs", defs) + skin + line, id=name, class_="skin")


def _outline(frame: Frame) -> str:
    along = np.linspace(frame.u[0] * LENGTH, frame.u[1] * LENGTH, 40)
    upper = frame.place(np.stack([along, np.full(40, frame.v[0])], axis=1))
    lower = frame.place(np.stack([along, np.full(40, frame.v[1])], axis=1))
    return polyline(np.vstack([upper, lower[::-1]])) + "z"


def _box(frame: Frame) -> Callable[[str], str]:
    """Fills a rectangle around the piece; the clip path cuts it to shape."""
    middle = sum(frame.u) / 2
    corners = frame.place(np.array([[u * LENGTH, v] for u in (*frame.u, middle) for v in frame.v]))
    left, top = np.floor(corners.min(axis=0)).astype(int).tolist()
    width, height = np.ceil(np.ptp(corners, axis=0)).astype(int).tolist()
    return lambda fill: element("rect", x=left, y=top, width=width + 1, height=height + 1, fill=fill)


def _scales(frame: Frame, name: str) -> str:
    width, height = 0.0634 * _per_x(frame), 0.104 * frame.scale
    return SCALES.format(
        id=f"{name}-scales", w=f"{width:.1f}", h=f"{height:.1f}", m=f"{height / 2:.1f}", n=f"{width / 2:.1f}"
    )


def _per_x(frame: Frame) -> float:
    ends = frame.place(np.array([[frame.u[0] * LENGTH, 0.5], [frame.u[1] * LENGTH, 0.5]]))
    return float((ends[1, 0] - ends[0, 0]) / ((frame.u[1] - frame.u[0]) * LENGTH)) * 2


def _gradient(palette: Palette, frame: Frame, name: str) -> str:
    """Lobes pale downwards; measured on the page from the spine's side to the belly's."""
    if frame.v[0] < 0:
        return ""
    middle = frame.place(np.array([[sum(frame.u) / 2 * LENGTH, 0.25], [sum(frame.u) / 2 * LENGTH, 0.85]]))
    stops = element("stop", stop_color=hexed(palette.lobe)) + element(
        "stop", offset=1, stop_color=hexed(palette.lobe_low)
    )
    ends = {"x1": 0, "x2": 0, "y1": round(middle[0, 1]), "y2": round(middle[1, 1])}
    return element("linearGradient", stops, id=f"{name}-lobe", gradientUnits="userSpaceOnUse", **ends)


def _filled(part: Fields, frame: Frame, looks: Looks, palette: Palette) -> str:
    fill = fill_of(looks)
    if fill.share < 0.1 or frame.v[1] > 1:  # near the belly the ground is too narrow to be filled
        return ""
    pieces = []
    for depth in (0.35, 1.0) if fill.share > 0.3 and frame.name in ("front", "rear") else (0.6,):
        inner = region(
            part.pattern.dark - fill.start - fill.soft * depth, part.x, part.v, frame.place, 2.2 * frame.step, 12
        )
        colour = hexed(mixed(palette.ground, palette.fill, fill.share * depth))
        pieces.append(path(inner, fill=colour, fill_rule="evenodd", class_="fill"))
    return "".join(pieces)


def _pale(part: Fields, frame: Frame, looks: Looks, palette: Palette, name: str) -> str:
    marks = region(
        -part.pattern.dark, part.x, part.v, frame.place, 1.15 * frame.step, 6 if frame.name == "flank" else 4
    )
    rim_of = {"none": 0.0, "thin": 0.028, "strong": 0.06}
    width = rim_of[looks["lobe_outline"]] * frame.scale if looks["pattern_amount"] != "patternless" else 0.0
    colour = f"url(#{name}-lobe)" if frame.v[0] >= 0 else hexed(palette.lobe)
    rim = {"stroke": hexed(palette.rim), "stroke_width": round(width, 1)} if width else {}
    return path(marks, fill=colour, fill_rule="evenodd", class_="pale", **rim)


def _eyes(animal: Animal, frame: Frame, part: Fields) -> str:
    if part.pattern.eyes.max() <= 0:
        return ""
    drawn = region(part.pattern.eyes, part.x, part.v, frame.place, 2.4 * frame.step, 3)
    return path(drawn, fill=hexed(animal.palette.ground), class_="eyes")


def _lines(animal: Animal, frame: Frame, palette: Palette) -> str:
    if frame.v[0] > 0.5:
        return ""
    drawn: dict[int, str] = {}
    for side in (-1, 1) if frame.v[0] < 0 else (1,):
        for line in lines_of(animal.looks, animal.seed, side):
            shown = line.points[
                (line.points[:, 0] > frame.u[0] * LENGTH - 0.4) & (line.points[:, 0] < frame.u[1] * LENGTH + 0.4)
            ]
            if len(shown) > 1:
                width = max(1, round(line.width * frame.scale))
                drawn[width] = drawn.get(width, "") + curve(frame.place(shown))
    style = {"fill": "none", "stroke": hexed(palette.ground), "stroke_linejoin": "round", "stroke_linecap": "round"}
    inside = "".join(path(d, stroke_width=width) for width, d in sorted(drawn.items()))
    return element("g", inside, class_="lines", **style) if inside else ""


def _toned_back(animal: Animal, frame: Frame, palette: Palette) -> str:
    tone = tone_of_back(animal.looks, palette)
    if tone is None or frame.v[0] > 0.5:
        return ""
    reach, colour, share = tone
    along = np.linspace(frame.u[0] * LENGTH, frame.u[1] * LENGTH, 12)
    upper, lower = (
        frame.place(np.stack([along, np.full(12, v)], axis=1))
        for v in (max(frame.v[0], -reach), min(frame.v[1], reach))
    )
    return path(polyline(np.vstack([upper, lower[::-1]])) + "z", fill=hexed(colour), fill_opacity=share, class_="back")


def _flames(animal: Animal, frame: Frame, part: Fields) -> str:
    if animal.looks["flank_flames"] == "none":
        return ""
    field = flames(animal.looks, animal.seed, *np.meshgrid(part.x, part.v))
    drawn = region(field, part.x, part.v, frame.place, 1.5 * frame.step, 4)
    return path(drawn, fill=hexed(animal.palette.flame), fill_rule="evenodd", class_="flames")


def _belly(animal: Animal, frame: Frame, part: Fields) -> str:
    if frame.v[1] <= BELLY_FROM:
        return ""
    looks, palette = animal.looks, animal.palette
    xx, vv = np.meshgrid(part.x, part.v)
    # Below 1 in v lies the one side, beyond it the other.
    field = 1 - np.abs(vv - 1) - belly_edge(looks, animal.seed, xx, np.where(vv > 1, -1.0, 1.0))
    plain = path(
        region(field, part.x, part.v, frame.place, 1.6 * frame.step, 9),
        fill=hexed(palette.belly),
        fill_rule="evenodd",
        class_="belly",
    )
    return plain + (_belly_marks(animal, frame) if frame.name != "flank" else "")


def _belly_marks(animal: Animal, frame: Frame) -> str:
    """Checkers, tracks and specks of the belly, and loose specks at its edge."""
    boxes = [
        box
        for box in [*belly_marks(animal.looks, animal.seed), *_edge_specks(animal)]
        if (box[0] < frame.u[1] * LENGTH and frame.u[0] * LENGTH < box[1])
        and (1 + box[2] < frame.v[1] and frame.v[0] < 1 + box[3])
    ]
    if not boxes:
        return ""
    places = np.array(boxes)
    first, last = (
        np.round(frame.place(np.stack([places[:, along], 1 + places[:, around]], axis=1))).astype(int)
        for along, around in ((0, 2), (1, 3))
    )
    steps, sizes = np.diff(first, axis=0, prepend=0).tolist(), (last - first).tolist()
    # A closed figure ends where it began, so that the next is told from there.
    marks = "".join(f"m{x} {y}h{w}v{h}h{-w}z" for (x, y), (w, h) in zip(steps, sizes, strict=True))
    return path(marks, fill=hexed(mixed(animal.palette.belly, animal.palette.ground, MARKED)), class_="belly-marks")


def _edge_specks(animal: Animal) -> list[tuple[float, float, float, float]]:
    """Loose specks where flank and belly meet, as boxes."""
    if animal.looks["belly_edge"] != "flecked":
        return []
    random = np.random.default_rng([animal.seed, 61])
    at, off = random.uniform(0.9, LENGTH - 0.3, 120), random.choice([-1, 1], 120) * random.uniform(0.1, 0.17, 120)
    return [(float(x), float(x) + 0.05, float(v), float(v) + 0.018) for x, v in zip(at, off, strict=True)]


def _white(animal: Animal, frame: Frame, part: Fields) -> str:
    field = part.white
    if field.max() <= 0:
        return ""
    white = hexed(animal.palette.white)
    if field.min() > 0:
        return _box(frame)(white)
    drawn = path(
        region(field, part.x, part.v, frame.place, 1.6 * frame.step, 9), fill=white, fill_rule="evenodd", class_="white"
    )
    if animal.looks["side_white"] == "none" or frame.v[0] > 0.5:
        return drawn
    rows, columns = np.nonzero((field > -0.11) & (field < -0.01))
    chosen = np.random.default_rng([animal.seed, 97]).permutation(len(rows))[: 20 if frame.name == "flank" else 50]
    loose = np.stack([part.x[columns[chosen]], part.v[rows[chosen]]], axis=1)
    return drawn + _dotted(frame, loose, np.full(len(loose), 0.02), white, "white")


def _freckles(animal: Animal, frame: Frame, palette: Palette) -> str:
    specks = specks_of(animal.looks, animal.seed)
    x, v = specks.places.T
    seen = (x > frame.u[0] * LENGTH) & (x < frame.u[1] * LENGTH) & (v > frame.v[0]) & (v < min(frame.v[1], BELLY_FROM))
    if not seen.any():
        return ""
    ink = mixed(palette.ground, np.zeros(3), 0.7) if animal.looks["freckles"] != "none" else palette.ground
    return _dotted(frame, specks.places[seen], specks.sizes[seen], hexed(ink), "specks")


def _dotted(frame: Frame, places: Floats, sizes: Floats, colour: str, name: str) -> str:
    """Dots at places, (n, 2) in (x, v), with half-widths in half-girths, (n,): one path for each width on the page."""
    widths = np.maximum(2, np.round(2 * sizes * frame.scale)).astype(int)
    points = frame.place(places)
    style = {"fill": "none", "stroke": colour, "stroke_linecap": "round", "class_": name}
    return "".join(path(dots(points[widths == one]), stroke_width=int(one), **style) for one in np.unique(widths))
