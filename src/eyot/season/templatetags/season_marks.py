"""The signs of the season's timeline."""

from __future__ import annotations

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from eyot.season.timeline import Glyph
from eyot.shared.units import short_day

register = template.Library()
SIGNS = {
    "laid": '<ellipse class="full" rx="5.5" ry="7"/>',
    "to be laid": '<ellipse class="hollow dashed" rx="5.5" ry="7"/>',
    "lock": '<path class="hollow" d="M-3 -7A4 4 0 1 1 0 0A4 4 0 1 1 3 7"/>',
    "cut": '<ellipse class="ground" rx="5.5" ry="7"/><path class="hollow" d="M-3 4L3 -4"/>',
    "out": '<path class="hollow" d="M0 -7V7"/>',
    "blue": '<path class="ground-line" d="M-9 0H9"/><path class="hollow" d="M-9 0Q-6 -5 -3 0T3 0T9 0"/>',
    "shed": '<path class="ground" d="M0 -7L5 0L0 7L-5 0Z"/>',
}


@register.simple_tag
def lower(y: int, by: int) -> int:
    """A place below (or, negative, above)."""
    return y + by


@register.simple_tag
def day_mark(glyph: Glyph, y: int) -> SafeString:
    """One day's sign with its name under it; dashed while it is ahead."""
    sign = mark_safe(SIGNS[glyph.kind])  # noqa: S308  our own constant shapes
    name = "" if glyph.kind == "lock" else glyph.kind
    below = 34 if glyph.kind in ("out", "shed") else 22
    return format_html(
        '<g class="sign{}" transform="translate({} {})"><title>{} {}</title>{}'
        '<text class="small" y="{}" text-anchor="middle">{}</text></g>',
        " ahead" if glyph.ahead else "",
        glyph.x,
        y,
        glyph.kind,
        short_day(glyph.on),
        sign,
        below,
        name,
    )


@register.simple_tag
def egg_mark(x: int, y: int, state: str) -> SafeString:
    """One egg over the line: shut, open with its hatchling, out, slug or dead."""
    inner = {
        "open": '<ellipse class="full" rx="2.4" ry="1.8"/>',
        "wrapped": '<ellipse class="full" rx="2.4" ry="1.8"/>',
        "out": '<path class="hollow" d="M-5 1Q-2.5 -4 0 0T5 -1"/>',
        "slug": '<path class="hollow" d="M-4 -3L4 3"/>',
        "dead": '<path class="hollow" d="M-3 -3L3 3M3 -3L-3 3"/>',
    }.get(state, "")
    shell = "" if state == "out" else '<ellipse class="hollow" rx="6" ry="4.4"/>'
    drawn = mark_safe(shell + inner)  # noqa: S308  our own constant shapes
    frame = '<g class="egg-mark" transform="translate({} {})"><title>{}</title>{}</g>'
    return format_html(frame, x + 7, y - 26, state, drawn)
