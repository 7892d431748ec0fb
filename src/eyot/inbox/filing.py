"""Photos find their hatchling: by cards, by the rules of :mod:`eyot_core.photo.filing`; or by hand. All writes of the inbox's rows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from itertools import groupby
from uuid import UUID, uuid5

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.photo.filing import Filing, Shot, filed

from eyot.collection.history import recording, subject_of
from eyot.collection.models import Collection
from eyot.inbox.looking import looked_from
from eyot.inbox.models import IDLE, Drop, InboxPhoto
from eyot.photos.actions import file_elsewhere, keep_looked_at
from eyot.photos.models import Photo
from eyot.season.models import Egg, Stage
from eyot.shared.devices import claim
from eyot.shared.refusal import Refused

State, By = InboxPhoto.State, InboxPhoto.By
REMEMBERED = timedelta(days=2)
"""How long before the first photo that waits others are read along: a card counts for minutes."""
OURS = UUID("6f0b8c1e-6d0c-4b0e-9a39-2f7d1f1d6a51")
LEFT = "This photo is not in the inbox any more. Nothing was changed."


def settle(collection: int, at: datetime) -> int:
    """Files whatever cards file by now; how many photos. Two that settle at once do it one after the other."""
    with transaction.atomic():
        claim(uuid5(OURS, f"inbox {collection}"))
        rows = _rows_in_question(collection)
        if not rows:
            return 0
        eggs = {egg.code: egg for egg in Egg.objects.filter(clutch__collection=collection).select_related("clutch")}
        clutches = {egg.clutch.code for egg in eggs.values()}
        coming = set(Drop.objects.filter(collection=collection, ended=False).values_list("by", flat=True))
        count = 0
        for (by, _), shots in groupby(rows, key=lambda row: (row.added_by_id, row.camera)):
            own = list(shots)
            for row, filing in zip(own, filed([_shot(row) for row in own], eggs.keys(), clutches), strict=True):
                count += _settled(row, filing, eggs, at, may_follow=by not in coming)
    return count


def _rows_in_question(collection: int) -> list[InboxPhoto]:
    """All that waits and what was taken shortly before, by person and camera, each in the order taken."""
    rows = InboxPhoto.objects.filter(collection=collection).exclude(state__in=(State.REFUSED, State.KNOWN))
    waiting = rows.filter(state__in=(State.SENT, State.WAITS))
    first = waiting.order_by("came_at").values_list("came_at", flat=True).first()
    if first is None:
        return []
    recent = rows.filter(came_at__gte=first - REMEMBERED).select_related("drop", "collection", "added_by")
    return sorted(recent, key=_order)


def _order(row: InboxPhoto) -> tuple[object, ...]:
    return row.added_by_id, row.camera, row.taken_at is None, row.taken_at or row.came_at, row.drop.began_at, row.place


def _shot(row: InboxPhoto) -> Shot:
    return Shot(
        row.pk,
        row.taken_at,
        row.ids,
        unread=bool(row.looked.get("unread")),
        shows=bool(row.kind),
        looked=row.state != State.SENT,
    )


def _settled(row: InboxPhoto, filing: Filing, eggs: dict[str, Egg], at: datetime, *, may_follow: bool) -> bool:
    """Puts what the cards say into a row that waits for that; was it filed?"""
    if row.state != State.WAITS or row.by_hand:
        return False
    if row.ids and filing.id and not row.kind:
        row.state, row.named, row.why = State.CARD, filing.id, ""
        row.save(update_fields=["state", "named", "why"])
        return False
    if filing.by == By.CARD or (filing.by == By.LAST_CARD and may_follow):
        egg = eggs[filing.id]
        _into(row, egg, row.added_by, filing.by, at, *_as_proposed(row, egg))
        return True
    why = filing.why or "not-looked-at"
    if (row.named, row.why) != (filing.id, why):
        row.named, row.why = filing.id, why
        row.save(update_fields=["named", "why"])
    return False


def _as_proposed(row: InboxPhoto, egg: Egg) -> tuple[str, str]:
    """Stage and kind, as its day and its pixels propose them."""
    day = timezone.localdate(row.taken_at or row.came_at)
    if row.kind == "egg":
        return Stage.EGG, Photo.Kind.BACK
    stage = egg.stage_on(day)
    kind = row.kind if row.kind in Photo.Kind.values else Photo.Kind.BACK
    return (stage if stage != Stage.EGG or egg.is_shut else Stage.WET), kind


def _into(row: InboxPhoto, egg: Egg, user: AbstractBaseUser, by: str, at: datetime, stage: str, kind: str) -> None:
    """A photo goes to a hatchling; inside a transaction."""
    looked = looked_from(row)
    row.photo = keep_looked_at(
        egg,
        user,
        row.pk,
        (row.width, row.height),
        looked,
        stage=stage,
        kind=kind,
        at=row.taken_at or row.came_at,
        sizes_in=looked.light.get("card", ""),
        simulated=row.simulated,
    )
    row.state, row.filed_by, row.filed_at, row.named, row.why = State.FILED, by, at, egg.code, ""
    row.save()


def file_by_hand(
    collection: Collection,
    member: AbstractBaseUser,
    numbers: Iterable[UUID],
    egg: Egg,
    at: datetime,
    *,
    stage: str = "",
    kind: str = "",
) -> int:
    """Files photos that wait with a hatchling; how many. Stage and kind as proposed, where they are not given. :class:`Refused` where one
    of them waits no more: then none is filed."""
    if (stage and stage not in Stage.values) or (kind and kind not in Photo.Kind.values):
        raise Refused("A photo has one of the stages and kinds that the page offers. Nothing was changed.")
    with transaction.atomic():
        rows = _locked(collection, numbers, (State.WAITS, State.CARD, State.LEFT_OUT))
        for row in rows:
            own_stage, own_kind = _as_proposed(row, egg)
            _by_hand(row, egg, member, at, stage or own_stage, kind or own_kind)
    return len(rows)


def _by_hand(row: InboxPhoto, egg: Egg, member: AbstractBaseUser, at: datetime, stage: str, kind: str) -> None:
    row.by_hand = True
    photo = Photo.everything.filter(pk=row.pk).select_related("egg__clutch").first()
    if photo is None:
        _into(row, egg, member, By.HAND, at, stage, kind)
        return
    with recording(
        row.collection, member, at, f"{egg}: a photo filed from the inbox", subject_of(egg.clutch)
    ) as record:
        file_elsewhere(record, photo, egg, stage, kind)
    row.photo, row.state, row.filed_by, row.filed_at = photo, State.FILED, By.HAND, at
    row.named, row.why = egg.code, ""
    row.save()


def put_back(collection: Collection, member: AbstractBaseUser, numbers: Iterable[UUID], at: datetime) -> int:
    """Photos that were filed, or left out, wait in the inbox again; how many. What was marked in them stays."""
    with transaction.atomic():
        rows = _locked(collection, numbers, (State.FILED, State.LEFT_OUT, State.CARD))
        for row in rows:
            if row.photo:
                words = f"{row.photo.egg}: a photo put back into the inbox"
                clutch = row.photo.egg.clutch
                with recording(collection, member, at, words, subject_of(clutch)) as record:
                    record.change(row.photo, taken_away_at=at)
            row.state, row.why, row.by_hand, row.filed_by, row.photo = State.WAITS, InboxPhoto.PUT_BACK, True, "", None
            row.save()
    return len(rows)


def leave_out(collection: Collection, numbers: Iterable[UUID]) -> int:
    """Photos that belong to no hatchling are asked about no more; how many. They stay under “left out”."""
    with transaction.atomic():
        rows = _locked(collection, numbers, (State.WAITS, State.CARD))
        for row in rows:
            row.state, row.by_hand = State.LEFT_OUT, True
            row.save(update_fields=["state", "by_hand"])
    return len(rows)


def _locked(collection: Collection, numbers: Iterable[UUID], states: Sequence[str]) -> list[InboxPhoto]:
    """Rows in one of some states, locked until the transaction ends. :class:`Refused` where one is in another state by now."""
    wanted = set(numbers)
    if not wanted:
        raise Refused("No photo is picked. Nothing was changed.")
    rows = list(
        InboxPhoto.objects.select_for_update(of=("self",))
        .filter(collection=collection, pk__in=wanted, state__in=states)
        .select_related("photo__egg__clutch", "collection")
    )
    if len(rows) < len(wanted):
        gone = len(wanted) - len(rows)
        raise Refused(
            LEFT
            if len(wanted) == 1
            else f"{gone} of the {len(wanted)} picked photos wait no more. Nothing was changed."
        )
    return rows


def end_idle_drops(at: datetime) -> int:
    """Ends the drops of which nothing came for some minutes, and files what waited for them; how many."""
    idle = list(Drop.objects.filter(ended=False, last_at__lt=at - IDLE))
    for drop in idle:
        drop.ended = True
        drop.save(update_fields=["ended"])
        settle(drop.collection_id, at)
    return len(idle)
