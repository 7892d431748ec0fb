"""Changes of collections and their members."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot.collection.models import Collection, Membership


@transaction.atomic
def found_collection(owner: str, password: str, name: str) -> tuple[Collection, AbstractBaseUser]:
    """Makes an account and a collection that it owns. Only for set-up: asks nobody's leave."""
    users: Any = get_user_model().objects
    keeper = users.create_user(owner, password=password)
    collection = Collection.objects.create(name=name)
    Membership.objects.create(user=keeper, collection=collection, role=Membership.Role.OWNER)
    return collection, keeper
