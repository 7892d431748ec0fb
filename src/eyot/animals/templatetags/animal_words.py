"""Template tags on animals and on lines of genes."""

from __future__ import annotations

from django import template

from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Statement, written

register = template.Library()


@register.simple_tag
def in_words(statement: Statement, names: Lookup) -> str:
    """A statement of a line as breeders write it."""
    return written(statement, names)


@register.simple_tag
def seed_of(statement: Statement, names: Lookup) -> str:
    """The mark of a statement: one, two, carried, doubt."""
    if statement.chance != "1":
        return "doubt"
    gene = names.catalogue.genes[statement.gene]
    if gene.is_recessive:
        return "two" if statement.copies == 2 else "carried"
    return "two" if statement.copies == 2 else "one"
