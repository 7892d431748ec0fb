"""What would tell an open gene: the leading combination drawn with it and without it, at the place of the look that parts the two."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from eyot_core.body_places import place_of
from eyot_core.catalogue import Catalogue
from eyot_core.identify.compare import Comparison

from eyot.bench.judgement import Combination, Judgement, trait_words

MOST = 3
MOST_ALLELES = 2


@dataclass(frozen=True)
class OpenGene:
    """A gene that may show and may not. ``copies``: how many it takes to show; ``after``: its chance in words."""

    gene: str
    name: str
    copies: int
    after: str


@dataclass(frozen=True)
class ToldBy:
    """One open gene. ``trait``: the look that parts the leading combination with it from the one without it, empty where none does;
    ``place``: where it is seen; ``without``, ``having``: the two combinations, as drawings of them are asked for."""

    name: str
    after: str
    trait: str = ""
    look: str = ""
    place: str = ""
    without: str = ""
    having: str = ""


def told_by(judgement: Judgement, leading: Combination, genes: Sequence[OpenGene], stage: str) -> list[ToldBy]:
    """What would tell the open genes at a stage; at most three that a look can tell, and the others by name."""
    rows = [_told_by(judgement, leading, one, stage) for one in genes]
    told = [row for row in rows if row.trait][:MOST]
    return [*told, *(row for row in rows if not row.trait)]


def _told_by(judgement: Judgement, leading: Combination, one: OpenGene, stage: str) -> ToldBy:
    catalogue = judgement.catalogue
    locus = catalogue.genes[one.gene].locus
    others = [allele for allele in leading.genotype.get(locus, []) if allele != one.gene]
    if len(others) + one.copies > MOST_ALLELES:
        return ToldBy(one.name, one.after)
    rest = {name: list(alleles) for name, alleles in leading.genotype.items() if name != locus}
    without = {**rest, **({locus: others} if others else {})}
    having = {**rest, locus: sorted([*others, *[one.gene] * one.copies])}
    trait = _parting_look(catalogue, _frozen(without), _frozen(having), stage)
    if not trait:
        return ToldBy(one.name, one.after)
    words = trait_words(trait)
    place = place_of(trait, words["region"])
    return ToldBy(one.name, one.after, trait, words["name"], place, _key(without), _key(having))


Frozen = tuple[tuple[str, tuple[str, ...]], ...]


def _frozen(genotype: dict[str, list[str]]) -> Frozen:
    return tuple(sorted((locus, tuple(alleles)) for locus, alleles in genotype.items()))


@lru_cache(maxsize=4096)
def _parting_look(catalogue: Catalogue, without: Frozen, having: Frozen, stage: str) -> str:
    """The look that parts two combinations most at a stage; empty where none does. Asked again with every answer, so it is kept."""
    pair = tuple({locus: list(alleles) for locus, alleles in one} for one in (without, having))
    best = Comparison(catalogue, pair).differences(stage)[0]
    return best.trait if best.strength else ""


def _key(genotype: dict[str, list[str]]) -> str:
    return ".".join(sorted(allele for alleles in genotype.values() for allele in alleles)) or "normal"
