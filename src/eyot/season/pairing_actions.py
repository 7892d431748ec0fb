"""Changes from the plan to the laying. Any member may make them; each is kept with who and when, and can be taken back."""

from __future__ import annotations

import re
from collections.abc import Sequence
from contextlib import AbstractContextManager
from datetime import date, datetime, timedelta

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot.collection.history import Recording, recording, subject_of
from eyot.collection.models import Animal, Collection, Sex
from eyot.season.models import Clutch, ClutchSire, Egg, EggEvent, Round
from eyot.shared.refusal import Refused
from eyot.shared.units import long_day

CODE = re.compile(r"[A-Za-z0-9][A-Za-z0-9-]{0,19}")
MOST_SIRES = 4
MOST_EGGS = 25
EVENTS = {"ovulated_on": "ovulation", "prelay_shed_on": "pre-lay shed"}
ROUND_DAYS = {"locked_on": "locked", "separated_on": "taken apart"}
A_ROW = 4


def save_pairing(
    collection: Collection,
    member: AbstractBaseUser,
    code: str,
    dam: Animal | None,
    sires: Sequence[Animal],
    on: date,
    at: datetime,
    *,
    sire_unknown: bool = False,
) -> Clutch:
    """Puts a pairing into the season, under a code of its own. :class:`Refused`, with nothing saved, where it can't be.

    ``sire_unknown``: nobody knows who the sire is, so ``sires`` may be empty.
    """
    code = code.strip().upper()
    _check_pairing(collection, code, dam, sires, sire_unknown)
    clutch = Clutch(collection=collection, code=code, dam=dam, paired_on=on)
    sire_names = " or ".join(map(str, sires)) or "a sire not known"
    with recording(collection, member, at, f"{code} planned: {dam} × {sire_names}", "") as record:
        record.add(clutch)
        record.subject = subject_of(clutch)
        for sire in sires:
            record.add(ClutchSire(clutch=clutch, sire=sire))
    return clutch


def _check_pairing(
    collection: Collection, code: str, dam: Animal | None, sires: Sequence[Animal], sire_unknown: bool
) -> None:
    if not CODE.fullmatch(code):
        raise Refused(
            f"A code has letters, digits and hyphens, up to 20, not “{code}”. Nothing was saved.", field="code"
        )
    if Clutch.everything.filter(collection=collection, code=code).exists():
        raise Refused(f"There is a {code} already. Nothing was saved.", field="code")
    if dam is None or not (sires or sire_unknown):
        raise Refused("A pairing needs a dam and at least one sire, or “not known” for him. Nothing was saved.")
    if dam.sex == Sex.MALE:
        raise Refused(f"{dam.name} is male and can't be the dam. Nothing was saved.")
    for sire in sires:
        check_sire(dam, sire)
    if len(set(sires)) < len(sires):
        raise Refused("The same sire was chosen twice. Nothing was saved.")
    if len(sires) > MOST_SIRES:
        raise Refused(f"At most {MOST_SIRES} sires stand in one pairing. Nothing was saved.")


def check_sire(dam: Animal, sire: Animal) -> None:
    """:class:`Refused` for a sire that is female or the dam itself."""
    if sire == dam:
        raise Refused(f"{dam.name} can't be dam and sire at once. Nothing was saved.", field="sire")
    if sire.sex == Sex.FEMALE:
        raise Refused(f"{sire.name} is female and can't be the sire. Nothing was saved.", field="sire")


def next_code(collection: Collection) -> str:
    """A code that continues the last one: W-08 after W-07."""
    rows = collection.clutches.values_list("code", "laid_on", "paired_on", "pk")
    numbered = [
        ((laid or paired or date.min, pk), match)
        for code, laid, paired, pk in rows
        if (match := re.fullmatch(r"(.*?)(\d+)", code))
    ]
    if not numbered:
        return "C-01"
    prefix = max(numbered, key=lambda row: row[0])[1].group(1)
    digits = [match.group(2) for _, match in numbered if match.group(1) == prefix]
    number, width = max(map(int, digits)) + 1, max(map(len, digits))
    return f"{prefix}{number:0{width}}"


def name_sire(clutch: Clutch, member: AbstractBaseUser, sire: Animal, at: datetime) -> None:
    """The sire of a clutch that was kept without one is known now."""
    if clutch.clutch_sires.exists():
        raise Refused(f"{clutch.code} has its sire already. Nothing was changed.")
    check_sire(clutch.own_dam, sire)
    with _recorded(clutch, member, at, f"{clutch.code}: {sire.name} is the sire") as record:
        record.add(ClutchSire(clutch=clutch, sire=sire))


