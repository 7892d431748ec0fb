"""Forms of projects."""

from __future__ import annotations

from eyot.shared.forms import ChosenField, DecimalField, EntryForm, LineField, WholeField

SHORT = (("female", "a female"), ("male", "a male"))
SEXES = (("", "either sex"), *SHORT, ("pair", "a pair"))
TESTS = (("yes", "may be tested"), ("no", "are not tested"))


class GoalForm(EntryForm):
    """What is wanted, and how the keeper works."""

    line = LineField(200, label="What it is to be, as breeders write it", called="What it is to be")
    sex = ChosenField(SEXES, label="Which has to be")
    eggs = WholeField(label="Eggs of a clutch")
    hatch = DecimalField(example="90", unit="%", otherwise=90, label="of 100 eggs hatch")
    clutches = WholeField(label="Clutches of a dam in a season")
    female_ready = WholeField(label="A female is paired from so many seasons after hatching")
    male_ready = WholeField(label="A male from")
    rest = WholeField(label="A dam rests, seasons")
    seasons = WholeField(label="Seasons looked ahead")
    generations = WholeField(label="Generations at most")
    places = WholeField(label="Places for holdbacks")
    tests = ChosenField(TESTS, label="Hets of which a DNA test exists")


class BuyForm(EntryForm):
    """An animal that could be bought."""

    buy = LineField(120, label="Bought: genes")
    buy_sex = ChosenField(SHORT, label="sex")
