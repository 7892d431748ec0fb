"""What is typed of an animal, as values; what can't be read is refused with the field's name."""

from __future__ import annotations

from collections.abc import Mapping

from eyot_core.wording.line import Understood, understood, written
from eyot_core.wording.lookup import Lookup

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
    """A line of genes. :class:`Refused` where words were not understood, or where no animal can be so."""
    read = understood(names_of(collection), line[:LONGEST_LINE])
    if read.unknown:
        words = ", ".join(f"“{word}”" for word, _ in read.unknown)
        raise Refused(f"Not understood: {words}.")
    if read.impossible:
        raise Refused(" ".join(read.impossible))
    return read


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
