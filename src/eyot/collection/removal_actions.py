"""A collection that is to go: asked for, thought over for thirty days, taken back. What then removes it is
:mod:`eyot.safekeeping.removing`."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.collection.history import noted
from eyot.collection.models import Collection, Removal
from eyot.shared.refusal import Refused

DAYS_TO_THINK = 30


@transaction.atomic
def ask_removal(collection: Collection, member: AbstractBaseUser, typed: str, at: datetime) -> Removal:
    """Asks for a collection to be removed, thirty days from now; one that is all made up, at once. :class:`Refused` unless its
    name was typed."""
    if " ".join(typed.split()).casefold() != collection.name.casefold():
        raise Refused(f"Type “{collection.name}” to say that you mean it. Nothing was changed.", field="typed")
    days = 0 if collection.is_demo else DAYS_TO_THINK
    noted(collection, member, at, f"removal asked for, due in {days} days")
    values = {"asked_by_id": member.pk, "asked_at": at, "due_at": at + timedelta(days=days)}
    return Removal.objects.get_or_create(collection=collection, defaults=values)[0]


@transaction.atomic
def keep_collection(collection: Collection, member: AbstractBaseUser, at: datetime) -> None:
    """Takes the removal back. :class:`Refused` where nobody asked for it."""
    if not Removal.objects.filter(collection=collection).delete()[0]:
        raise Refused(f"{collection} is not to be removed. Nothing was changed.")
    noted(collection, member, at, "is kept after all")
