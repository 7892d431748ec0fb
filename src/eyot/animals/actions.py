"""Changes of animals. Any member of the collection may make them; each is kept with who and when, and can be taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot_core.wording.statements import Statement

from eyot.animals.individuals import is_looked_at, seen_as
from eyot.collection.history import Recording, recording, subject_of
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.season.models import Weighing
from eyot.shared.refusal import Refused
from eyot.shared.units import long_day

HEAVIEST_G = 10_000


@dataclass(frozen=True)
class Details:
    """What is stated of an animal besides its genes."""

    name: str
    code: str = ""
    sex: str = ""
    hatched_on: date | None = None
    dam: Animal | None = None
    sire: Animal | None = None
    note: str = ""


def enter_animal(
    collection: Collection, member: AbstractBaseUser, details: Details, genes: Sequence[Statement], at: datetime
) -> Animal:
    """Adds an animal with its genes. :class:`Refused`, with nothing entered, where it can't be so."""
    check_details(collection, details, timezone.localdate(at))
    animal = Animal(collection=collection, **_fields(details))
    with recording(collection, member, at, f"{details.name} entered", "") as record:
        record.add(animal)
        record.subject = subject_of(animal)
        _state(record, animal, genes)
    return animal


def change_animal(
    animal: Animal, member: AbstractBaseUser, details: Details, genes: Sequence[Statement], at: datetime
) -> None:
    """Sets what is stated of an animal. :class:`Refused`, with nothing changed, where it can't be so."""
    check_details(animal.collection, details, timezone.localdate(at), animal)
    with recording(animal.collection, member, at, f"{details.name} changed", subject_of(animal)) as record:
        record.change(animal, **_fields(details))
        egg = seen_as(animal)
        if egg and egg.clutch.elsewhere:
            record.change(egg, sex=details.sex)
        _state(record, animal, genes)


def archive(animal: Animal, member: AbstractBaseUser, at: datetime, *, back: bool = False) -> None:
    """Puts an animal aside (sold, dead, away), or back; it stays in the record."""
    what = f"{animal.name} {'taken back from the archive' if back else 'archived'}"
    with recording(animal.collection, member, at, what, subject_of(animal)) as record:
        record.change(animal, archived_on=None if back else timezone.localdate(at))


def remove_animal(animal: Animal, member: AbstractBaseUser, at: datetime) -> None:
    """Deletes an animal that nothing rests on. :class:`Refused` where it has offspring, a pairing or parents' papers."""
    rests = resting_on(animal)
    if rests:
        raise Refused(f"{animal.name} can't be deleted: {rests}. Archive it instead; nothing was changed.")
    with recording(animal.collection, member, at, f"{animal.name} deleted", subject_of(animal)) as record:
        if egg := seen_as(animal):
            record.remove(egg)
            record.remove(egg.clutch)
        for row in (*animal.genes.all(), *animal.weighings.all()):
            record.remove(row)
        record.remove(animal)


def resting_on(animal: Animal) -> str:
    """What in the record rests on an animal, in words; empty if nothing does."""
    young = animal.young_as_dam.count() + animal.young_as_sire.count()
    clutches = animal.clutches_laid.count() + animal.clutches_sired.count()
    words = [f"it is a parent of {young} animal{'s' if young > 1 else ''}"] if young else []
    words += [f"it stands in {clutches} pairing{'s' if clutches > 1 else ''}"] if clutches else []
    egg = seen_as(animal)
    if egg and not egg.clutch.elsewhere:
        words.append("it hatched here")
    elif egg and is_looked_at(egg):
        words.append("it has photos or looks")
    return " and ".join(words)


def weigh(animal: Animal, member: AbstractBaseUser, grams: float, on: date, source: str, at: datetime) -> None:
    """Adds a weight."""
    check_weight(grams, on, timezone.localdate(at))
    what = f"{animal.name} weighed, {grams:g} g"
    with recording(animal.collection, member, at, what, subject_of(animal)) as record:
        record.add(Weighing(animal=animal, grams=grams, on=on, source=source))


