"""The label of a hatchling, from its call and from what its parents can give: never more than is known.

What is called sure stands first; likely and possible genes are said to be so; a recessive that does not show is 100 % het where it
can't be otherwise, else possibly het with the trade's figure: the chance that an animal which does not show it carries it,
given the rest of the call, by the parents' genes alone. ``parts_of`` is what ``bin/eyot core label`` prints.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.inheritance import Group
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.genetics.tables import Floats
from eyot_core.hatchery.outcomes import Kind
from eyot_core.parsing import Node
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

VERDICTS = ("sure", "likely", "possible", "not", "unknown")
ORDER = ("shown", "likely", "possible", "het", "possible_het")
LEAST = 0.10
"""A possible gene below this chance is left off a label, unless the collection sets another threshold."""
AGAINST = 0.5
"""Looks speak against a gene where they leave less than this share of the odds that the parents gave it."""
CERTAIN = 1 - 1e-9
WRITTEN_AS = (Fraction(1), *(Fraction(a, b) for b in range(2, 9) for a in range(1, b)))
CLOSE = 0.008


@dataclass(frozen=True)
class Called:
    """The verdict on one gene: sure, likely, possible, not or unknown, in one or two copies."""

    gene: str
    verdict: str
    copies: int = 1

    @property
    def shows(self) -> bool:
        """Does the call take it to be there?"""
        return self.verdict in ("sure", "likely")


@dataclass(frozen=True)
class Part:
    """One gene on a label. ``said``: one of ``ORDER``; ``chance``: 1, or of a possible gene or het a figure as people write it;
    ``None`` where the parents can't give the gene, so that nobody reckoned one."""

    gene: str
    said: str
    copies: int
    chance: Fraction | None

    def as_json(self) -> dict[str, Any]:
        """The part in the form of the contract."""
        chance: Any = None if self.chance is None else 1 if self.chance == 1 else str(self.chance)
        return {"gene": self.gene, "as": self.said, "copies": self.copies, "chance": chance}


def written_chance(chance: float) -> Fraction:
    """A chance as a keeper would write it: 1/2, 2/3 and the like where that is close, else full per cents.

    >>> [str(written_chance(chance)) for chance in (0.5, 0.6667, 11 / 14, 1.0)]
    ['1/2', '2/3', '79/100', '1']
    """
    if chance >= CERTAIN:
        return Fraction(1)
    near = min(WRITTEN_AS[1:], key=lambda one: (abs(float(one) - chance), one.denominator))
    return near if abs(float(near) - chance) <= CLOSE else Fraction(max(1, min(99, round(chance * 100))), 100)


def parts_of(
    pairing: Pairing,
    call: Sequence[Called],
    hypotheses: Floats | None = None,
    looked: Mapping[str, float] | None = None,
    least: float = LEAST,
) -> list[Part]:
    """The parts of a label, in their order.

    ``hypotheses``: what is held of the parents (left out: as they are stated), the layout of all. ``looked``: chances of the
    possible genes after looking, where somebody looked; ``least``: the smallest chance of a possible gene that is named.
    """
    return sorted(
        _Parts(pairing, call, pairing.prior if hypotheses is None else hypotheses, looked or {}, least).all(),
        key=lambda part: ORDER.index(part.said),
    )


def parts_alone(
    catalogue: Catalogue, call: Sequence[Called], looked: Mapping[str, float], least: float = LEAST
) -> list[Part]:
    """The parts of a label of an animal whose parents are not known: what is called, and nothing of what it may carry.

    ``looked``: chances of the possible genes after looking; ``least``: the smallest chance of a possible gene that is named.
    """
    parts = []
    for one in call:
        hidden = catalogue.genes[one.gene].is_recessive and one.copies == 1
        if one.shows and hidden:
            parts += [Part(one.gene, "het", 1, Fraction(1))] if one.verdict == "sure" else []
        elif one.shows:
            parts.append(Part(one.gene, "shown" if one.verdict == "sure" else "likely", one.copies, Fraction(1)))
        elif one.verdict == "possible" and looked.get(one.gene, 0.0) >= least:
            parts.append(Part(one.gene, "possible", one.copies, written_chance(looked[one.gene])))
    return sorted(parts, key=lambda part: ORDER.index(part.said))


