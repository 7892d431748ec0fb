"""Changes of eggs and hatchlings. Any member may make them; each is kept with who and when, and can be taken back.

``key``: given by the device; a change that comes twice counts once.
"""

from __future__ import annotations

from contextlib import AbstractContextManager
from datetime import date, datetime
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot.collection.history import Recording, recording, subject_of, was_sent
from eyot.collection.models import Change, Sex
from eyot.season.models import Clutch, Egg, EggEvent, Sexing, Stage, Weighing
from eyot.season.pairing_actions import MOST_EGGS, place_in_box
from eyot.shared.refusal import Overtaken, Refused
from eyot.shared.units import long_day

HEAVIEST_G = 400
DAYS = {"blue_on": "in the blue", "shed_on": "first shed", "first_meal_on": "meal"}
NEVER_AFTER = {Egg.State.SLUG: "a slug", Egg.State.DEAD: "dead"}
ALIVE_AND_OPEN = (Egg.State.PIPPED, Egg.State.OPEN, Egg.State.WRAPPED, Egg.State.OUT)


@transaction.atomic
def set_state(
    egg: Egg,
    member: AbstractBaseUser,
    state: str,
    on: date,
    note: str,
    at: datetime,
    key: UUID | None = None,
    *,
    was: str = "",
) -> None:
    """How an egg stands from a day on, with what was found. The clutch's own days follow where they are still open.

    A slug or a dead egg stays one, but for a slip of the finger: on the day on which it was entered it can be put right.
    ``was``: how it stood on the page on which this was chosen; where it has come to stand otherwise since, :class:`Overtaken`.
    """
    clutch = egg.clutch
    if was_sent(clutch.collection, key):
        return
    if state not in Egg.State.values:
        raise Refused(f"“{state}” is not a state of an egg. Nothing was changed.")
    egg.refresh_from_db(fields=["state"], from_queryset=Egg.objects.select_for_update())
    if was in Egg.State.values and egg.state not in (was, state):
        raise Overtaken(_overtaken(egg, was), stands=egg.state)
    _check_day(egg, on, at)
    if egg.state in NEVER_AFTER and state in ALIVE_AND_OPEN and not _entered_on(egg, on):
        raise Refused(
            f"Egg {egg.number} stands as {NEVER_AFTER[Egg.State(egg.state)]}; take that back first if it was wrong. Nothing was changed."
        )
    if state == Egg.State.OUT and egg.shed_on and on > egg.shed_on:
        raise Refused(f"Egg {egg.number} shed on {long_day(egg.shed_on)}, before {long_day(on)}. Nothing was changed.")
    words = Egg.State(state).label.lower()
    with _recorded(clutch, member, at, f"{clutch.code}, egg {egg.number}: {words} {long_day(on)}", key) as record:
        values: dict[str, object] = {"state": state}
        if state == Egg.State.OUT:
            values |= {"out_on": on} | ({"stage": Stage.WET} if egg.stage == Stage.EGG else {})
        record.change(egg, **values)
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=state, on=on, note=note.strip()[:300]))
        if state in (Egg.State.OPEN, Egg.State.WRAPPED) and clutch.cut_on is None:
            record.change(clutch, cut_on=on)
        if state == Egg.State.OUT and clutch.out_on is None:
            record.change(clutch, out_on=on)


def all_at_once(clutch: Clutch, member: AbstractBaseUser, event: str, on: date, note: str, at: datetime) -> int:
    """All hatchlings of a clutch are out, have shed, or were fed, on one day; how many it was true of. Taken back as one.

    ``event``: out, shed_on or first_meal_on. Those of which it stands already, and those that are not so far, stay as they are.
    """
    if event not in AT_ONCE:
        raise Refused("Say what all of them did: left the egg, shed, or were fed. Nothing was changed.")
    eggs = [egg for egg in clutch.eggs.all() if _can_be_noted(egg, event, on)]
    if not eggs:
        raise Refused(
            f"There is no hatchling of {clutch.code} of which that could be noted on {long_day(on)}. Nothing was changed."
        )
    for egg in eggs:
        _check_day(egg, on, at)
    with _recorded(
        clutch, member, at, f"{clutch.code}: {AT_ONCE[event]} {long_day(on)}, {len(eggs)} at once"
    ) as record:
        for egg in eggs:
            _note(record, egg, event, on, note)
        field = {"out": "out_on", "shed_on": "shed_on"}.get(event, "")
        if field and getattr(clutch, field) is None:
            record.change(clutch, **{field: on})
    return len(eggs)


