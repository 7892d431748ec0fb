"""Changes of collections and their members."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.catalogue.overlay import with_opinion
from eyot_core.errors import InputError
from eyot_core.reading import Node

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection, Membership, Opinion


class Unfit(Exception):
    """An opinion that can't be laid over the catalogue; ``args[0]`` says what is wrong, and where."""


@transaction.atomic
def found_collection(owner: str, password: str, name: str) -> tuple[Collection, AbstractBaseUser]:
    """Makes an account and a collection that it owns. Only for set-up: asks nobody's leave."""
    users: Any = get_user_model().objects
    keeper = users.create_user(owner, password=password)
    collection = Collection.objects.create(name=name)
    Membership.objects.create(user=keeper, collection=collection, role=Membership.Role.OWNER)
    return collection, keeper


def hold_opinion(collection: Collection, member: AbstractBaseUser, value: dict[str, Any]) -> Opinion:
    """Adds an opinion to the collection's layer, checked against the catalogue as it stands. :class:`Unfit` if it can't be."""
    try:
        with_opinion(catalogue_of(collection), Node(value))
    except InputError as error:
        raise Unfit(f"{error.message} ({error.at})" if error.at else error.message) from None
    collection.__dict__.pop("_overlaid", None)
    return Opinion.objects.create(collection=collection, value=value, held_by_id=member.pk)


def withdraw_opinion(opinion: Opinion) -> None:
    """Takes an opinion back; it stays in the record."""
    opinion.withdrawn_at = timezone.now()
    opinion.save(update_fields=["withdrawn_at"])
    opinion.collection.__dict__.pop("_overlaid", None)
