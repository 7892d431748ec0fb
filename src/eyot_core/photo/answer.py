"""The JSON forms of a line and a reference, and the answers about strips and measures: what the command line speaks.

docs/formats.md has them with examples.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PIL import Image

from eyot_core.errors import InputError
from eyot_core.parsing import Node, parsed_json
from eyot_core.photo.light import CARDS, Light, NoLight, light_in
from eyot_core.photo.measures import Measured, Missing, Value, measures_of
from eyot_core.photo.outline import NoOutline, Outline, Pixels
from eyot_core.photo.picture import NoPicture, picture_from
from eyot_core.photo.spine import BadLine, Line, line_from
from eyot_core.photo.strip import Strip, strip_of

if TYPE_CHECKING:
    from eyot_core.photo.card import Cards

KINDS = {"grey": "grey card", "white": "white paper"}
OUTLINE_POINTS = 240


def photo_at(path: str) -> Pixels:
    """The upright photo of a file, sRGB (rows, columns, 3); InputError where it can't be read."""
    try:
        with Path(path).open("rb") as file:
            picture = picture_from(file, Path(path).name, Path(path).stat().st_size)
    except OSError as error:
        raise InputError(f"{path} can't be read: {error.strerror or error}", "photo") from error
    if isinstance(picture, NoPicture):
        raise InputError(picture.message, "photo")
    return np.asarray(picture.image)


def line_at(path: str, photo: Pixels) -> Line:
    """The line of a file: ``{"points": [[x, y], …]}``, and ``"from"`` and ``"to"`` where it covers a part of the body."""
    node = _document(path, "line").object(["points"], ("points", "from", "to"))
    points = [_numbers(point, 2) for point in node.child("points").entries()]
    start, end = (
        node.child(key).number(0, 1) if node.has(key) else default for key, default in (("from", 0.0), ("to", 1.0))
    )
    line = line_from(np.array(points).reshape(-1, 2), photo.shape[1], photo.shape[0], start, end)
    if isinstance(line, BadLine):
        raise InputError(line.reason, "points" if line.at is None else f"points[{line.at}]")
    return line


def light_from(path: str, photo: Pixels) -> Light:
    """The light that a reference gives: ``{"kind": "grey"|"white", "box": [x0, y0, x1, y1], "reflectance": 0.18}``."""
    node = _document(path, "reference").object(["kind", "box"], ("kind", "box", "reflectance"))
    card = KINDS[node.child("kind").choice(KINDS)]
    reflectance = node.child("reflectance").number(0.01, 1.0) if node.has("reflectance") else CARDS[card]
    left, top, right, bottom = _numbers(node.child("box"), 4)
    if right <= left or bottom <= top:
        raise InputError("the box must run from its left and upper edge to its right and lower one", "box")
    light = light_in(photo, (left, top, right, bottom), card, reflectance)
    if isinstance(light, NoLight):
        raise InputError(light.reason, "box")
    return light


def strip_answer(photo: Pixels, line: Line, light: Light | None, out: str) -> dict[str, Any]:
    """Writes the strip as a PNG (what doesn't show is transparent) and says what it is."""
    strip, outline = _strip(photo, line, light)
    try:
        Image.fromarray(strip.picture()).save(out, format="PNG")
    except OSError as error:
        raise InputError(f"{out} can't be written: {error.strerror or error}", "out") from error
    return {
        "width": strip.seen.shape[1],
        "height": strip.seen.shape[0],
        "from": strip.start,
        "to": strip.end,
        "v": [float(strip.v[0]), float(strip.v[-1])],
        "shown": round(strip.shown_share, 4),
        "light": light.card if light else None,
        "outline": outline_document(outline),
    }


def measure_answer(photo: Pixels, line: Line, light: Light | None) -> dict[str, Any]:
    """Every measure, as ``{"value": …, "sd": …}`` or ``{"missing": reason}``."""
    return measured_document(measures_of(_strip(photo, line, light)[0]))


def find_answer(photo: Pixels, card: tuple[float, ...] | None) -> dict[str, Any]:
    """The line found along an animal's back, snout first, how sure that is, and why. ``card``: the box of a reference, which is no
    animal."""
    from eyot_core.photo.find import find_animal
    from eyot_core.photo.sight import Sight

    found = find_animal(Sight.of(photo, [tuple(round(value) for value in card)] if card else []))  # type: ignore[list-item]
    points = None if found.points is None else [[round(float(x), 1), round(float(y), 1)] for x, y in found.points]
    line = None if points is None else {"points": points}
    return {"line": line, "confidence": round(found.confidence, 3), "why": found.why}


def card_answer(photo: Pixels) -> dict[str, Any]:
    """The cards seen in a photo; with ``why`` where something was seen and not used, or nothing."""
    from eyot_core.photo.card import find_cards

    return card_document(find_cards(photo))


def card_document(found: Cards) -> dict[str, Any]:
    """The JSON form of the cards that were found."""
    cards = [
        {
            "id": card.id or None,
            "corners": [[round(float(x), 1), round(float(y), 1)] for x, y in card.corners],
            "mm_per_pixel": round(card.mm_per_pixel, 5),
            "slant": round(card.slant, 1),
            "reference": {"kind": card.kind, "box": list(card.window)}
            if card.kind in ("grey", "white") and card.window
            else None,
        }
        | ({"printed_grey": list(card.window)} if card.kind == "printed" and card.window else {})
        | ({"uncut": True} if card.uncut else {})
        for card in found.cards
    ]
    return {"cards": cards} | ({"why": found.why} if found.why else {})


def box_at(path: str) -> tuple[float, ...]:
    """The box of a reference's file, in pixels: left, top, right, bottom."""
    node = _document(path, "reference").object(["kind", "box"], ("kind", "box", "reflectance"))
    return _numbers(node.child("box"), 4)


def measured_document(measured: Measured) -> dict[str, Any]:
    """The JSON form of measures."""
    return {
        name: {"missing": value.reason}
        if isinstance(value, Missing)
        else {"value": _rounded(value.value), "sd": _rounded(value.sd)}
        for name, value in measured.items()
    }


def _strip(photo: Pixels, line: Line, light: Light | None) -> tuple[Strip, Outline]:
    strip = strip_of(photo, line, light)
    if isinstance(strip, NoOutline):
        raise InputError(strip.reason, "points")
    return strip


def outline_document(outline: Outline) -> list[list[float]]:
    """The outline as a closed line of points [x, y] in pixels of the photo as it was given, thinned out."""
    polygon = (outline.polygon + 0.5) / outline.scale - 0.5 if outline.scale < 1 else outline.polygon
    half = len(polygon) // 2
    keep = np.unique(np.round(np.linspace(0, half - 1, OUTLINE_POINTS // 2)).astype(int))
    return [[round(float(x), 1), round(float(y), 1)] for x, y in polygon[np.concatenate([keep, keep + half])]]


def measured_from(document: dict[str, Any]) -> Measured:
    """Measures read back from their JSON form."""
    return {
        name: Missing(value["missing"])
        if "missing" in value
        else Value(
            *(tuple(value[key]) if isinstance(value[key], list) else float(value[key]) for key in ("value", "sd"))
        )
        for name, value in document.items()
    }


def _rounded(value: float | tuple[float, ...]) -> float | list[float]:
    return [round(number, 4) for number in value] if isinstance(value, tuple) else round(value, 4)


def _document(path: str, what: str) -> Node:
    try:
        return Node(parsed_json(Path(path).read_bytes()))
    except OSError as error:
        raise InputError(f"{path} can't be read: {error.strerror or error}", what) from error


def _numbers(node: Node, count: int) -> tuple[float, ...]:
    numbers = tuple(child.number() for child in node.entries())
    if len(numbers) != count:
        raise InputError(f"must have {count} numbers, has {len(numbers)}", node.at)
    return numbers
