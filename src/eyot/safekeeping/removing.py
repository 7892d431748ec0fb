"""Collections and accounts whose thirty days are over: removed by a worker, every night."""

from __future__ import annotations

from datetime import datetime

from django.contrib.auth import get_user_model
from django.db import transaction

from eyot.collection.history import noted
from eyot.collection.member_actions import is_last_owner
from eyot.collection.models import Collection, Membership, Removal
from eyot.inbox.models import InboxPhoto, Print
from eyot.photos.files import forget
from eyot.photos.models import Photo
from eyot.safekeeping.kinds import KINDS


def remove_due(at: datetime) -> int:
    """Removes what is due; how much. An account that has become a collection's only owner meanwhile waits."""
    due = Removal.objects.filter(due_at__lte=at).select_related("collection", "user").order_by("-collection", "pk")
    return sum(map(_carry_out, due))


def _carry_out(removal: Removal) -> bool:
    if removal.collection:
        remove_collection(removal.collection)
        return True
    return _remove_account(removal)


def remove_collection(collection: Collection) -> None:
    """Removes a collection with all of its rows and photos. Accounts stay."""
    kind = next(kind for kind in KINDS if kind.label == "photos.photo")
    folders = [Photo.folder_of(collection.pk, key) for key in kind.rows_of(collection).values_list("pk", flat=True)]
    folders += [row.folder for row in InboxPhoto.objects.filter(collection=collection)]
    with transaction.atomic():  # references are checked at its end, so the order is free
        Print.objects.filter(photo__egg__clutch__collection=collection).delete()
        for kind in reversed(KINDS):
            rows = kind.rows_of(collection).order_by()
            rows._raw_delete(rows.db)
        collection.delete()
    for folder in folders:
        forget(folder)


@transaction.atomic
def _remove_account(removal: Removal) -> bool:
    """Ends every way in. The name stays on what was done, in collections that stay."""
    user = removal.user
    assert user is not None
    memberships = Membership.objects.filter(user=user).select_related("collection")
    if any(is_last_owner(one) for one in memberships):
        return False
    for one in memberships:
        noted(one.collection, user, removal.due_at, f"{user} left, the account was removed")
    memberships.delete()
    get_user_model()._default_manager.filter(pk=user.pk).update(is_active=False, email="")
    user.set_unusable_password()
    user.save(update_fields=["password"])
    removal.delete()
    return True
