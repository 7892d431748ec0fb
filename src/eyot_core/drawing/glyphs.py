"""Small ink drawings of the levels of looks, 36 × 26 units, one idea each. Dark stays dark in both lightings.

Classes: ``d`` dark parts, ``l`` light parts, ``m`` middle tone, ``o`` ink outline without fill. A look without a drawing has words only.
"""

from __future__ import annotations

WIDTH, HEIGHT = 36, 26


def _box(kind: str, x: float, y: float, w: float, h: float) -> str:
    return f'<rect class="{kind}" x="{x:g}" y="{y:g}" width="{w:g}" height="{h:g}"/>'


def _oval(kind: str, x: float, y: float, rx: float, ry: float) -> str:
    return f'<ellipse class="{kind}" cx="{x:g}" cy="{y:g}" rx="{rx:g}" ry="{ry:g}"/>'


def _path(kind: str, d: str) -> str:
    return f'<path class="{kind}" d="{d}"/>'


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

DRAWN: dict[str, dict[str, str]] = {
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
    "belly_color": {
        "white": LIGHT + FRAME,
        "yellow": _box("m", 0, 0, 36, 26),
        "dark": _hatched(3),
        "clear": FRAME + _path("o", "M5 21L12 5M12 21L19 5"),
    },
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
    "ringer": {
        "none": _path("d", "M0 6L36 11V15L0 20Z"),
        "partial": _path("d", "M0 6L36 11V15L0 20Z") + _path("w", "M14 13H20V17.5L14 18.2Z"),
        "full": _path("d", "M0 6L36 11V15L0 20Z") + _path("w", "M13 7.8L20 8.8V17.2L13 18.2Z"),
    },
}
CANT_SEE = _path("o", "M6 11Q18 21 30 11M10 14L7 18M15 16.5L14 20.5M21 16.5L22 20.5M26 14L29 18")


def glyph(trait: str, level: str) -> str:
    """The drawing of one level as SVG text, empty where there is none yet."""
    inner = CANT_SEE if level == "unseen" else DRAWN.get(trait, {}).get(level, "")
    if not inner:
        return ""
    kind = "glyph eye" if level == "unseen" else "glyph"
    return f'<svg class="{kind}" viewBox="0 0 {WIDTH} {HEIGHT}" aria-hidden="true" focusable="false">{inner}</svg>'
