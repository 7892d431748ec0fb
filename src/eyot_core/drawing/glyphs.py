"""Small ink drawings of the levels of looks, 36 × 26 units, one idea each. Dark stays dark in both lightings.

Classes: ``d`` dark parts, ``l`` light parts, ``m`` middle tone, ``w`` white, ``o`` ink lines without fill, ``t`` thick ones.
Looks at colour carry the colours that animals are drawn with.
"""

from __future__ import annotations

from collections.abc import Mapping

from eyot_core.colour import linear
from eyot_core.drawing.heads import HUES, IRIS, LIPS
from eyot_core.drawing.noise import Floats
from eyot_core.drawing.palette import BELLY, GROUND, LOBE
from eyot_core.drawing.svg import hexed

WIDTH, HEIGHT = 36, 26


def _box(kind: str, x: float, y: float, w: float, h: float) -> str:
    return f'<rect class="{kind}" x="{x:g}" y="{y:g}" width="{w:g}" height="{h:g}"/>'


def _oval(kind: str, x: float, y: float, rx: float, ry: float) -> str:
    return f'<ellipse class="{kind}" cx="{x:g}" cy="{y:g}" rx="{rx:g}" ry="{ry:g}"/>'


def _path(kind: str, d: str) -> str:
    return f'<path class="{kind}" d="{d}"/>'


def _painted(colour: Floats | tuple[int, int, int], d: str) -> str:
    light = linear(colour) if isinstance(colour, tuple) else colour
    return f'<path class="c" fill="{hexed(light)}" d="{d}"/>'


FLANK = _box("d", 0, 0, 36, 26) + _box("l", 0, 20, 36, 6)
DARK = _box("d", 0, 0, 36, 26)
LIGHT = _box("l", 0, 0, 36, 26)
FRAME = _box("o", 0.5, 0.5, 35, 25)
HEAD = _path("l", "M4 13C4 7 12 3 22 4C29 4 33 9 33 13C33 17 29 22 22 22C12 23 4 19 4 13Z")
HEAD_LINE = HEAD.replace('"l"', '"o"')
FACE = _path("l", "M2 16C4 9 12 5 22 5L36 6V22H14C7 22 3 20 2 16Z") + _path(
    "o", "M2 16C4 9 12 5 22 5L36 6M36 22H14C7 22 3 20 2 16"
)
EYE = _oval("d", 14, 11.5, 2.6, 2.6)


def _lobes(ovals: str, stems: str = "") -> str:
    return FLANK + stems + ovals


def _spotted(*spots: tuple[float, float]) -> str:
    return DARK + _oval("l", 18, 13, 13, 9) + "".join(_oval("d", x, y, 2, 2) for x, y in spots)


def _back(*pale: str) -> str:
    return DARK + "".join(pale)


def _checks() -> str:
    return "".join(_box("d", x, y, 4, 3) for row, y in enumerate((12, 15, 18, 21)) for x in range(row % 2 * 4, 36, 8))


def _specks(kind: str, top: float, bottom: float, count: int, size: float = 1.0) -> str:
    places = [((i * 37) % 33 + 1.5, top + (i * 23) % 17 / 17 * (bottom - top)) for i in range(count)]
    return "".join(_oval(kind, x, y, size, size) for x, y in places)


def _hatched(step: float) -> str:
    count = int(62 / step)
    return LIGHT + FRAME + "".join(_path("o", f"M{i * step - 26:g} 26L{i * step:g} 0") for i in range(count + 1))


def _flames(height: float, count: int) -> str:
    width = 36 / count
    teeth = "".join(
        f"L{i * width + width / 2:g} {20 - height * (0.7 + 0.3 * (i % 2)):g}L{(i + 1) * width:g} 20"
        for i in range(count)
    )
    return FLANK + _path("l", f"M0 20{teeth}V26H0Z")


STEMS = _box("l", 6, 12, 5, 9) + _box("l", 25, 12, 5, 9)
TWO = _oval("l", 8.5, 9, 6, 6) + _oval("l", 27.5, 9, 6, 6)
TOP = _box("d", 0, 0, 36, 12)

