"""Fields that know the collection; forms of collections, members and accounts."""

from __future__ import annotations

from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.conf import settings
from django.core.exceptions import ValidationError

from eyot.collection.models import Animal, Collection, Role
from eyot.collection.queries import animal_named
from eyot.shared.forms import Called, ChosenField, EntryForm, LineField, WholeField
from eyot.shared.units import DAY_FORMS, GRADES


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


def zones() -> list[tuple[str, str]]:
    """All time zones by name, the server's first."""
    return [("", f"as the server: {settings.TIME_ZONE}"), *((name, name) for name in sorted(available_timezones()))]


class NewCollectionForm(EntryForm):
    """A collection of one's own."""

    stands = "Nothing was made."

    collection = LineField(80, label="What your collection is called", called="Name")
    time_zone = ChosenField(zones, label="Time zone")
    day_form = ChosenField(DAY_FORMS, label="Days as")
    grade = ChosenField(GRADES, label="Temperatures in")


class MemberForm(EntryForm):
    """Somebody is invited."""

    name = LineField(40, label="For", called="Name")
    role = ChosenField(Role.choices, label="as")
    days = WholeField(label="days", initial=7)


def password(label: str, called: str, kind: str) -> Called:
    """A password that is typed, never shown again."""
    return Called(label=label, called=called, widget=forms.PasswordInput(attrs={"autocomplete": kind}))


class AccountForm(EntryForm):
    """A new person."""

    stands = "No account was made."

    name = LineField(40, label="Name to log in with", called="Name")
    password = password("Password, eight characters or more", "Password", "new-password")


class ClaimForm(AccountForm, NewCollectionForm):
    """The first account of a server, against the code that its start printed."""

    stands = "Nothing was made."
    field_order = ("code", "name", "password", "collection", "time_zone", "day_form", "grade")

    code = LineField(40, label="The code that the start command printed", called="Code")


class NewPasswordForm(EntryForm):
    """A password by a link."""

    new = password("New password, eight characters or more", "New password", "new-password")
