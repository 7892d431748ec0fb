"""A clutch that is there already, entered at once: laid, open or hatched, of this season or an earlier one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot.animals.lines import line_read, with_open_words
from eyot.collection.history import Recording, recording, subject_of
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.collection.queries import animal_named
from eyot.season.models import Clutch, ClutchSire, Egg, EggEvent, Stage
from eyot.season.pairing_actions import CODE, MOST_EGGS, place_in_box
from eyot.shared.refusal import Refused

SHUT, OPEN, OUT, SHED = "shut", "open", "out", "shed"
STANDINGS = (
    (SHUT, "all are shut, in the incubator"),
    (OPEN, "some are open, still in the egg"),
    (OUT, "they are out, not shed yet"),
    (SHED, "they have shed"),
)
"""How far a clutch may be when it is entered."""
LONGEST_DAYS = 100
"""From the laying to the first shed."""


@dataclass(frozen=True)
class Running:
    """What is known of a clutch that is there already. ``dam``, ``sire``: an animal's name here, or a line for one that lives
    elsewhere; ``sire`` empty: not known. ``hatched``: how many are open or out, 0 for all sound eggs; ``on``: since when."""

    code: str
    dam: str
    sire: str
    laid_on: date | None
    eggs: int
    slugs: int
    standing: str
    hatched: int = 0
    on: date | None = None


def enter_running(collection: Collection, member: AbstractBaseUser, given: Running, at: datetime) -> Clutch:
    """Enters a clutch with its eggs and parents as one change. :class:`Refused`, with nothing entered, where it can't be so."""
    code = given.code.strip().upper()
    _check(collection, code, given, timezone.localdate(at))
    with recording(collection, member, at, f"{code} entered as it stands", "") as record:
        dam = _parent(record, collection, given.dam, Sex.FEMALE, "dam")
        sire = _parent(record, collection, given.sire, Sex.MALE, "sire") if given.sire.strip() else None
        if dam == sire:
            raise Refused(f"{dam.name} can't be dam and sire at once. Nothing was entered.", field="sire")
        clutch = record.add(
            Clutch(collection=collection, code=code, dam=dam, laid_on=given.laid_on, **_days(given, given.on))
        )
        record.subject = subject_of(clutch)
        if sire:
            record.add(ClutchSire(clutch=clutch, sire=sire))
        _lay(record, clutch, given)
    return clutch


def _check(collection: Collection, code: str, given: Running, today: date) -> None:
    for words, field in (*_of_code(collection, code), *_of_days(given, today), *_of_eggs(given)):
        raise Refused(f"{words} Nothing was entered.", field=field)


def _of_code(collection: Collection, code: str) -> Iterator[tuple[str, str]]:
    """What is wrong with a code: words, and the field that they are about."""
    if not CODE.fullmatch(code):
        yield f"A code has letters, digits and hyphens, up to 20, not “{code}”.", "code"
    elif collection.clutches.filter(code=code).exists():
        yield f"There is a {code} already.", "code"


def _of_days(given: Running, today: date) -> Iterator[tuple[str, str]]:
    if given.laid_on is None:
        yield "Say on which day it was laid; about will do.", "laid_on"
    elif given.laid_on > today:
        yield f"{given.laid_on:%-d %b %Y} lies ahead.", "laid_on"
    elif given.on and not given.laid_on <= given.on <= today:
        yield f"{given.on:%-d %b %Y} lies before the laying or ahead.", "on"
    elif given.on and (given.on - given.laid_on).days > LONGEST_DAYS:
        yield f"From the laying to {given.on:%-d %b %Y} are more than {LONGEST_DAYS} days: one of them is wrong.", "on"


def _of_eggs(given: Running) -> Iterator[tuple[str, str]]:
    if given.eggs + given.slugs < 1:
        yield "A laying has at least one egg or slug.", "eggs"
    if given.eggs + given.slugs > MOST_EGGS:
        yield f"At most {MOST_EGGS} eggs are taken, for clutches put together.", "eggs"
    if given.standing not in dict(STANDINGS):
        yield "Say how far the clutch is.", "standing"
    if given.hatched > given.eggs:
        yield f"{given.hatched} hatchlings of {given.eggs} sound eggs can't be.", "hatched"


def _parent(record: Recording, collection: Collection, typed: str, sex: str, role: str) -> Animal:
    """An animal by its name, else a new one by its line, which lives elsewhere."""
    words = " ".join(typed.split())
    animal = animal_named(collection, words) if words else None
    if animal is None:
        return _from_elsewhere(record, collection, words, sex, role)
    if animal.sex not in ("", sex):
        raise Refused(
            f"{animal.name} is {animal.get_sex_display().lower()} and can't be the {role}. Nothing was entered.",
            field=role,
        )
    return animal


def _from_elsewhere(record: Recording, collection: Collection, words: str, sex: str, role: str) -> Animal:
    name, _, line = words.partition(":")
    name = name.strip()[:60]
    if not (name and line.strip()):
        here = f"There is no animal “{words}” here. " if words else ""
        raise Refused(
            f"{here}The {role} is one of your animals by name, or for one that is not yours a name and genes, as in "
            "“Rudd: pastel het clown”. Nothing was entered.",
            field=role,
        )
    if animal_named(collection, name):
        raise Refused(f"There is a {name} already: write the name alone. Nothing was entered.", field=role)
    read = line_read(collection, line)
    if read.sex not in ("", sex):
        raise Refused(f"The {role} can't be {read.sex}. Nothing was entered.", field=role)
    note = with_open_words("Lives elsewhere.", read)
    animal = record.add(Animal(collection=collection, name=name, sex=sex, elsewhere=True, note=note))
    record.add_all([CarriedGene.stating(animal, one) for one in read.statements])
    return animal


def _days(given: Running, on: date | None) -> dict[str, date | None]:
    """The clutch's own days, as far as it has come."""
    field = {OPEN: "cut_on", OUT: "out_on", SHED: "shed_on"}.get(given.standing, "")
    return {field: on} if field else {}


def _lay(record: Recording, clutch: Clutch, given: Running) -> None:
    """The eggs, sound ones first; of these the first are open or out, the others stay shut, or did not hatch."""
    hatched = 0 if given.standing == SHUT else given.hatched or given.eggs
    on = given.on or given.laid_on
    assert on is not None
    for number in range(1, given.eggs + given.slugs + 1):
        across, down = place_in_box(number, given.eggs + given.slugs)
        egg = Egg(clutch=clutch, number=number, across=across, down=down, state=_state(given, number, hatched))
        if number <= hatched and given.standing in (OUT, SHED):
            egg.stage, egg.out_on = (Stage.WET, given.on) if given.standing == OUT else (Stage.SHED, None)
            egg.shed_on = given.on if given.standing == SHED else None
        record.add(egg)
        record.add(EggEvent(egg=egg, kind=EggEvent.Kind.STATE, value=egg.state, on=on))


def _state(given: Running, number: int, hatched: int) -> str:
    if number > given.eggs:
        return Egg.State.SLUG
    if number <= hatched:
        return Egg.State.OPEN if given.standing == OPEN else Egg.State.OUT
    return Egg.State.SHUT if given.standing in (SHUT, OPEN) else Egg.State.DEAD