FULL = "M0 0H36V26H0Z"
LOBE_SHAPE = "M6 26V14A12 11 0 0 1 30 14V26Z"
HEAD_SHAPE = "M4 13C4 7 12 3 22 4C29 4 33 9 33 13C33 17 29 22 22 22C12 23 4 19 4 13Z"
TAIL = "M0 6L36 12V14L0 20Z"
EYE_BIG = _path("o", "M3 13Q18 0 33 13Q18 26 3 13Z")
STAMPED = HEAD + _path("d", "M9 13C11 8 17 6 24 7L31 9V17L24 19C17 20 11 18 9 13Z")
CAPPED = HEAD.replace('"l"', '"d"')
BODY = {
    "brown_gold": (178, 132, 74),
    "yellow": (226, 190, 84),
    "orange": (214, 128, 58),
    "grey": (150, 150, 152),
    "purple": (152, 120, 150),
    "white_cream": (244, 238, 222),
}


def _tones(tones: Mapping[str, Floats | tuple[int, int, int]], d: str, around: str = "") -> dict[str, str]:
    return {level: around + _painted(colour, d) + _path("o", d) for level, colour in tones.items()}


def _irises() -> dict[str, str]:
    round_ = "M10 13A8 8 0 1 1 26 13A8 8 0 1 1 10 13Z"
    slit = {level: _oval("d", 18, 13, 1.8, 6.5) for level in IRIS} | {
        "red": _painted((150, 24, 34), "M16 13L18 7L20 13L18 19Z")
    }
    return {level: EYE_BIG + _painted(colour, round_) + slit[level] for level, colour in IRIS.items()}


def _lips(colour: tuple[int, int, int], marks: str = "") -> str:
    jaw = "M2 15C12 15 24 17 36 21V24H14C6 23 2 20 2 15Z"
    return FACE + _path("d", "M3 14L36 8V19C24 16 12 14 3 14Z") + _painted(colour, jaw) + marks + _path("o", jaw)


