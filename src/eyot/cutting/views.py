"""Cutting on the phone: one page for all eggs, small answers that a device can send later; and the sheet after the last egg."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from uuid import uuid4

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.photo.picture import NoPicture

from eyot.bench.actions import Answer, record_look
from eyot.bench.live import stamp_of
from eyot.bench.siblings import judged
from eyot.collection.middleware import CollectionRequest
from eyot.cutting.queries import cut_eggs, genes_to_guess, sheet_of
from eyot.photos.actions import add_photo
from eyot.season.egg_actions import guess_first, set_state
from eyot.season.models import Egg, Stage
from eyot.season.queries import clutch_of, egg_of
from eyot.shared.devices import entered_at, key_from
from eyot.shared.refusal import Refused, refusals_as_text


def cutting(request: CollectionRequest, code: str) -> HttpResponse:
    """The phone's page: all eggs, one shown at a time."""
    clutch = clutch_of(request.collection, code)
    stamp = stamp_of(clutch)
    judgement = judged(clutch)
    context = {
        "clutch": clutch,
        "stamp": stamp,
        "eggs": cut_eggs(judgement, clutch, request.member.pk),
        "genes": genes_to_guess(judgement),
        "first": next((egg for egg in clutch.eggs.all() if egg.is_shut), clutch.eggs.first()),
    }
    return render(request, "cutting/page.html", context)


def sheet(request: CollectionRequest, code: str) -> HttpResponse:
    """All eggs, and what siblings now suggest changing."""
    clutch = clutch_of(request.collection, code)
    return render(request, "cutting/sheet.html", {"clutch": clutch, "rows": sheet_of(clutch)})


def receiving(take: Callable[[CollectionRequest, Egg, datetime], None]) -> Callable[..., HttpResponse]:
    """A view that takes one thing from a device: 204 when it is kept, 422 with the reason where it can't be.

    The moment is the one at which it was entered, where the device says so and it lies behind.
    """

    def view(request: CollectionRequest, code: str, number: int) -> HttpResponse:
        take(request, egg_of(clutch_of(request.collection, code), number), entered_at(request.POST, timezone.now()))
        return HttpResponse(status=204)

    return require_POST(refusals_as_text(view))


@receiving
def state(request: CollectionRequest, egg: Egg, at: datetime) -> None:
    """The egg was cut, left shut for now, or is none."""
    given = request.POST
    on = timezone.localdate(at)
    key, was = key_from(given.get("key", "")), given.get("was", "")
    set_state(egg, request.member, given.get("state", ""), on, given.get("found", ""), at, key, was=was)


@receiving
def look(request: CollectionRequest, egg: Egg, at: datetime) -> None:
    """A look in the window."""
    given = request.POST
    key = key_from(given.get("key", "")) or uuid4()
    follows = key_from(given.get("follows", ""))
    answer = Answer(
        given.get("trait", ""), given.get("level", ""), Stage.EGG, "sure", key, light="lamp", follows=follows
    )
    record_look(egg, request.member, answer, at)


@receiving
def photo(request: CollectionRequest, egg: Egg, at: datetime) -> None:
    """A picture of the window."""
    file = request.FILES.get("photo")
    if file is None:
        raise Refused("No picture came through. Nothing was changed.")
    taken = add_photo(egg, request.member, file, Stage.EGG, at, key=key_from(request.POST.get("key", "")))
    if isinstance(taken, NoPicture):
        raise Refused(taken.message)


@receiving
def guess(request: CollectionRequest, egg: Egg, at: datetime) -> None:
    """The first guess, and a note."""
    given = request.POST
    guess_first(egg, request.member, given.get("guess", ""), given.get("note", ""), at, key_from(given.get("key", "")))
