"""Hatchlings chosen and put in order, and written as a table."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.core.paginator import Page, Paginator
from django.http import QueryDict

from eyot_core.wording.names import Naming

from eyot.homes.models import Fate
from eyot.homes.standing import Kept
from eyot.shared.money import NoAmount, amount

DECIDE, HERE, READY, DIED = "decide", "here", "ready", "died"
STATES = (
    (HERE, "all that are here"),
    (DECIDE, "to be decided"),
    (READY, "ready to go"),
    *((state, label) for state, label in Fate.State.choices if state != Fate.State.OPEN),
    (DIED, "died"),
)
SORTS = (("clutch", "clutch"), ("ready", "ready first"), ("price", "price"), ("weight", "weight"), ("label", "label"))
NO_PRICE = Decimal(10**12)


@dataclass(frozen=True)
class Asked:
    """What of them is to be seen, and in which order. ``trouble``: what was asked and can't be read, in a sentence."""

    state: str = HERE
    gene: str = ""
    sex: str = ""
    clutch: str = ""
    price: Decimal | None = None
    ready: bool = False
    sort: str = "clutch"
    trouble: str = ""

    @staticmethod
    def of(query: Mapping[str, Any], currency: str, state: str = HERE) -> Asked:
        """From an address; what is not known there is as if it were not asked."""
        trouble, price = "", None
        try:
            price = amount(str(query.get("price", "")), currency)
        except NoAmount as reason:
            trouble = f"{reason} All prices are shown."
        return Asked(
            _one_of(str(query.get("state", "")), STATES, state),
            str(query.get("gene", "")),
            str(query.get("sex", "")),
            str(query.get("clutch", "")).strip(),
            price,
            bool(query.get("ready")),
            _one_of(str(query.get("sort", "")), SORTS, "clutch"),
            trouble,
        )


def _one_of(asked: str, choices: Sequence[tuple[str, str]], otherwise: str) -> str:
    return asked if asked in dict(choices) else otherwise


def _is_in(row: Kept, state: str) -> bool:
    if row.egg.clutch.elsewhere and row.fate is None:
        return False  # kept for itself: it has a home unless somebody says otherwise
    if state == DIED:
        return row.died
    if row.died:
        return False
    if state == HERE:
        return row.is_here
    if state == DECIDE:
        return row.state == Fate.State.OPEN
    if state == READY:
        return row.is_here and row.is_ready
    return row.state == state


ORDERS: dict[str, Callable[[Kept], Any]] = {
    "ready": lambda row: (not row.is_ready, len(row.lacks) + bool(row.ailing)),
    "price": lambda row: row.price if row.price is not None else NO_PRICE,
    "weight": lambda row: -(row.weight.grams if row.weight else 0),
    "label": lambda row: (not row.label, row.label.lower()),
}


def shown(rows: Sequence[Kept], asked: Asked) -> list[Kept]:
    """Those that are asked for, in the order that is asked for; of one clutch in the order of their eggs."""
    some = [
        row
        for row in rows
        if _is_in(row, asked.state)
        and (not asked.gene or asked.gene in row.genes)
        and (not asked.sex or row.egg.sex == asked.sex)
        and row.egg.clutch.code.lower().startswith(asked.clutch.lower())
        and (row.is_ready or not asked.ready)
        and (asked.price is None or (row.price is not None and row.price <= asked.price))
    ]
    return sorted(some, key=ORDERS[asked.sort]) if asked.sort in ORDERS else some


def genes_in(rows: Sequence[Kept], naming: Naming) -> list[tuple[str, str]]:
    """The genes that any of them is called to have, with their names."""
    genes = {gene for row in rows for gene in row.genes if gene in naming.catalogue.genes}
    return sorted(((gene, naming.gene(gene)) for gene in genes), key=lambda pair: pair[1].lower())


PAGE = 100


def page_of(rows: Sequence[Kept], query: Mapping[str, Any]) -> Page[Kept]:
    """One page of many rows, as an address asks for it: the first where it asks for none that is there."""
    return Paginator(list(rows), PAGE).get_page(query.get("page"))


def without_page(query: QueryDict) -> str:
    """What an address asks for, but for the page."""
    asked = query.copy()
    asked.pop("page", None)
    return asked.urlencode()


COLUMNS = ("id", "label", "sex", "hatched", "parents", "grams", "meals", "sheds", "ready", "state", "price", "currency")


def cells(row: Kept) -> tuple[str, ...]:
    """One hatchling as cells of a table."""
    egg = row.egg
    return (
        row.name,
        row.label,
        f"{egg.sex}{'' if egg.sex_sure else '?'}" if egg.sex else "",
        hatched(row),
        parents(row),
        f"{row.weight.grams:g}" if row.weight else "",
        str(len(row.meals)),
        str(row.sheds),
        "ready" if row.is_ready else row.not_yet,
        row.state_words,
        "" if row.price is None else f"{row.price.normalize():f}",
        row.collection.currency,
    )


def hatched(row: Kept) -> str:
    """The day on which it left the egg, or the animal's."""
    day = row.egg.out_on or (row.egg.kept_as.hatched_on if row.egg.kept_as else None)
    return day.isoformat() if day else ""


def parents(row: Kept) -> str:
    """Dam × sire, as far as they are told."""
    clutch = row.egg.clutch
    if clutch.elsewhere:
        return ""
    return f"{clutch.own_dam.name} × {clutch.sire_words}"
