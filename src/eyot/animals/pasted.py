"""A list of animals as it is pasted: a line each, as breeders write them. Read into a table, mended there, entered as a whole."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import takewhile

from django.contrib.auth.models import AbstractBaseUser

from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Understood

from eyot.animals.lines import LONGEST_LINE, Asked, asked_of, names_of, with_open_words
from eyot.collection.history import recording
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.shared.refusal import Refused

MOST_LINES = 500
LONGEST_NAME = 60
BULLET = re.compile(r"^(?:[-–—*•·▪◦‣>#+]+\s*|\d{1,3}[.)]\s+)+")
PRICE = re.compile(
    r"(?:[$€£]\s?\d[\d.,]*|\d[\d.,]*\s?(?:[$€£]|(?:usd|eur|gbp|dollars?|euros?)\b))(?:\s?(?:obo|shipped)\b)?",
    re.IGNORECASE,
)
WEIGHT = re.compile(r"\b\d[\d.,]*\s?(?:k?g|gr|grams?)\b", re.IGNORECASE)
WHERE_NAMED = (r"[\"“”„]{}[\"“”]", r"\b(?:named|called)\s+{}\b", r"^{}")
"""How an animal's name stands in a line, with what goes with it."""
PIECE = re.compile(r"[^\W_]+")
PARTING = " ,;:|-–—"
DRAWN = ("So", "Sk", "Mn", "Cc", "Cf", "Co", "Cn", "Cs")
"""Kinds of letters that say nothing in a list: emoji, marks of a font, what can't be printed."""
SIGNS = {"♀": " female ", "♂": " male "}


@dataclass(frozen=True)
class Cells:
    """One row as it stands in the table: what may be mended, and the line as it was pasted."""

    name: str
    sex: str
    line: str
    pasted: str = ""


@dataclass(frozen=True)
class PastedRow:
    """One row as it is understood. ``unsure``: what was taken one way, or not at all; ``troubles``: why it can't be entered so."""

    cells: Cells
    read: Understood
    asked: list[Asked]
    unsure: list[str]
    troubles: list[str]

    @property
    def note(self) -> str:
        """What the table does not hold, so that nothing of the pasted line is lost."""
        kept = f"As pasted: {self.cells.pasted}" if self.cells.pasted and self.cells.pasted != self.cells.line else ""
        return with_open_words(kept, self.read)


def cells_of(collection: Collection, text: str) -> list[Cells]:
    """The lines of a pasted list, empty ones left out. :class:`Refused` for none, and for more than are taken at once."""
    lines = [line for line in map(_plain, text.splitlines()) if line.strip(" \t-–—*•·.,;|")]
    if not lines:
        raise Refused("There is no line to read. Paste a list, one animal a line. Nothing was changed.")
    if len(lines) > MOST_LINES:
        raise Refused(f"{len(lines)} lines are more than the {MOST_LINES} that are read at once. Nothing was changed.")
    names = names_of(collection)
    free = _free_names(collection)
    return [_cells(names, line, free) for line in lines]


def _plain(line: str) -> str:
    """Without what is drawn only: emoji, signs of a font; ♀ and ♂ are words."""
    worded = "".join(SIGNS.get(letter, letter) for letter in line)
    return "".join(letter for letter in worded if letter in "\t°" or unicodedata.category(letter) not in DRAWN)


def _cells(names: Lookup, line: str, free: Iterator[str]) -> Cells:
    """A line parted into name, sex and genes; of one copied from a table, the first cell is the name where it is no gene."""
    pasted = " ".join(line.split())
    parts = [part.strip() for part in BULLET.sub("", line.strip()).split("\t") if part.strip()]
    name = ""
    if len(parts) > 1 and not understood(names, parts[0]).statements:
        name, parts = parts[0], parts[1:]
    rest = " ".join(WEIGHT.sub(" ", PRICE.sub(" ", " ".join(parts))).split(" ")).strip(PARTING)
    rest = " ".join(rest.split())[:LONGEST_LINE]
    read = understood(names, rest)
    if not name and (name := read.name or _first_words(rest, read)):
        rest = _without(rest, name)
    return Cells((name or next(free))[:LONGEST_NAME], read.sex, rest, pasted)


