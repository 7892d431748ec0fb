"""Shares and intervals of practice."""

from __future__ import annotations

from collections.abc import Sequence

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from eyot_core.wording.chances import percent

from eyot.practice.solution import WORDS

register = template.Library()


@register.filter
def called(word: str) -> str:
    """A word for how sure one is, as pages have it."""
    return WORDS[word]


@register.filter
def share(value: float) -> str:
    """A share as keepers read it."""
    return percent(float(value))


@register.filter
def spaced(name: str) -> str:
    """An id as words."""
    return name.replace("_", " ")


@register.filter
def hundredths(value: float) -> str:
    """A loss of at most 1 as a whole number of 100."""
    return f"{100 * value:.0f}"


@register.simple_tag
def interval(value: float, bounds: Sequence[float]) -> SafeString:
    """A share with the interval that it lies in, as a bar and in words."""
    low, high = bounds
    return format_html(
        '<span class="share-bar"><svg viewBox="0 0 100 12" width="100" height="12" aria-hidden="true"><path d="M0 6H100" class="axis"/>'
        '<rect x="{}" y="3" width="{}" height="6" class="within"/><circle cx="{}" cy="6" r="4"/></svg> <b>{}</b> '
        '<span class="fine">{} to {}</span></span>',
        round(100 * low),
        max(1, round(100 * (high - low))),
        round(100 * value),
        percent(value),
        percent(low),
        percent(high),
    )
