"""Changes of who belongs to a collection, and as what."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser, User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.db import connection, transaction

from eyot.collection.actions import refuse_unknown
from eyot.collection.history import noted
from eyot.collection.models import Collection, MemberInvitation, Membership, Role
from eyot.shared.refusal import Refused
from eyot.shared.units import CELSIUS, DAY_FIRST

MOST_DAYS = 60
LONGEST_NAME = 40


@transaction.atomic
def new_account(name: str, password: str) -> User:
    """An account of a new person. :class:`Refused` for a name that is taken or none, and for a password that is too easy."""
    users: Any = get_user_model().objects
    words = " ".join(name.split())[:LONGEST_NAME]
    if not words:
        raise Refused("An account needs a name to log in with. No account was made.", field="name")
    if users.filter(username__iexact=words).exists():
        raise Refused(f"There is an account “{words}” already. No account was made.", field="name")
    try:
        validate_password(password)
    except ValidationError as error:
        raise Refused(f"Password: {error.messages[0]} No account was made.", field="password") from None
    return users.create_user(words, password=password)  # type: ignore[no-any-return]


@transaction.atomic
def new_collection(
    owner: AbstractBaseUser, name: str, time_zone: str = "", day_form: str = DAY_FIRST, grade: str = CELSIUS
) -> Collection:
    """An empty collection of somebody who has an account. :class:`Refused` without a name, and for a zone, a form of days or a
    grade that is none."""
    words = " ".join(name.split())[:80]
    if not words:
        raise Refused("A collection needs a name. Nothing was made.", field="collection")
    refuse_unknown(time_zone, day_form, grade, "Nothing was made.")
    collection = Collection.objects.create(name=words, time_zone=time_zone, day_form=day_form, grade=grade)
    Membership.objects.create(user_id=owner.pk, collection=collection, role=Role.OWNER)
    return collection


@transaction.atomic
def claim(code: str, name: str, password: str, collection: str, **how: str) -> tuple[User, Collection]:
    """The first account of a server, and its collection. :class:`Refused` for a wrong code, and where there is an account.

    ``how``: as :func:`new_collection` takes it.
    """
    lock_claims()
    if User.objects.exists():
        raise Refused("This code has been used: there is an owner already. Nothing was made.")
    typed = "".join(code.lower().split()).replace("-", "")
    if not settings.CLAIM_CODE or not secrets.compare_digest(
        typed.encode(), settings.CLAIM_CODE.replace("-", "").encode()
    ):
        raise Refused("That is not the code that the start command printed. Nothing was made.", field="code")
    user = new_account(name, password)
    return user, new_collection(user, collection, **how)


def lock_claims() -> None:
    """Of two who claim a server at once the second waits for the first: until the end of the transaction."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(hashtext('eyot claim'))")


@transaction.atomic
def invite_member(
    collection: Collection, member: AbstractBaseUser, name: str, role: str, days: int, at: datetime
) -> MemberInvitation:
    """A link by which one person becomes a member. :class:`Refused` without a name, a role or a time to hold."""
    words = " ".join(name.split())[:LONGEST_NAME]
    if not words:
        raise Refused("An invitation is for somebody: write a name. Nothing was changed.", field="name")
    if role not in Role.values:
        raise Refused("Choose what the new member may do. Nothing was changed.", field="role")
    if not 1 <= days <= MOST_DAYS:
        raise Refused(f"An invitation holds for 1 to {MOST_DAYS} days. Nothing was changed.", field="days")
    noted(collection, member, at, f"{words} invited as {role}")
    return MemberInvitation.objects.create(
        collection=collection,
        token=secrets.token_urlsafe(24),
        role=role,
        name=words,
        invited_by_id=member.pk,
        made_at=at,
        expires_at=at + timedelta(days=days),
    )


@transaction.atomic
def withdraw_member_invitation(collection: Collection, member: AbstractBaseUser, number: int, at: datetime) -> None:
    """Ends an invitation at once. :class:`Refused` for one that is not here or was used."""
    invitation = collection.member_invitations.filter(pk=number).first()
    if invitation is None or invitation.used_at:
        raise Refused("That invitation is not open any more. Nothing was changed.")
    noted(collection, member, at, f"invitation of {invitation.name} withdrawn")
    invitation.withdrawn_at = invitation.withdrawn_at or at
    invitation.save(update_fields=["withdrawn_at"])


def invitation_by(token: str) -> MemberInvitation | None:
    """The invitation of a link; none where there never was one, or the collection is gone: one query."""
    return MemberInvitation.objects.filter(token=token).select_related("collection", "invited_by").first()


