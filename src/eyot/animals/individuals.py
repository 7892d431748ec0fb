"""Every animal to be looked at: its photos and looks lie with the egg that it came from, be it one that nobody here has seen.

One that hatched here keeps what it had as a hatchling. For any other an egg of a clutch *elsewhere* is made when it is first
photographed or put on the table.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from typing import Any
from uuid import uuid4

from django.contrib.auth.models import AbstractBaseUser
from django.core.files.uploadedfile import UploadedFile
from django.db import models, transaction
from django.utils import timezone

from eyot_core.photo.picture import NoPicture

from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal
from eyot.photos.actions import add_photo
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg, Stage
from eyot.shared.refusal import Refused

MOST_PHOTOS = 40
GROWN_AFTER = timedelta(days=540)
NOON = time(12)


def seen_as(animal: Animal) -> Egg | None:
    """The egg that an animal's photos and looks lie with; None where there are none yet."""
    return getattr(animal, "hatched_from", None)


@transaction.atomic
def individual_of(animal: Animal) -> Egg:
    """The same; made where there is none. Two who ask at once get the same."""
    Animal.objects.select_for_update().get(pk=animal.pk)
    known = Egg.objects.filter(kept_as=animal).select_related("clutch__collection", "kept_as").first()
    if known:
        return known
    clutch = Clutch.everything.create(collection=animal.collection, code=f"of-{uuid4().hex[:12]}", elsewhere=True)
    return Egg.objects.create(
        clutch=clutch,
        number=1,
        kept_as=animal,
        state=Egg.State.OUT,
        stage=stage_of(animal, timezone.localdate()),
        sex=animal.sex,
    )


def stage_of(animal: Animal, today: date) -> str:
    """How old an animal is, as far as its day is known: grown up where nothing is."""
    grown = animal.hatched_on is None or today - animal.hatched_on > GROWN_AFTER
    return Stage.ADULT if grown else Stage.MONTHS


def photograph(
    animal: Animal,
    member: AbstractBaseUser,
    files: Sequence[UploadedFile[Any]],
    stage: str,
    kind: str,
    on: date | None,
    at: datetime,
) -> list[str]:
    """Adds photos of an animal, archived or not; what could not be taken is told by name, the others are kept.

    ``on``: the day they were taken, where their files don't say.
    """
    if not files:
        raise Refused("No picture came through. Choose one and add it again; nothing was changed.")
    if stage not in Stage.values or kind not in Photo.Kind.values:
        raise Refused("The age or what the photo shows was not understood. Nothing was changed.")
    if on and on > timezone.localdate(at):
        raise Refused("A photo can’t be taken on a day that lies ahead. Nothing was changed.", field="on")
    egg = individual_of(animal)
    taken_at = timezone.make_aware(datetime.combine(on, NOON)) if on and on < timezone.localdate(at) else at
    taken = [add_photo(egg, member, file, stage, taken_at, kind) for file in files[:MOST_PHOTOS]]
    troubles = [one.message for one in taken if isinstance(one, NoPicture)]
    if len(files) > MOST_PHOTOS:
        troubles.append(f"At most {MOST_PHOTOS} pictures at once; the first {MOST_PHOTOS} were taken.")
    return [*troubles, "The other pictures were added."] if troubles and len(troubles) < len(files) else troubles


def is_looked_at(egg: Egg) -> bool:
    """Does anything lie with an egg?"""
    return any(_rows(egg, name) for name in LAID_WITH)


LAID_WITH = (
    "photos",
    "looks",
    "calls",
    "claims",
    "proofs",
    "first_guesses",
    "weighings",
    "fates",
    "own_labels",
    "issued",
)
"""What lies with an egg and goes along when two records turn out to be of one animal."""


def merge(animal: Animal, egg: Egg, member: AbstractBaseUser, at: datetime) -> None:
    """An animal turns out to be a hatchling of the record: everything of both lies with the hatchling from now on, and the hatchling is
    the animal. Can be taken back. :class:`Refused` where that can't be."""
    own = seen_as(animal)
    if egg.kept_as_id == animal.pk:
        raise Refused(f"{animal.name} is {egg} already. Nothing was changed.")
    if own and not own.clutch.elsewhere:
        raise Refused(f"{animal.name} hatched here, as {own}. Nothing was changed.")
    if egg.kept_as:
        raise Refused(f"{egg} stays already, as {egg.kept_as}. Nothing was changed.")
    if egg.clutch.elsewhere or egg.state != Egg.State.OUT:
        raise Refused(f"{egg} is not a hatchling that is out. Nothing was changed.")
    if animal.sex and egg.sex and egg.sex_sure and animal.sex != egg.sex:
        raise Refused(
            f"{animal.name} is {animal.sex}, {egg} is {egg.sex}. Correct one of the two first; nothing was changed."
        )
    sires = [entry.sire for entry in egg.clutch.clutch_sires.all()]
    if (animal.dam_id not in (None, egg.clutch.dam_id)) or (animal.sire_id and animal.sire not in sires):
        raise Refused(
            f"{animal.name} is entered with other parents than {egg}. Correct that first; nothing was changed."
        )
    _refuse_other_proof(own, egg)
    with recording(egg.clutch.collection, member, at, f"{animal.name} is {egg}", subject_of(animal)) as record:
        if own:
            for name in LAID_WITH:
                for row in _rows(own, name):
                    _move(record, row, egg)
            record.change(own, kept_as=None)
        record.change(egg, kept_as=animal)
        found = {"dam": egg.clutch.dam, "sire": sires[0] if len(sires) == 1 else animal.sire}
        record.change(animal, **found, hatched_on=animal.hatched_on or egg.out_on)


def _refuse_other_proof(own: Egg | None, egg: Egg) -> None:
    proven = {row.gene: row.copies for row in egg.proofs.all()}
    for row in own.proofs.all() if own else ():
        if proven.get(row.gene, row.copies) != row.copies:
            raise Refused(
                f"{row.gene} is proven otherwise of {own} than of {egg}. Correct that first; nothing was changed."
            )


def _rows(egg: Egg, name: str) -> list[models.Model]:
    """What lies with an egg under a name, that which is shown nowhere too."""
    if name == "photos":
        return list(Photo.everything.filter(egg=egg))
    if name == "first_guesses":
        return list(egg.first_guesses.all())
    return list(getattr(egg, name).all())


def _move(record: Any, row: models.Model, egg: Egg) -> None:
    """To the hatchling; what it has already, a first guess or a proof of the same, stays where it is."""
    unique = {"FirstGuess": ("stage", "by_id"), "Proof": ("gene",)}.get(type(row).__name__, ())
    if unique and type(row)._base_manager.filter(egg=egg, **{name: getattr(row, name) for name in unique}).exists():
        return
    record.change(row, egg=egg)
