"""A collection or an account that is to go: asked for, thought over for thirty days, taken back. What then removes it is
:mod:`eyot.safekeeping.removing`."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.collection.history import noted
from eyot.collection.member_actions import is_last_owner
from eyot.collection.models import Collection, Removal, Role
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
    return Removal.objects.get_or_create(
        collection=collection, defaults=_asked(member, at) | {"due_at": at + timedelta(days=days)}
    )[0]


@transaction.atomic
def keep_collection(collection: Collection, member: AbstractBaseUser, at: datetime) -> None:
    """Takes the removal back. :class:`Refused` where nobody asked for it."""
    if not Removal.objects.filter(collection=collection).delete()[0]:
        raise Refused(f"{collection} is not to be removed. Nothing was changed.")
    noted(collection, member, at, "is kept after all")


@transaction.atomic
def ask_account_removal(user: AbstractBaseUser, password: str, at: datetime) -> Removal:
    """Asks for one's own account to be removed, thirty days from now. :class:`Refused` for a wrong password, and for the only
    owner of a collection."""
    if not user.check_password(password):
        raise Refused("That is not your password. Nothing was changed.", field="password")
    for one in user.memberships.filter(role=Role.OWNER).select_related("collection"):  # type: ignore[attr-defined]
        if is_last_owner(one) and not Removal.objects.filter(collection=one.collection_id).exists():
            raise Refused(
                f"You are the only owner of {one.collection}: make somebody else an owner, or have it removed first. "
                "Nothing was changed.",
            )
    return Removal.objects.get_or_create(user_id=user.pk, defaults=_asked(user, at))[0]


def keep_account(user: AbstractBaseUser) -> None:
    """Takes the removal of one's own account back."""
    Removal.objects.filter(user_id=user.pk).delete()


def _asked(member: AbstractBaseUser, at: datetime) -> dict[str, Any]:
    return {"asked_by_id": member.pk, "asked_at": at, "due_at": at + timedelta(days=DAYS_TO_THINK)}
