"""What a clutch taught of its parents, taken over into their record by the keeper."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot.bench.closing import Offer
from eyot.collection.history import recording, subject_of
from eyot.collection.models import CarriedGene
from eyot.shared.refusal import Refused


def take_over(offered: Sequence[Offer], animal_id: int, gene: str, member: AbstractBaseUser, at: datetime) -> Offer:
    """Writes one offer into the parent's record, with its reason. Any member may. :class:`Refused` where it is not offered now."""
    offer = next((one for one in offered if one.animal.pk == animal_id and one.gene == gene), None)
    if offer is None:
        raise Refused("The clutch no longer says so: looks or the record were changed since. Nothing was changed.")
    row = CarriedGene.objects.get(animal=offer.animal, gene=gene)
    what = f"{offer.animal.name}: {offer.before} → {offer.after}, {offer.reason}"
    with recording(offer.animal.collection, member, at, what, subject_of(offer.animal)) as record:
        if offer.gone:
            record.remove(row)
        else:
            record.change(row, copies=offer.copies, known=CarriedGene.Known.BRED, chance="1", two_chance="")
    return offer
