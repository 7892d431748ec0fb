"""Small marks of the reference: bars by stage, shares, and the ids of looks in keepers' words."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from django import template
from django.template import Context
from django.template.loader import render_to_string
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.chances import percent

from eyot.collection.catalogue import catalogue_of
from eyot.collection.drawn import state_of
from eyot.collection.models import Collection
from eyot.reference.looks import StageMark, words_of
from eyot.reference.subjects import STAGE_WORDS

register = template.Library()
LOOK = re.compile(r"\b([a-z_]+)\.([a-z_]+)\b")
BARE = re.compile(r"\b[a-z]+_[a-z_]+\b")
LETTERS = {"egg": "e", "wet": "w", "blue": "b", "shed": "s", "months": "m", "adult": "a"}


@register.filter
def spaced(name: str) -> str:
    """An id as words."""
    return name.replace("_", " ")


@register.filter
def look_name(trait: str) -> str:
    """A look's name in running text."""
    entry = words_of(builtin_catalogue()).get(trait)
    return str(entry["name"]).lower() if entry else spaced(trait)


@register.filter
def in_words(text: str) -> str:
    """A keepers' note with the ids of looks and genes as words: "lobe_tone.brown" becomes "lobe tone brown"."""
    named_looks = LOOK.sub(lambda words: f"{look_name(words[1])} {spaced(words[2])}", text)
    return BARE.sub(lambda words: look_name(words[0]), named_looks)


@register.simple_tag
def share(chance: float) -> str:
    """A share as keepers read it."""
    return percent(float(chance))


@register.simple_tag
def bar(width: int) -> SafeString:
    """A bar of 0 to 100."""
    return format_html(
        '<svg class="bar" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">'
        '<path class="axis" d="M0 9.5H100"/><rect class="thick" y="1" width="{}" height="8"/></svg>',
        width,
    )


@register.simple_tag
def stage_bars(stages: Sequence[StageMark]) -> SafeString:
    """One small bar for each stage, with its letter; words for readers of text."""
    by_stage = "; ".join(f"{mark.stage}: {mark.word or 'nothing'}" for mark in stages)
    bars = format_html_join(
        "",
        '<rect class="thick" x="{}" y="{}" width="8" height="{}"/><text x="{}" y="22">{}</text>',
        ((12 * n, 11 - mark.height, mark.height, 12 * n + 1, LETTERS[mark.stage]) for n, mark in enumerate(stages)),
    )
    return format_html(
        '<svg class="stage-bars" viewBox="0 0 72 24" role="img" aria-label="{}"><path class="axis" d="M0 11.5H70"/>{}</svg>',
        by_stage,
        bars,
    )


@register.simple_tag(takes_context=True)
def kept(context: Context, name: str, page: object, stage: str) -> SafeString:
    """A part of a page that depends on the page's values, the stage and the collection alone: rendered once for each and kept."""
    collection = context["collection"]
    return _rendered(name, page, stage, collection, state_of(catalogue_of(collection)))


@lru_cache(maxsize=600)
def _rendered(name: str, page: object, stage: str, collection: Collection, state: str) -> SafeString:
    """By the collection, whose key stands in every address, and by what its drawings are drawn from."""
    values = {"page": page, "stage": stage, "stage_words": STAGE_WORDS[stage], "collection": collection}
    return render_to_string(name, values)