def check_weight(grams: float, on: date, today: date) -> None:
    """:class:`Refused` for a weight that no snake has, or that lies ahead."""
    if not 0 < grams <= HEAVIEST_G:
        raise Refused(
            f"A weight lies above 0 and at most {HEAVIEST_G:,} g, not {grams:g}. Nothing was changed.", field="grams"
        )
    if on > today:
        raise Refused(f"A weight of {long_day(on)} lies ahead. Nothing was changed.", field="on")


def check_details(collection: Collection, details: Details, today: date, animal: Animal | None = None) -> None:
    """:class:`Refused` with the first thing that is wrong."""
    trouble = _trouble(collection, details, today, animal)
    if trouble:
        raise Refused(f"{trouble} Nothing was changed.")


def _trouble(collection: Collection, details: Details, today: date, animal: Animal | None) -> str:
    if not details.name:
        return "An animal needs a name."
    named = collection.animals.filter(name=details.name)
    if (named.exclude(pk=animal.pk) if animal else named).exists():
        return f"There is a {details.name} already."
    if details.sex not in Sex.values:
        return f"“{details.sex}” is not a sex; it is female, male or left open."
    if details.hatched_on and details.hatched_on > today:
        return f"{details.name} can't have hatched on a day that lies ahead ({long_day(details.hatched_on)})."
    return _trouble_with_parents(details, animal) or _trouble_with_role(details, animal)


def _trouble_with_parents(details: Details, animal: Animal | None) -> str:
    for parent, wrong, role in ((details.dam, Sex.MALE, "dam"), (details.sire, Sex.FEMALE, "sire")):
        if parent and parent.sex == wrong:
            return f"{parent.name} is {parent.get_sex_display().lower()} and can't be the {role}."
        if parent and parent.hatched_on and details.hatched_on and parent.hatched_on >= details.hatched_on:
            return f"{parent.name} hatched on {long_day(parent.hatched_on)}, not before {details.name}."
        if parent and animal and animal.pk in ancestors_of(parent):
            return (
                f"{animal.name} is an ancestor of {parent.name}, or {parent.name} itself: nobody is their own ancestor."
            )
    return ""


def _trouble_with_role(details: Details, animal: Animal | None) -> str:
    if animal is None:
        return ""
    is_sire = animal.young_as_sire.exists() or animal.clutches_sired.exists()
    is_dam = animal.young_as_dam.exists() or animal.clutches_laid.exists()
    if is_sire and details.sex == Sex.FEMALE:
        return f"{animal.name} stands as a sire in the record and can't be female."
    if is_dam and details.sex == Sex.MALE:
        return f"{animal.name} stands as a dam in the record and can't be male."
    return ""


def ancestors_of(animal: Animal) -> set[int]:
    """The animal and all its ancestors, by number: one query."""
    rows = animal.collection.animals.values_list("pk", "dam_id", "sire_id")
    parents = {pk: [one for one in (dam, sire) if one] for pk, dam, sire in rows}
    ancestors: set[int] = set()
    open_ones = [animal.pk]
    while open_ones:
        pk = open_ones.pop()
        if pk not in ancestors:
            ancestors.add(pk)
            open_ones += parents.get(pk, [])
    return ancestors


def _fields(details: Details) -> dict[str, object]:
    return {
        "name": details.name,
        "code": details.code,
        "sex": details.sex,
        "hatched_on": details.hatched_on,
        "dam": details.dam,
        "sire": details.sire,
        "note": details.note,
    }


def _state(record: Recording, animal: Animal, genes: Sequence[Statement]) -> None:
    """Makes the animal's statements these; a gene that stays keeps its row."""
    kept = {row.gene: row for row in animal.genes.all()}
    for one in genes:
        row, stated = kept.pop(one.gene, None), CarriedGene.stating(animal, one)
        if row:
            record.change(row, **{name: getattr(stated, name) for name in CarriedGene.STATED})
        else:
            record.add(stated)
    for row in kept.values():
        record.remove(row)
