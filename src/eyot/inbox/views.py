"""The inbox: files come in, what waits is filed by keys or by thumb."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from django.core.files import File
from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.photo.picture import NoPicture

from eyot.capture.arrivals import INBOX, bring, watched_folder
from eyot.collection.middleware import CollectionRequest
from eyot.inbox.arriving import Sent, drop_of, end, receive
from eyot.inbox.filing import file_by_hand, leave_out, put_back
from eyot.inbox.models import InboxPhoto
from eyot.inbox.queries import egg_chosen, inbox_of, kinds, proposed_clutch, row_of, to_file_with
from eyot.inbox.tasks import order_look
from eyot.photos.views.serving import size_in
from eyot.season.models import Stage
from eyot.shared.devices import key_from
from eyot.shared.refusal import Refused, refusals_as_text


def inbox_page(request: CollectionRequest) -> HttpResponse:
    """The place to drop photos, and all that waits."""
    watched_folder(request.collection)
    return render(request, "inbox/page.html", _context(request) | {"folder": f"arriving/{request.collection.pk}"})


def _context(request: CollectionRequest, **more: Any) -> dict[str, Any]:
    inbox, clutches = inbox_of(request.collection, timezone.now()), to_file_with(request.collection)
    chosen = next((clutch for clutch in clutches if clutch.code == request.POST.get("clutch")), None)
    return {
        "inbox": inbox,
        "clutches": clutches,
        "chosen": chosen or proposed_clutch(inbox, clutches),
        "stages": Stage.choices,
        "kinds": kinds(),
        "here": "inbox",
    } | more


@require_POST
def arrivals(request: CollectionRequest) -> HttpResponse:
    """What lies in the watched folder comes in; the inbox anew, or 204 where it is as the page shows it."""
    came = _from_folder(request)
    context = _context(request, refused_files=[arrival.trouble for arrival in came if arrival.trouble])
    if not came and context["inbox"].stamp == request.POST.get("seen"):
        return HttpResponse(status=204)
    return render(request, "inbox/parts/standing.html", context)


def _from_folder(request: CollectionRequest) -> list[Any]:
    """Files of the watched folder, as one drop of whoever looks at the page: it stays open while they come."""
    collection, member, now = request.collection, request.member, timezone.now()
    number = key_from(request.POST.get("watching", ""))
    if number is None:
        return []

    def keep(whom: str, file: File[bytes], key: UUID) -> NoPicture | None:
        drop = drop_of(collection, member, number, now)
        assert file.file is not None
        row = receive(collection, member, drop, Sent(key, file.name or "", file.file, file.size), now)  # type: ignore[arg-type]
        return NoPicture(row.why) if row.state == InboxPhoto.State.REFUSED else None

    return bring(collection, INBOX, lambda whom: whom == INBOX, keep)


@require_POST
@refusals_as_text
def add(request: CollectionRequest) -> HttpResponse:
    """One file of a drop: 204 when it is noted, whatever it holds; 422 where it can't be."""
    key, drop, file = (
        key_from(request.POST.get("key", "")),
        key_from(request.POST.get("drop", "")),
        request.FILES.get("photo"),
    )
    if key is None or drop is None or file is None or file.file is None:
        raise Refused("No picture came through. Nothing was changed.")
    now = timezone.now()
    sent = Sent(
        key,
        file.name or "",
        file.file,
        file.size or 0,
        _whole(request.POST.get("place", "")),
        _moment(request.POST.get("modified", "")),
    )
    receive(request.collection, request.member, drop_of(request.collection, request.member, drop, now), sent, now)
    return HttpResponse(status=204)


def _whole(text: str) -> int:
    return int(text) if text.isdecimal() and len(text) < 8 else 0


def _moment(milliseconds: str) -> datetime | None:
    """A moment as browsers count it, milliseconds since 1970."""
    return (
        datetime.fromtimestamp(int(milliseconds) / 1000, UTC)
        if milliseconds.isdecimal() and len(milliseconds) < 15
        else None
    )


@require_POST
@refusals_as_text
def ended(request: CollectionRequest) -> HttpResponse:
    """A page has sent all files of a drop."""
    drop = key_from(request.POST.get("drop", ""))
    if drop is None:
        raise Refused("Which drop ended was not said. Nothing was changed.")
    end(drop_of(request.collection, request.member, drop, timezone.now()))
    return HttpResponse(status=204)


def deciding(decide: Callable[[CollectionRequest, list[UUID]], str]) -> Callable[..., HttpResponse]:
    """A view that decides on picked photos and shows the inbox anew, with what was done or what is in the way."""

    def view(request: CollectionRequest) -> HttpResponse:
        picked = [key for text in request.POST.getlist("photo") if (key := key_from(text))]
        try:
            told = {"done": decide(request, picked)}
        except Refused as reason:
            told = {"wrong": str(reason)}
        return render(request, "inbox/parts/standing.html", _context(request, **told))

    return require_POST(view)


def _file(request: CollectionRequest, picked: list[UUID]) -> str:
    egg = egg_chosen(request.collection, request.POST.get("egg", ""))
    if egg is None:
        raise Refused("Say whose photos they are: choose an egg's number. Nothing was changed.")
    stage, kind = request.POST.get("stage", ""), request.POST.get("kind", "")
    count = file_by_hand(request.collection, request.member, picked, egg, timezone.now(), stage=stage, kind=kind)
    return f"{_photos(count)} filed with egg {egg.number} of {egg.clutch.code}."


def _back(request: CollectionRequest, picked: list[UUID]) -> str:
    return f"{_photos(put_back(request.collection, request.member, picked, timezone.now()))} put back: below to be filed anew."


def _out(request: CollectionRequest, picked: list[UUID]) -> str:
    return f"{_photos(leave_out(request.collection, picked))} left out; kept below for as long as you like."


def _again(request: CollectionRequest, picked: list[UUID]) -> str:
    stuck = inbox_of(request.collection, timezone.now()).stuck
    for row in stuck:
        order_look(row)
    return f"{_photos(len(stuck))} looked at once more."


def _photos(count: int) -> str:
    return "1 photo" if count == 1 else f"{count} photos"


file, back, out, again = deciding(_file), deciding(_back), deciding(_out), deciding(_again)


def picture(request: CollectionRequest, photo_id: UUID, size: str) -> HttpResponseBase:
    """One size of a photo that came; 404 for another collection's."""
    return size_in(row_of(request.collection, photo_id).folder, size)
