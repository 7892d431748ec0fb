"""What is typed of an animal, as values; what can't be read is refused with the field's name."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Question, Understood, answered, written

from eyot.animals.actions import Details
from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.models import Animal, Collection
from eyot.season.reading import animal_named, day_from
from eyot.shared.refusal import Refused

LONGEST_LINE = 400


def names_of(collection: Collection) -> Lookup:
    """The names of genes as the collection uses them."""
    return lookup(catalogue_of(collection))


def line_read(collection: Collection, line: str) -> Understood:
    """A line of genes. :class:`Refused` where no animal can be so; what was not understood refuses nothing."""
    read = understood(names_of(collection), line[:LONGEST_LINE])
    if read.impossible:
        raise Refused(" ".join(read.impossible))
    return read


def with_open_words(note: str, read: Understood) -> str:
    """A note with what of the line was not understood or not answered, so that it is not lost."""
    return note if read.left_open in note else "\n".join(filter(None, (note, read.left_open)))


@dataclass(frozen=True)
class Asked:
    """A question about a line with, for each choice, the line as it would then read."""

    question: Question
    choices: tuple[tuple[str, str], ...]


def meant_by(names: Lookup, read: Understood) -> list[list[str]]:
    """What a search asks for: each gene, and for each question the genes that any of its choices would name."""
    found = [[one.gene] for one in read.statements]
    for question in read.questions:
        genes_asked = {gene for choice in question.choices for gene, _ in understood(names, choice).genes}
        found.append(sorted(genes_asked - {one.gene for one in read.statements}) or [""])
    return found


@dataclass(frozen=True)
class UnknownWord:
    """A word that is not known here: the line without it, and with each name that comes near in its place."""

    word: str
    without: str
    near: tuple[tuple[str, str], ...]


def unknown_in(line: str, read: Understood) -> list[UnknownWord]:
    """The unknown words of a line with what can be done of each."""
    found = []
    for word, names in read.unknown:
        at = line.lower().find(word)
        before, after = (line[:at], line[at + len(word) :]) if at >= 0 else (line, "")
        found.append(
            UnknownWord(
                word,
                " ".join(f"{before} {after}".split()),
                tuple((name, " ".join(f"{before} {name} {after}".split())) for name in names),
            )
        )
    return found


def asked_of(line: str, read: Understood) -> list[Asked]:
    """The questions about a line, each choice ready to be pressed."""
    return [
        Asked(one, tuple((choice, answered(line, one, choice)) for choice in one.choices)) for one in read.questions
    ]


def line_of(animal: Animal, names: Lookup) -> str:
    """An animal's genes as a line that reads back as the same."""
    return ", ".join(written(gene.as_statement(), names) for gene in animal.genes.all())


def details_from(collection: Collection, given: Mapping[str, str]) -> Details:
    """Details as typed; parents by name. :class:`Refused` for the first that can't be read."""
    return Details(
        name=" ".join(given.get("name", "").split())[:60],
        code=given.get("code", "").strip()[:30],
        sex=given.get("sex", "").strip().lower(),
        hatched_on=day_from(given.get("hatched_on", ""), "Hatched"),
        dam=animal_named(collection, given.get("dam", ""), "Dam"),
        sire=animal_named(collection, given.get("sire", ""), "Sire"),
        note=given.get("note", "").strip(),
    )