def _without(line: str, name: str) -> str:
    """A line without its animal's name."""
    for where in WHERE_NAMED:
        parted, times = re.subn(where.format(re.escape(name)), " ", line, count=1, flags=re.IGNORECASE)
        if times:
            return " ".join(parted.split()).strip(PARTING)
    return line


def _first_words(line: str, read: Understood) -> str:
    """The words that a line begins with, where they mean nothing here and are written as names are: "Reed, female, pastel". Empty where
    nothing else in the line is understood, as in a heading."""
    unknown = {piece for word, _ in read.unknown for piece in PIECE.findall(word)}

    def means_nothing(word: str) -> bool:
        pieces = PIECE.findall(word)
        return not unknown.isdisjoint(pieces) and all(piece in unknown or piece.isdigit() for piece in pieces)

    first = list(takewhile(means_nothing, line.split()))
    ended = next((number for number, word in enumerate(first, 1) if word[-1] in PARTING), len(first))
    name = " ".join(first[:ended]).strip(PARTING)
    means_more = bool(read.statements or read.questions or read.sex)
    return name if means_more and (name[:1].isupper() or any(letter.isdigit() for letter in name)) else ""


def _free_names(collection: Collection) -> Iterator[str]:
    """Names for lines without one: Animal 1, Animal 2 and so on, as far as nobody is called so."""
    here = {name.lower() for name in collection.animals.values_list("name", flat=True)}
    number = 0
    while True:
        number += 1
        if f"animal {number}" not in here:
            yield f"Animal {number}"


def rows_of(collection: Collection, cells: Sequence[Cells]) -> list[PastedRow]:
    """The table as it is understood: one query."""
    names = names_of(collection)
    here = {name.lower() for name in collection.animals.values_list("name", flat=True)}
    twice = Counter(one.name.lower() for one in cells)
    return [_row(names, one, here, twice[one.name.lower()]) for one in cells]


def _row(names: Lookup, cells: Cells, here: set[str], times: int) -> PastedRow:
    read = understood(names, cells.line)
    troubles = list(read.impossible)
    if not cells.name:
        troubles.append("It needs a name.")
    elif cells.name.lower() in here:
        troubles.append(f"There is a {cells.name} already.")
    elif times > 1:
        troubles.append(f"{cells.name} stands here {times} times.")
    if cells.sex not in Sex.values:
        troubles.append(f"“{cells.sex}” is not a sex.")
    unsure = [
        *read.notes,
        *(f"“{words}” was taken for {taken}." for words, taken in read.guessed),
        *(f"“{word}” is not known here; it is kept in the note." for word, _ in read.unknown),
    ]
    return PastedRow(cells, read, asked_of(cells.line, read), unsure, troubles)


def enter_pasted(collection: Collection, member: AbstractBaseUser, cells: Sequence[Cells], at: datetime) -> int:
    """Enters all rows as one change, taken back as one. :class:`Refused`, with nothing entered, where any row can't be so."""
    rows = rows_of(collection, cells)
    wrong = [(number, row.troubles[0]) for number, row in enumerate(rows, 1) if row.troubles]
    if wrong:
        number, words = wrong[0]
        others = f" So it is with {len(wrong) - 1} more." if len(wrong) > 1 else ""
        raise Refused(f"Row {number}: {words}{others} Nothing was entered.")
    if not rows:
        raise Refused("No row is left. Nothing was entered.")
    with recording(collection, member, at, f"{len(rows)} animals entered from a list", "import") as record:
        animals = [Animal(collection=collection, name=row.cells.name, sex=row.cells.sex, note=row.note) for row in rows]
        record.add_all(animals)
        record.add_all(
            [
                CarriedGene.stating(animal, one)
                for animal, row in zip(animals, rows, strict=True)
                for one in row.read.statements
            ]
        )
    return len(rows)
