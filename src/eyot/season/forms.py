"""What is entered on the season's pages."""

from __future__ import annotations

from typing import Any

from django import forms

from eyot.collection.forms import AnimalField, CollectionForm, zones
from eyot.collection.models import Opening, Sex
from eyot.season.models import Egg, Sexing
from eyot.shared.forms import ChosenField, DecimalField, EntryForm, LineField, TodayField, WholeField
from eyot.shared.units import DAY_FORMS, GRADES

AT_ONCE = (("out", "are out"), ("shed_on", "have shed"), ("first_meal_on", "were fed"))
STATES = [(value, words.lower()) for value, words in Egg.State.choices]
SEXES = [(value, words.lower() if value else "not known") for value, words in Sex.choices]
SEXINGS = [("", "how is not said"), *((value, words.lower()) for value, words in Sexing.choices)]


def hidden() -> forms.CharField:
    """What a form says without being asked."""
    return forms.CharField(required=False, widget=forms.HiddenInput)


class ShownField(forms.CharField):
    """What stood when the page was drawn, so that nobody overwrites what he has not read; drawn anew it is what stands by then."""

    def __init__(self) -> None:
        super().__init__(required=False, widget=forms.HiddenInput)

    def bound_data(self, data: Any, initial: Any) -> Any:
        """What stands now, whatever was sent."""
        return initial


class IntroduceForm(CollectionForm):
    """A sire was brought to the dam."""

    sire = AnimalField(label="Introduce", called="Sire", listed="males")
    on = TodayField(label="on", called="Introduced")


class NameSireForm(CollectionForm):
    """Whose clutch it is turned out."""

    sire = AnimalField(label="The sire is known now", called="Sire", listed="males")


class EventForm(EntryForm):
    """A day on which something was seen. ``words``: what the day is called."""

    event = hidden()
    on = TodayField()

    def __init__(self, *args: Any, words: str = "", **more: Any) -> None:
        super().__init__(*args, **more)
        self.fields["on"].widget.attrs["aria-label"] = words or "Day"


class RoundDayForm(EventForm):
    """A day of a round: ``event`` is locked_on or separated_on."""


class PairingEventForm(EventForm):
    """Ovulation, or the shed before the laying."""


class LayForm(EntryForm):
    """The eggs are there."""

    on = TodayField(label="on", called="Laid")
    eggs = WholeField(label="eggs")
    slugs = WholeField(label="slugs", initial=0)


class PlaceForm(EntryForm):
    """Where a clutch lies."""

    place = LineField(80, label="Box, shelf")
    substrate = LineField(40, label="Substrate", widget=forms.TextInput(attrs={"list": "substrates", "maxlength": 40}))
    incubator = LineField(60, label="Incubator", widget=forms.TextInput(attrs={"list": "incubators", "maxlength": 60}))
    note = LineField(10_000, label="Notes", widget=forms.Textarea(attrs={"rows": 2}))
    note.is_wide = True  # type: ignore[attr-defined]
    note_shown = ShownField()


class AddEggForm(EntryForm):
    """An egg found later."""

    number = WholeField(label="One more egg, number", called="Egg")


class AllForm(EntryForm):
    """All of them did something on one day."""

    event = ChosenField(AT_ONCE, label="All hatchlings")
    on = TodayField(label="on")
    note = LineField(300, label="what", widget=forms.TextInput(attrs={"size": 12, "placeholder": "hopper mouse"}))


class EggStateForm(EntryForm):
    """How an egg stands, since when, and what was found."""

    state = ChosenField(STATES, words="Stands as")
    on = TodayField(label="since")
    found = LineField(300, label="what was found")


class ShortStateForm(EntryForm):
    """How an egg stands, in a table of eggs."""

    state = ChosenField(STATES)
    on = TodayField(words="since")

    def __init__(self, *args: Any, about: object, **more: Any) -> None:
        super().__init__(*args, about=about, **more)
        self.fields["state"].widget.attrs["aria-label"] = f"Egg {about} stands as"


MEAL = "first_meal_on"


class EggDayForm(EventForm):
    """A day of a hatchling, which it is about: in the blue, first shed, or a meal with what was eaten."""

    eaten = LineField(
        40, widget=forms.TextInput(attrs={"placeholder": "what it ate", "aria-label": "what it ate", "size": 10})
    )

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        if self.about != MEAL:
            self.fields["eaten"].widget = forms.HiddenInput()


class SexForm(EntryForm):
    """The sex, and how it was determined."""

    sex = ChosenField(SEXES, words="Sex")
    how = ChosenField(SEXINGS, words="How it was determined")
    sure = forms.BooleanField(required=False)


class WeightForm(EntryForm):
    """A weight, typed."""

    grams = DecimalField(example="a number of grams", unit="g", label="grams", called="Weight")
    on = TodayField(label="on")


class HoldBackForm(EntryForm):
    """A hatchling stays, under a name."""

    name = LineField(
        60, label="stays as", widget=forms.TextInput(attrs={"maxlength": 60, "size": 14, "placeholder": "its name"})
    )


class PracticesForm(EntryForm):
    """How a collection does it."""

    rounds_days = LineField(60, label="Rounds: days between introductions", called="Rounds")
    opening = ChosenField(Opening.choices, label="Opening eggs")
    opening_days = WholeField(label="Days before the due date, where all are cut", called="Days before the due date")
    dam_least_g = WholeField(label="Least weight of a dam, in grams", called="Least weight of a dam")
    sire_least_g = WholeField(label="Least weight of a sire, in grams", called="Least weight of a sire")
    label_percent = WholeField(label="A possible gene stands on a label from, in %", called="On a label from")
    sure_percent = WholeField(label="A call is proposed as sure from, in %", called="Sure from")
    likely_percent = WholeField(label="as likely from, in %", called="Likely from")
    not_percent = WholeField(label="as not there up to, in %", called="Not there up to")
    time_zone = ChosenField(zones, label="Time zone")
    day_form = ChosenField(DAY_FORMS, label="Days as")
    grade = ChosenField(GRADES, label="Temperatures in")
