"""What is entered on carriers, on the laboratory's counter, and on the proving desk."""

from __future__ import annotations

from django import forms
from django.core.validators import MaxValueValidator, MinValueValidator

from eyot.collection.forms import AnimalField, CollectionForm
from eyot.hets.laboratory import SENSITIVITY, SPECIFICITY
from eyot.hets.models import GeneTest, PastBreeding, Showing
from eyot.shared.forms import ChosenField, DecimalField, EntryForm, LineField, TodayField, WholeField


class _Share(DecimalField):
    """A share from 0 to 1."""

    default_validators = [
        limit(bound, "a share lies between 0 and 1, not at %(show_value)s.")
        for limit, bound in ((MinValueValidator, 0), (MaxValueValidator, 1))
    ]

    def clean(self, value: object) -> float:
        """The share."""
        share = super().clean(value)
        self.run_validators(share)
        return share


def share_field(otherwise: float, label: str = "", called: str = "") -> DecimalField:
    """A share from 0 to 1; ``otherwise`` where nothing was typed."""
    return _Share(example="a number such as 0.99", otherwise=otherwise, label=label, called=called, initial=otherwise)


class BreedingForm(EntryForm):
    """A breeding outside the record."""

    partner = ChosenField(PastBreeding.Partner.choices, label="With")
    chance = LineField(
        9,
        label="its chance, if possible het",
        widget=forms.TextInput(attrs={"size": 4, "maxlength": 9, "placeholder": "2/3"}),
    )
    hatchlings = WholeField(label="hatchlings")
    visuals = WholeField(label="of them visual", called="Visuals")
    on = TodayField(label="on")


class LabResultForm(EntryForm):
    """A laboratory's result, typed."""

    result = ChosenField([(value, words.lower()) for value, words in GeneTest.Result.choices], label="Result")
    laboratory = LineField(60, label="laboratory", widget=forms.TextInput(attrs={"size": 16, "maxlength": 60}))
    sensitivity = share_field(SENSITIVITY, "finds, of carriers", "Sensitivity")
    specificity = share_field(SPECIFICITY, "clears, of others", "Specificity")
    on = TodayField(label="on")


class OrderForm(CollectionForm):
    """Tests of one animal's shed."""

    stands = "Nothing was ordered."
    animal = AnimalField(label="Animal", listed="animals")


class TraitForm(EntryForm):
    """A look that nobody can name yet."""

    name = LineField(60, label="Working name")
    note = LineField(200, label="what it looks like", widget=forms.TextInput(attrs={"size": 36, "maxlength": 200}))


KINDS = (("visual", "a visual"), ("het", "a het"))


class TogetherForm(EntryForm):
    """Two recessive look-alikes bred together."""

    first = ChosenField(KINDS, label="The one")
    second = ChosenField(KINDS, label="the other")
    hatchlings = WholeField(label="hatchlings")
    visuals = WholeField(label="of them show it", called="Visuals")


class PlacesForm(EntryForm):
    """Young of an animal with two looks and a normal, by what they show."""

    both = WholeField(label="both")
    one = WholeField(label="one or the other", called="One")
    neither = WholeField(label="neither")


class WhoForm(EntryForm):
    """Who joins a pedigree: an animal, a hatchling ("W-04 3") or a whole clutch ("W-04")."""

    who = LineField(
        80, label="Who", widget=forms.TextInput(attrs={"list": "whom", "placeholder": "Ramson, W-04 3, or W-04"})
    )
    shows = ChosenField(Showing.Shows.choices, label="shows it")
