"""What is entered on the bench's pages."""

from __future__ import annotations

from typing import Any

from django import forms

from eyot.bench.claims import LONGEST_LINE, TRUSTS
from eyot.bench.models import Proof
from eyot.shared.forms import ChosenField, EntryForm, LineField, TodayField, WholeField

COPIES = (("", "not proven"), ("0", "not there"), ("1", "one copy"), ("2", "two copies"))


class ProofForm(EntryForm):
    """What genes turned out to be; ``genes``: id and name of each."""

    how = ChosenField(Proof.How.choices, label="Proven by")
    on = TodayField(label="on")

    def __init__(self, *args: Any, genes: list[tuple[str, str]], **more: Any) -> None:
        super().__init__(*args, **more)
        self.genes = [gene for gene, _ in genes]
        self.fields = {f"copies-{gene}": ChosenField(COPIES, label=name) for gene, name in genes} | self.fields

    def copies(self) -> dict[str, int | None]:
        """Copies of each gene, ``None`` where nothing is proven."""
        given = self.values()
        return {gene: {"0": 0, "1": 1, "2": 2}.get(given[f"copies-{gene}"]) for gene in self.genes}


class InviteForm(EntryForm):
    """Somebody is invited to look, for some days."""

    name = LineField(40, label="For", called="Name")
    days = WholeField(label="days", initial=7)


class GuessForm(EntryForm):
    """What an animal is held to be before chances are seen."""

    guess = LineField(
        200,
        label="I hold it to be",
        widget=forms.TextInput(attrs={"maxlength": 200, "placeholder": "mojave, maybe leopard"}),
    )


class ClaimForm(EntryForm):
    """What an animal is claimed to be, and how far that is trusted."""

    line = LineField(
        LONGEST_LINE,
        label="Sold, or given, as",
        called="The claim",
        widget=forms.TextInput(
            attrs={
                "maxlength": LONGEST_LINE,
                "placeholder": "pastel enchi, possible fire, het clown",
                "autocomplete": "off",
            }
        ),
    )
    trust = ChosenField([(str(percent), words) for percent, words in TRUSTS], label="trusted like")
