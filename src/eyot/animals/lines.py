"""Lines of genes as breeders write them: what they are understood as, what is asked of them, what of them is not known."""

from __future__ import annotations

from dataclasses import dataclass

from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Question, Understood, answered, written

from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.models import Animal, Collection
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
    meant = [[one.gene] for one in read.statements]
    for question in read.questions:
        genes_asked = {gene for choice in question.choices for gene, _ in understood(names, choice).genes}
        meant.append(sorted(genes_asked - {one.gene for one in read.statements}) or [""])
    return meant


@dataclass(frozen=True)
class UnknownWord:
    """A word that is not known here: the line without it, and with each name that comes near in its place."""

    word: str
    without: str
    near: tuple[tuple[str, str], ...]


def unknown_in(line: str, read: Understood) -> list[UnknownWord]:
    """The unknown words of a line with what can be done of each."""
    unknown = []
    for word, names in read.unknown:
        at = line.lower().find(word)
        before, after = (line[:at], line[at + len(word) :]) if at >= 0 else (line, "")
        unknown.append(
            UnknownWord(
                word,
                " ".join(f"{before} {after}".split()),
                tuple((name, " ".join(f"{before} {name} {after}".split())) for name in names),
            )
        )
    return unknown


def asked_of(line: str, read: Understood) -> list[Asked]:
    """The questions about a line, each choice ready to be pressed."""
    return [
        Asked(one, tuple((choice, answered(line, one, choice)) for choice in one.choices)) for one in read.questions
    ]


def line_of(animal: Animal, names: Lookup) -> str:
    """An animal's genes as a line that reads back as the same."""
    return ", ".join(written(gene.as_statement(), names) for gene in animal.genes.all())
