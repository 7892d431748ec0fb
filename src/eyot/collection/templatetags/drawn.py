"""Where a page finds a drawing."""

from __future__ import annotations

from django import template
from django.template import Context

from eyot.collection.drawn import drawing_address

register = template.Library()


@register.simple_tag(takes_context=True)
def drawn_at(context: Context, name: str, *args: object, stage: str = "shed") -> str:
    """The address of a drawing as the reader's collection sees it."""
    return drawing_address(context["collection"], name, *args, stage=stage)
