"""Prices as they are written."""

from __future__ import annotations

from datetime import date

from django import template
from django.utils import timezone

from eyot_core.wording.promise import Held, Wording

from eyot.homes.standing import Kept
from eyot.shared import money as amounts
from eyot.shared.units import long_day

LONG_DAYS = 60
register = template.Library()


@register.simple_tag
def money(row: Kept) -> str:
    """What a hatchling costs, in the collection's currency; a dash where nothing is said."""
    return amounts.money(row.price, row.collection.currency) or "–"


@register.simple_tag
def ago(day: date) -> str:
    """How long ago a day was, in words; with its date where that is long."""
    days = (timezone.localdate() - day).days
    if days > LONG_DAYS:
        return long_day(day)
    return "today" if days == 0 else "yesterday" if days == 1 else f"{days} days ago"


@register.filter
def groups(wording: Wording) -> list[tuple[str, tuple[Held, ...]]]:
    """Its genes by how surely each is known, with a word for each."""
    return [("sure", wording.sure), ("likely", wording.likely), ("possible", wording.possible)]


@register.simple_tag
def paid(row: Kept) -> str:
    """What it was sold for; empty where nothing is said."""
    return amounts.money(row.fate.price, row.collection.currency) if row.fate else ""
