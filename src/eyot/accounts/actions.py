"""Changes of one's own account."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from allauth.usersessions.models import UserSession
from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser, User
from django.contrib.auth.tokens import default_token_generator
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import Q

from eyot.collection.member_actions import is_last_owner, set_password
from eyot.collection.models import Removal, Role
from eyot.collection.removal_actions import DAYS_TO_THINK
from eyot.shared.refusal import Refused

LOGINS_KEPT = timedelta(days=30)
"""How long it is kept who tried to log in, from where."""
MAIL = """Somebody, most likely you, asked for a new password of {name} on Eyot at {host}.

{link}

The link works once, within three days. If it was not you, nothing has to be done; the password stands.
"""


def change_password(user: AbstractBaseUser, old: str, new: str) -> None:
    """A new password of one's own; other logins end by it. :class:`Refused` for a wrong old one and a new one that is too easy."""
    if not user.check_password(old):
        raise Refused("That is not your password so far. Nothing was changed.", field="old")
    set_password(user, new)


def change_mail(user: AbstractBaseUser, mail: str, password: str) -> None:
    """Where a link for a new password may go. :class:`Refused` for a wrong password, and for what is no address."""
    _refuse_wrong(user, password)
    try:
        if mail:
            validate_email(mail)
    except ValidationError:
        raise Refused(f"“{mail}” is no mail address. Nothing was changed.", field="mail") from None
    User.objects.filter(pk=user.pk).update(email=mail.lower())


def send_links(asked: str, host: str, link_to: Any) -> int:
    """Mails a link for a new password to every account of a name or a mail address that has one; how many. ``link_to(token)``: the
    address of the page."""
    users: Any = get_user_model().objects
    named = Q(username__iexact=asked) | Q(email__iexact=asked)
    sent = 0
    for user in users.filter(named, is_active=True).exclude(email=""):
        link = link_to(f"{user.pk}-{default_token_generator.make_token(user)}")
        words = MAIL.format(name=user, host=host, link=link)
        sent += send_mail("A new password", words, None, [user.email])
    return sent


def end_login(user: AbstractBaseUser, number: int) -> None:
    """Logs out elsewhere. :class:`Refused` for a login that is no more, or another's."""
    login = UserSession.objects.filter(user_id=user.pk, pk=number).first()
    if login is None:
        raise Refused("That login has ended already. Nothing was changed.")
    login.end()


@transaction.atomic
def ask_removal(user: AbstractBaseUser, password: str, at: datetime) -> Removal:
    """Asks for one's own account to be removed, thirty days from now. :class:`Refused` for a wrong password, and for the only
    owner of a collection."""
    _refuse_wrong(user, password)
    for one in user.memberships.filter(role=Role.OWNER).select_related("collection"):  # type: ignore[attr-defined]
        if is_last_owner(one) and not Removal.objects.filter(collection=one.collection_id).exists():
            raise Refused(
                f"You are the only owner of {one.collection}: make somebody else an owner, or have it removed first. "
                "Nothing was changed.",
            )
    values = {"asked_by_id": user.pk, "asked_at": at, "due_at": at + timedelta(days=DAYS_TO_THINK)}
    return Removal.objects.get_or_create(user_id=user.pk, defaults=values)[0]


def keep_account(user: AbstractBaseUser) -> None:
    """Takes the removal of one's own account back."""
    Removal.objects.filter(user_id=user.pk).delete()


def _refuse_wrong(user: AbstractBaseUser, password: str) -> None:
    if not user.check_password(password):
        raise Refused("That is not your password. Nothing was changed.", field="password")


def forget_old_logins(now: datetime) -> None:
    """Removes sessions that have ended, what is listed of them, and who tried to log in longer ago than ``LOGINS_KEPT``."""
    Session.objects.filter(expire_date__lt=now).delete()
    UserSession.objects.exclude(session_key__in=Session.objects.values("session_key")).delete()
    for kept in (AccessAttempt, AccessFailureLog, AccessLog):
        kept.objects.filter(attempt_time__lt=now - LOGINS_KEPT).delete()
