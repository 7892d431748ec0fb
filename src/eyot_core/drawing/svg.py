"""Small pure elements of SVG with a stable order of attributes."""

from __future__ import annotations

import re
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from eyot_core.colour import to_srgb
from eyot_core.drawing.noise import Floats


def element(tag: str, inside: str = "", **attributes: object) -> str:
    """One element; underscores in names stand for hyphens, a trailing one is dropped, ``None`` leaves out."""
    attribute_text = "".join(
        f" {name.rstrip('_').replace('_', '-')}={quoteattr(_text(value))}"
        for name, value in attributes.items()
        if value is not None
    )
    return f"<{tag}{attribute_text}>{inside}</{tag}>" if inside else f"<{tag}{attribute_text}/>"


def _text(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def path(d: str, **attributes: object) -> str:
    """A path, nothing if it is empty."""
    return element("path", "", d=d, **attributes) if d else ""


def words(text: str, x: float, y: float, **attributes: object) -> str:
    """A line of text."""
    return element("text", escape(text), x=x, y=y, **attributes)


def hexed(colour: Floats) -> str:
    """``#rrggbb`` of a colour in linear light, (3,)."""
    red, green, blue = (int(part) for part in to_srgb(colour))
    return f"#{red:02x}{green:02x}{blue:02x}"


def mixed(first: Floats, second: Floats, share: float) -> Floats:
    """``share`` of the second colour in the first, linear light."""
    return np.asarray(first + (second - first) * share)


def flattened(d: str) -> list[Floats]:
    """The closed figures of a path of absolute M, L, H, V, C and Z as corners, (points, 2) each."""
    figures: list[list[tuple[float, float]]] = []
    for letter, coordinates in re.findall(r"([MLHVCZ])([^MLHVCZ]*)", d):
        numbers = [float(number) for number in re.findall(r"-?[\d.]+", coordinates)]
        if letter == "M":
            figures.append([(numbers[0], numbers[1])])
        elif letter in "HV":
            x, y = figures[-1][-1]
            figures[-1] += [(number, y) if letter == "H" else (x, number) for number in numbers]
        else:
            places = list(zip(numbers[::2], numbers[1::2], strict=True))
            figures[-1] += places if letter == "L" else _curved(figures[-1][-1], places)
    return [np.array(figure) for figure in figures]


def _curved(start: tuple[float, float], places: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points along cubic curves that follow one another, three places each."""
    parts = []
    t = np.linspace(0, 1, 9)[1:, None]
    for at in range(0, len(places), 3):
        first, second, third, last = (np.array(place) for place in (start, *places[at : at + 3]))
        curve = (1 - t) ** 3 * first + 3 * t * (1 - t) ** 2 * second + 3 * t**2 * (1 - t) * third + t**3 * last
        parts += [(float(x), float(y)) for x, y in curve]
        start = places[at + 2]
    return parts
