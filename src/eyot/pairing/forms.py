"""What is chosen and entered on the planner."""

from __future__ import annotations

from typing import Any

from django import forms

from eyot.collection.forms import AnimalField, CollectionForm
from eyot.collection.models import Animal
from eyot.pairing.running_actions import STANDINGS
from eyot.season.pairing_actions import MOST_EGGS, MOST_SIRES
from eyot.shared.forms import Called, ChosenField, DayField, LineField, TodayField, WholeField

USUAL_EGGS = 6


class SiresField(AnimalField):
    """Several animals, each once, in the order in which they were named."""

    widget = forms.MultipleHiddenInput

    def __init__(self, **more: Any) -> None:
        super().__init__(**{"widget": forms.MultipleHiddenInput} | more)

    def to_python(self, value: Any) -> list[Animal]:  # type: ignore[override]
        """The animals."""
        return list(dict.fromkeys(filter(None, map(super().to_python, (value or [])[:MOST_SIRES]))))


class EggsField(Called):
    """For how many eggs to reckon: brought into bounds, six where it can't be read."""

    def to_python(self, value: Any) -> int:
        """The number."""
        text = str(value or "")
        return min(max(int(text), 1), MOST_EGGS) if text.isdecimal() and len(text) < 4 else USUAL_EGGS


class PlanForm(CollectionForm):
    """Who is chosen, for how many eggs, and what is wanted."""

    stands = "Nothing was saved."
    dam = AnimalField(label="Dam", listed="dams")
    sire = SiresField(called="Sire")
    sire_unknown = forms.BooleanField(required=False)
    eggs = EggsField(required=False)
    wish = LineField(200)


class SaveForm(PlanForm):
    """A pairing for the season, under a code of its own."""

    code = LineField(40, label="Code", widget=forms.TextInput(attrs={"size": 8, "maxlength": 40}))
    paired_on = TodayField(label="from", called="Paired")


class RunningForm(CollectionForm):
    """A clutch that is there already."""

    stands = "Nothing was entered."

    code = LineField(20, label="Code")
    dam = LineField(400, label="Dam", widget=forms.TextInput(attrs={"list": "dams", "autocomplete": "off"}))
    sire = LineField(
        400,
        label="Sire, empty if not known",
        called="Sire",
        widget=forms.TextInput(attrs={"list": "sires", "autocomplete": "off"}),
    )
    laid_on = DayField(label="Laid on", called="Laid")
    eggs = WholeField(label="Sound eggs", called="Eggs")
    slugs = WholeField(label="Slugs", initial=0)
    standing = ChosenField(STANDINGS, label="Now")
    hatched = WholeField(label="of which so many are open or out, empty for all", called="Open or out")
    on = DayField(label="cut, or out of the egg, since", called="Since")
    shed_on = DayField(label="first shed, empty for about ten days later", called="First shed")
    results = LineField(
        4000,
        label="what each turned out to be, one line a hatchling; empty if you look at them here",
        called="Results",
        widget=forms.Textarea(attrs={"rows": 3, "placeholder": "2x pastel clown\nnormal female"}),
    )
