"""Small words of projects."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import template

from eyot.projects.reckoning import Standing

register = template.Library()


@register.filter
def get(values: Mapping[str, Any], key: str) -> Any:
    """A value by its key; the key itself where there are only words for some."""
    found = values.get(key)
    return key if found is None and all(isinstance(one, str) for one in values.values()) and values else found


@register.filter
def is_due(step: str, standing: Standing) -> bool:
    """Is a step's pairing due now? ``step``: the plan's name for what it holds back."""
    return any(one["keep"]["id"] == step for one in standing.due)


@register.filter
def tenth(tenths: str) -> str:
    """Tenths as a figure with one digit behind the point."""
    return f"{int(tenths) / 10:g}"