def introduce(clutch: Clutch, member: AbstractBaseUser, sire: Animal, on: date, at: datetime) -> None:
    """A sire is brought to the dam."""
    _not_ahead(on, at)
    if clutch.laid_on:
        raise Refused(f"{clutch.code} is laid; a new round belongs to a new pairing. Nothing was changed.")
    check_sire(clutch.own_dam, sire)
    with _recorded(clutch, member, at, f"{clutch.code}: {sire.name} introduced {long_day(on)}") as record:
        if not clutch.clutch_sires.filter(sire=sire).exists():
            record.add(ClutchSire(clutch=clutch, sire=sire))
        record.add(Round(clutch=clutch, sire=sire, introduced_on=on))


def note_round(met: Round, member: AbstractBaseUser, event: str, on: date, at: datetime) -> None:
    """A lock was seen, or the pair was taken apart. ``event``: locked_on or separated_on."""
    _not_ahead(on, at)
    if event not in ROUND_DAYS:
        raise Refused("That is not something that a round records. Nothing was changed.")
    if on < met.introduced_on:
        raise Refused(
            f"{met.sire.name} was introduced on {long_day(met.introduced_on)}, after {long_day(on)}. Nothing was changed."
        )
    with _recorded(
        met.clutch, member, at, f"{met.clutch.code}: {met.sire.name} {ROUND_DAYS[event]} {long_day(on)}"
    ) as record:
        record.change(met, **{event: on})


def note_event(clutch: Clutch, member: AbstractBaseUser, event: str, on: date, at: datetime) -> None:
    """Ovulation or the pre-lay shed was seen."""
    _not_ahead(on, at)
    if event not in EVENTS:
        raise Refused("That is not a day that a pairing records. Nothing was changed.")
    if clutch.paired_on and on < clutch.paired_on:
        raise Refused(
            f"{clutch.code} was paired on {long_day(clutch.paired_on)}, after {long_day(on)}. Nothing was changed."
        )
    if clutch.laid_on and on > clutch.laid_on:
        raise Refused(
            f"{clutch.code} was laid on {long_day(clutch.laid_on)}, before {long_day(on)}. Nothing was changed."
        )
    with _recorded(clutch, member, at, f"{clutch.code}: {EVENTS[event]} {long_day(on)}") as record:
        record.change(clutch, **{event: on})


def lay(clutch: Clutch, member: AbstractBaseUser, on: date, eggs: int, slugs: int, at: datetime) -> None:
    """The eggs are there: numbered, sound ones first, and put into the box in rows."""
    _not_ahead(on, at)
    if clutch.laid_on:
        raise Refused(f"{clutch.code} was laid already, on {long_day(clutch.laid_on)}. Nothing was changed.")
    first = min(filter(None, [clutch.paired_on, *(met.introduced_on for met in clutch.rounds.all())]), default=None)
    if first and on < first:
        raise Refused(
            f"Laid on {long_day(on)}, but paired only on {long_day(first)}: one of the days is wrong. Nothing was changed."
        )
    if eggs < 0 or slugs < 0 or eggs + slugs < 1:
        raise Refused("A laying has at least one egg or slug. Nothing was changed.")
    if eggs + slugs > MOST_EGGS:
        raise Refused(
            f"{eggs + slugs} eggs: a ball python lays up to about 16. At most {MOST_EGGS} are taken, for clutches put together. "
            "Nothing was changed."
        )
    with _recorded(clutch, member, at, f"{clutch.code} laid {long_day(on)}: {eggs} eggs, {slugs} slugs") as record:
        record.change(clutch, laid_on=on)
        for number in range(1, eggs + slugs + 1):
            across, down = place_in_box(number, eggs + slugs)
            state = Egg.State.SHUT if number <= eggs else Egg.State.SLUG
            egg = record.add(Egg(clutch=clutch, number=number, state=state, across=across, down=down))
            record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=state, on=on))


def place_in_box(number: int, count: int) -> tuple[float, float]:
    """Where an egg is drawn until it is put where it lies: in even rows, from far left to near right, apart from its neighbours."""
    rows = -(-count // (A_ROW if count <= 3 * A_ROW else A_ROW + 1))
    fewest, longer = divmod(count, rows)
    of_rows = [fewest + (row < longer) for row in range(rows)]
    row = next(row for row in range(rows) if number <= sum(of_rows[: row + 1]))
    column = number - sum(of_rows[:row]) - 1
    return _spread(column, of_rows[row], of_rows[0]), _spread(row, rows, rows)


def _spread(place: int, count: int, most: int) -> float:
    """A place of several about the middle, 0 to 1, as far apart as ``most`` may be."""
    return round(0.5 + (place - (count - 1) / 2) * min(0.45, 1 / max(1, most - 1)), 3)


def _recorded(clutch: Clutch, member: AbstractBaseUser, at: datetime, what: str) -> AbstractContextManager[Recording]:
    return recording(clutch.collection, member, at, what, subject_of(clutch))


def _not_ahead(on: date, at: datetime) -> None:
    if on > timezone.localdate(at) + timedelta(days=1):
        raise Refused(f"{long_day(on)} lies ahead. Nothing was changed.", field="on")
