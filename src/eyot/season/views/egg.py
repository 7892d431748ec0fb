"""An egg's record: its states with their days, sexing, weights, blue, first shed, first meal; and its place in the box."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Sex
from eyot.season.egg_actions import DAYS, note_day, place_egg, set_state, sex_egg, weigh_egg
from eyot.season.growth import plot_of
from eyot.season.models import Egg, Sexing, Weighing
from eyot.season.queries import clutch_of, egg_of
from eyot.season.reading import day_from, grams_from, key_from
from eyot.season.scale import simulated_grams
from eyot.shared.refusal import Refused, refusals_on


def egg_page(request: CollectionRequest, code: str, number: int, refused: str = "") -> HttpResponse:
    """The record of an egg."""
    egg = egg_of(clutch_of(request.collection, code), number)
    weights = list(egg.weighings.all())
    eggs = [other.number for other in egg.clutch.eggs.all()]
    at = eggs.index(egg.number)
    context = {
        "clutch": egg.clutch,
        "egg": egg,
        "refused": refused,
        "today": timezone.localdate(),
        "states": Egg.State.choices,
        "events": list(egg.events.all()),
        "weights": weights[::-1],
        "plot": plot_of(weights),
        "sexings": Sexing.choices,
        "sexes": Sex.choices,
        "days": [(field, words, getattr(egg, field)) for field, words in DAYS.items()],
        "previous": eggs[at - 1] if at else None,
        "next": eggs[at + 1] if at + 1 < len(eggs) else None,
    }
    return render(request, "season/egg.html", context, status=422 if refused else 200)


def changing(change: Callable[[CollectionRequest, Egg], None]) -> Callable[..., HttpResponse]:
    """A view that carries out a change of an egg and shows its record."""

    def view(request: CollectionRequest, code: str, number: int) -> HttpResponse:
        change(request, egg_of(clutch_of(request.collection, code), number))
        return redirect("egg-record", code, number)

    return require_POST(refusals_on(egg_page)(view))


@changing
def state(request: CollectionRequest, egg: Egg) -> None:
    """How the egg stands, since when, and what was found."""
    given = request.POST
    on = day_from(given.get("on", ""), "Day") or timezone.localdate()
    set_state(egg, request.member, given.get("state", ""), on, given.get("found", ""), timezone.now())


@changing
def sexed(request: CollectionRequest, egg: Egg) -> None:
    """The sex, and how it was determined."""
    given = request.POST
    sex_egg(egg, request.member, given.get("sex", ""), given.get("how", ""), sure="sure" in given, at=timezone.now())


@changing
def weighed(request: CollectionRequest, egg: Egg) -> None:
    """A weight was typed."""
    on = day_from(request.POST.get("on", ""), "Day") or timezone.localdate()
    weigh_egg(egg, request.member, grams_from(request.POST.get("grams", "")), on, Weighing.Source.TYPED, timezone.now())


@changing
def scale(request: CollectionRequest, egg: Egg) -> None:
    """The simulated scale sends a weight."""
    today = timezone.localdate()
    weigh_egg(egg, request.member, simulated_grams(egg, today), today, Weighing.Source.SCALE, timezone.now())


@changing
def day(request: CollectionRequest, egg: Egg) -> None:
    """In the blue, first shed, first meal."""
    given = request.POST
    on = day_from(given.get("on", ""), "Day") or timezone.localdate()
    note_day(egg, request.member, given.get("event", ""), on, given.get("eaten", ""), timezone.now())


@require_POST
def egg_place(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """Where the egg lies; answers without a page, for the box that is being arranged."""
    egg, given = egg_of(clutch_of(request.collection, code), number), request.POST
    try:
        across, down = float(given.get("across", "")), float(given.get("down", ""))
        on_top, mark = given.get("on_top") == "yes", given.get("mark", "")
        place_egg(
            egg,
            request.member,
            across,
            down,
            on_top=on_top,
            mark=mark,
            at=timezone.now(),
            key=key_from(given.get("key", "")),
        )  # type: ignore[arg-type]
    except ValueError:
        return HttpResponse("A place is two numbers. Nothing was changed.", status=422, content_type="text/plain")
    except Refused as reason:
        return HttpResponse(str(reason), status=422, content_type="text/plain")
    return HttpResponse(status=204)
