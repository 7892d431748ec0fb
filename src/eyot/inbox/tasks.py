"""The jobs of the inbox, in the queue of photos."""

from __future__ import annotations

from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.inbox.filing import end_idle_drops, settle
from eyot.inbox.looking import look_at
from eyot.inbox.models import InboxPhoto
from eyot.shared.jobs import RETRY

LOOK, SETTLE = "inbox.look", "inbox.settle"


@app.task(name=LOOK, queue="photos", retry=RETRY)
def look(photo: str) -> None:
    """Looks at a photo that came, and files what can be filed by now."""
    close_old_connections()
    look_and_settle(photo)


def look_and_settle(photo: str) -> None:
    """Looks at a photo; where it was the last of its drop that was waited for, or has a card, files what can be filed."""
    row = look_at(photo)
    if row is None:
        return
    waited_for = InboxPhoto.objects.filter(drop=row.drop_id, state=InboxPhoto.State.SENT).exists()
    if row.ids or not waited_for:
        settle(row.collection_id, timezone.now())


@app.task(name=SETTLE, queue="photos", retry=RETRY)
def settle_later(collection: int) -> None:
    """Files what can be filed."""
    close_old_connections()
    settle(collection, timezone.now())


@app.periodic(cron="* * * * *")
@app.task(name="inbox.idle", queue="photos")
def idle(timestamp: int) -> None:
    """A page that was closed before it had sent everything holds nothing back for longer than some minutes."""
    close_old_connections()
    end_idle_drops(timezone.now())


def order_look(photo: InboxPhoto) -> None:
    """Orders that a photo be looked at; in the transaction that stores it."""
    look.configure(lock=f"photo {photo.pk}").defer(photo=str(photo.pk))


def order_settling(collection: int) -> None:
    """Orders that what can be filed is filed."""
    settle_later.configure(lock=f"inbox {collection}").defer(collection=collection)
