"""A paper read: every value checked with its place, its seal held against what it says."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from typing import Any
from uuid import UUID

from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.errors import InputError
from eyot_core.parsing import FRACTION, Node, parsed_json
from eyot_core.wording.statements import Statement

from eyot.collection.models import CarriedGene, Sex
from eyot.papers.document import FORMAT, MOST_PHOTOS, seal_of
from eyot.photos.models import Photo
from eyot.shared.refusal import Refused

MOST_BYTES = 30_000_000
MOST_ROWS = 5_000
NOTHING = "Nothing was read."
TOP = (
    *("format", "number", "version", "issued", "keeper", "animal", "genes", "call", "looks", "parents", "weights"),
    *("sheds", "meals", "welfare", "health", "opinion", "sha256"),
)
ANIMAL = ("name", "id", "sex", "sex_sure", "hatched", "label")
GENE = ("gene", "name", "copies", "known", "chance", "ground")


@dataclass(frozen=True)
class Told:
    """One gene as a paper tells it. ``chance``: a fraction as text, empty where nobody reckoned one."""

    gene: str
    name: str
    copies: int
    known: str
    chance: str
    ground: str


@dataclass(frozen=True)
class Picture:
    """A photo in a paper."""

    kind: str
    stage: str
    taken: date
    jpeg: bytes


@dataclass(frozen=True)
class Paper:
    """A paper as it was read. ``altered``: its seal does not fit what it says."""

    document: dict[str, Any]
    number: UUID
    version: int
    name: str
    code: str
    sex: str
    hatched: date | None
    genes: tuple[Told, ...]
    weights: tuple[tuple[date, float], ...]
    sheds: tuple[date, ...]
    meals: tuple[tuple[date, str, bool], ...]
    photos: tuple[Picture, ...]
    altered: bool

    @property
    def keeper(self) -> str:
        """Who made it."""
        return str(self.document["keeper"])

    def known_in(self, catalogue: Catalogue) -> list[Statement]:
        """Its genes that a catalogue knows, as statements: all of them declared by whoever made the paper."""
        return [
            Statement(one.gene, one.copies, CarriedGene.Known.DECLARED, one.chance or "1/2")
            for one in self.genes
            if one.gene in catalogue.genes
        ]

    def unknown_in(self, catalogue: Catalogue) -> list[Told]:
        """Its genes that a catalogue does not know."""
        return [one for one in self.genes if one.gene not in catalogue.genes]


def read_paper(data: bytes) -> Paper:
    """Reads a paper's file. :class:`Refused`, saying what is wrong and where, for what is none."""
    if len(data) > MOST_BYTES:
        raise Refused(f"A paper has at most {MOST_BYTES // 1_000_000} MB. {NOTHING}")
    try:
        return paper_from(parsed_json(data))
    except InputError as error:
        raise Refused(f"{error.message}{f' ({error.at})' if error.at else ''}. {NOTHING}") from None


def paper_from(document: Any) -> Paper:
    """A paper from its document. :class:`~eyot_core.errors.InputError` with the place of what is wrong."""
    node = Node(document).object(["format"])
    form = node.child("format").text()
    if form != FORMAT and form.startswith("eyot-paper/"):
        raise node.child("format").wrong(f"this paper is of a later Eyot ({form}); it can be read there")
    if form != FORMAT:
        raise node.child("format").wrong("this file is no paper of an animal")
    node.object(TOP, [*TOP, "photos"])
    animal = node.child("animal").object(ANIMAL, ANIMAL)
    sex = animal.child("sex").value
    if sex not in (*Sex.values, None):
        raise animal.child("sex").wrong("is female, male or null")
    return Paper(
        document,
        _number(node.child("number")),
        node.child("version").whole(1),
        animal.child("name").text()[:60],
        animal.child("id").text()[:30],
        sex or "",
        _day_or_none(animal.child("hatched")),
        _genes(node.child("genes")),
        tuple((_day(one.child("on")), one.child("grams").number(0.1, 10_000)) for one in _rows(node.child("weights"))),
        tuple(_day(one) for one in _rows(node.child("sheds"))),
        tuple(
            (_day(one.child("on")), str(one.child("what").value or "")[:40], one.child("taken").boolean())
            for one in _rows(node.child("meals"))
        ),
        tuple(_picture(one) for one in node.children("photos")[:MOST_PHOTOS]),
        node.child("sha256").value != seal_of(document),
    )


def _rows(node: Node) -> Sequence[Node]:
    rows = node.entries()
    if len(rows) > MOST_ROWS:
        raise node.wrong(f"at most {MOST_ROWS} are read, not {len(rows)}")
    return rows


def _genes(node: Node) -> tuple[Told, ...]:
    genes, names = [], set()
    for one in _rows(node):
        one.object(GENE, [*GENE, "to_settle"])
        gene = one.child("gene").text()[:40]
        if gene in names:
            raise one.child("gene").wrong(f"{gene} stands twice in it")
        names.add(gene)
        chance = one.child("chance").value
        if chance is not None and not (
            isinstance(chance, str) and FRACTION.fullmatch(chance) and 0 < _fraction(chance) <= 1
        ):
            raise one.child("chance").wrong("a chance is a fraction above 0 and at most 1, or null")
        words = (one.child(name).text() for name in ("name", "known", "ground"))
        name, known, ground = words
        genes.append(Told(gene, name, one.child("copies").whole(1, 2), known, chance or "", ground))
    return tuple(genes)


def _fraction(text: str) -> Fraction:
    try:
        return Fraction(text)
    except ZeroDivisionError:
        return Fraction(0)


def _number(node: Node) -> UUID:
    try:
        return UUID(node.text())
    except ValueError:
        raise node.wrong("is no number of a paper") from None


def _day(node: Node) -> date:
    try:
        return date.fromisoformat(node.text())
    except ValueError:
        raise node.wrong("a day is written as 2026-11-30") from None


def _day_or_none(node: Node) -> date | None:
    return None if node.value is None else _day(node)


def _picture(node: Node) -> Picture:
    node.object(["kind", "stage", "taken", "jpeg"])
    try:
        data = base64.b64decode(node.child("jpeg").text(), validate=True)
    except binascii.Error:
        raise node.child("jpeg").wrong("the picture can't be read") from None
    kind, stage = node.child("kind").choice(Photo.Kind.values), node.child("stage").choice(STAGES)
    return Picture(kind, stage, _day(node.child("taken")), data)
