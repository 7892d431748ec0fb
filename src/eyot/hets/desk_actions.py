"""Changes at the proving desk."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.wording.chances import percent

from eyot.collection.actions import Unfit, add_override
from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal, Collection
from eyot.collection.queries import animal_named
from eyot.hets.desk import WAY_WORDS, desk_of
from eyot.hets.models import NewTrait, Showing
from eyot.reference.overrides import id_from
from eyot.season.models import Egg
from eyot.shared.refusal import Refused


def open_trait(collection: Collection, member: AbstractBaseUser, name: str, note: str, at: datetime) -> NewTrait:
    """A new trait on the desk. :class:`Refused` for one without a name, or with one that is taken."""
    wanted = " ".join(name.split())[:60]
    if not wanted:
        raise Refused("The trait needs a name, be it a working one. Nothing was changed.", field="name")
    if collection.new_traits.filter(name__iexact=wanted).exists():
        raise Refused(f"There is a trait “{wanted}” on the desk already. Nothing was changed.", field="name")
    with recording(collection, member, at, f"new trait {wanted} on the proving desk", "collection") as record:
        return record.add(NewTrait(collection=collection, name=wanted, note=note[:2000]))


@transaction.atomic
def add_showing(trait: NewTrait, member: AbstractBaseUser, who: Animal | Egg, shows: str, at: datetime) -> Showing:
    """Whether an animal or a hatchling shows it; the first one that does becomes the proband."""
    if shows not in Showing.Shows.values:
        raise Refused("It shows it: no, yes, strongly, or not seen. Nothing was changed.")
    place = {"animal": who} if isinstance(who, Animal) else {"egg": who}
    row = trait.showings.filter(**place).first()
    words = f"{trait.name}: {who} {Showing.Shows(shows).label}"
    with recording(trait.collection, member, at, words, subject_of(trait)) as record:
        if row:
            record.change(row, shows=shows)
        else:
            row = record.add(Showing(trait=trait, shows=shows, **place))
        if trait.proband_id is None and shows in (Showing.Shows.YES, Showing.Shows.STRONG):
            record.change(trait, proband=row)
    return row


@transaction.atomic
def keep_showings(trait: NewTrait, member: AbstractBaseUser, given: Mapping[str, str], at: datetime) -> None:
    """What all animals of a trait show, at once; ``given``: by the row's number."""
    with recording(trait.collection, member, at, f"{trait.name}: who shows it", subject_of(trait)) as record:
        for row in trait.showings.all():
            shows = given.get(str(row.pk), row.shows)
            if shows not in Showing.Shows.values:
                raise Refused("It shows it: no, yes, strongly, or not seen. Nothing was changed.")
            record.change(row, shows=shows)


def add_named(trait: NewTrait, member: AbstractBaseUser, who: str, shows: str, at: datetime) -> None:
    """An animal, a hatchling ("W-04 3") or a whole clutch ("W-04") joins the pedigree. :class:`Refused` for anybody else."""
    if not who:
        raise Refused(
            "Say who: an animal, a hatchling such as “W-04 3”, or a clutch. Nothing was changed.", field="who"
        )
    code, _, number = who.partition(" ")
    clutch = trait.collection.clutches.filter(code__iexact=code).first()
    animal = animal_named(trait.collection, who)
    if animal:
        add_showing(trait, member, animal, shows, at)
    elif clutch and not number:
        add_clutch(trait, member, list(clutch.eggs.all()), at)
    elif clutch:
        egg = clutch.eggs.filter(number=int(number)).first() if number.strip().isdecimal() else None
        if egg is None:
            raise Refused(f"Who: {clutch.code} has no egg “{number}”. Nothing was changed.", field="who")
        add_showing(trait, member, egg, shows, at)
    else:
        raise Refused(f"Who: there is no animal “{who}” here, and no such clutch. Nothing was changed.", field="who")


def add_clutch(trait: NewTrait, member: AbstractBaseUser, eggs: list[Egg], at: datetime) -> int:
    """All hatchlings of a clutch, open or dead, as not seen yet; those that are there already stay as they are."""
    known = set(trait.showings.exclude(egg=None).values_list("egg", flat=True))
    wanted = [egg for egg in eggs if egg.pk not in known and (egg.is_open or egg.state == Egg.State.DEAD)]
    with recording(
        trait.collection, member, at, f"{trait.name}: {len(wanted)} hatchlings added", subject_of(trait)
    ) as record:
        record.add_all([Showing(trait=trait, egg=egg, shows=Showing.Shows.UNSEEN) for egg in wanted])
    return len(wanted)


def enter_catalogue(trait: NewTrait, member: AbstractBaseUser) -> None:
    """A proven gene becomes one of the collection's own, with its evidence. :class:`Refused` while it is not proven enough."""
    desk = desk_of(trait)
    if not desk.may_enter or desk.leading is None:
        raise Refused(
            "One way of inheritance must stand at 95 % or more before it counts as proven. Nothing was changed."
        )
    way = desk.leading.name
    inheritance = "incomplete_dominant" if way == "sex_linked" else way
    seen = [row for row in desk.nodes if row.shows != "unseen"]
    showing = sum(row.shows != "no" for row in seen)
    note = (
        f"Proven {WAY_WORDS[way][0]} with {percent(desk.leading.posterior)} on the proving desk: "
        f"{showing} of {len(seen)} relatives that were seen show it."
    )
    value = {"kind": "gene", "id": id_from(trait.name), "name": trait.name, "inheritance": inheritance, "note": note}
    try:
        add_override(trait.collection, member, value)
    except Unfit as reason:
        raise Refused(f"It can’t enter the catalogue: {reason}. Nothing was changed.") from None
