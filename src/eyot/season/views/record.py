"""A clutch's record: rounds and days before the laying; place, log, signs and eggs after it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.history import changes_of, subject_of
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Sex
from eyot.season.clutch_actions import close, fetch_log, import_log, set_up, tick_sign
from eyot.season.egg_actions import add_egg, all_at_once, set_state
from eyot.season.models import Clutch, Egg
from eyot.season.pairing_actions import EVENTS, introduce, lay, name_sire, note_event, note_round
from eyot.season.queries import egg_of, recorded_clutch_of
from eyot.season.reading import animal_named, day_from, number_from
from eyot.season.record import due_of, egg_rows, log_of, next_round_of, opening_words, signs_of
from eyot.shared.refusal import Refused, refusals_on

Change = Callable[..., str | None]


def record_page(request: CollectionRequest, code: str, *, refused: str = "", **more: object) -> HttpResponse:
    """A clutch's record."""
    clutch, now = recorded_clutch_of(request.collection, code), timezone.now()
    log = log_of(clutch, now)
    due = due_of(clutch)
    context = {
        "clutch": clutch,
        "today": timezone.localdate(),
        "refused": refused,
        "changes": changes_of(request.collection, subject_of(clutch), 8),
        "log": log,
        "due": due,
        "next_round": next_round_of(clutch, request.collection),
        "opening": opening_words(request.collection, due),
        "signs": signs_of(clutch),
        "eggs": egg_rows(clutch),
        "states": Egg.State.choices,
        "incubators": list(request.collection.incubators.values_list("name", flat=True)),
        "males": list(
            request.collection.animals.filter(archived_on=None).exclude(sex=Sex.FEMALE).values_list("name", flat=True)
        )
        if clutch.laid_on is None or not clutch.clutch_sires.all()
        else [],
        "days": [(field, words, getattr(clutch, field)) for field, words in EVENTS.items()],
    }
    return render(request, "season/record.html", context, status=422 if refused else 200)


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
    sire = animal_named(clutch.collection, request.POST.get("sire", ""), "Sire")
    if sire is None:
        raise Refused("Sire: choose who was introduced. Nothing was changed.")
    on = day_from(request.POST.get("on", ""), "Introduced") or timezone.localdate()
    introduce(clutch, request.member, sire, on, timezone.now())


@changing
def sire_named(request: CollectionRequest, clutch: Clutch) -> None:
    """Whose clutch it is turned out."""
    sire = animal_named(clutch.collection, request.POST.get("sire", ""), "Sire")
    if sire is None:
        raise Refused("Sire: choose who it was. Nothing was changed.")
    name_sire(clutch, request.member, sire, timezone.now())


@changing
def round_day(request: CollectionRequest, clutch: Clutch, number: int) -> None:
    """A lock was seen, or the pair taken apart."""
    met = next((one for one in clutch.rounds.all() if one.pk == number), None)
    if met is None:
        raise Refused("That round is not here any more. Nothing was changed.")
    on = day_from(request.POST.get("on", ""), "Day") or timezone.localdate()
    note_round(met, request.member, request.POST.get("event", ""), on, timezone.now())


@changing
def event(request: CollectionRequest, clutch: Clutch) -> None:
    """Ovulation or pre-lay shed."""
    on = day_from(request.POST.get("on", ""), "Day") or timezone.localdate()
    note_event(clutch, request.member, request.POST.get("event", ""), on, timezone.now())


@changing
def laid(request: CollectionRequest, clutch: Clutch) -> None:
    """The eggs are there."""
    given = request.POST
    on = day_from(given.get("on", ""), "Laid") or timezone.localdate()
    eggs, slugs = number_from(given.get("eggs", ""), "Eggs"), number_from(given.get("slugs", ""), "Slugs")
    lay(clutch, request.member, on, eggs, slugs, timezone.now())


@changing
def clutch_place(request: CollectionRequest, clutch: Clutch) -> None:
    """Where the clutch lies."""
    given = request.POST
    fields = (given.get("place", ""), given.get("substrate", ""), given.get("incubator", ""), given.get("note", ""))
    set_up(clutch, request.member, *fields, timezone.now())


@changing
def sign(request: CollectionRequest, clutch: Clutch) -> None:
    """A ready sign."""
    tick_sign(clutch, request.member, request.POST.get("sign", ""), seen="seen" in request.POST, at=timezone.now())


@changing
def one_more_egg(request: CollectionRequest, clutch: Clutch) -> None:
    """An egg found later."""
    add_egg(clutch, request.member, number_from(request.POST.get("number", ""), "Egg"), timezone.now())


@changing
def all_of_them(request: CollectionRequest, clutch: Clutch) -> str:
    """All out, all shed, all fed."""
    given = request.POST
    on = day_from(given.get("on", ""), "Day") or timezone.localdate()
    event, note = given.get("event", ""), given.get("note", "")
    count = all_at_once(clutch, request.member, event, on, note, timezone.now())
    return f"Noted for {count}; the others stand as they stood."


@changing
def state(request: CollectionRequest, clutch: Clutch, number: int) -> None:
    """How an egg stands."""
    given, egg = request.POST, egg_of(clutch, number)
    on = day_from(given.get("on", ""), "Day") or timezone.localdate()
    set_state(egg, request.member, given.get("state", ""), on, given.get("found", ""), timezone.now())


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
