"""Heads as drawings: from above and from the side, changing with every look at head, eye, lips and neck."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from eyot_core.colour import linear
from eyot_core.drawing.noise import Floats
from eyot_core.drawing.palette import Palette
from eyot_core.drawing.svg import element, hexed, mixed, path

Looks = Mapping[str, str]
SIDE_SIZE = (200, 90)
ABOVE_SIZE = (260, 130)
IRIS = {
    "dark": linear((44, 32, 26)),
    "green": linear((122, 128, 58)),
    "grey_light": linear((172, 176, 176)),
    "ruby": linear((112, 24, 30)),
    "red": linear((214, 72, 78)),
    "blue": linear((128, 170, 214)),
}
HUES = {
    "chocolate": linear((110, 64, 40)),
    "gold_orange": linear((206, 150, 82)),
    "purple_grey": linear((146, 128, 148)),
    "cream": linear((238, 226, 198)),
}
LIPS = {"normal": (230, 220, 196), "white": (247, 244, 236), "dark": (140, 126, 114), "yellow": (232, 202, 112)}
FADED = {"washed_out": 0.42, "wiped": 0.78, "reduced": 0.62}
STRIPE = {"missing": 0.0, "thin": 0.38, "normal": 1.0, "wide": 1.75}
SIDE = "M4 50C4 39 16 30 34 24C56 15 84 7 112 9C140 11 165 16 200 18V74C176 77 150 86 120 86C86 85 40 80 18 72C8 68 4 60 4 50Z"
LIP = "M5 54C14 54 34 55 58 56C84 58 112 64 136 71C150 76 168 79 176 79C150 84 134 86 120 86C86 85 40 80 18 72C8 68 5 60 5 54Z"
CHEEK = "M6 49C20 46 42 42 66 40C100 39 140 46 200 50V75C170 74 140 66 112 62C84 58 40 56 5 55Z"
ABOVE = (
    "M4 65C4 50 18 42 40 35C70 25 100 12 136 13C172 14 190 33 216 36L258 38V92L216 94C190 97 172 116 136 117"
    "C100 118 70 105 40 95C18 88 4 80 4 65Z"
)
CAP = (
    "M12 65C14 55 32 51 54 46C88 38 118 27 148 29C178 32 196 46 226 48L258 50V80L226 82C196 84 178 98 148 101"
    "C118 103 88 92 54 84C32 79 14 75 12 65Z"
)
PINCHED = (
    "M12 65C14 55 32 51 54 46C84 38 104 46 126 52C150 50 172 36 196 44L258 50V80L196 86C172 94 150 80 126 78"
    "C104 84 84 92 54 84C32 79 14 75 12 65Z"
)
SHAPES = {
    "butterfly": "M96 63C104 42 132 30 146 40C152 48 130 60 108 64ZM96 67C104 88 132 100 146 90C152 82 130 70 108 66Z",
    "fork": "M62 63H104C124 60 140 46 166 46C190 46 206 58 224 63V67C206 72 190 84 166 84C140 84 124 70 104 67H62Z"
    "M118 65C138 70 150 76 166 76C186 76 196 70 206 65C196 60 186 54 166 54C150 54 138 60 118 65Z",
    "mask": "M84 52C98 44 116 44 122 54C112 62 94 62 84 52ZM84 78C98 86 116 86 122 76C112 68 94 68 84 78Z"
    "M134 56H166V61H134ZM134 69H166V74H134ZM176 58L196 65L176 72Z",
    "branched": "M60 63H128L160 44L164 48L136 65L164 82L160 86L128 67H60ZM96 63L112 44L116 46L104 63ZM96 67L112 86L116 84L104 67Z"
    "M140 63H226V67H140Z",
    "pinched": "",
    "none": "",
}

STAMPS: dict[str, tuple[tuple[float, float, float, float], ...]] = {
    "normal": ((118, 65, 17, 3.4), (158, 51, 10, 3.2), (158, 79, 10, 3.2), (196, 65, 13, 2.8)),
    "busy": (
        (96, 58, 8, 2.6),
        (104, 75, 6, 4),
        (126, 65, 13, 3),
        (140, 46, 5, 5),
        (150, 82, 9, 3),
        (164, 56, 6, 2.5),
        (172, 70, 4, 4),
        (188, 58, 8, 2.4),
        (206, 70, 7, 3),
        (84, 66, 3, 3),
        (116, 50, 4, 2.5),
    ),
    "washed_out": ((124, 65, 20, 3), (168, 56, 9, 2.4), (168, 74, 9, 2.4)),
    "reduced": ((120, 60, 6, 3), (142, 74, 7, 2.6), (172, 62, 4, 4)),
}
"""The ovals of each head stamp from above: x, y, and their radii."""
STAMP_STRENGTH = {"washed_out": 0.35, "busy": 0.95}


@dataclass(frozen=True)
class HeadColours:
    """What a head is painted with, linear light, (3,) each."""

    crown: Floats
    mark: Floats
    stripe: Floats
    cheek: Floats
    lip: Floats
    line: Floats
    iris: Floats
    skin: Floats


def head_colours(looks: Looks, palette: Palette) -> HeadColours:
    """Colours of the head from its looks; all white where the animal is white to the snout."""
    white = looks["white_share"] == "all"
    dark = palette.white if white else palette.ground
    pale = palette.white if white else palette.lobe_low
    crown = HUES.get(looks["head_hue"], dark)
    if looks["head_hue"] != "black_brown" and looks["lightness"] in ("darker", "very_dark"):
        crown = mixed(crown, palette.ground, 0.35)
    if white and looks["head_hue"] == "purple_grey":
        crown = mixed(palette.white, HUES["purple_grey"], 0.45)
    tone = {"lighter": 0.4, "white": 0.88}.get(looks["head_lightness"], 0.0)
    target = palette.white if looks["head_lightness"] == "white" else pale
    crown = mixed(crown, target, tone)
    crown = mixed(crown, pale, FADED.get(looks["head_stamp"], 0.0))
    if looks["head_lightness"] == "darker" or looks["head_stamp"] == "solid_dark":
        crown = np.asarray(crown * 0.7)
    mark = mixed(crown, pale, 0.6) if looks["head_stamp"] not in ("reduced", "wiped") else mixed(crown, dark, 0.75)
    lip = palette.white if white else np.asarray(linear(LIPS[looks["lip_color"]]))
    return HeadColours(
        crown=crown,
        mark=mark,
        stripe=palette.white if white else mixed(palette.rim, pale, 0.3),
        cheek=mixed(dark, crown, 0.35),
        lip=lip,
        line=mixed(dark, linear((40, 34, 30)), 0.5),
        iris=IRIS[looks["eye_color"]],
        skin=dark,
    )


def head_from_the_side(looks: Looks, palette: Palette, clouded: bool = False) -> str:
    """A head in a box of ``SIDE_SIZE``, snout to the left. ``clouded``: before a shed, the eye is milky."""
    colours = head_colours(looks, palette)
    parts = [
        path(SIDE, fill=hexed(colours.crown)),
        path(CHEEK, fill=hexed(colours.cheek)),
        _stripe(looks, colours),
        _blush_at_the_neck(looks, colours),
        path(LIP, fill=hexed(colours.lip)),
        _smudges(looks, colours),
        path("M6 60C40 62 84 64 128 73", fill="none", stroke=hexed(colours.line), stroke_width=1.6),
        _eye(looks, colours, 64, 38, clouded),
        path("M12 46l5-3 2 4-5 2z", fill=hexed(colours.line)),
        path(SIDE, fill="none", stroke=hexed(mixed(colours.line, colours.crown, 0.4)), stroke_width=1.4),
    ]
    return "".join(parts)


def _stripe(looks: Looks, colours: HeadColours) -> str:
    """The pale band from the snout over the eye to the neck."""
    width = STRIPE[looks["eye_stripe_width"]]
    if width == 0:
        return ""
    x = np.array([10.0, 36, 64, 92, 120, 148, 174, 200])
    middle = np.array([42.0, 35, 29, 30, 34, 38, 42, 45])
    half = width * np.array([1.6, 3, 4, 4.6, 5, 5.4, 5.6, 5.8])
    edge = looks["eye_stripe_edge"]
    upper = _toothed(x, middle - half) if edge == "jagged" else np.stack([x, middle - half], axis=1)
    lower = np.stack([x, middle + half], axis=1)[::-1]
    outline = "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in np.vstack([upper, lower])) + "Z"
    line = hexed(colours.line) if edge == "clean" else None
    band = path(outline, fill=hexed(colours.stripe), stroke=line, stroke_width=1.1 if line else None)
    gaps = "M84 20H94V46H84ZM124 24H138V52H124ZM166 30H180V56H166Z" if edge == "broken" else ""
    return band + path(gaps, fill=hexed(colours.cheek))


def _toothed(x: Floats, y: Floats) -> Floats:
    fine = np.linspace(x[0], x[-1], 37)
    teeth = np.where(np.arange(37) % 2, 2.6, -2.6)
    return np.stack([fine, np.interp(fine, x, y) + teeth], axis=1)


def _blush_at_the_neck(looks: Looks, colours: HeadColours) -> str:
    share = {"none": 0.0, "slight": 0.35, "strong": 0.8}[looks["neck_blush"]]
    if not share:
        return ""
    return element("ellipse", cx=178, cy=58, rx=18, ry=8, fill=hexed(mixed(colours.cheek, colours.stripe, share)))


def _smudges(looks: Looks, colours: HeadColours) -> str:
    if looks["lip_color"] == "normal":
        marks = "M16 55h5v4h-5zM27 56h5v4h-5zM38 57h4v3h-4zM70 59h9v3h-9zM94 62h10v4h-10z"
    elif looks["lip_color"] == "dark":
        marks = "M12 55h120v8h-120z"
    else:
        marks = "M17 56h3v3h-3zM28 57h3v3h-3zM39 58h3v3h-3z"
    return path(marks, fill=hexed(mixed(colours.lip, colours.line, 0.55)))


def _eye(looks: Looks, colours: HeadColours, x: float, y: float, clouded: bool) -> str:
    radius = {"normal": 9.0, "bulging": 13.0, "small": 4.5}[looks["eye_form"]]
    iris = np.asarray(linear((150, 164, 176))) if clouded else colours.iris
    pupil = mixed(iris, np.asarray(linear((8, 7, 8))), 0.3 if clouded else 0.97)
    if looks["eye_color"] == "red" and not clouded:
        pupil = np.asarray(linear((150, 24, 34)))
    return (
        element("circle", cx=x, cy=y, r=radius + 1.6, fill=hexed(mixed(colours.line, colours.crown, 0.3)))
        + element("circle", cx=x, cy=y, r=radius, fill=hexed(iris))
        + element("ellipse", cx=x, cy=y, rx=radius * 0.27, ry=radius * 0.78, fill=hexed(pupil))
        + element("circle", cx=x - radius * 0.35, cy=y - radius * 0.35, r=radius * 0.2, fill="#fff")
    )


def head_from_above(looks: Looks, palette: Palette, clouded: bool = False) -> str:
    """A head in a box of ``ABOVE_SIZE``, snout to the left."""
    colours = head_colours(looks, palette)
    cap = PINCHED if looks["head_shape_mark"] == "pinched" else CAP
    parts = [
        path(ABOVE, fill=hexed(mixed(colours.cheek, colours.skin, 0.5))),
        _bands(looks, colours),
        path(cap, fill=hexed(colours.crown)),
        _stamp(looks, colours),
        path(SHAPES[looks["head_shape_mark"]], fill=hexed(colours.stripe), fill_rule="evenodd"),
        _crown_blush(looks, colours),
        _neck_marks(looks, colours, palette),
        path("M14 57l4-3 2 3zM14 73l4 3 2-3z", fill=hexed(colours.line)),
        path(ABOVE, fill="none", stroke=hexed(mixed(colours.line, colours.crown, 0.4)), stroke_width=1.6),
        _eye(looks, colours, 66, 31, clouded),
        _eye(looks, colours, 66, 99, clouded),
    ]
    return "".join(parts)


def _bands(looks: Looks, colours: HeadColours) -> str:
    """The eye stripes as they are seen from above, along the edge of the cap."""
    width = STRIPE[looks["eye_stripe_width"]]
    if width == 0:
        return ""
    dashed = "26 9" if looks["eye_stripe_edge"] == "broken" else "5 3" if looks["eye_stripe_edge"] == "jagged" else None
    band = {"fill": "none", "stroke": hexed(colours.stripe), "stroke_width": 9.0 * width + 2}
    solid = path("M12 61C30 47 54 43 84 37C118 27 150 23 178 36C196 44 220 45 258 46", **band)
    mirrored = path("M12 69C30 83 54 87 84 93C118 103 150 107 178 94C196 86 220 85 258 84", **band)
    teeth = ""
    if dashed:
        cut = {"fill": "none", "stroke": hexed(colours.cheek), "stroke_width": 5.0, "stroke_dasharray": dashed}
        teeth = path("M60 39C100 28 150 17 184 33", **cut) + path("M60 91C100 102 150 113 184 97", **cut)
    return solid + mirrored + teeth


def _stamp(looks: Looks, colours: HeadColours) -> str:
    stamp = looks["head_stamp"]
    ovals = STAMPS.get(stamp, ())
    strength = STAMP_STRENGTH.get(stamp, 0.75)
    fill = hexed(mixed(colours.crown, colours.mark, strength))
    return "".join(element("ellipse", cx=x, cy=y, rx=rx, ry=ry, fill=fill) for x, y, rx, ry in ovals)


def _crown_blush(looks: Looks, colours: HeadColours) -> str:
    share = {"none": 0.0, "slight": 0.3, "strong": 0.62}[looks["head_blush"]]
    if not share:
        return ""
    size = {"slight": (24, 9), "strong": (44, 17)}[looks["head_blush"]]
    fill = hexed(mixed(colours.crown, colours.stripe, share))
    return element("ellipse", cx=134, cy=65, rx=size[0], ry=size[1], fill=fill, opacity=0.8)


def _neck_marks(looks: Looks, colours: HeadColours, palette: Palette) -> str:
    fill = hexed(colours.stripe)
    marks = {
        "striped": path("M204 62H258V68H204L196 65Z", fill=fill),
        "broken": path("M212 58l10 3-4 6-9-2zM232 68l12-2 3 7-12 3zM246 54l9 2-3 6-8-1z", fill=fill),
        "reduced": path("M222 49L258 51V79L222 81C214 74 214 56 222 49Z", fill=hexed(palette.lobe)),
    }.get(looks["neck_pattern"], "")
    share = {"none": 0.0, "slight": 0.35, "strong": 0.8}[looks["neck_blush"]]
    if share:
        blush = hexed(mixed(colours.cheek, colours.stripe, share))
        marks += path("M196 36C206 40 226 42 236 41L236 47C220 48 204 46 196 42Z", fill=blush)
        marks += path("M196 94C206 90 226 88 236 89L236 83C220 82 204 84 196 88Z", fill=blush)
    return marks
