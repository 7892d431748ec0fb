"""Pictures in the list of animals."""

from __future__ import annotations

from collections.abc import Mapping

from django import template

from eyot_core.wording.names import Naming

from eyot.animals.queries import strip_key
from eyot.collection.models import Animal
from eyot.photos.models import Photo

register = template.Library()


@register.filter
def get(photos: Mapping[int, Photo], number: int) -> Photo | None:
    """The photo of an animal, if there is one."""
    return photos.get(number)


@register.filter
def strip_of(animal: Animal, naming: Naming) -> str:
    """The combination that stands for an animal where it is drawn."""
    return strip_key(animal, naming)
