"""Small pure elements of SVG with a stable order of attributes."""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

import numpy as np

from eyot_core.colour import to_srgb
from eyot_core.drawing.noise import Floats


def element(tag: str, inside: str = "", **attributes: object) -> str:
    """One element; underscores in names stand for hyphens, a trailing one is dropped, ``None`` leaves out."""
    told = "".join(
        f" {name.rstrip('_').replace('_', '-')}={quoteattr(_text(value))}"
        for name, value in attributes.items()
        if value is not None
    )
    return f"<{tag}{told}>{inside}</{tag}>" if inside else f"<{tag}{told}/>"


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
