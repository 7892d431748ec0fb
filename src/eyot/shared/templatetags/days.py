"""Days in templates, as the reader's collection writes them."""

from __future__ import annotations

from datetime import date

from django import template
from django.template.defaultfilters import date as formatted

from eyot.shared.units import form_of

register = template.Library()


@register.filter(expects_localtime=True)
def day(value: date | None, pattern: str) -> str:
    """A day or a moment by Django's pattern, given for the day first; empty where there is none."""
    return str(formatted(value, form_of(pattern)))
