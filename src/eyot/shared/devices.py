"""What a device says of what it sends, perhaps later and perhaps twice: the key of the entry, and when it was entered."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import TypeVar
from uuid import UUID

from django.db import connection, transaction
from django.db.models import Model
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from eyot.shared.refusal import Refused

Row = TypeVar("Row", bound=Model)
KEEPS_AT_MOST = timedelta(days=60)
"""What is said to have waited longer was entered by a clock that was wrong."""
TAKEN = "Something else was sent under this number already. Nothing was changed; enter it once more."
_LOCKS = 2**63


def key_from(text: str) -> UUID | None:
    """The key that a device gave to a change, none where it gave none."""
    try:
        return UUID(text)
    except ValueError:
        return None


def claim(key: UUID | None) -> None:
    """Lets nothing else in under this key until the transaction ends: of two that come at once the second waits, and finds the first."""
    if not connection.in_atomic_block:
        raise transaction.TransactionManagementError("a key is claimed inside the transaction that uses it")
    if key is not None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [key.int % (2 * _LOCKS) - _LOCKS])


def entered_before(model: type[Row], key: UUID, egg: int) -> Row | None:
    """What was entered of an egg under this key already; claims the key. :class:`Refused` where that was something else's."""
    claim(key)
    known = model._base_manager.filter(key=key).first()
    if known is not None and known.egg_id != egg:  # type: ignore[attr-defined]
        raise Refused(TAKEN)
    return known


def entered_at(given: Mapping[str, str], now: datetime) -> datetime:
    """When something was entered: as long before ``now`` as the device says, whatever day its clock shows.

    ``entered`` and ``sent`` are moments of the device's clock; without ``sent`` its clock is taken to be right. Nothing lies ahead.
    """
    entered, sent = _moment(given.get("entered", "")), _moment(given.get("sent", ""))
    age = (sent or now) - entered if entered else timedelta()
    return now - age if timedelta() <= age <= KEEPS_AT_MOST else now


def _moment(text: str) -> datetime | None:
    try:
        moment = parse_datetime(text)
    except ValueError:
        return None
    return moment if moment and timezone.is_aware(moment) else None
