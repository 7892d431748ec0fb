"""What is entered of an animal."""

from __future__ import annotations

from typing import Any

from django import forms

from eyot_core.wording.statements import Understood

from eyot.animals.actions import Details
from eyot.animals.lines import LONGEST_LINE, line_of, line_read, names_of, with_open_words
from eyot.collection.forms import AnimalField, CollectionForm
from eyot.collection.models import Animal, Collection
from eyot.photos.models import Photo
from eyot.season.models import Stage
from eyot.shared.forms import ChosenField, DayField, EntryForm, LineField

NEW = "new"
"""What the form of an animal is about that is not here yet; else its number."""
SEXES = (("", "not known"), ("female", "female"), ("male", "male"))


class AnimalForm(CollectionForm):
    """All that is stated of an animal; ``line``: its genes as a breeder writes them."""

    line = LineField(LONGEST_LINE)
    name = LineField(60, label="Name")
    code = LineField(30, label="ID", called="ID")
    sex = ChosenField(SEXES, label="Sex")
    hatched_on = DayField(label="Hatched")
    dam = AnimalField(label="Dam", listed="dams")
    sire = AnimalField(label="Sire", listed="sires")
    note = LineField(10_000, label="Notes", widget=forms.Textarea(attrs={"rows": 3}))
    note.is_wide = True  # type: ignore[attr-defined]

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        if self.about == NEW:
            self.fields["sex"].widget.choices = [("", "not known, or as in the line"), *SEXES[1:]]

    def details(self) -> tuple[Details, Understood]:
        """What was entered, and the line as it was understood. A new animal has name and sex from the line where the fields are
        empty; what was not understood goes into the note. :class:`~eyot.shared.refusal.Refused` where it can't be read."""
        given = self.values()
        read = line_read(self.collection, given.pop("line"))
        if self.about == NEW:
            given["name"], given["sex"] = given["name"] or read.name[:60], given["sex"] or read.sex
        given["name"], given["sex"] = " ".join(given["name"].split()), given["sex"].lower()
        return Details(**given | {"note": with_open_words(given["note"], read)}), read


def stated_of(animal: Animal, collection: Collection) -> dict[str, object]:
    """What is stated of an animal, as its form takes it."""
    return {
        "name": animal.name,
        "code": animal.code,
        "sex": animal.sex,
        "hatched_on": animal.hatched_on,
        "dam": animal.dam,
        "sire": animal.sire,
        "note": animal.note,
        "line": line_of(animal, names_of(collection)),
    }


class AnimalPhotosForm(EntryForm):
    """What photos of an animal show, and when they were taken."""

    stage = ChosenField(Stage.choices, words="How old it is in them")
    kind = ChosenField(Photo.Kind.choices, words="What they show")
    on = DayField(words="Taken on, where the file does not say")


class ParentsForm(EntryForm):
    """The parents of an animal that did not hatch here."""

    dam = LineField(
        LONGEST_LINE,
        label="Dam",
        widget=forms.TextInput(attrs={"placeholder": "Rudd: pastel het clown", "autocomplete": "off"}),
    )
    sire = LineField(
        LONGEST_LINE, label="Sire", widget=forms.TextInput(attrs={"placeholder": "name: genes", "autocomplete": "off"})
    )


class SameAsForm(EntryForm):
    """Which hatchling of the record an animal turns out to be."""

    hatchling = LineField(
        30,
        label="It is the hatchling",
        widget=forms.TextInput(attrs={"maxlength": 30, "size": 9, "placeholder": "W-02/3", "autocomplete": "off"}),
    )
