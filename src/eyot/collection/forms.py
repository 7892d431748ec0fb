"""Fields that know the collection."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from eyot.collection.models import Animal, Collection
from eyot.collection.queries import animal_named
from eyot.shared.forms import Called, EntryForm


class AnimalField(Called):
    """An animal of the collection by its name or ID; none where nothing was typed. ``listed``: the page's list of names."""

    collection: Collection

    def __init__(self, *, listed: str = "", **more: Any) -> None:
        attrs = {"list": listed, "autocomplete": "off"} if listed else {}
        super().__init__(**{"required": False, "widget": forms.TextInput(attrs=attrs)} | more)

    def to_python(self, value: Any) -> Animal | None:
        """The animal."""
        name = " ".join(str(value or "").split())
        if not name:
            return None
        animal = animal_named(self.collection, name)
        if animal is None:
            raise ValidationError(f"there is no animal “{name}” here.")
        return animal


class CollectionForm(EntryForm):
    """A form whose animals are those of a collection."""

    def __init__(self, *args: Any, collection: Collection, **more: Any) -> None:
        super().__init__(*args, **more)
        self.collection = collection
        for field in self.fields.values():
            if isinstance(field, AnimalField):
                field.collection = collection
