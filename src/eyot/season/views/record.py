"""A clutch's record: rounds and days before the laying; place, log, signs and eggs after it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime, timedelta

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.history import changes_of, subject_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Sex
from eyot.collection.queries import own_animals
from eyot.season.clutch_actions import close, fetch_log, import_log, set_up, tick_sign
from eyot.season.egg_actions import add_egg, all_at_once, set_state
from eyot.season.forms import (
    AddEggForm,
    AllForm,
    IntroduceForm,
    LayForm,
    NameSireForm,
    PairingEventForm,
    PlaceForm,
    RoundDayForm,
    ShortStateForm,
)
from eyot.season.models import Clutch, Round
from eyot.season.pairing_actions import EVENTS, ROUND_DAYS, introduce, lay, name_sire, note_event, note_round
from eyot.season.queries import egg_of, recorded_clutch_of
from eyot.season.record import Due, due_of, egg_rows, log_of, next_round_of, opening_words, record_stamp, signs_of
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

Change = Callable[..., str | None]


def record_page(
    request: CollectionRequest, code: str, *, refused: Refused | None = None, **more: object
) -> HttpResponse:
    """A clutch's record."""
    clutch, now = recorded_clutch_of(request.collection, code), timezone.now()
    due = due_of(clutch)
    context = {
        "clutch": clutch,
        "refused": refused,
        "stamp": record_stamp(clutch),
        "changes": changes_of(request.collection, subject_of(clutch), 8),
        **(_laid(clutch, refused, due, now) if clutch.laid_on else _unlaid(clutch, refused)),
    }
    return render(request, "season/record.html", context, status=422 if refused else 200)


def stamp(request: CollectionRequest, code: str) -> HttpResponse:
    """The last change of a clutch's record, for a page that watches whether it is still true."""
    return HttpResponse(record_stamp(recorded_clutch_of(request.collection, code)), content_type="text/plain")


def _laid(clutch: Clutch, refused: Refused | None, due: Due | None, now: datetime) -> dict[str, object]:
    fields = {field: getattr(clutch, field) for field in ("place", "substrate", "incubator", "note")}
    fields["note_shown"] = clutch.note
    rows = egg_rows(clutch)
    states = (as_sent(refused, ShortStateForm, about=row.egg.number, initial={"state": row.egg.state}) for row in rows)
    return {
        "log": log_of(clutch, now),
        "due": due,
        "opening": opening_words(clutch.collection, due),
        "signs": signs_of(clutch),
        "eggs": list(zip(rows, states, strict=True)),
        "incubators": list(clutch.collection.incubators.values_list("name", flat=True)),
        "place_form": as_sent(refused, PlaceForm, initial=fields),
        "all_form": as_sent(refused, AllForm),
        "add_form": as_sent(refused, AddEggForm),
        **({} if clutch.clutch_sires.all() else _sire_forms(clutch, refused)),
    }


def _unlaid(clutch: Clutch, refused: Refused | None) -> dict[str, object]:
    days = [(field, words, getattr(clutch, field)) for field, words in EVENTS.items()]
    return {
        "next_round": next_round_of(clutch, clutch.collection),
        "rounds": [
            (met, {event: _round_form(refused, met, event) for event in ROUND_DAYS}) for met in clutch.rounds.all()
        ],
        "days": [(words, on, _event_form(refused, field, words, on)) for field, words, on in days],
        "lay_form": as_sent(refused, LayForm),
        **_sire_forms(clutch, refused),
    }


def _sire_forms(clutch: Clutch, refused: Refused | None) -> dict[str, object]:
    males = own_animals(clutch.collection).exclude(sex=Sex.FEMALE)
    first = next((entry.sire.name for entry in clutch.clutch_sires.all()), "")
    return {
        "males": list(males.values_list("name", flat=True)),
        "introduce_form": as_sent(refused, IntroduceForm, collection=clutch.collection, initial={"sire": first}),
        "sire_form": as_sent(refused, NameSireForm, collection=clutch.collection),
    }


def _round_form(refused: Refused | None, met: Round, event: str) -> RoundDayForm:
    about = f"{met.pk}-{event}"
    return as_sent(refused, RoundDayForm, about=about, words=f"{ROUND_DAYS[event]} on", initial={"event": event})


def _event_form(refused: Refused | None, field: str, words: str, on: date | None) -> PairingEventForm:
    initial = {"event": field} | ({"on": on} if on else {})
    return as_sent(refused, PairingEventForm, about=field, words=f"{words} on", initial=initial)