AT_ONCE = {"out": "out of the egg", "shed_on": "first shed", "first_meal_on": "fed"}


def _can_be_noted(egg: Egg, event: str, on: date) -> bool:
    if event == "out":
        return egg.state in (Egg.State.PIPPED, Egg.State.OPEN, Egg.State.WRAPPED)
    is_out = egg.state == Egg.State.OUT and egg.out_on is not None and egg.out_on <= on
    return is_out and not (event == "shed_on" and egg.shed_on)


def _note(record: Recording, egg: Egg, event: str, on: date, note: str) -> None:
    if event == "out":
        stage = {"stage": Stage.WET} if egg.stage == Stage.EGG else {}
        record.change(egg, state=Egg.State.OUT, out_on=on, **stage)
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=Egg.State.OUT, on=on, note=note.strip()[:300]))
    elif event == "shed_on":
        record.change(egg, shed_on=on, stage=Stage.SHED)
    else:
        record.change(egg, first_meal_on=min(on, egg.first_meal_on or on))
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.MEAL, value=note.strip()[:40], on=on))


def note_day(egg: Egg, member: AbstractBaseUser, event: str, on: date, note: str, at: datetime) -> None:
    """In the blue, first shed, or a meal. ``event``: blue_on, shed_on, first_meal_on; ``note``: what was eaten.

    Every meal is kept with its day; the first of them is the first meal.
    """
    clutch = egg.clutch
    if event not in DAYS:
        raise Refused("That is not a day that a hatchling records. Nothing was changed.")
    if egg.state != Egg.State.OUT or egg.out_on is None:
        raise Refused(
            f"Egg {egg.number} is not out yet: enter the day on which it left the egg first. Nothing was changed."
        )
    _check_day(egg, on, at)
    if on < egg.out_on:
        raise Refused(
            f"Egg {egg.number} left the egg on {long_day(egg.out_on)}, after {long_day(on)}. Nothing was changed."
        )
    with _recorded(clutch, member, at, f"{clutch.code}, egg {egg.number}: {DAYS[event]} {long_day(on)}") as record:
        first = min(on, egg.first_meal_on or on) if event == "first_meal_on" else on
        values: dict[str, object] = {event: first}
        if event == "blue_on" and egg.stage in (Stage.EGG, Stage.WET):
            values["stage"] = Stage.BLUE
        if event == "shed_on":
            values["stage"] = Stage.SHED
        record.change(egg, **values)
        if event == "first_meal_on":
            record.add(EggEvent(egg=egg, kind=EggEvent.Kind.MEAL, value=note.strip()[:40], on=on))
        if event == "shed_on" and clutch.shed_on is None:
            record.change(clutch, shed_on=on)


def sex_egg(egg: Egg, member: AbstractBaseUser, sex: str, how: str, *, sure: bool, at: datetime) -> None:
    """The sex of a hatchling, how it was determined, and whether that is sure."""
    if sex not in Sex.values or how not in ("", *Sexing.values):
        raise Refused("The sex or how it was determined was not understood. Nothing was changed.")
    if egg.state != Egg.State.OUT:
        raise Refused(f"Egg {egg.number} is not out yet and can't be sexed. Nothing was changed.")
    words = f"{sex or 'sex open'}{f', {how}' if how else ''}{'' if sure else ', not sure'}"
    with _recorded(egg.clutch, member, at, f"{egg.clutch.code}, egg {egg.number}: {words}") as record:
        record.change(egg, sex=sex, sexed_by=how, sex_sure=sure)


def weigh_egg(egg: Egg, member: AbstractBaseUser, grams: float, on: date, source: str, at: datetime) -> None:
    """A weight of an egg or a hatchling."""
    if not 0 < grams <= HEAVIEST_G:
        raise Refused(
            f"A weight of an egg or hatchling lies above 0 and at most {HEAVIEST_G} g, not {grams:g}. Nothing was changed.",
            field="grams",
        )
    _check_day(egg, on, at)
    with _recorded(egg.clutch, member, at, f"{egg.clutch.code}, egg {egg.number}: {grams:g} g") as record:
        record.add(Weighing(egg=egg, grams=grams, on=on, source=source))


