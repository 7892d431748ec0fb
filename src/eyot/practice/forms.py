"""Forms of practice."""

from __future__ import annotations

from eyot.shared.forms import ChosenField, EntryForm, LineField

PICTURES = (("photo", "a photo"), ("strip", "a drawn strip"), ("head", "a drawn head"), ("belly", "a drawn belly"))
PARENTS = (("given", "with its parents"), ("unknown", "parents unknown"))


class BeginForm(EntryForm):
    """What is put next."""

    picture = ChosenField(PICTURES, label="Shown as")
    parents = ChosenField(PARENTS, label="Parents")


class OpenForm(EntryForm):
    """The genes of an animal of unknown parents, as breeders write them."""

    sure = LineField(120, label="Sure")
    likely = LineField(120, label="Likely")
    hint = LineField(120, label="A hint of")


class RaceForm(EntryForm):
    """Who plays."""

    first = LineField(30, label="First player")
    second = LineField(30, label="Second player")