def changing(change: Change) -> Callable[..., HttpResponse]:
    """A view that carries out a change of a clutch and shows its record."""

    def view(request: CollectionRequest, code: str, **more: int) -> HttpResponse:
        message = change(request, recorded_clutch_of(request.collection, code), **more)
        if message:
            messages.success(request, message)
        return redirect("record", code)

    return require_POST(refusals_on(record_page)(view))


@changing
def introduced(request: CollectionRequest, clutch: Clutch) -> None:
    """A sire was brought to the dam."""
    given = entered(request, IntroduceForm, collection=clutch.collection)
    if given["sire"] is None:
        raise Refused("Sire: choose who was introduced. Nothing was changed.", field="sire")
    introduce(clutch, request.member, given["sire"], given["on"], timezone.now())


@changing
def sire_named(request: CollectionRequest, clutch: Clutch) -> None:
    """Whose clutch it is turned out."""
    sire = entered(request, NameSireForm, collection=clutch.collection)["sire"]
    if sire is None:
        raise Refused("Sire: choose who it was. Nothing was changed.", field="sire")
    name_sire(clutch, request.member, sire, timezone.now())


@changing
def round_day(request: CollectionRequest, clutch: Clutch, number: int) -> None:
    """A lock was seen, or the pair taken apart."""
    met = next((one for one in clutch.rounds.all() if one.pk == number), None)
    if met is None:
        raise Refused("That round is not here any more. Nothing was changed.")
    given = entered(request, RoundDayForm, about=f"{number}-{request.POST.get('event', '')}")
    note_round(met, request.member, given["event"], given["on"], timezone.now())


@changing
def event(request: CollectionRequest, clutch: Clutch) -> None:
    """Ovulation or pre-lay shed."""
    given = entered(request, PairingEventForm, about=request.POST.get("event", ""))
    note_event(clutch, request.member, given["event"], given["on"], timezone.now())


@changing
def laid(request: CollectionRequest, clutch: Clutch) -> None:
    """The eggs are there."""
    given = entered(request, LayForm)
    lay(clutch, request.member, given["on"], given["eggs"], given["slugs"], timezone.now())


@changing
def clutch_place(request: CollectionRequest, clutch: Clutch) -> None:
    """Where the clutch lies."""
    set_up(clutch, request.member, **entered(request, PlaceForm), at=timezone.now())


@changing
def sign(request: CollectionRequest, clutch: Clutch) -> None:
    """A ready sign."""
    tick_sign(clutch, request.member, request.POST.get("sign", ""), seen="seen" in request.POST, at=timezone.now())


@changing
def one_more_egg(request: CollectionRequest, clutch: Clutch) -> None:
    """An egg found later."""
    add_egg(clutch, request.member, entered(request, AddEggForm)["number"], timezone.now())


@changing
def all_of_them(request: CollectionRequest, clutch: Clutch) -> str:
    """All out, all shed, all fed."""
    given = entered(request, AllForm)
    count = all_at_once(clutch, request.member, given["event"], given["on"], given["note"], timezone.now())
    return f"Noted for {count}; the others stand as they stood."


@changing
def state(request: CollectionRequest, clutch: Clutch, number: int) -> None:
    """How an egg stands."""
    given = entered(request, ShortStateForm, about=number)
    set_state(
        egg_of(clutch, number),
        request.member,
        given["state"],
        given["on"],
        "",
        timezone.now(),
        was=request.POST.get("was", ""),
    )


@changing
def closed(request: CollectionRequest, clutch: Clutch) -> None:
    """Done, or not after all."""
    close(clutch, request.member, timezone.now(), reopen=clutch.closed_on is not None)


@changing
def log_file(request: CollectionRequest, clutch: Clutch) -> str:
    """A logger's file."""
    file = request.FILES.get("log")
    if clutch.incubator is None or file is None:
        raise Refused("Name the incubator first, then choose the logger's file. Nothing was changed.")
    taken = import_log(clutch.incubator, request.member, file.read(), timezone.now())
    words = f"{taken.new} readings taken, {taken.known} were here already."
    troubles = f" {len(taken.troubles)} rows left out: {'; '.join(taken.troubles[:3])}." if taken.troubles else ""
    return words + troubles


@changing
def log_fetched(request: CollectionRequest, clutch: Clutch) -> str:
    """The simulated logger's readings."""
    if clutch.incubator is None or clutch.laid_on is None:
        raise Refused(
            "The logger belongs to an incubator with eggs in it: name the incubator first. Nothing was changed."
        )
    since = timezone.now() - (timezone.localdate() - clutch.laid_on) - timedelta(hours=1)
    return f"{fetch_log(clutch.incubator, request.member, since, timezone.now())} readings fetched from the simulated logger."
