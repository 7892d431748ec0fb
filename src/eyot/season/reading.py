"""What is typed on forms, as values; what can't be read is refused with the field's name."""

from __future__ import annotations

from datetime import date, datetime
from uuid import UUID

from eyot.collection.models import Animal, Collection
from eyot.shared.refusal import Refused

DAYS = ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y")


def animal_named(collection: Collection, name: str, field: str) -> Animal | None:
    """An animal of the collection by its name or ID, none for an empty text."""
    wanted = " ".join(name.split())
    if not wanted:
        return None
    found = collection.animals.filter(name__iexact=wanted).first() or collection.animals.filter(code=wanted).first()
    if found is None:
        raise Refused(f"{field}: there is no animal “{wanted}” here. Nothing was changed.")
    return found


def day_from(text: str, field: str) -> date | None:
    """A day, none for an empty text."""
    wanted = text.strip()
    if not wanted:
        return None
    for form in DAYS:
        try:
            return datetime.strptime(wanted, form).date()  # noqa: DTZ007  a day, not a moment
        except ValueError:
            continue
    raise Refused(f"{field}: “{wanted}” is not a day; write it as 2026-05-31. Nothing was changed.")


def number_from(text: str, field: str) -> int:
    """A whole number, 0 for an empty text."""
    wanted = text.strip()
    if wanted and not (wanted.isdecimal() and len(wanted) < 5):
        raise Refused(f"{field}: “{wanted}” is not a number. Nothing was changed.")
    return int(wanted or 0)


def grams_from(text: str) -> float:
    """A weight in grams; a decimal comma is understood."""
    try:
        return float(text.strip().lower().removesuffix("g").strip().replace(",", "."))
    except ValueError:
        raise Refused(f"Weight: “{text}” is not a number of grams. Nothing was changed.") from None


def key_from(text: str) -> UUID | None:
    """The key that a device gave to a change, none where it gave none."""
    try:
        return UUID(text)
    except ValueError:
        return None
