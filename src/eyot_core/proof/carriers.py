"""One animal that may carry a recessive gene: marks, breedings and tests added up, each independent given what it is.

Everything is kept as natural logarithms of two weights, of a carrier and of one that is none, so that neither a hundred
hatchlings nor a certain test loses anything.

Source: Bayes' rule with independent findings; a carrier and a visual give visuals to half, two carriers to a quarter.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

SHOWN_BY = {"visual": 1 / 2, "het": 1 / 4, "normal": 0.0}
"""Chance that a hatchling of a carrier shows the gene, by its partner."""
TARGETS = (0.05, 0.01)
SLACK = 1e-12
MOST_EXPONENT = 700.0


@dataclass(frozen=True)
class Marker:
    """A mark that was looked for. ``ratio``: how many times likelier what was found (seen, or not) is in carriers than in others."""

    ratio: float


@dataclass(frozen=True)
class Breeding:
    """One clutch or more with one partner. ``het_chance``: that the partner is het rather than normal; ``None`` for a visual."""

    het_chance: float | None
    hatchlings: int
    visuals: int


@dataclass(frozen=True)
class GeneTest:
    """A test: ``sensitivity``, chance of "carrier" for a carrier; ``specificity``, chance of "clear" for one that is none."""

    carrier: bool
    sensitivity: float
    specificity: float


@dataclass(frozen=True)
class Standing:
    """What is held of an animal: log weights of a carrier and of one that is none; neither need sum to 1."""

    carrier: float
    other: float

    @staticmethod
    def of(chance: float) -> Standing:
        """From a chance of being a carrier, 0 to 1."""
        return Standing(_log(chance), _log(1 - chance))

    @property
    def chance(self) -> float:
        """Chance of being a carrier."""
        if self.carrier == -math.inf:
            return 0.0
        if self.other - self.carrier > MOST_EXPONENT:
            return 0.0
        return 1 / (1 + math.exp(self.other - self.carrier))

    @property
    def is_proven(self) -> bool:
        """Is it certainly a carrier?"""
        return self.other == -math.inf

    def times(self, carrier: float, other: float) -> Standing:
        """After evidence with these log likelihoods. ValueError where neither kind of animal could give it."""
        standing = Standing(self.carrier + carrier, self.other + other)
        if standing.carrier == -math.inf and standing.other == -math.inf:
            raise ValueError("neither a carrier nor another animal can give this")
        return standing

    def still_needed(self, partner: str, target: float) -> int | None:
        """Fewest further hatchlings, none visual, after which the chance is at most ``target``; ``None`` if it is proven.

        ``partner``: visual or het. Counted within 1e-12; 0 where the chance is that small already.
        """
        if self.is_proven:
            return None
        least = target + SLACK
        excess = self.carrier - self.other - math.log(least / (1 - least))
        if excess <= 0:
            return 0
        return math.ceil(excess / -math.log(1 - SHOWN_BY[partner]))


def _log(value: float) -> float:
    return math.log(value) if value > 0 else -math.inf


def after_marker(standing: Standing, marker: Marker) -> Standing:
    """After a mark was looked for."""
    return standing.times(math.log(marker.ratio), 0.0)


def after_breeding(standing: Standing, breeding: Breeding) -> Standing:
    """After hatchlings with one partner, which is in one state for all of them. ValueError where visuals are impossible."""
    others = breeding.hatchlings - breeding.visuals
    other = 0.0 if breeding.visuals == 0 else -math.inf
    if breeding.het_chance is None:
        return standing.times(breeding.hatchlings * math.log(1 / 2), other)
    het = _log(breeding.het_chance) + breeding.visuals * math.log(1 / 4) + others * math.log(3 / 4)
    normal = _log(1 - breeding.het_chance) if breeding.visuals == 0 else -math.inf
    top = max(het, normal)
    carrier = top + math.log(math.exp(het - top) + math.exp(normal - top)) if top > -math.inf else -math.inf
    return standing.times(carrier, other)


def after_test(standing: Standing, test: GeneTest) -> Standing:
    """After a test. ValueError where a certain test speaks against what is certain."""
    if test.carrier:
        return standing.times(_log(test.sensitivity), _log(1 - test.specificity))
    return standing.times(_log(1 - test.sensitivity), _log(test.specificity))