@transaction.atomic
def place_egg(
    egg: Egg,
    member: AbstractBaseUser,
    across: float,
    down: float,
    *,
    on_top: bool,
    mark: str,
    at: datetime,
    key: UUID | None,
) -> None:
    """Where an egg lies in the box, whether on others, and what is written on it. 0 to 1 from far left to near right.

    An entry that comes late, after somebody has placed the egg anew, changes nothing.
    """
    if was_sent(egg.clutch.collection, key):
        return
    if not (0 <= across <= 1 and 0 <= down <= 1):
        raise Refused("That place lies outside the box. Nothing was changed.")
    Egg.objects.select_for_update().get(pk=egg.pk)
    if _placed_since(egg, at):
        return
    what = f"{egg.clutch.code}, egg {egg.number}: placed{' on others' if on_top else ''}{f', marked {mark}' if mark else ''}"
    with _recorded(egg.clutch, member, at, what, key) as record:
        record.change(egg, across=round(across, 3), down=round(down, 3), on_top=on_top, mark=mark.strip()[:40])


def add_egg(clutch: Clutch, member: AbstractBaseUser, number: int, at: datetime) -> Egg:
    """One more egg, found later or forgotten."""
    if clutch.laid_on is None:
        raise Refused(f"{clutch.code} is not laid yet. Nothing was changed.")
    if clutch.eggs.filter(number=number).exists():
        raise Refused(f"{clutch.code} has an egg {number} already. Nothing was changed.", field="number")
    if not 1 <= number <= MOST_EGGS:
        raise Refused(f"Eggs are numbered from 1 to {MOST_EGGS}, not {number}. Nothing was changed.", field="number")
    across, down = place_in_box(number, max(number, clutch.eggs.count() + 1))
    with _recorded(clutch, member, at, f"{clutch.code}, egg {number} added") as record:
        egg = record.add(Egg(clutch=clutch, number=number, across=across, down=down))
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=Egg.State.SHUT, on=clutch.laid_on))
    return egg


@transaction.atomic
def guess_first(egg: Egg, member: AbstractBaseUser, guess: str, note: str, at: datetime, key: UUID | None) -> None:
    """The first guess at the cut, and a note; a guess that stands already is kept and the new one added to it."""
    if was_sent(egg.clutch.collection, key):
        return
    guess, note = guess.strip()[:200], note.strip()
    with _recorded(
        egg.clutch, member, at, f"{egg.clutch.code}, egg {egg.number}: first guess {guess or 'left open'}", key
    ) as record:
        stored = Egg.objects.select_for_update().get(pk=egg.pk)
        values = {"first_guess": guess} if guess and not stored.first_guess else {}
        if note:
            values["note"] = f"{stored.note}\n{note}".strip()
        if values:
            record.change(egg, **values)
        if guess and stored.first_guess and guess != stored.first_guess:
            record.add(
                EggEvent(
                    egg=egg, kind=EggEvent.Kind.NOTE, on=timezone.localdate(at), note=f"another first guess: {guess}"
                )
            )


def _recorded(
    clutch: Clutch, member: AbstractBaseUser, at: datetime, what: str, key: UUID | None = None
) -> AbstractContextManager[Recording]:
    return recording(clutch.collection, member, at, what, subject_of(clutch), key)


def _placed_since(egg: Egg, at: datetime) -> bool:
    later = Change.objects.filter(
        subject=subject_of(egg.clutch), at__gt=at, rows__contains=[{"model": "season.egg", "pk": egg.pk}]
    )
    return any(entry["pk"] == egg.pk and "across" in (entry["after"] or {}) for one in later for entry in one.rows)


def _overtaken(egg: Egg, was: str) -> str:
    last = Change.objects.filter(subject=subject_of(egg.clutch), what__startswith=_named(egg)).first()
    who = f" ({last.by.get_username()}, {timezone.localtime(last.at):%H:%M})" if last else ""
    return (
        f"Egg {egg.number} was {Egg.State(was).label.lower()} when you chose; since then it was set to "
        f"{egg.get_state_display().lower()}{who}. Nothing was changed; choose again if yours is right."
    )


def _named(egg: Egg) -> str:
    return f"{egg.clutch.code}, egg {egg.number}:"


def _entered_on(egg: Egg, on: date) -> bool:
    """Was the egg's state entered on this day?"""
    last = egg.events.filter(kind=EggEvent.Kind.STATE, value=egg.state).last()
    return last is not None and last.on == on


def _check_day(egg: Egg, on: date, at: datetime) -> None:
    laid = egg.clutch.laid_on
    if on > timezone.localdate(at):
        raise Refused(f"{long_day(on)} lies ahead. Nothing was changed.", field="on")
    if laid and on < laid:
        raise Refused(
            f"{egg.clutch.code} was laid on {long_day(laid)}, after {long_day(on)}. Nothing was changed.", field="on"
        )
