"""Outside eyes: invitations to look at one clutch by a link, which shows its photos and looks and nothing else."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import make_password
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.bench.models import Invitation, Look
from eyot.collection.models import Collection
from eyot.season.models import Clutch
from eyot.shared.refusal import Refused

MOST_DAYS = 60
MOST_ANSWERS = 600


@transaction.atomic
def invite(clutch: Clutch, member: AbstractBaseUser, name: str, days: int, at: datetime) -> Invitation:
    """Makes a link for one person. Any member may. The answers are kept under an account that nobody can log in with."""
    words = " ".join(name.split())[:40]
    if not words:
        raise Refused("An invitation is for somebody: write a name. Nothing was changed.")
    if not 1 <= days <= MOST_DAYS:
        raise Refused(f"An invitation holds for 1 to {MOST_DAYS} days. Nothing was changed.")
    token = secrets.token_urlsafe(24)
    name_of_eye = f"{words} (invited, {token[:6]})"
    users: Any = get_user_model().objects
    eye = users.create(username=name_of_eye, is_active=False, password=make_password(None))
    return Invitation.objects.create(
        clutch=clutch,
        token=token,
        name=words,
        eye=eye,
        invited_by_id=member.pk,
        made_at=at,
        expires_at=at + timedelta(days=days),
    )


def withdraw_invitation(collection: Collection, number: int, at: datetime) -> Invitation:
    """Ends an invitation at once; what was answered stays. :class:`Refused` for one that is not here."""
    invitation = Invitation.objects.filter(clutch__collection=collection, pk=number).select_related("clutch").first()
    if invitation is None:
        raise Refused("That invitation is not here. Nothing was changed.")
    if invitation.withdrawn_at is None:
        invitation.withdrawn_at = at
        invitation.save(update_fields=["withdrawn_at"])
    return invitation


def let_count(collection: Collection, number: int, *, counts: bool) -> Invitation:
    """Lets the answers of an outside eye count among the members' own, or leaves them out. :class:`Refused` for one that is not here."""
    invitation = Invitation.objects.filter(clutch__collection=collection, pk=number).select_related("clutch").first()
    if invitation is None:
        raise Refused("That invitation is not here. Nothing was changed.")
    invitation.counts = counts
    invitation.save(update_fields=["counts"])
    return invitation


def check_room(invitation: Invitation) -> None:
    """:class:`Refused` where a link has given as many answers as one may."""
    if Look.objects.filter(seen_by_id=invitation.eye_id).count() >= MOST_ANSWERS:
        raise Refused(
            f"By this link {MOST_ANSWERS} answers were given, the most that one takes. Nothing was changed; they stand."
        )


def invitation_of(token: str, at: datetime) -> Invitation | None:
    """The open invitation of a link; ``None`` where it has ended or never was. One query."""
    invitation = Invitation.objects.filter(token=token).select_related("clutch__collection", "eye").first()
    return invitation if invitation and invitation.is_open(at) else None
