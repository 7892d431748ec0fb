"""Proven animals of the collection as cases."""

from __future__ import annotations

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Exists, OuterRef

from eyot.bench.models import Proof
from eyot.collection.models import Collection
from eyot.photos.models import Photo
from eyot.practice.models import Exercise
from eyot.season.models import Egg


def next_own(collection: Collection, member: AbstractBaseUser) -> Egg | None:
    """A proven animal with a photo from above about which somebody was not asked."""
    asked = Exercise.objects.filter(egg=OuterRef("pk"), member_id=member.pk)
    proven = Proof.objects.filter(egg=OuterRef("pk"))
    seen = Photo.objects.filter(egg=OuterRef("pk"), kind=Photo.Kind.BACK)
    eggs = Egg.objects.filter(Exists(proven), Exists(seen), ~Exists(asked), clutch__collection=collection)
    return eggs.select_related("clutch").order_by("pk").first()
