"""Rows of looks, and boxes of eggs. One row of looks is drawn from its values alone, so the same row is drawn once and kept."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from eyot.bench.look_rows import LookRow
from eyot.bench.season_box import boxes_of
from eyot.season.models import Clutch

register = template.Library()


@register.simple_tag
def look_row(row: LookRow) -> SafeString:
    """One look with its levels to choose from."""
    return _drawn(row)


@lru_cache(maxsize=4096)
def _drawn(row: LookRow) -> SafeString:
    return render_to_string("bench/parts/look.html", {"row": row})


@register.inclusion_tag("bench/parts/boxes.html")
def boxes(clutches: Sequence[Clutch]) -> dict[str, object]:
    """The clutches of a season with their eggs as they lie."""
    return {"boxes": boxes_of(clutches)}
