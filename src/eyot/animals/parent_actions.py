"""Parents as they are typed: one's own by name, others by a name and their genes."""

from __future__ import annotations

from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot.animals.individuals import seen_as
from eyot.animals.lines import line_read, with_open_words
from eyot.collection.history import Recording, recording, subject_of
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.collection.queries import animal_named
from eyot.shared.refusal import Refused


def name_parents(animal: Animal, member: AbstractBaseUser, dam: str, sire: str, at: datetime) -> None:
    """Enters the parents of an animal that did not hatch here, as far as they are typed; an empty field leaves a parent as it is."""
    egg = seen_as(animal)
    if egg and not egg.clutch.elsewhere:
        raise Refused(f"{animal.name} hatched here; its parents are those of {egg.clutch.code}. Nothing was entered.")
    with recording(animal.collection, member, at, f"{animal.name}: parents", subject_of(animal)) as record:
        for typed, sex, role in ((dam, Sex.FEMALE, "dam"), (sire, Sex.MALE, "sire")):
            if typed:
                parent = parent_typed(record, animal.collection, typed, sex, role)
                if parent == animal:
                    raise Refused(f"{animal.name} can’t be its own parent. Nothing was entered.", field=role)
                record.change(animal, **{role: parent})


def parent_typed(record: Recording, collection: Collection, typed: str, sex: str, role: str) -> Animal:
    """A parent by its name; else a new one by a name and a line of genes, as in "Rudd: pastel het clown", which lives elsewhere. Within a
    recording. :class:`Refused` for anything else."""
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