@dataclass(frozen=True)
class _Parts:
    pairing: Pairing
    call: Sequence[Called]
    hypotheses: Floats
    looked: Mapping[str, float]
    least: float

    @property
    def catalogue(self) -> Catalogue:
        return self.pairing.catalogue

    def all(self) -> list[Part]:
        parts, called = [], {one.gene: one for one in self.call}
        for one in self.call:
            if part := self._called(one):
                parts.append(part)
        for gene in self.pairing.given_genes:
            if self.catalogue.genes[gene].is_recessive and not self._is_settled(called.get(gene)):
                part = self._carried(gene)
                if part:
                    parts.append(part)
        return parts

    def _called(self, one: Called) -> Part | None:
        recessive = self.catalogue.genes[one.gene].is_recessive
        if one.shows and recessive and one.copies == 1 and not self._shows_with_another(one):
            return Part(one.gene, "het", 1, Fraction(1)) if one.verdict == "sure" else None
        if one.shows:
            return Part(one.gene, "shown" if one.verdict == "sure" else "likely", one.copies, Fraction(1))
        if one.verdict != "possible" or (recessive and one.copies == 1):
            return None
        chance = self._possible(one)
        if chance is None:
            return Part(one.gene, "possible", one.copies, None)
        return Part(one.gene, "possible", one.copies, written_chance(chance)) if chance >= self.least else None

    def _shows_with_another(self, one: Called) -> bool:
        """A single recessive allele shows beside another of its complex."""
        locus = self.catalogue.genes[one.gene].locus
        others = [two for two in self.call if two.shows and two.gene != one.gene]
        return any(self.catalogue.genes[two.gene].locus == locus for two in others)

    @staticmethod
    def _is_settled(one: Called | None) -> bool:
        """Needs nothing be said of carrying it: it shows, or is called het for sure. "Not" says that it does not show: no eye
        sees that an animal carries nothing."""
        return one is not None and one.shows and (one.copies == 2 or one.verdict == "sure")

    def _possible(self, one: Called) -> float | None:
        """The chance of a possible gene; 0 where the looks speak against it, ``None`` where the parents can't give it."""
        if one.gene not in self.pairing.given_genes:
            return None
        prior = self._share({one.gene: one.copies}, may_show=(one.gene,))
        after = self.looked.get(one.gene, prior)
        if after * (1 - prior) < AGAINST * prior * (1 - after):
            return 0.0
        return after

    def _carried(self, gene: str) -> Part | None:
        chance = self._share({gene: 1})
        if chance <= 0:
            return None
        return Part(gene, "het" if chance >= CERTAIN else "possible_het", 1, written_chance(chance))

    def _share(self, more: Mapping[str, int], may_show: Collection[str] = ()) -> float:
        """Chance that an animal of this call has at least these copies too. Where no child of the parents fits the call, the
        call's own genes are left aside."""
        for calls in (self.call, ()):
            whole = self._chance(calls, {}, may_show)
            if whole > 0:
                return min(1.0, self._chance(calls, more, may_show) / whole)
        return 0.0

    def _chance(self, call: Sequence[Called], more: Mapping[str, int], may_show: Collection[str]) -> float:
        chosen = tuple(self._fitting(group, call, more, may_show) for group in self.pairing.groups)
        return float((Kind(self.pairing, chosen).by_hypothesis * self.hypotheses).sum())

    def _fitting(
        self, group: Group, call: Sequence[Called], more: Mapping[str, int], may_show: Collection[str]
    ) -> Floats:
        """1 for the child states of a group that fit the call and have what is asked, else 0."""
        fits = np.ones(len(group.children))
        for position, locus in enumerate(group.loci):
            here = [one for one in call if self.catalogue.genes[one.gene].locus == locus]
            for number, child in enumerate(group.children):
                fits[number] *= self._fits(child[position], here, may_show)
            for gene, copies in more.items():
                if self.catalogue.genes[gene].locus == locus:
                    fits = fits * (group.copies_of(gene, locus) >= copies)
        return fits

    def _fits(self, alleles: Sequence[str], here: Sequence[Called], may_show: Collection[str]) -> bool:
        """Can an animal of this call have these alleles at a locus? A recessive that is not called to be there does not show,
        but for those that ``may_show``."""
        shown = len(alleles) == 2 and all(self.catalogue.genes[allele].is_recessive for allele in alleles)
        for one in here:
            count = list(alleles).count(one.gene)
            if one.shows and count != one.copies:
                return False
            hidden = self.catalogue.genes[one.gene].is_recessive and (not shown or count < one.copies)
            if one.verdict == "not" and count and not hidden:
                return False
        return not shown or any(one.shows or one.gene in may_show for one in here)


