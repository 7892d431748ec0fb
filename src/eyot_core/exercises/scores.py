"""How well an eye named an animal: a proper score against what the picture could tell, with luck told apart.

Source: the quadratic score of probabilities (Brier). Against the exact chance p, saying q costs (q − p)² more on average than saying p;
what it happens to cost beside that is luck.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import scipy

SAID = {"sure": 0.97, "likely": 0.8, "hint": 0.5, "no": 0.03}
"""What a word says in chances: of a gene that is not named, that it is not there."""


@dataclass(frozen=True)
class GeneScore:
    """One gene of one animal. ``said``: the chance that was said, ``could``: the exact one, ``is_there``: the truth."""

    gene: str
    said: float
    could: float
    is_there: bool

    @property
    def lost(self) -> float:
        """What was lost by not saying what could be known: 0 to 1, and 0 only where just that was said."""
        return (self.said - self.could) ** 2

    @property
    def luck(self) -> float:
        """How much better (above 0) or worse it came out than what was said had to come out on average."""
        expected = self.could * (1 - self.said) ** 2 + (1 - self.could) * self.said**2
        return expected - (self.said - self.is_there) ** 2


@dataclass(frozen=True)
class Score:
    """One animal: the sums over its genes."""

    genes: tuple[GeneScore, ...]

    @property
    def lost(self) -> float:
        """What was lost by not saying what could be known."""
        return sum(one.lost for one in self.genes)

    @property
    def luck(self) -> float:
        """What the draw added or took."""
        return sum(one.luck for one in self.genes)

    @property
    def points(self) -> int:
        """100 for saying just what could be known, 0 for the worst that could be said of every gene."""
        worst = sum(max(one.could, 1 - one.could) ** 2 for one in self.genes)
        return round(100 * (1 - self.lost / worst)) if worst else 100


def scored(said: Mapping[str, str], could: Mapping[str, float], there: Iterable[str]) -> Score:
    """A score. ``said``: by gene one of :data:`SAID`; ``could``: the exact chances; ``there``: the genes that show.

    >>> one = scored({"pastel": "sure"}, {"pastel": 0.97, "fire": 0.03}, ["pastel"])
    >>> one.points, round(one.lost, 6)
    (100, 0.0)
    """
    truth = set(there)
    genes = dict.fromkeys([*could, *said])
    return Score(
        tuple(GeneScore(gene, SAID[said.get(gene, "no")], could.get(gene, 0.0), gene in truth) for gene in genes)
    )


@dataclass(frozen=True)
class Calibration:
    """What became of all that was said with one word: how often it was said and there, and how likely it was by what could be known."""

    word: str
    said: int
    there: int
    could: float

    @property
    def share(self) -> float:
        """How often what was said was there."""
        return self.there / self.said if self.said else 0.0

    @property
    def interval(self) -> tuple[float, float]:
        """Between which shares the true one lies, at 90 % (Wilson)."""
        if not self.said:
            return 0.0, 1.0
        low, high = scipy.stats.binomtest(self.there, self.said).proportion_ci(0.9, method="wilson")
        return float(low), float(high)


def calibration(answers: Sequence[tuple[str, GeneScore]]) -> list[Calibration]:
    """By word, from (word, score) of every gene that was said something of."""
    rows = []
    for word in SAID:
        own = [score for said, score in answers if said == word]
        could = sum(score.could for score in own) / len(own) if own else 0.0
        rows.append(Calibration(word, len(own), sum(score.is_there for score in own), could))
    return rows
