"""What somebody claims of an animal, as far as he is trusted, and whether looks bear it out.

A claim that is trusted with t counts as true with t, and with 1 − t as if nobody had said anything: of animals for whom a gene is
claimed with a chance c, t · c + (1 − t) · p have it, p being the share among captive-bred animals of the same gene load.

Source: a mixture of a true and an empty claim; whether it is borne out is the likelihood ratio of the looks, Bayes' rule in odds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue.model import STAGES, Catalogue
from eyot_core.genetics.inheritance import Genotype
from eyot_core.genetics.population import LocusStates, Population
from eyot_core.identify.compare import shown_at_all_stages
from eyot_core.identify.unknown_parents import OpenIdentification
from eyot_core.identify.why import TOUCHES, Cue

MOST_ALLELES = 2
LEAST = 1e-300


@dataclass(frozen=True)
class Claim:
    """One gene that an animal is claimed to have in at least so many copies. ``chance``: with what chance, as the claim has it."""

    gene: str
    copies: int
    chance: float = 1.0

    def holds_in(self, genotype: Genotype) -> bool:
        """Has an animal of this genotype what is claimed?"""
        return genotype.count(self.gene) >= self.copies


def claimed(among: Population, catalogue: Catalogue, claims: Sequence[Claim], trust: float) -> Population:
    """The population that an animal of these claims comes from. ``trust``: 0 to 1.

    Under each gene load what is claimed at a locus is as likely as the mixture says; the rest of the locus keeps its proportions.
    A gene that no animal of the population can have stays impossible.
    """
    loci = list(among.loci)
    for place, states in enumerate(loci):
        here = [one for one in claims if catalogue.genes[one.gene].locus == states.locus]
        for chance in sorted({one.chance for one in here}):
            joint = [one for one in here if one.chance >= chance]
            holds = np.array([all(one.holds_in(genotype) for one in joint) for genotype in states.genotypes])
            states = _made_as_likely(states, holds, trust, chance)
        loci[place] = states
    return replace(among, loci=tuple(loci))


def _made_as_likely(states: LocusStates, holds: NDArray[np.bool_], trust: float, chance: float) -> LocusStates:
    share = states.chances @ holds
    wanted = trust * chance + (1 - trust) * share
    possible = (share > 0) & (share < 1)
    up = np.where(possible, wanted / np.where(possible, share, 1.0), 1.0)
    down = np.where(possible, (1 - wanted) / np.where(possible, 1 - share, 1.0), 1.0)
    return replace(states, chances=states.chances * np.where(holds, up[:, np.newaxis], down[:, np.newaxis]))


@dataclass(frozen=True)
class Standing:
    """How a claim of one gene stands. ``among_all``: its share among captive-bred animals; ``stated``: the chance with the claim,
    before any look; ``after``: with the looks; ``factor``: by which the looks multiply its odds, all else counted."""

    claim: Claim
    among_all: float
    stated: float
    after: float
    factor: float


def standings(
    one: OpenIdentification, plain: Population, believed: Population, claims: Sequence[Claim]
) -> list[Standing]:
    """How each claim stands. ``one``: the animal, searched among ``believed``; ``plain``: the population without the claims."""
    return [_standing(one, plain, believed, claim) for claim in claims]


def _standing(one: OpenIdentification, plain: Population, believed: Population, claim: Claim) -> Standing:
    copies = one.copies(claim.gene)
    after = sum(copies[str(count)] for count in range(claim.copies, 3))
    stated = share_of(believed, one.catalogue, claim)
    odds = [max(chance, LEAST) / max(1 - chance, LEAST) for chance in (stated, after)]
    factor = odds[1] / odds[0] if 0 < stated < 1 else 1.0
    return Standing(claim, share_of(plain, one.catalogue, claim), stated, after, factor)


def share_of(among: Population, catalogue: Catalogue, claim: Claim) -> float:
    """How many animals of a population have what is claimed, 0 to 1."""
    locus = catalogue.genes[claim.gene].locus
    states = next((states for states in among.loci if states.locus == locus), None)
    if states is None:
        return 0.0
    holds = np.array([claim.holds_in(genotype) for genotype in states.genotypes])
    return float(among.weights @ states.chances @ holds)


def open_cues(one: OpenIdentification, gene: str, copies: int) -> list[Cue]:
    """What each answered look says of a gene of an animal of unknown parents, the strongest first.

    A cue's ``factor`` is how many times likelier the answer is where the leading combination has the gene in ``copies`` than where it
    has none of it. Empty where nothing can show what was seen, or the leading combination has no room for the gene.
    """
    genotype = one.leading
    if not one.is_possible or genotype is None:
        return []
    locus = one.catalogue.genes[gene].locus
    others = [allele for allele in genotype.get(locus, []) if allele != gene]
    if len(others) + copies > MOST_ALLELES:
        return []
    without = {**genotype, locus: others} if others else {key: own for key, own in genotype.items() if key != locus}
    shown_with = shown_at_all_stages(one.catalogue, {**genotype, locus: sorted([*others, *[gene] * copies])})
    shown_without = shown_at_all_stages(one.catalogue, without)
    cues = []
    for evidence in one.evidence:
        at = STAGES.index(evidence.stage)
        both = (shown_with[evidence.trait][at], shown_without[evidence.trait][at])
        likelihoods = [max(float(chances @ evidence.vector), LEAST) for chances in both]
        factor = likelihoods[0] / likelihoods[1]
        if max(factor, 1 / factor) >= TOUCHES:
            cues.append(Cue(evidence.trait, evidence.stage, factor, *both))
    return sorted(cues, key=lambda cue: -abs(np.log(cue.factor)))