def by_gene(parts: Sequence[Part], naming: Naming) -> str:
    """A label gene by gene: "Pastel Enchi, likely Fire, het Clown, 66 % possible het Piebald"."""
    return _joined([naming.copies(part.gene, part.copies) for part in parts if part.said == "shown"], parts, naming)


def by_trade_names(parts: Sequence[Part], naming: Naming) -> str:
    """The same with trade names for what shows, as far as names fit."""
    left = {part.gene: part.copies for part in parts if part.said == "shown"}
    named = []
    while left and (largest := naming.largest_trade_name(left)):
        name, genes = largest
        named.append(name[0].upper() + name[1:])
        left = {gene: copies for gene, copies in left.items() if gene not in genes}
    named += [naming.copies(gene, copies) for gene, copies in left.items()]
    return _joined(named, parts, naming)


def _joined(shown: Sequence[str], parts: Sequence[Part], naming: Naming) -> str:
    """What shows, then the rest; an animal of which nothing is even likely looks normal."""
    first = " ".join(shown) or ("" if any(part.said == "likely" for part in parts) else "Normal")
    after = [part_in_words(part, naming) for part in parts if part.said != "shown"]
    return ", ".join([*([first] if first else []), *after])


def part_in_words(part: Part, naming: Naming) -> str:
    """One part of a label in words.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> part_in_words(Part("clown", "possible_het", 1, Fraction(2, 3)), Naming(builtin_catalogue()))
    '66 % possible het Clown'
    """
    if part.said in ("het", "possible_het"):
        return het_words(naming.gene(part.gene), float(part.chance or 0))
    words = naming.copies(part.gene, part.copies)
    return words if part.said == "shown" else f"{part.said} {words}"


def het_words(name: str, chance: float) -> str:
    """A possible het in the trade's words.

    >>> het_words("Clown", 2 / 3), het_words("Clown", 1.0)
    ('66 % possible het Clown', 'het Clown')
    """
    if chance >= CERTAIN:
        return f"het {name}"
    trade = "66 %" if abs(chance - 2 / 3) < CLOSE else percent(chance)
    return f"{trade} possible het {name}".replace("\u00a0", " ")


def label_answer(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The JSON answer of ``label``; :class:`~eyot_core.errors.InputError` where the document is wrong."""
    node.object(["dam", "sires", "call"], ["dam", "sires", "call", "catalogue"])
    pairing, naming = pairing_from(node, catalogue), Naming(catalogue)
    call: list[Called] = []
    for entry in node.child("call").entries():
        entry.object(["gene", "verdict"], ["gene", "verdict", "copies"])
        gene = entry.child("gene").choice(catalogue.genes, "a gene")
        if any(one.gene == gene for one in call):
            raise entry.child("gene").wrong(f"the gene {gene!r} is called twice")
        usual = 2 if catalogue.genes[gene].is_recessive else 1
        copies = entry.child("copies").whole(1, 2) if entry.has("copies") else usual
        call.append(Called(gene, entry.child("verdict").choice(VERDICTS[:4]), copies))
    parts = parts_of(pairing, call)
    return {
        "parts": [part.as_json() for part in parts],
        "by_gene": by_gene(parts, naming),
        "by_trade_names": by_trade_names(parts, naming),
    }
