"""What a label may say: a call's parts by how surely each is known, with the ground; and whether a text promises more than that.

A text promises more where it says a gene for certain that the call holds for likely or possible, a larger chance than was reckoned,
more copies, or a gene of which the call says nothing. Saying less is the keeper's choice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from eyot_core.catalogue.model import Catalogue
from eyot_core.wording.chances import percent
from eyot_core.wording.label import ORDER, Part, part_in_words
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.names import Naming
from eyot_core.wording.statements import HALF, Statement, as_percentage, written

CLOSE = Fraction(1, 100)
LITTLE = 0.05
"""A carrier is taken for none where no more than this is left of its chance."""


@dataclass(frozen=True)
class Held:
    """One gene as it is known. ``words``: as on a label; ``ground``: what that rests on; ``proof``: how a buyer can settle it, empty
    where nothing is open."""

    gene: str
    words: str
    ground: str
    proof: str = ""


@dataclass(frozen=True)
class Wording:
    """A label by how surely each gene is known."""

    sure: tuple[Held, ...]
    likely: tuple[Held, ...]
    possible: tuple[Held, ...]


@dataclass(frozen=True)
class Promise:
    """What a text says beyond the call: in ``words``, of a ``gene`` (empty where it is a word that is not known here)."""

    gene: str
    words: str


def with_proofs(parts: Sequence[Part], proven: Mapping[str, int], catalogue: Catalogue) -> list[Part]:
    """The parts of a label as they are known since some genes were proven: ``proven``, with their copies, 0 where one is not there.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> held = [Part("clown", "possible_het", 1, Fraction(2, 3)), Part("fire", "likely", 1, Fraction(1))]
    >>> [(one.gene, one.said) for one in with_proofs(held, {"clown": 1, "fire": 0}, builtin_catalogue())]
    [('clown', 'het')]
    """
    kept = [part for part in parts if part.gene not in proven]
    for gene, copies in proven.items():
        if copies and gene in catalogue.genes:
            is_hidden = catalogue.genes[gene].is_recessive and copies == 1
            kept.append(Part(gene, "het" if is_hidden else "shown", copies, Fraction(1)))
    return sorted(kept, key=lambda part: ORDER.index(part.said))


def wording_of(parts: Sequence[Part], naming: Naming, proven: Mapping[str, str] | None = None) -> Wording:
    """The parts of a label, sure, likely and possible apart. ``proven``: of genes that were proven, by what, in words."""
    proven = proven or {}
    groups: dict[str, list[Held]] = {"sure": [], "likely": [], "possible": []}
    for part in parts:
        group = {"shown": "sure", "het": "sure", "likely": "likely"}.get(part.said, "possible")
        groups[group].append(
            Held(part.gene, part_in_words(part, naming), proven.get(part.gene) or _ground(part), _proof(part, naming))
        )
    return Wording(*(tuple(rows) for rows in groups.values()))


def _ground(part: Part) -> str:
    if part.said == "shown":
        return "called by eye as sure"
    if part.said == "likely":
        return "called by eye as likely"
    if part.said == "het":
        return "it can’t be otherwise with these parents"
    if part.said == "possible_het":
        return f"{_share(part.chance)} siblings that don’t show it carry it: by the parents, not by eye"
    if part.chance is None:
        return "seen by the keeper; the parents are not known to give it"
    return f"{percent(float(part.chance))} after looking"


def _share(chance: Fraction | None) -> str:
    """A chance as so many of so many."""
    return f"{chance.numerator} of {chance.denominator}" if chance else "some of the"


def _proof(part: Part, naming: Naming) -> str:
    name = naming.gene(part.gene)
    if part.said == "possible_het":
        count = young_without(float(part.chance or 0))
        return (
            f"one visual {name} among its young proves it, and so may a gene test; none among {count} young from a visual {name} "
            f"leaves less than {percent(LITTLE)}"
        )
    if part.said in ("likely", "possible"):
        return f"its own young: {name} handed on to one of them proves it"
    return ""


def young_without(chance: float) -> int:
    """After how many young from a visual partner, none of them visual, less than 5 % is left that an animal carries a gene.

    Each young of a carrier is visual in one of two cases.

    >>> young_without(2 / 3), young_without(0.5)
    (6, 5)
    """
    count, left = 0, chance
    while left >= LITTLE:
        count += 1
        carrier = chance * 0.5**count
        left = carrier / (carrier + 1 - chance)
        if chance >= 1:
            return 1
    return count


def promises(lookup: Lookup, text: str, parts: Sequence[Part]) -> list[Promise]:
    """What a text promises beyond the parts of a label, in the order of the text; empty where it holds.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> known = [Part("pastel", "shown", 1, Fraction(1)), Part("clown", "possible_het", 1, Fraction(2, 3))]
    >>> [one.words for one in promises(Lookup(builtin_catalogue()), "Pastel het Clown", known)]
    ['says het Clown for certain; the call holds 66 % possible het Clown']
    """
    by_gene = {part.gene: part for part in parts}
    read = understood(lookup, text)
    more = [
        promise
        for statement in read.statements
        if (promise := _more_than(statement, by_gene.get(statement.gene), lookup, text))
    ]
    more += [Promise("", f"“{word}” is not known here: nobody can tell what it promises") for word, _ in read.unknown]
    more += [Promise("", f"“{one.words}” can be read in two ways: {one.question}") for one in read.questions]
    return more


def _more_than(said: Statement, part: Part | None, lookup: Lookup, text: str) -> Promise | None:
    name = written(said, lookup)
    if part is None:
        return Promise(said.gene, f"says {name}; nothing that is known says so")
    held = part_in_words(part, lookup.naming)
    is_certain = part.said in ("shown", "het")
    if said.copies > part.copies or (said.copies == part.copies and said.two_chance and not is_certain):
        return Promise(said.gene, f"says {name}; the call holds {held}")
    if is_certain:
        return None
    if said.chance == "1" and not (said.known == "possible" or _is_said_likely(part, lookup, text)):
        return Promise(said.gene, f"says {name} for certain; the call holds {held}")
    figure = Fraction(said.chance)
    is_figure = said.chance != HALF or as_percentage(HALF)[:-1] in text
    if part.chance is not None and is_figure and said.chance != "1" and figure > part.chance + CLOSE:
        return Promise(said.gene, f"says {name}; the call holds {held}")
    return None


def _is_said_likely(part: Part, lookup: Lookup, text: str) -> bool:
    """Does the text say "likely" before this gene, as a likely one may be written?"""
    words = lookup.naming.copies(part.gene, part.copies).lower()
    return part.said == "likely" and f"likely {words}" in " ".join(text.lower().split())
