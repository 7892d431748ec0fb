"""Collections as CSV: out, and in with a preview. A file is taken as a whole or not at all.

Columns: name, id, sex, hatched, genes, dam, sire, note; ``genes`` is a line as breeders write it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from graphlib import TopologicalSorter

import numpy as np
import scipy
from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.utils import timezone

from eyot_core.wording.line import understood
from eyot_core.wording.statements import Statement, written

from eyot.animals.actions import Details
from eyot.animals.lines import names_of, with_open_words
from eyot.collection.history import recording
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.shared.csv_files import Table, csv_of, table_in
from eyot.shared.forms import DayField
from eyot.shared.refusal import Refused

COLUMNS = ("name", "id", "sex", "hatched", "genes", "dam", "sire", "note")
OTHER_NAMES = {
    "code": "id",
    "animal": "name",
    "hatch date": "hatched",
    "born": "hatched",
    "birth": "hatched",
    "morph": "genes",
    "gene": "genes",
    "mother": "dam",
    "father": "sire",
    "notes": "note",
    "comment": "note",
}
SEX_WORDS = {
    "": "",
    "f": "female",
    "female": "female",
    "0.1": "female",
    "m": "male",
    "male": "male",
    "1.0": "male",
    "?": "",
    "unknown": "",
}
DAY = DayField()
MOST_ROWS = 20_000
MOST_BYTES = 2_000_000


@dataclass(frozen=True)
class Trouble:
    """What is wrong, and where. ``row`` counts as a spreadsheet does, the heading being row 1."""

    row: int
    column: str
    words: str


@dataclass(frozen=True)
class CsvRow:
    """One animal as the file has it. Parents by name; ``questions``: what was taken one way or the other."""

    number: int
    details: Details
    statements: tuple[Statement, ...]
    dam: str
    sire: str
    questions: tuple[str, ...]


@dataclass(frozen=True)
class Preview:
    """A file as it was read: its animals, and everything that keeps it from being taken."""

    rows: list[CsvRow]
    troubles: list[Trouble]
    table: Table
    left_out: list[str] = field(default_factory=list)


def exported(collection: Collection) -> str:
    """All animals as CSV in UTF-8, archived ones included: two queries."""
    names, rows = names_of(collection), []
    for animal in collection.animals.select_related("dam", "sire").prefetch_related("genes"):
        genes = ", ".join(written(gene.as_statement(), names) for gene in animal.genes.all())
        rows.append(
            (
                animal.name,
                animal.code,
                animal.sex,
                animal.hatched_on.isoformat() if animal.hatched_on else "",
                genes,
                animal.dam.name if animal.dam else "",
                animal.sire.name if animal.sire else "",
                animal.note,
            )
        )
    return csv_of(COLUMNS, rows)


def previewed(collection: Collection, data: bytes, today: datetime) -> Preview:
    """Reads a file without changing anything. :class:`Refused` where it is no table of animals at all."""
    table = table_in(data, most_bytes=MOST_BYTES, most_rows=MOST_ROWS)
    if not any(table.heading):
        raise Refused(
            "The file is empty: its first row must name the columns, such as name, sex, genes. Nothing was changed."
        )
    heading = [OTHER_NAMES.get(cell, cell) for cell in table.heading]
    if "name" not in heading:
        named = ", ".join(filter(None, heading))
        raise Refused(f"The first row names no column “name”; it has {named}. Nothing was changed.")
    reader = _FileReader(collection, heading, today)
    for number, cells in table.body:
        reader.read(number, cells)
    reader.check_parents()
    left_out = [cell for cell in heading if cell and cell not in COLUMNS]
    return Preview(reader.rows, reader.troubles, table, left_out)


class _FileReader:
    """One pass over the rows; collects animals and troubles."""

    def __init__(self, collection: Collection, heading: Sequence[str], today: datetime) -> None:
        self.heading, self.names, self.today = heading, names_of(collection), timezone.localdate(today)
        self.here = {animal.name.lower(): animal for animal in collection.animals.all()}
        self.seen: dict[str, CsvRow] = {}
        self.rows: list[CsvRow] = []
        self.troubles: list[Trouble] = []

    def read(self, number: int, cells: Sequence[str]) -> None:
        """Reads one row."""
        if len(cells) > len(self.heading):
            self._wrong(
                number,
                "row",
                f"has {len(cells)} cells under {len(self.heading)} headings; is a separator in a cell without quotes?",
            )
            return
        given = dict(zip(self.heading, cells, strict=False))
        name = " ".join(given.get("name", "").split())
        if not name:
            self._wrong(number, "name", "is empty")
        elif len(name) > 60:
            self._wrong(number, "name", f"has {len(name)} letters; at most 60 fit")
        elif name.lower() in self.here:
            self._wrong(number, "name", f"“{name}” is here already")
        elif name.lower() in self.seen:
            self._wrong(number, "name", f"“{name}” stands in row {self.seen[name.lower()].number} too")
        read = understood(self.names, given.get("genes", ""))
        for words in read.impossible:
            self._wrong(number, "genes", words)
        questions = (
            *(f"“{one.words}”: {one.question} {' · '.join(one.choices)}" for one in read.questions),
            *read.notes,
            *(f"“{word}” was taken for {taken}." for word, taken in read.guessed),
            *(f"“{word}” is not a gene that is known here; it stands in the note." for word, _ in read.unknown),
        )
        given["note"] = with_open_words(given.get("note", ""), read)
        details = self._details(number, name, given, read.sex)
        row = CsvRow(number, details, read.statements, given.get("dam", ""), given.get("sire", ""), questions)
        self.rows.append(row)
        self.seen.setdefault(name.lower(), row)

    def _details(self, number: int, name: str, given: dict[str, str], read_sex: str) -> Details:
        sex = SEX_WORDS.get(given.get("sex", "").lower())
        if sex is None:
            self._wrong(number, "sex", f"“{given['sex']}” is not female, male or empty")
        hatched = None
        try:
            hatched = DAY.clean(given.get("hatched", ""))
        except ValidationError as error:
            self._wrong(number, "hatched", error.messages[0].removesuffix("."))
        if hatched and hatched > self.today:
            self._wrong(number, "hatched", f"{hatched} lies ahead")
        return Details(name, given.get("id", "")[:30], sex or read_sex, hatched, note=given.get("note", ""))

    def check_parents(self) -> None:
        """Parents must be here or in the file, of the right sex, older, and nobody their own ancestor."""
        for row in self.rows:
            for column, name, wrong in (("dam", row.dam, Sex.MALE), ("sire", row.sire, Sex.FEMALE)):
                if name:
                    self._check_parent(row, column, name, wrong)
        for row in self._own_ancestors():
            self._wrong(row.number, "dam", f"{row.details.name} would be an ancestor of itself")

    def _check_parent(self, row: CsvRow, column: str, name: str, wrong: str) -> None:
        in_file, here = self.seen.get(name.lower()), self.here.get(name.lower())
        if not in_file and not here:
            self._wrong(row.number, column, f"“{name}” is neither here nor in the file")
            return
        sex = in_file.details.sex if in_file else here.sex if here else ""
        hatched = in_file.details.hatched_on if in_file else here.hatched_on if here else None
        if sex == wrong:
            self._wrong(row.number, column, f"“{name}” is {wrong} and can't be the {column}")
        if hatched and row.details.hatched_on and hatched >= row.details.hatched_on:
            self._wrong(row.number, column, f"“{name}” hatched on {hatched}, not before {row.details.name}")

    def _own_ancestors(self) -> list[CsvRow]:
        """Animals of the file whose parents, or theirs, lead back to them: those of one strong component of who stems from whom."""
        place = {name: number for number, name in enumerate(self.seen)}
        links = [
            (place[row.details.name.lower()], place[parent.lower()])
            for row in self.seen.values()
            for parent in (row.dam, row.sire)
            if row.details.name and parent.lower() in place
        ]
        if not links:
            return []
        size, (children, parents) = len(place), np.array(links).T
        stems = scipy.sparse.csr_array((np.ones(len(links)), (children, parents)), shape=(size, size))
        _, component = scipy.sparse.csgraph.connected_components(stems, directed=True, connection="strong")
        itself = {int(child) for child, parent in links if child == parent}
        together = np.bincount(component)[component] > 1
        return [row for number, row in enumerate(self.seen.values()) if together[number] or number in itself]

    def _wrong(self, row: int, column: str, words: str) -> None:
        self.troubles.append(Trouble(row, column, words))


def imported(collection: Collection, member: AbstractBaseUser, data: bytes, at: datetime) -> int:
    """Takes a whole file. :class:`Refused`, with nothing entered, where anything in it is wrong. One change, taken back as one."""
    preview = previewed(collection, data, at)
    if preview.troubles:
        raise Refused(f"{len(preview.troubles)} things in the file are wrong. Nothing was entered.")
    with recording(collection, member, at, f"{len(preview.rows)} animals imported", "import") as record:
        known = {animal.name.lower(): animal for animal in collection.animals.all()}
        for generation in _generations(preview.rows):
            made = [_animal(collection, row, known) for row in generation]
            record.add_all(made)
            known |= {animal.name.lower(): animal for animal in made}
        record.add_all(
            [
                CarriedGene.stating(known[row.details.name.lower()], one)
                for row in preview.rows
                for one in row.statements
            ]
        )
    return len(preview.rows)


def _generations(rows: Sequence[CsvRow]) -> Iterator[list[CsvRow]]:
    """The rows in an order in which parents come before their young; the file holds no circles."""
    by_name = {row.details.name.lower(): row for row in rows}
    order = TopologicalSorter({name: {row.dam.lower(), row.sire.lower()} for name, row in by_name.items()})
    order.prepare()
    while names := order.get_ready():
        yield [by_name[name] for name in names if name in by_name]
        order.done(*names)


def _animal(collection: Collection, row: CsvRow, known: dict[str, Animal]) -> Animal:
    details = row.details
    return Animal(
        collection=collection,
        name=details.name,
        code=details.code,
        sex=details.sex,
        hatched_on=details.hatched_on,
        dam=known.get(row.dam.lower()),
        sire=known.get(row.sire.lower()),
        note=details.note,
    )
