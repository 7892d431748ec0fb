"""What was typed becomes what is meant: decisions and prices."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from eyot.collection.models import Collection
from eyot.homes.actions import Decision
from eyot.shared.money import NoAmount, amount
from eyot.shared.refusal import Refused


def price_in(text: str, collection: Collection, stands: str = "Nothing was changed.") -> Decimal | None:
    """A price in the collection's currency. :class:`Refused` where it is none."""
    try:
        return amount(text, collection.currency)
    except NoAmount as reason:
        raise Refused(f"{reason} {stands}", field="price") from None


def decision_in(values: dict[str, Any], collection: Collection) -> Decision:
    """What becomes of a hatchling, as it was entered."""
    return Decision(**{**values, "price": price_in(values["price"], collection)})
