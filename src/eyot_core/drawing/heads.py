"""Heads as drawings: from above and from the side, changing with every look at head, eye, lips and neck."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
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
SIDE = (
    "M4 53C4 44 12 36 24 30C34 24 46 19 60 16C86 10 112 8 138 11C158 14 176 21 188 31C197 39 200 48 198 58C196 70 188 79 172 83"
    "C154 87 134 88 116 86C84 84 42 79 20 71C9 67 4 61 4 53Z"
)
LIP = "M5 55C16 54 36 54.5 60 56C86 58 112 63.5 136 70C152 74.5 166 78 178 80.5C160 87 136 88 116 86C84 84 42 79 20 71C9 67 5 61 5 55Z"
JAW = "M9 62.5C42 65 84 67 128 76C146 79.5 160 81 172 82.5C154 87 134 88 116 86C84 84 42 79 20 71C14 69 11 66 9 62.5Z"
MASK = (
    "M6 51C18 47 40 42 66 40.5C100 39 140 42 176 47C190 50 198 56 197 62C196 70 190 77 178 80.5C166 78 152 74.5 136 70"
    "C112 63.5 86 58 60 56C36 54.5 16 54 5 55Z"
)
MOUTH = "M5 60.5C42 63 84 65 128 74C146 77.5 160 79.5 174 81.5"
UPPER_PITS = ((13, 57.4), (20, 57.6), (27, 57.9), (34.5, 58.3), (42, 58.8))
LOWER_PITS = ((84, 71.5), (93, 73.3), (102, 75.2), (111, 77))
"""The heat pits in the lips, from the side."""
ABOVE = (
    "M4 65C4 52 14 42 34 36C58 29 92 13 134 13C168 13 188 30 210 38C226 44 234 54 234 65C234 76 226 86 210 92"
    "C188 100 168 117 134 117C92 117 58 101 34 94C14 88 4 78 4 65Z"
)
CAP = (
    "M11 65C13 55 32 50 54 45C88 36 118 27 148 29C178 32 198 46 218 51C236 55 248 60 258 65C248 70 236 75 218 79"
    "C198 84 178 98 148 101C118 103 88 94 54 85C32 80 13 75 11 65Z"
)
PINCHED = (
    "M11 65C13 55 32 50 54 46C84 38 104 47 126 54C148 52 170 36 196 46L222 53C238 56 248 60 258 65C248 70 238 74 222 77L196 84"
    "C170 94 148 78 126 76C104 83 84 92 54 84C32 80 13 75 11 65Z"
)
RIM = "M178 28C170 20 160 16 148 14.5C110 10 64 27 34 36C14 42 4 52 4 65C4 78 14 88 34 94C64 103 110 120 148 115.5C160 114 170 110 178 102"
"""What is seen of the lips from above."""
PLATES = "M22 56C30 60 30 70 22 74M44 49C50 58 50 72 44 81M44 62C60 60 74 60 88 63M44 68C60 70 74 70 88 67M88 47C94 58 94 72 88 83"
"""The edges of the large scales on the snout and between the eyes."""
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
HOOKS = "M108 84C114 92 124 92 128 86M134 56l10-8M134 48l10 8M178 82l9-6M178 76l9 6M198 52C206 48 212 52 210 58"
"""The hooks and crosses of a busy head."""
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
    stripe = palette.white if white else mixed(palette.rim, pale, 0.3)
    if looks["head_lightness"] == "darker":  # next to black the crown can't say it
        stripe, lip = mixed(stripe, dark, 0.5), mixed(lip, dark, 0.3)
    return HeadColours(
        crown=crown,
        mark=mark,
        stripe=stripe,
        cheek=mixed(dark, crown, 0.35),
        lip=lip,
        line=mixed(dark, linear((40, 34, 30)), 0.5),
        iris=IRIS[looks["eye_color"]],
        skin=dark,
    )


def head_from_the_side(looks: Looks, palette: Palette, clouded: bool = False, fine: bool = True) -> str:
    """A head in a box of ``SIDE_SIZE``, snout to the left, that goes over into the neck behind it. ``clouded``: before a shed, the eye is
    milky; ``fine``: with what is too small for a strip."""
    colours = head_colours(looks, palette)
    line = hexed(mixed(colours.line, colours.crown, 0.4))
    parts = [
        path(SIDE, fill=hexed(colours.crown)),
        path(MASK, fill=hexed(colours.cheek)),
        _stripe(looks, colours),
        _blush_at_the_neck(looks, colours),
        path(LIP, fill=hexed(colours.lip)),
        path(JAW, fill=hexed(mixed(colours.lip, colours.line, 0.13))),
        _smudges(looks, colours),
        path(MOUTH, fill="none", stroke=hexed(colours.line), stroke_width=1.6),
        _snout_spots(looks, colours, ((22, 42),)),
        _pits(colours) if fine else "",
        _eye(looks, colours, 66, 38, clouded),
        path("M11 47l5-3 2 4-5 2z", fill=hexed(colours.line)),
        path(
            f"M178 82C154 88 134 88 116 86{SIDE[SIDE.index('C84 84') : -1]}", fill="none", stroke=line, stroke_width=1.3
        ),
        path(SIDE[: SIDE.index("C197 39")], fill="none", stroke=line, stroke_width=1.3),
    ]
    return "".join(parts)


def _pits(colours: HeadColours) -> str:
    """The heat pits, and the seams between the scales of the lips."""
    dark = hexed(mixed(colours.lip, colours.line, 0.8))
    pits = "".join(element("ellipse", cx=x, cy=y, rx=2, ry=1.3, fill=dark) for x, y in (*UPPER_PITS, *LOWER_PITS))
    seams = "M16.5 55V60M24 55V60.6M31 55V61M38.5 55V61.6M52 55.6V62.4M62 56V63M74 57V64M86 58.5V65.6M98 60.5V67.4M110 63V69.8"
    return path(seams, fill="none", stroke=dark, stroke_width=0.6, stroke_opacity=0.6) + pits


def _snout_spots(looks: Looks, colours: HeadColours, places: Sequence[tuple[float, float]]) -> str:
    if looks.get("snout_spots", "none") == "none":
        return ""
    return "".join(element("ellipse", cx=x, cy=y, rx=5, ry=3.2, fill=hexed(colours.stripe)) for x, y in places)


def _stripe(looks: Looks, colours: HeadColours) -> str:
    """The pale band from the snout over the eye to the neck."""
    width = STRIPE[looks["eye_stripe_width"]]
    if width == 0:
        return ""
    x = np.array([12.0, 36, 64, 92, 120, 148, 172, 194])
    middle = np.array([43.0, 35, 28.5, 29, 32, 36, 41, 47])
    half = width * np.array([1.2, 2.6, 3.4, 3.9, 4.6, 5.4, 5.2, 1.6])
    edge = looks["eye_stripe_edge"]
    upper = _toothed(x, middle - half) if edge == "jagged" else np.stack([x, middle - half], axis=1)
    lower = np.stack([x, middle + half], axis=1)[::-1]
    outline = "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in np.vstack([upper, lower])) + "Z"
    line = hexed(colours.line) if edge == "clean" else None
    band = path(outline, fill=hexed(colours.stripe), stroke=line, stroke_width=1.1 if line else None)
    gaps = "M84 20H94V42H84ZM124 22H138V48H124ZM164 28H178V56H164Z" if edge == "broken" else ""
    return band + path(gaps, fill=hexed(colours.crown))


def _toothed(x: Floats, y: Floats) -> Floats:
    fine = np.linspace(x[0], x[-1], 37)
    teeth = np.where(np.arange(37) % 2, 2.6, -2.6)
    return np.stack([fine, np.interp(fine, x, y) + teeth], axis=1)


def _blush_at_the_neck(looks: Looks, colours: HeadColours) -> str:
    share = {"none": 0.0, "slight": 0.35, "strong": 0.8}[looks["neck_blush"]]
    if not share:
        return ""
    fill = hexed(mixed(colours.cheek, colours.stripe, share))
    return element("ellipse", cx=172, cy=60, rx=16, ry=7, fill=fill, opacity=0.8)


def _smudges(looks: Looks, colours: HeadColours) -> str:
    """The dark of the lips: a little of it, a smudge all along, or next to none."""
    tone = mixed(colours.lip, colours.line, 0.55)
    if looks["lip_color"] == "dark":
        marks = "M6 55C40 55 84 57 136 70L150 76C100 64 50 62 8 60Z"
    elif looks["lip_color"] == "normal":
        marks = "M46 56l9 .4-1 4-7-.4zM72 58l11 1.4-2 4-8-1zM98 62l12 2.6-3 4-8-2z"
    else:
        marks = "M100 61.5l5 1-1 2.4-4-1z"
    return path(marks, fill=hexed(tone))


def _eye(looks: Looks, colours: HeadColours, x: float, y: float, clouded: bool) -> str:
    radius = {"normal": 9.0, "bulging": 13.0, "small": 4.5}[looks["eye_form"]]
    iris = np.asarray(linear((150, 164, 176))) if clouded else colours.iris
    pupil = mixed(iris, np.asarray(linear((8, 7, 8))), 0.3 if clouded else 0.97)
    if looks["eye_color"] == "red" and not clouded:
        pupil = np.asarray(linear((150, 24, 34)))
    return (
        element("circle", cx=x, cy=y, r=radius + 1.8, fill=hexed(mixed(colours.line, colours.crown, 0.3)))
        + element("circle", cx=x, cy=y, r=radius, fill=hexed(iris))
        + element("ellipse", cx=x, cy=y, rx=radius * 0.27, ry=radius * 0.78, fill=hexed(pupil))
        + element("circle", cx=x - radius * 0.35, cy=y - radius * 0.35, r=radius * 0.2, fill="#fff")
    )


def head_from_above(looks: Looks, palette: Palette, clouded: bool = False) -> str:
    """A head in a box of ``ABOVE_SIZE``, snout to the left, whose crown runs out on the neck behind it."""
    colours = head_colours(looks, palette)
    parts = [
        path(RIM, fill="none", stroke=hexed(mixed(colours.line, colours.crown, 0.4)), stroke_width=7.5),
        path(RIM, fill="none", stroke=hexed(colours.lip), stroke_width=5),
        path(ABOVE, fill=hexed(colours.cheek)),
        _eye(looks, colours, 66, 31, clouded),
        _eye(looks, colours, 66, 99, clouded),
        _bands(looks, colours),
        _crown(looks, colours),
        _stamp(looks, colours),
        path(SHAPES[looks["head_shape_mark"]], fill=hexed(colours.stripe), fill_rule="evenodd"),
        _crown_blush(looks, colours),
        path(PLATES, fill="none", stroke=hexed(colours.line), stroke_width=0.9, stroke_opacity=0.35),
        _snout_spots(looks, colours, ((24, 58), (24, 72))),
        path("M12 58l4-3 2 3zM12 72l4 3 2-3z", fill=hexed(colours.line)),
    ]
    return "".join(parts)


def _crown(looks: Looks, colours: HeadColours) -> str:
    """The dark cap: with an edge as a rule, without one where it is washed out, hardly there where it is wiped."""
    cap, stamp = PINCHED if looks["head_shape_mark"] == "pinched" else CAP, looks["head_stamp"]
    if stamp == "wiped":
        return path(cap, fill=hexed(mixed(colours.stripe, colours.crown, 0.5)))
    if stamp == "washed_out":
        soft = {"fill": hexed(colours.crown), "stroke": hexed(colours.crown), "stroke_linejoin": "round"}
        edges = "".join(
            path(cap, stroke_width=width, fill_opacity=0.25, stroke_opacity=0.25, **soft) for width in (13, 7)
        )
        return edges + path(cap, fill=hexed(colours.crown), fill_opacity=0.75)
    if stamp == "solid_dark":
        return path(
            cap, fill=hexed(colours.crown), stroke=hexed(colours.crown), stroke_width=9, stroke_linejoin="round"
        )
    if stamp == "reduced":
        rest = hexed(mixed(colours.crown, colours.line, 0.85))
        lines = "M30 52C56 46 96 36 140 34C168 34 190 46 214 53M30 78C56 84 96 94 140 96C168 96 190 84 214 77"
        return path(cap, fill=hexed(colours.crown)) + path(
            lines, fill="none", stroke=rest, stroke_width=3.4, stroke_dasharray="30 9 12 14", stroke_linecap="round"
        )
    return path(cap, fill=hexed(colours.crown))


def _bands(looks: Looks, colours: HeadColours) -> str:
    """The eye stripes as they are seen from above, along the edge of the cap."""
    width = STRIPE[looks["eye_stripe_width"]]
    if width == 0:
        return ""
    edge = looks["eye_stripe_edge"]
    band = {"fill": "none", "stroke": hexed(colours.stripe), "stroke_width": 8.0 * width + 2, "stroke_linecap": "round"}
    if edge == "broken":
        band["stroke_dasharray"] = "24 17"
    ways = (
        "M14 60C30 46 54 42 84 36C118 26 150 22 178 36C196 46 216 50 238 54",
        "M14 70C30 84 54 88 84 94C118 104 150 108 178 94C196 84 216 80 238 76",
    )
    drawn = "".join(path(way, **band) for way in ways)
    if edge == "clean":
        lines = {"fill": "none", "stroke": hexed(colours.line), "stroke_width": 8.0 * width + 5}
        drawn = "".join(path(way, **lines) for way in ways) + drawn
    if edge == "jagged":
        cut = {"fill": "none", "stroke": hexed(colours.crown), "stroke_width": 5.5, "stroke_dasharray": "4 4"}
        drawn += path("M60 45C100 34 150 26 186 44", **cut) + path("M60 85C100 96 150 104 186 86", **cut)
    return drawn


def _stamp(looks: Looks, colours: HeadColours) -> str:
    stamp = looks["head_stamp"]
    ovals = STAMPS.get(stamp, ())
    strength = STAMP_STRENGTH.get(stamp, 0.75)
    fill = hexed(mixed(colours.crown, colours.mark, strength))
    drawn = "".join(element("ellipse", cx=x, cy=y, rx=rx, ry=ry, fill=fill) for x, y, rx, ry in ovals)
    if stamp == "busy":
        drawn += path(HOOKS, fill="none", stroke=fill, stroke_width=3, stroke_linecap="round")
    return drawn


def _crown_blush(looks: Looks, colours: HeadColours) -> str:
    share = {"none": 0.0, "slight": 0.3, "strong": 0.62}[looks["head_blush"]]
    if not share:
        return ""
    size = {"slight": (24, 9), "strong": (44, 17)}[looks["head_blush"]]
    fill = hexed(mixed(colours.crown, colours.stripe, share))
    return element("ellipse", cx=134, cy=65, rx=size[0], ry=size[1], fill=fill, opacity=0.8)


def neck_marks(looks: Looks, palette: Palette) -> str:
    """What the neck shows behind a head from above, in the box of that head and as much again behind it."""
    colours = head_colours(looks, palette)
    fill = hexed(colours.stripe)
    marks = {
        "striped": path("M232 59C270 60 310 61 344 61V69C310 69 270 70 232 71Z", fill=fill),
        "broken": path(
            "M250 52l14 3-5 9-12-3zM272 70l15-3 5 9-15 5zM296 50l12 4-4 9-11-3zM318 66l14 2-3 9-13-1z", fill=fill
        ),
        "reduced": path("M214 40L344 36V94L214 90Z", fill=hexed(palette.lobe)),
    }.get(looks["neck_pattern"], "")
    share = {"none": 0.0, "slight": 0.35, "strong": 0.8}[looks["neck_blush"]]
    if share:
        blush = hexed(mixed(colours.cheek, colours.stripe, share))
        marks += element("ellipse", cx=250, cy=47, rx=24, ry=6, fill=blush)
        marks += element("ellipse", cx=250, cy=83, rx=24, ry=6, fill=blush)
    return marks
