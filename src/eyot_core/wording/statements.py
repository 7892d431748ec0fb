"""What a line of genes states, asks and leaves open; and a statement back in words."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from eyot_core.wording.lookup import Carried, Lookup

HALF = "1/2"


@dataclass(frozen=True)
class Statement:
    """One gene as the line states it.

    ``chance``: that the copies are there, a fraction as text. ``two_chance``: where one copy is there, the chance of the second,
    empty where it is not in doubt. ``on``: "X", "Y" or empty. ``known``: seen, bred, tested, declared or possible.
    """

    gene: str
    copies: int
    known: str
    chance: str = "1"
    two_chance: str = ""
    on: str = ""

    def as_json(self) -> dict[str, Any]:
        """The statement in the form of the contract: copies as a number, or as chances where the second is in doubt."""
        copies: Any = self.copies
        if self.two_chance:
            two = float(Fraction(self.two_chance))
            copies = {"1": 1 - two, "2": two}
        entry = {"gene": self.gene, "copies": copies, "chance": 1 if self.chance == "1" else self.chance}
        return entry | ({"on": self.on} if self.on else {}) | {"known": self.known}


@dataclass(frozen=True)
class Question:
    """Something that can mean two things. ``words``: as they stand in the line, from ``start`` to ``end``; ``choices``: what to
    write in their place, each of which means one thing."""

    words: str
    question: str
    choices: tuple[str, ...]
    start: int = 0
    end: int = 0


@dataclass(frozen=True)
class Understood:
    """What a line was understood as.

    ``guessed``: (words, what they were taken for) where the spelling was a letter off. ``unknown``: (word, names that come near);
    ``questions``: what can mean two things. ``notes``: what was taken in a certain way, in sentences. ``impossible``: why no
    animal can be so. ``absent``: genes that the line says are not there.
    """

    statements: tuple[Statement, ...]
    sex: str = ""
    name: str = ""
    guessed: tuple[tuple[str, str], ...] = ()
    unknown: tuple[tuple[str, tuple[str, ...]], ...] = ()
    questions: tuple[Question, ...] = ()
    notes: tuple[str, ...] = ()
    impossible: tuple[str, ...] = ()
    absent: tuple[str, ...] = ()

    @property
    def genes(self) -> tuple[Carried, ...]:
        """The genes with their copies, as if all were certain, in the order written."""
        return tuple((one.gene, one.copies) for one in self.statements)

    @property
    def left_open(self) -> str:
        """What was not understood or not answered, in sentences for a note; empty where nothing was."""
        asked = [f"“{one.words}”: {one.question}" for one in self.questions]
        words = ", ".join(f"“{word}”" for word, _ in self.unknown)
        return " ".join([*([f"Not known here: {words}."] if words else []), *asked])


def answered(text: str, question: Question, choice: str) -> str:
    """The line with a choice in the place of what was asked about."""
    return " ".join(f"{text[: question.start]}{choice}{text[question.end :]}".split())


def written(statement: Statement, lookup: Lookup) -> str:
    """A statement in words that :func:`understood` reads as the same statement.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> written(Statement("clown", 1, "possible", "2/3"), Lookup(builtin_catalogue()))
    '66% het Clown'
    """
    gene = lookup.catalogue.genes.get(statement.gene)
    if gene is None:
        return statement.gene
    name = lookup.naming.gene(statement.gene)
    words = lookup.naming.copies(statement.gene, statement.copies)
    if gene.is_recessive:
        words = f"{'het' if statement.copies == 1 else 'visual'} {name}"
    if statement.chance != "1":
        words = f"{as_percentage(statement.chance)} {words}"
    if statement.two_chance:
        words += (
            " (poss super)" if statement.two_chance == HALF else f" ({as_percentage(statement.two_chance)} poss super)"
        )
    if statement.on:
        words += " (male maker)" if statement.on == "Y" else " (female maker)"
    return (
        words
        if statement.known == _usual(statement, recessive=gene.is_recessive)
        else f"{words} ({_known_word(statement.known)})"
    )


def _usual(statement: Statement, *, recessive: bool) -> str:
    if statement.chance != "1":
        return "possible"
    return "declared" if recessive and statement.copies == 1 else "seen"


def _known_word(known: str) -> str:
    return {"bred": "proven"}.get(known, known)


def as_percentage(chance: str) -> str:
    """A fraction as the trade writes it: "66%", "50%"; other fractions as they are."""
    value = Fraction(chance)
    trade = {Fraction(2, 3): "66%", Fraction(1, 3): "33%"}
    return trade.get(value) or (f"{int(value * 100)}%" if (value * 100).denominator == 1 else str(value))
