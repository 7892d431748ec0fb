"""Forms of homes."""

from __future__ import annotations

from collections.abc import Iterable

from django import forms

from eyot_core.catalogue import Catalogue
from eyot_core.wording.names import Naming

from eyot.homes.actions import DIED
from eyot.homes.models import Fate
from eyot.shared.forms import ChosenField, DayField, DecimalField, EntryForm, LineField, TodayField, WholeField
from eyot.shared.money import currencies


def _states() -> Iterable[tuple[str, str]]:
    return [("", "choose …"), *Fate.State.choices, (DIED, "died")]


class FateForm(EntryForm):
    """What becomes of a hatchling."""

    state = ChosenField(_states, label="What becomes of it", words="What becomes of it")
    on = TodayField(label="Since")
    who = LineField(80, label="For whom, or who has it")
    until = DayField(label="Reserved until", required=False)
    project = LineField(80, label="Held back for")
    why = LineField(300, label="Why, or what was found")
    price = LineField(20, label="Sold for")
    knowing = forms.BooleanField(required=False, label="I know that it may not be sold everywhere")


class LabelForm(EntryForm):
    """The keeper's own words, and the price."""

    text = LineField(300, label="Your words; empty: as called", called="Your words")
    price = LineField(20, label="Price")
    knowing = forms.BooleanField(required=False, label="I stand for what goes beyond the call")


class FeedingForm(EntryForm):
    """What a rack was offered."""

    what = LineField(40, label="Offered")
    on = TodayField(label="Day")


class EventForm(EntryForm):
    """A day, and what was found."""

    on = TodayField(words="Day")
    found = LineField(300, widget=forms.TextInput(attrs={"aria-label": "What is not sound", "maxlength": 300}))


class PageForm(EntryForm):
    """A page for buyers."""

    title = LineField(80, label="Title")
    words = LineField(1000, label="A few words")
    days = WholeField(label="Stands for days", initial=30)

    stands = "Nothing was made."


class ReservationForm(EntryForm):
    """Somebody outside asks for a hatchling."""

    name = LineField(80, label="Your name")
    answer_to = LineField(120, label="How can you be answered? (telephone or e-mail)", called="How you can be answered")
    text = LineField(1000, label="Anything else")

    stands = "Nothing was sent."


class SheetForm(EntryForm):
    """A sheet of labels by its measures."""

    name = LineField(60, label="Name of the sheet")
    page_width = DecimalField(example="210", unit="mm", otherwise=210, label="Page, width in mm")
    page_height = DecimalField(example="297", unit="mm", otherwise=297, label="height")
    columns = WholeField(label="Labels across")
    rows = WholeField(label="down")
    width = DecimalField(example="63.5", unit="mm", label="A label, width in mm")
    height = DecimalField(example="38.1", unit="mm", label="height")
    left = DecimalField(example="7.2", unit="mm", otherwise=0, label="First label: from the left in mm")
    top = DecimalField(example="15.1", unit="mm", otherwise=0, label="from the top")
    across = DecimalField(example="66", unit="mm", label="From one label to the next: across in mm")
    down = DecimalField(example="38.1", unit="mm", label="down")

    stands = "Nothing was kept."


def currency_choices() -> Iterable[tuple[str, str]]:
    """All currencies, by code."""
    return [(code, code) for code in sorted(currencies())]


def _genes(catalogue: Catalogue) -> list[tuple[str, str]]:
    naming = Naming(catalogue)
    return sorted(((gene, naming.gene(gene)) for gene in catalogue.genes), key=lambda pair: pair[1].lower())


class RulesForm(EntryForm):
    """When one may leave, in what is paid, and what may not be sold."""

    ready_meals = WholeField(label="Ready to go after meals")
    ready_sheds = WholeField(label="and sheds")
    ready_grams = WholeField(label="and from a weight in grams, 0 for any", called="A weight in grams")
    currency = ChosenField(currency_choices, label="Currency")

    def __init__(self, *args: object, catalogue: Catalogue, **more: object) -> None:
        super().__init__(*args, **more)  # type: ignore[arg-type]
        self.fields["not_sold"] = forms.MultipleChoiceField(
            choices=sorted(_genes(catalogue), key=lambda pair: pair[0] not in self.initial.get("not_sold", [])),
            required=False,
            label="May not be sold where you live",
            widget=forms.CheckboxSelectMultiple,
        )
