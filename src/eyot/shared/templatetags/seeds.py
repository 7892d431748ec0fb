"""Seeds: ● one copy, ●● two, ○ carried and not shown, dashed where possible. Shapes with words beside them."""

from __future__ import annotations

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from eyot_core.drawing.glyphs import glyph

register = template.Library()
SHAPES = {
    "one": '<ellipse class="full" cx="7" cy="7" rx="4.4" ry="5.8" transform="rotate(18 7 7)"/>',
    "carried": '<ellipse class="hollow" cx="7" cy="7" rx="4" ry="5.4" transform="rotate(18 7 7)"/>',
    "doubt": '<ellipse class="hollow dashed" cx="7" cy="7" rx="4.4" ry="5.6" transform="rotate(18 7 7)"/>',
    "none": '<path class="hollow" d="M2 7H12"/>',
    "unlooked": '<circle class="full" cx="7" cy="7" r="1.2"/>',
}


@register.simple_tag
def seed(kind: str, words: str = "") -> SafeString:
    """One mark with its words for readers of text."""
    wide = kind == "two"
    inner = (
        SHAPES["one"] + SHAPES["one"].replace('cx="7"', 'cx="18"').replace("18 7 7", "18 18 7")
        if wide
        else SHAPES[kind]
    )
    drawn = mark_safe(inner)  # noqa: S308  our own constant shapes
    return format_html(
        '<svg class="seed" viewBox="0 0 {} 14" role="img" aria-label="{}">{}</svg>',
        25 if wide else 14,
        words or kind,
        drawn,
    )


@register.simple_tag
def drawing(svg: str) -> SafeString:
    """A drawing that the core made."""
    return mark_safe(svg)  # noqa: S308  drawn by eyot_core from constants


@register.simple_tag
def cant_see() -> SafeString:
    """An eye closed: can't see."""
    return mark_safe(glyph("", "unseen"))  # noqa: S308  drawn by eyot_core from constants