@transaction.atomic
def join(invitation: MemberInvitation, user: AbstractBaseUser, at: datetime) -> Membership:
    """Uses an invitation up. :class:`Refused` for one that is used or ended, and for somebody who is a member already."""
    invitation = MemberInvitation.objects.select_for_update().select_related("collection").get(pk=invitation.pk)
    if trouble := invitation.trouble(at):
        raise Refused(f"This invitation {trouble}. Ask for a new one.")
    if Membership.objects.filter(collection=invitation.collection, user_id=user.pk).exists():
        raise Refused(f"You belong to {invitation.collection} already; the invitation was not used.")
    invitation.used_at, invitation.used_by_id = at, user.pk
    invitation.save(update_fields=["used_at", "used_by"])
    noted(invitation.collection, user, at, f"{user} joined as {invitation.role}")
    return Membership.objects.create(collection=invitation.collection, user_id=user.pk, role=invitation.role)


@transaction.atomic
def change_role(collection: Collection, member: AbstractBaseUser, number: int, role: str, at: datetime) -> Membership:
    """Another role for a member. :class:`Refused` for the last owner, for no role, and for somebody who is not here."""
    membership = _of(collection, number)
    if role not in Role.values:
        raise Refused("Choose one of the roles. Nothing was changed.")
    if role != Role.OWNER:
        _refuse_last_owner(membership, "stays owner")
    noted(collection, member, at, f"{membership.user}: {membership.role} → {role}")
    membership.role = role
    membership.save(update_fields=["role"])
    return membership


@transaction.atomic
def end_membership(collection: Collection, member: AbstractBaseUser, number: int, at: datetime) -> Membership:
    """Somebody leaves, or is removed; what was done here keeps the name. :class:`Refused` for the last owner."""
    membership = _of(collection, number)
    _refuse_last_owner(membership, "cannot leave")
    left = "left" if membership.user_id == member.pk else "was removed"
    noted(collection, member, at, f"{membership.user} {left}")
    membership.delete()
    return membership


def _of(collection: Collection, number: int) -> Membership:
    """A member's place; all places of the collection are held until the change is done."""
    rows = list(collection.memberships.select_for_update().select_related("user"))
    membership = next((row for row in rows if row.pk == number), None)
    if membership is None:
        raise Refused("That person is no member here any more. Nothing was changed.")
    return membership


def is_last_owner(membership: Membership) -> bool:
    """Would the collection have no owner without this member?"""
    owners = Membership.objects.filter(collection=membership.collection_id, role=Role.OWNER).exclude(pk=membership.pk)
    return membership.role == Role.OWNER and not owners.exists()


def _refuse_last_owner(membership: Membership, words: str) -> None:
    if is_last_owner(membership):
        raise Refused(
            f"{membership.user} is the only owner and {words}: make somebody else owner first. Nothing was changed."
        )


def set_password(user: AbstractBaseUser, new: str) -> None:
    """A new password. :class:`Refused` for one that is too easy."""
    try:
        validate_password(new)
    except ValidationError as error:
        raise Refused(f"New password: {error.messages[0]} Nothing was changed.", field="new") from None
    user.set_password(new)
    user.save(update_fields=["password"])


@transaction.atomic
def reset_token(collection: Collection, member: AbstractBaseUser, number: int, at: datetime) -> tuple[Membership, str]:
    """What a link for a new password carries: used once, for three days. :class:`Refused` for somebody who belongs to a collection
    that this owner does not own: with the password he would have that too."""
    membership = _of(collection, number)
    owned = Membership.objects.filter(user_id=member.pk, role=Role.OWNER).values("collection")
    if Membership.objects.filter(user=membership.user_id).exclude(collection__in=owned).exists():
        raise Refused(
            f"{membership.user} belongs to another collection too, which is not yours: only who owns all of them may do this. "
            "Nothing was changed."
        )
    noted(collection, member, at, f"a link for a new password of {membership.user} was made")
    user = User.objects.get(pk=membership.user_id)
    return membership, f"{user.pk}-{default_token_generator.make_token(user)}"


def user_by(token: str) -> User | None:
    """Whose link for a new password it is; none where it has ended, was used, or never was one."""
    number, _, rest = token.partition("-")
    user = User.objects.filter(pk=number).first() if number.isdecimal() else None
    return user if user and default_token_generator.check_token(user, rest) else None


@transaction.atomic
def set_password_by(token: str, new: str) -> User:
    """The new password by a link. :class:`Refused` for a link that has ended, and a password that is too easy."""
    user = user_by(token)
    if user is None:
        raise Refused("This link has ended or was used. Ask for a new one.")
    set_password(user, new)
    return user