DRAWN: dict[str, dict[str, str]] = {
    "head_shape_mark": {
        "none": STAMPED + HEAD_LINE,
        "butterfly": CAPPED
        + _path("l", "M14 12C16 5 24 5 25 8C25 11 19 12 14 12ZM14 14C16 21 24 21 25 18C25 15 19 14 14 14Z"),
        "fork": CAPPED
        + _path("l", "M8 12H15C19 8 26 8 31 12V14C26 18 19 18 15 14H8ZM17 13C20 15 25 15 28 13C25 11 20 11 17 13Z"),
        "mask": CAPPED
        + _path("l", "M12 9Q16 6 19 9Q16 12 12 9ZM12 17Q16 20 19 17Q16 14 12 17ZM22 10H28V11.6H22ZM22 14.4H28V16H22Z"),
        "pinched": HEAD
        + _path("d", "M7 13C9 6 14 6 18 11C22 12 26 6 32 10V16C26 20 22 14 18 15C14 20 9 20 7 13Z")
        + HEAD_LINE,
        "branched": CAPPED
        + _path("l", "M7 12H18L25 7L26 8L20 13L26 18L25 19L18 14H7ZM12 12L15 8H17L14 12ZM12 14L15 18H17L14 14Z"),
    },
    "head_hue": _tones({"black_brown": GROUND["black"], **HUES}, HEAD_SHAPE),
    "eye_color": _irises(),
    "eye_form": {
        "normal": FACE + _oval("d", 15, 12, 3.4, 3.4),
        "bulging": FACE + _oval("d", 15, 9, 6, 6) + _oval("l", 13, 7, 1.5, 1.5),
        "small": FACE + _oval("d", 15, 12, 1.1, 1.1) + _path("o", "M12 14Q15 15.5 18 14"),
    },
    "eye_stripe_edge": {
        "smooth": FACE + _path("d", "M15 8L36 6V9Q26 11 15 12ZM13 15Q26 15 36 13V19H13Z") + EYE,
        "jagged": FACE + _path("d", "M15 7L36 5V8L34 11L31 8L28 12L25 9L22 13L19 9L15 12ZM13 16L36 14V19H13Z") + EYE,
        "clean": FACE + _path("d", "M15 7L36 6V10H15ZM13 15H36V19H13Z") + _path("o", "M15 10.5H36M13 14.5H36") + EYE,
        "broken": FACE + _path("d", "M15 8L36 6V10L15 12ZM13 15L36 14V19H13ZM20 9H23V17H20ZM28 9H31V17H28Z") + EYE,
    },
    "lip_color": {
        "normal": _lips(LIPS["normal"], _box("d", 8, 15, 2, 2) + _box("d", 15, 16, 3, 2) + _box("d", 24, 18, 3, 2)),
        "white": _lips(LIPS["white"]),
        "dark": _lips(LIPS["dark"]),
        "yellow": _lips(LIPS["yellow"]),
    },
    "neck_blush": {
        "none": DARK,
        "slight": DARK + _oval("m", 12, 5, 6, 2.4) + _oval("m", 12, 21, 6, 2.4),
        "strong": DARK + _oval("l", 14, 6, 10, 4) + _oval("l", 14, 20, 10, 4),
    },
    "neck_pattern": {
        "normal": DARK
        + _oval("l", 9, 3, 5, 5)
        + _oval("l", 9, 23, 5, 5)
        + _oval("l", 26, 2, 6, 6)
        + _oval("l", 26, 24, 6, 6),
        "striped": DARK + _box("l", 0, 11, 36, 4),
        "broken": DARK + _specks("l", 3, 23, 9, 1.9),
        "reduced": LIGHT + FRAME + _path("d", "M0 10H6V16H0Z"),
    },
    "dorsal_width": {
        "normal": LIGHT + _box("d", 0, 8, 36, 10) + FRAME,
        "narrow": LIGHT + _box("d", 0, 11.5, 36, 3) + FRAME,
        "wide": LIGHT + _box("d", 0, 3, 36, 20) + FRAME,
    },
    "dorsal_marks": {
        "few": DARK + _oval("l", 8, 13, 3, 2) + _oval("l", 27, 13, 4, 2),
        "none": DARK,
        "many": DARK + "".join(_oval("l", x, 13, 2, 2.4) for x in (4, 10, 16, 22, 28, 34)),
    },
    "lobe_outline": {
        "thin": DARK + _oval("w", 18, 13, 12.8, 9.8) + _oval("m", 18, 13, 11.6, 8.6),
        "none": DARK + _oval("m", 18, 13, 12, 9),
        "strong": DARK + _oval("w", 18, 13, 14, 11) + _oval("m", 18, 13, 10.5, 7.5),
    },
    "lobe_tone": _tones(LOBE, LOBE_SHAPE, DARK),
    "side_white": {
        "none": FLANK + TWO + STEMS,
        "low": FLANK + TWO + STEMS + _path("w", "M0 26V20L5 18L10 20L16 17L22 20L29 18L36 20V26Z"),
        "mid": FLANK + TWO + STEMS + _path("w", "M0 26V14L5 12L10 15L16 11L22 14L29 12L36 14V26Z"),
        "high": FLANK + TWO + _path("w", "M0 26V6L5 4L10 7L16 3L22 6L29 4L36 6V26Z"),
    },
    "ground_speckle": {
        "slight": LIGHT + FRAME + _specks("d", 4, 22, 5, 0.9),
        "clean": LIGHT + FRAME,
        "peppered": LIGHT + FRAME + _specks("d", 2, 24, 34, 0.9),
    },
    "tail_pattern": {
        "normal": _path("d", TAIL) + _oval("l", 6, 13, 3, 4) + _oval("l", 15, 13, 2.4, 3) + _oval("l", 23, 13, 1.8, 2),
        "striped": _path("d", TAIL) + _path("l", "M0 11L36 12.6V13.4L0 15Z"),
        "broken": _path("d", TAIL)
        + _path("l", "M3 9H6V12H3ZM9 14H12V17H9ZM15 10H17V12H15ZM20 13H23V15H20ZM26 12H28V13.5H26Z"),
        "empty": _path("l", TAIL) + _path("o", TAIL),
    },
    "body_hue": _tones(BODY, FULL),
    "yellow_kept": {
        "full": _painted(LOBE["yellow"], "M0 0H18V26H0Z") + _painted(LOBE["orange"], "M18 0H36V26H18Z") + FRAME,
        "muted": _painted((188, 172, 132), "M0 0H18V26H0Z") + _painted((170, 142, 112), "M18 0H36V26H18Z") + FRAME,
        "stripped": _painted((190, 190, 190), "M0 0H18V26H0Z") + _painted((128, 128, 128), "M18 0H36V26H18Z") + FRAME,
    },
    "dark_pigment": _tones(GROUND, "M0 0H36V26H30V14A12 11 0 0 0 6 14V26H0Z"),
    "freckles": {
        "none": LIGHT + FRAME,
        "few": LIGHT
        + FRAME
        + "".join(_path("d", f"M{x} {y}l1.6-1.6 1.6 1.6-1.6 1.6z") for x, y in ((6, 8), (17, 17), (27, 7))),
        "many": LIGHT
        + FRAME
        + "".join(_path("d", f"M{(i * 37) % 33} {3 + (i * 17) % 21}l1.5-1.5 1.5 1.5-1.5 1.5z") for i in range(22)),
    },
    "paradox": {
        "none": _lobes(TWO, STEMS),
        "present": _lobes(TWO, STEMS) + _path("w", "M13 0H27L29 9L22 17L14 13Z") + _oval("d", 20, 6, 2, 2),
    },
    "scales": {
        "full": LIGHT
        + FRAME
        + _path("o", "M0 8L8 0M0 16L16 0M0 24L24 0M6 26L32 0M14 26L36 4M22 26L36 12M30 26L36 20")
        + _path("o", "M28 0L36 8M20 0L36 16M12 0L36 24M4 0L30 26M0 4L22 26M0 12L14 26M0 20L6 26"),
        "head": LIGHT
        + FRAME
        + _path("o", "M0 8L8 0M0 16L10 6M0 24L10 14M26 6L32 0M26 14L36 4M24 24L36 12M30 26L36 20")
        + _path("o", "M28 0L36 8M26 8L36 16M26 16L36 24M0 4L10 14M0 12L10 22M0 20L6 26")
        + _oval("o", 18, 13, 6, 8),
        "scaleless": LIGHT + FRAME + _path("o", "M4 9Q18 5 32 9M4 16Q18 12 32 16"),
    },
    "wobble": {
        "none": _path("t", "M18 26V10") + _oval("d", 18, 6, 4, 5),
        "mild": _path("t", "M18 26Q15 20 18 16T18 10")
        + _oval("d", 18, 6, 4, 5)
        + _path("o", "M9 4Q7 7 9 10M27 4Q29 7 27 10"),
        "marked": _path("t", "M18 26C6 22 30 18 20 14C8 10 24 12 20 9")
        + _path("d", "M14 2L24 4L22 11L13 9Z")
        + _path("o", "M8 1Q5 6 8 11M29 1Q32 6 29 11M5 2Q1 6 5 10M32 2Q36 6 32 10"),
    },
    "body_form": {
        "normal": _path("t", "M2 16Q10 8 18 13T34 10"),
        "kinked": _path("t", "M2 16L10 9L14 17L20 8L24 15L34 10"),
        "duck_billed": FACE.replace("M2 16C4 9 12 5 22 5", "M1 16C1 13 4 12 12 12C14 6 18 5 22 5").replace(
            "C7 22 3 20 2 16", "C10 22 1 19 1 16"
        )
        + EYE,
    },
    "lobe_attach": {
        "attached": _lobes(TWO, STEMS),
        "mixed": _lobes(TWO, _box("l", 6, 12, 5, 9)),
        "floating": _lobes(TWO),
        "absent": FLANK,
    },
    "lobe_shape": {
        "rounded": _lobes(_oval("l", 7, 10, 5, 6) + _oval("l", 18, 10, 5, 6) + _oval("l", 29, 10, 5, 6)),
        "tall": _lobes(_oval("l", 7, 10, 3, 9) + _oval("l", 18, 10, 3, 9) + _oval("l", 29, 10, 3, 9)),
        "joined": _lobes(
            _oval("l", 7, 10, 5, 6) + _oval("l", 18, 10, 5, 6) + _oval("l", 29, 10, 5, 6) + _box("l", 7, 8, 22, 4)
        ),
        "keyhole": _lobes(
            _oval("l", 10, 8, 7, 6) + _oval("l", 27, 8, 7, 6), _path("l", "M7 21L9 10H11L13 21ZM24 21L26 10H28L30 21Z")
        ),
        "broken": _lobes(
            _path("l", "M4 6H9V12H4ZM7 14H12V18H7ZM15 4H20V9H15ZM22 11H26V17H22ZM28 5H33V8H28ZM14 13H18V16H14Z")
        ),
        "absent": FLANK,
    },
    "lobe_spots": {
        "two": _spotted((13, 13), (23, 13)),
        "none": _spotted(),
        "one": _spotted((18, 13)),
        "many": _spotted((11, 12), (16, 9), (21, 16), (25, 11), (16, 17)),
    },
    "flank_flames": {"none": FLANK, "some": _flames(6, 4), "strong": _flames(14, 5)},
    "belly_edge": {
        "plain": TOP + _box("l", 0, 12, 36, 14) + _path("d", "M0 12Q9 15 18 12T36 12V11H0Z"),
        "flecked": TOP + _box("l", 0, 12, 36, 14) + _specks("d", 14, 20, 9),
        "jagged": TOP
        + _box("l", 0, 12, 36, 14)
        + _path("d", "M0 11L4 19L8 12L13 20L17 12L22 18L26 12L31 20L36 12V11Z"),
        "clean": TOP + _box("l", 0, 12, 36, 14),
    },
    "belly_marks": {
        "normal": LIGHT + FRAME + _specks("d", 3, 6, 6) + _specks("d", 20, 23, 6),
        "none": LIGHT + FRAME,
        "checkered": _box("d", 0, 0, 36, 12) + _box("l", 0, 12, 36, 14) + _checks(),
        "tracks": LIGHT + FRAME + "".join(_box("d", x, y, 4, 2.6) for x in (3, 11, 19, 27) for y in (7, 16)),
        "flecked": LIGHT + FRAME + _specks("d", 3, 23, 22),
    },
    "belly_color": _tones(BELLY, FULL) | {"clear": FRAME + _path("o", "M5 21L12 5M12 21L19 5")},
    "dorsal_stripe": {
        "none": _back(_path("l", "M5 11L9 10L8 15ZM24 12L29 11L27 16Z")),
        "partial": _back(_box("l", 2, 11, 15, 4)),
        "chain": _back("".join(_oval("l", x, 13, 4, 3) for x in (5, 14, 23, 32))),
        "full": _back(_box("l", 0, 11, 36, 4)),
    },
    "dorsal_tone": {
        "normal": _box("l", 0, 0, 36, 26) + _box("m", 0, 8, 36, 10) + FRAME,
        "dark": _box("l", 0, 0, 36, 26) + _box("d", 0, 8, 36, 10) + FRAME,
        "light": DARK + _box("l", 0, 8, 36, 10),
    },
    "banding": {
        "normal": _box("d", 0, 0, 36, 26) + _oval("l", 8, 26, 5, 8) + _oval("l", 27, 0, 5, 8),
        "some": DARK + _box("l", 6, 0, 5, 26) + _oval("l", 26, 26, 5, 8),
        "strong": DARK + "".join(_box("l", x, 0, 5, 26) for x in (4, 15, 26)),
        "zigzag": DARK + _path("l", "M4 0L10 9L4 17L10 26H15L9 17L15 9L9 0ZM22 0L28 9L22 17L28 26H33L27 17L33 9L27 0Z"),
    },
    "flank_lines": {
        "none": FLANK + TWO,
        "web": LIGHT + FRAME + _path("o", "M5 4L8 22M13 3Q11 12 15 23M21 4L19 22M29 3Q32 12 28 23M6 12H14M20 14H29"),
        "pin": LIGHT + FRAME + _path("o", "M1 8Q10 6 18 8T35 8M1 18Q10 20 18 18T35 18"),
        "lateral": DARK + _box("l", 0, 6, 36, 4) + _box("l", 0, 16, 36, 4),
        "double": LIGHT + FRAME + _path("o", "M1 8Q10 6 18 8T35 8M8 8L7 22M17 8L19 22M27 8L25 22"),
    },
    "flank_blush": {
        "slight": FLANK + TWO + _oval("m", 18, 15, 2, 3),
        "none": FLANK + TWO,
        "strong": FLANK + TWO + _oval("m", 18, 11, 3, 7) + _oval("m", 1, 11, 3, 7) + _oval("m", 35, 11, 3, 7),
    },
    "pattern_amount": {
        "normal": _lobes(TWO, STEMS),
        "reduced": LIGHT + FRAME + _path("d", "M0 0H36V4H22L20 12L16 12L14 4H0ZM4 10H8V17H4ZM28 11H32V17H28Z"),
        "strong_reduced": LIGHT + FRAME + _path("d", "M0 3Q18 7 36 3V5Q18 9 0 5ZM10 13H13V16H10ZM25 12H28V15H25Z"),
        "patternless": LIGHT + FRAME,
        "busy": DARK + _specks("l", 2, 24, 20, 2.1),
    },
    "pattern_order": {
        "ordinary": _lobes(_oval("l", 7, 9, 5, 5) + _oval("l", 20, 11, 6, 7) + _oval("l", 31, 8, 3, 4)),
        "uniform": _lobes("".join(_oval("l", x, 10, 4, 6) for x in (5, 14, 23, 32))),
        "scrambled": DARK
        + _path(
            "l", "M2 3L10 6L6 12L13 16L5 22L2 15ZM15 2L22 5L17 10ZM20 12L28 8L25 18L33 21L22 24L18 18ZM29 2L34 6L31 11Z"
        ),
        "granite": LIGHT + FRAME + _specks("d", 2, 24, 40, 1.3),
    },
    "head_stamp": {
        "normal": HEAD + _path("d", "M9 13C11 8 17 6 24 7L31 9V17L24 19C17 20 11 18 9 13Z") + HEAD_LINE,
        "busy": HEAD
        + _path("d", "M9 13C11 8 17 6 24 7L31 9V17L24 19C17 20 11 18 9 13Z")
        + _oval("l", 17, 11, 2, 1.4)
        + _oval("l", 23, 15, 2, 1.4)
        + _oval("l", 26, 10, 1.4, 1.2)
        + HEAD_LINE,
        "reduced": HEAD + _oval("d", 15, 12, 2, 1.6) + _oval("d", 22, 15, 2.4, 1.4) + HEAD_LINE,
        "washed_out": HEAD + _path("m", "M9 13C11 8 17 6 24 7L31 9V17L24 19C17 20 11 18 9 13Z") + HEAD_LINE,
        "wiped": HEAD + HEAD_LINE,
        "solid_dark": HEAD.replace('"l"', '"d"'),
    },
    "head_lightness": {
        "same": _box("m", 18, 8, 18, 10)
        + _oval("m", 12, 13, 10, 8)
        + _path("o", "M22 8H36M22 18H36")
        + _path("o", "M2 13A10 8 0 1 1 22 13A10 8 0 1 1 2 13"),
        "lighter": _box("m", 18, 8, 18, 10)
        + _oval("l", 12, 13, 10, 8)
        + _path("o", "M2 13A10 8 0 1 1 22 13A10 8 0 1 1 2 13"),
        "darker": _box("m", 18, 8, 18, 10) + _oval("d", 12, 13, 10, 8),
        "white": _box("d", 18, 8, 18, 10)
        + _oval("l", 12, 13, 10, 8)
        + _path("o", "M2 13A10 8 0 1 1 22 13A10 8 0 1 1 2 13"),
    },
    "head_blush": {
        "none": HEAD.replace('"l"', '"d"'),
        "slight": HEAD.replace('"l"', '"d"') + _oval("m", 19, 13, 4, 2.5),
        "strong": HEAD.replace('"l"', '"d"') + _oval("l", 19, 13, 8, 4.5),
    },
    "eye_stripe_width": {
        "normal": FACE + _path("d", "M16 9L36 8V11L16 14ZM15 16L36 17V19L12 17Z") + EYE,
        "thin": FACE + _path("d", "M16 9L36 8V13L16 13ZM15 15L36 15V19L12 17Z") + EYE,
        "missing": FACE + _path("d", "M16 9L36 8V19L12 17Z") + EYE,
        "wide": FACE + _path("d", "M16 9L36 7V8L16 11ZM14 18L36 20V21L12 19Z") + EYE,
    },
    "lightness": {
        "normal": _hatched(6),
        "darker": _hatched(3.4),
        "very_dark": DARK,
        "lighter": _hatched(11),
        "very_light": LIGHT + FRAME,
    },
    "contrast": {
        "normal": _box("m", 0, 0, 18, 26) + _box("d", 18, 0, 18, 26),
        "low": _hatched(4),
        "high": _box("l", 0, 0, 18, 26) + _box("d", 18, 0, 18, 26) + FRAME,
    },
    "white_share": {
        "none": FLANK + TWO,
        "low": FLANK + TWO + _box("w", 14, 0, 7, 26) + FRAME,
        "mid": FLANK + TWO + _box("w", 9, 0, 18, 26) + FRAME,
        "high": FLANK + TWO + _box("w", 6, 0, 30, 26) + FRAME,
        "all": _box("w", 0, 0, 36, 26) + FRAME,
    },
    "white_layout": {
        "none": FLANK + TWO,
        "saddles": _box("w", 0, 0, 36, 26) + _path("d", "M3 0H14L12 14L9 20L5 14ZM22 0H34L32 13L28 21L24 12Z") + FRAME,
        "sides": DARK + _path("w", "M0 26V14L8 11L16 15L25 10L36 14V26Z") + FRAME,
        "splash": DARK + _path("w", "M5 5L13 3L15 10L8 13ZM20 14L30 11L32 20L23 23Z") + FRAME,
        "yellow_marks": _box("w", 0, 0, 36, 26) + _oval("m", 11, 9, 4, 3) + _oval("m", 25, 17, 5, 3) + FRAME,
        "whole": _box("w", 0, 0, 36, 26) + FRAME,
    },
    "saddle_edge": {
        "none": FLANK + TWO,
        "smooth": _box("w", 0, 0, 36, 26) + _path("d", "M9 0H27Q29 10 25 20Q18 25 11 20Q7 10 9 0Z") + FRAME,
        "jagged": _box("w", 0, 0, 36, 26)
        + _path("d", "M9 0H27L30 4L26 7L30 11L25 13L28 18L22 17L20 23L16 17L10 20L12 14L6 12L11 8L6 4Z")
        + FRAME,
    },
    "saddle_black": {
        "none": _box("w", 0, 0, 36, 26) + _path("m", "M9 0H27Q29 10 25 20Q18 25 11 20Q7 10 9 0Z") + FRAME,
        "present": _box("w", 0, 0, 36, 26)
        + _path("m", "M13 0H25Q27 8 23 16Q18 20 14 16Q11 8 13 0Z")
        + _path("d", "M5 3L8 8L6 14L3 9ZM30 5L33 10L29 15L28 9ZM15 21L21 22L19 25L14 24Z")
        + FRAME,
    },
    "snout_spots": {
        "none": HEAD + EYE,
        "present": HEAD + EYE + _oval("w", 27, 10, 2.2, 1.8) + _oval("w", 27, 16, 2.2, 1.8),
    },
    "red_spots": {
        "none": _lobes(TWO, STEMS),
        "present": _lobes(TWO, STEMS) + "".join(_painted((168, 72, 48), f"M{x} 20h3v3h-3z") for x in (3, 12, 19, 29)),
    },
    "ringer": {
        "none": _path("d", "M0 6L36 11V15L0 20Z"),
        "partial": _path("d", "M0 6L36 11V15L0 20Z") + _path("w", "M14 13H20V17.5L14 18.2Z"),
        "full": _path("d", "M0 6L36 11V15L0 20Z") + _path("w", "M13 7.8L20 8.8V17.2L13 18.2Z"),
    },
}
CANT_SEE = _path("o", "M6 11Q18 21 30 11M10 14L7 18M15 16.5L14 20.5M21 16.5L22 20.5M26 14L29 18")


COLOURED = frozenset(
    {"head_hue", "eye_color", "lip_color", "lobe_tone", "belly_color", "body_hue", "yellow_kept", "dark_pigment"}
)
"""Looks whose drawings differ by colour alone: their words must stand beside them."""


def glyph(trait: str, level: str) -> str:
    """The drawing of one level as SVG text; KeyError if there is no such level."""
    inner = CANT_SEE if level == "unseen" else DRAWN[trait][level]
    kind = "glyph eye" if level == "unseen" else "glyph"
    return f'<svg class="{kind}" viewBox="0 0 {WIDTH} {HEIGHT}" aria-hidden="true" focusable="false">{inner}</svg>'
