"""Changes of what becomes of hatchlings, of their feeding and of their labels. Each is kept with who and when, and can be taken back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot.collection.history import recording, subject_of
from eyot.collection.models import Collection
from eyot.homes.models import Fate, OwnLabel
from eyot.homes.standing import Kept
from eyot.season.egg_actions import note_day, set_state
from eyot.season.models import Egg, EggEvent
from eyot.shared.money import money
from eyot.shared.refusal import Refused
from eyot.shared.units import long_day

NOTHING = "Nothing was changed."
OFFERED = (Fate.State.LISTED, Fate.State.RESERVED, Fate.State.SOLD, Fate.State.GIVEN)
RACK = "rack"
DIED = "died"


@dataclass(frozen=True)
class Decision:
    """What is to become of a hatchling, as it was entered. ``knowing``: the keeper has read what speaks against it."""

    state: str
    on: date
    who: str = ""
    until: date | None = None
    project: str = ""
    why: str = ""
    price: Decimal | None = None
    knowing: bool = False


def decide(row: Kept, member: AbstractBaseUser, said: Decision, at: datetime, forbidden: Sequence[str] = ()) -> None:
    """What becomes of a hatchling from a day on. ``forbidden``: genes of it that may not be sold here, by name.

    One that died keeps what was found in its record. :class:`Refused` for what can't be, and for what the keeper has to know first.
    """
    egg = row.egg
    if said.state == DIED:
        set_state(egg, member, Egg.State.DEAD, said.on, said.why, at)
        return
    if said.state not in Fate.State.values:
        raise Refused(f"Say what becomes of it: {', '.join(Fate.State.labels)} or died. {NOTHING}", field="state")
    _check(row, said, at)
    if said.state in OFFERED and forbidden and not said.knowing:
        raise Refused(
            f"{egg} shows {', '.join(forbidden)}, which you marked as not to be sold where you live. Tick that you know it, if this is "
            f"allowed all the same. {NOTHING}",
            field="knowing",
        )
    fate = Fate(
        egg=egg,
        state=said.state,
        on=said.on,
        who=said.who.strip()[:80],
        until=said.until if said.state == Fate.State.RESERVED else None,
        project=said.project.strip()[:80],
        why=said.why.strip()[:300],
        price=said.price if said.state == Fate.State.SOLD else None,
        made_by_id=member.pk,
        made_at=at,
    )
    whom = f" {'for' if said.state == Fate.State.RESERVED else 'to'} {fate.who}" if fate.who else ""
    words = f"{egg}: {Fate.State(said.state).label}{whom} {long_day(said.on)}"
    with recording(egg.clutch.collection, member, at, words, subject_of(egg.record)) as record:
        record.add(fate)
        if egg.kept_as and egg.kept_as.is_here and fate.is_gone:
            record.change(egg.kept_as, archived_on=said.on)
        elif egg.kept_as and row.fate and row.fate.is_gone and not fate.is_gone:
            record.change(egg.kept_as, archived_on=None)


def _check(row: Kept, said: Decision, at: datetime) -> None:
    egg = row.egg
    if row.died:
        raise Refused(f"{egg} died, by its record. Take that back first if it is wrong. {NOTHING}", field="state")
    if said.on > timezone.localdate(at):
        raise Refused(f"{long_day(said.on)} lies ahead. {NOTHING}", field="on")
    hatched = egg.out_on or egg.clutch.cut_on or egg.clutch.laid_on
    if hatched and said.on < hatched:
        raise Refused(f"{egg} hatched on {long_day(hatched)}, after {long_day(said.on)}. {NOTHING}", field="on")
    if said.state == Fate.State.LISTED and not row.label:
        raise Refused(
            f"{egg} has no call yet: nobody could say what is listed. Make one on the bench first. {NOTHING}",
            field="state",
        )
    if said.state == Fate.State.RESERVED and not said.who.strip():
        raise Refused(f"Say for whom it is reserved. {NOTHING}", field="who")
    if said.state == Fate.State.RESERVED and said.until and said.until < said.on:
        raise Refused(f"It can’t be reserved until {long_day(said.until)}, before it is. {NOTHING}", field="until")
    if row.fate and row.fate.is_gone and said.state in OFFERED and said.state != row.fate.state:
        raise Refused(f"{egg} lives with {row.fate.who or 'somebody else'} already. {NOTHING}", field="state")


@transaction.atomic
def decide_all(
    rows: Sequence[Kept], member: AbstractBaseUser, said: Decision, at: datetime, forbidden: Mapping[int, Sequence[str]]
) -> int:
    """The same for several at once: all of them or none."""
    for row in rows:
        decide(row, member, said, at, forbidden.get(row.egg.pk, ()))
    return len(rows)


def feed(
    collection: Collection, member: AbstractBaseUser, took: Mapping[Egg, bool], what: str, on: date, at: datetime
) -> int:
    """A whole rack was offered a meal on a day: who took it and who refused. Taken back as one; how many were fed or refused."""
    if not took:
        raise Refused(f"Tap who took the meal and who refused it. {NOTHING}")
    if on > timezone.localdate(at):
        raise Refused(f"{long_day(on)} lies ahead. {NOTHING}", field="on")
    for egg in took:
        if egg.out_on and on < egg.out_on:
            raise Refused(f"{egg} left the egg on {long_day(egg.out_on)}, after {long_day(on)}. {NOTHING}", field="on")
    eaten = sum(took.values())
    words = f"Fed {long_day(on)}: {eaten} took {what.strip() or 'it'}, {len(took) - eaten} refused"
    with recording(collection, member, at, words, RACK) as record:
        for egg, ate in took.items():
            kind = EggEvent.Kind.MEAL if ate else EggEvent.Kind.REFUSED
            record.add(EggEvent(egg=egg, kind=kind, value=what.strip()[:40], on=on))
            if ate:
                record.change(egg, first_meal_on=min(on, egg.first_meal_on or on))
    return len(took)


def note_shed(egg: Egg, member: AbstractBaseUser, on: date, at: datetime) -> None:
    """A shed: the first, or one more."""
    if egg.shed_on is None and not egg.clutch.elsewhere:
        note_day(egg, member, "shed_on", on, "", at)
        return
    _check_event(egg, on, at)
    with recording(egg.clutch.collection, member, at, f"{egg}: shed {long_day(on)}", subject_of(egg.record)) as record:
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.SHED, on=on))


def note_health(egg: Egg, member: AbstractBaseUser, found: str, on: date, at: datetime) -> None:
    """What is not sound with a hatchling; an empty text: it is well again."""
    _check_event(egg, on, at)
    found = found.strip()[:300]
    words = f"{egg}: {f'not sound, {found}' if found else 'well again'} {long_day(on)}"
    kind = EggEvent.Kind.AILING if found else EggEvent.Kind.WELL
    with recording(egg.clutch.collection, member, at, words, subject_of(egg.record)) as record:
        record.add(EggEvent(egg=egg, kind=kind, on=on, note=found))


def _check_event(egg: Egg, on: date, at: datetime) -> None:
    if on > timezone.localdate(at):
        raise Refused(f"{long_day(on)} lies ahead. {NOTHING}", field="on")
    if egg.out_on and on < egg.out_on:
        raise Refused(f"{egg} left the egg on {long_day(egg.out_on)}, after {long_day(on)}. {NOTHING}", field="on")


def write_label(
    row: Kept,
    member: AbstractBaseUser,
    text: str,
    price: Decimal | None,
    beyond: Sequence[str],
    at: datetime,
    *,
    knowing: bool,
) -> None:
    """The keeper's own words for a label, and the price. ``beyond``: what the text promises beyond the call, in sentences; with
    ``knowing`` it is kept all the same, and by whom."""
    text = " ".join(text.split())
    if len(text) > 300:
        raise Refused(f"A label has at most 300 letters, not {len(text)}. {NOTHING}", field="text")
    if beyond and not knowing:
        raise Refused(
            f"This promises more than the call: {'; '.join(beyond)}. Shorten it, or tick that you stand for it. {NOTHING}",
            field="text",
        )
    if row.call and text == row.call.label:
        text = ""  # as called: it follows the call
    before = row.own_label
    if text == (before.text if before else "") and row.price == price:
        return
    egg = row.egg
    kept = OwnLabel(egg=egg, text=text, price=price, overruled=list(beyond), made_by_id=member.pk, made_at=at)
    told = [f"label “{text or 'as called'}”"] if text != (before.text if before else "") else []
    told += ["against the call"] if beyond else []
    told += [f"price {money(price, row.collection.currency) or 'none'}"] if price != row.price else []
    words = f"{egg}: {', '.join(told)}"
    with recording(egg.clutch.collection, member, at, words, subject_of(egg.record)) as record:
        record.add(kept)
