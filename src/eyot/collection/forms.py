"""Fields that know the collection; forms of collections, members and accounts."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from eyot.collection.models import Animal, Collection, Role
from eyot.collection.queries import animal_named
from eyot.shared.forms import Called, ChosenField, EntryForm, LineField, WholeField


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


class NewCollectionForm(EntryForm):
    """A collection of one's own."""

    stands = "Nothing was made."

    name = LineField(80, label="What it is called", called="Name")


class MemberForm(EntryForm):
    """Somebody is invited."""

    name = LineField(40, label="For", called="Name")
    role = ChosenField(Role.choices, label="as")
    days = WholeField(label="days", initial=7)


class AccountForm(EntryForm):
    """A new person."""

    stands = "No account was made."

    name = LineField(40, label="Name to log in with", called="Name")
    password = Called(
        label="Password, eight characters or more",
        called="Password",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )
