"""An egg's record: its states with their days, sexing, weights, blue, first shed, first meal; and its place in the box."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.season.egg_actions import DAYS, note_day, place_egg, set_state, sex_egg, weigh_egg
from eyot.season.forms import EggDayForm, EggStateForm, HoldBackForm, SexForm, WeightForm
from eyot.season.growth import grown_of, plot_of
from eyot.season.models import Egg, Weighing
from eyot.season.queries import clutch_of, egg_of
from eyot.season.record import happened, record_stamp
from eyot.season.scale import simulated_grams
from eyot.shared.devices import entered_at, key_from
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_as_text, refusals_on


def egg_page(request: CollectionRequest, code: str, number: int, refused: Refused | None = None) -> HttpResponse:
    """The record of an egg."""
    egg = egg_of(clutch_of(request.collection, code), number)
    weights = list(egg.weighings.all())
    eggs = [other.number for other in egg.clutch.eggs.all()]
    at = eggs.index(egg.number)
    sexed = {"sex": egg.sex, "how": egg.sexed_by, "sure": egg.sex_sure}
    context = {
        "clutch": egg.clutch,
        "egg": egg,
        "refused": refused,
        "happened": happened(egg),
        "weights": weights[::-1],
        "plot": plot_of(weights),
        "grown": grown_of(weights, egg),
        "state_form": as_sent(refused, EggStateForm, initial={"state": egg.state}),
        "days": [_day(refused, egg, field) for field in DAYS],
        "sex_form": as_sent(refused, SexForm, initial=sexed),
        "name_form": as_sent(refused, HoldBackForm),
        "weight_form": as_sent(refused, WeightForm),
        "stamp": record_stamp(egg.clutch),
        "previous": eggs[at - 1] if at else None,
        "next": eggs[at + 1] if at + 1 < len(eggs) else None,
    }
    return render(request, "season/egg.html", context, status=422 if refused else 200)


def _day(refused: Refused | None, egg: Egg, field: str) -> tuple[str, date | None, EggDayForm]:
    """What a day is called, when it was, and the form to enter it. Every meal is a day of its own."""
    on = getattr(egg, field)
    initial = {"event": field} | ({"on": on} if on and field != "first_meal_on" else {})
    return DAYS[field], on, as_sent(refused, EggDayForm, about=field, words=f"{DAYS[field]} on", initial=initial)


def changing(change: Callable[[CollectionRequest, Egg], None]) -> Callable[..., HttpResponse]:
    """A view that carries out a change of an egg and shows its record."""

    def view(request: CollectionRequest, code: str, number: int) -> HttpResponse:
        change(request, egg_of(clutch_of(request.collection, code), number))
        return redirect("egg-record", code, number)

    return require_POST(refusals_on(egg_page)(view))


@changing
def state(request: CollectionRequest, egg: Egg) -> None:
    """How the egg stands, since when, and what was found."""
    given = entered(request, EggStateForm)
    set_state(
        egg,
        request.member,
        given["state"],
        given["on"],
        given["found"],
        timezone.now(),
        was=request.POST.get("was", ""),
    )


@changing
def sexed(request: CollectionRequest, egg: Egg) -> None:
    """The sex, and how it was determined."""
    sex_egg(egg, request.member, **entered(request, SexForm), at=timezone.now())


@changing
def weighed(request: CollectionRequest, egg: Egg) -> None:
    """A weight was typed."""
    given = entered(request, WeightForm)
    weigh_egg(egg, request.member, given["grams"], given["on"], Weighing.Source.TYPED, timezone.now())


@changing
def scale(request: CollectionRequest, egg: Egg) -> None:
    """The simulated scale sends a weight."""
    today = timezone.localdate()
    weigh_egg(egg, request.member, simulated_grams(egg, today), today, Weighing.Source.SCALE, timezone.now())


@changing
def day(request: CollectionRequest, egg: Egg) -> None:
    """In the blue, first shed, first meal."""
    given = entered(request, EggDayForm, about=request.POST.get("event", ""))
    note_day(egg, request.member, given["event"], given["on"], given["eaten"], timezone.now())


@require_POST
@refusals_as_text
def egg_place(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Where the egg lies; answers without a page, for the box that is being arranged."""
    egg, given = egg_of(clutch_of(request.collection, code), number), request.POST
    try:
        across, down = float(given.get("across", "")), float(given.get("down", ""))
    except ValueError:
        raise Refused("A place is two numbers. Nothing was changed.") from None
    on_top, mark, key = given.get("on_top") == "yes", given.get("mark", ""), key_from(given.get("key", ""))
    place_egg(
        egg, request.member, across, down, on_top=on_top, mark=mark, at=entered_at(given, timezone.now()), key=key
    )
    return HttpResponse(status=204)
