"""What went out with words on it, so that a call that changes later says where its old words still stand."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot.collection.models import Collection
from eyot.homes.models import Issued
from eyot.homes.standing import Kept
from eyot.shared.refusal import Refused


def issue(rows: Sequence[Kept], kind: str, member: AbstractBaseUser, at: datetime) -> None:
    """Keeps that labels went out; what stood so already is kept once. What the same kind said before is dealt with by that."""
    for row in rows:
        same = [one for one in row.egg.issued.all() if one.kind == kind and one.settled_at is None]
        old = [one for one in same if one.call_id != (row.call.pk if row.call else None)]
        if kind != Issued.Kind.PAPER and old:
            Issued.objects.filter(pk__in=[one.pk for one in old]).update(settled_at=at)
        if len(old) == len(same) or not any(one.text == row.label[:300] for one in same):
            Issued.objects.create(egg=row.egg, kind=kind, call=row.call, text=row.label[:300], by_id=member.pk, at=at)


def dealt_with(collection: Collection, number: int, at: datetime) -> Issued:
    """A member says that old words are dealt with. :class:`Refused` for what is not here."""
    row = Issued.objects.filter(egg__clutch__collection=collection, pk=number).select_related("egg__clutch").first()
    if row is None:
        raise Refused("That is not here. Nothing was changed.")
    if row.settled_at is None:
        row.settled_at = at
        row.save(update_fields=["settled_at"])
    return row
