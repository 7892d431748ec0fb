"""Ways of inheritance of a trait that is not proven yet: how well each explains who shows it, over the whole pedigree.

One locus; not inherited at all is one way among them. Each way's likelihood is divided by its own chance that the proband
shows what it shows: the pedigree is looked at because it did.

Source: Mendel's laws for each way; the division by the proband's chance is the single ascertainment correction.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from eyot_core.genetics.inheritance import FEMALE
from eyot_core.genetics.tables import Floats
from eyot_core.proof.elimination import Summed, TooTangled
from eyot_core.proof.pedigree import SEXED_COPIES, SEXED_FEMALE, Member, autosomal, over_pedigree, sex_linked

SHOWN = ("no", "yes", "strong")
UNSEEN = "unseen"
MOST_ANIMALS = 2_500
WAYS = ("none", "dominant", "incomplete_dominant", "recessive", "sex_linked")
EXPECTED = {
    "dominant": ("no", "yes", "yes"),
    "incomplete_dominant": ("no", "yes", "strong"),
    "recessive": ("no", "no", "yes"),
    "sex_linked": ("no", "yes", "strong"),
}
"""The class that each number of copies is expected to show."""
ONE_FORM = ("dominant", "recessive")


@dataclass(frozen=True)
class Figures:
    """Chances of the model. ``frequency``: of the allele in founders; ``error``: that one expected to show is seen otherwise;
    ``mistake``: that one expected not to show seems to; ``strong_share``: of one visible form that looks strong;
    ``background``: that the trait is seen where nothing is inherited; ``recombination``: between X and Y of a sire."""

    frequency: float = 0.01
    error: float = 0.02
    mistake: float = 0.001
    strong_share: float = 0.2
    background: float = 0.01
    recombination: float = 0.05
    prior: Mapping[str, float] = field(
        default_factory=lambda: {
            "none": 0.3,
            "dominant": 0.15,
            "incomplete_dominant": 0.25,
            "recessive": 0.25,
            "sex_linked": 0.05,
        }
    )


@dataclass(frozen=True)
class Shower:
    """One animal of the pedigree. ``sex``: 0 female, 1 male, ``None`` not known; ``shows``: no, yes, strong or unseen."""

    member: Member
    sex: int | None
    shows: str


@dataclass(frozen=True)
class Way:
    """One way of inheritance after all that is seen. ``log_likelihood``: natural log, ``None`` where it can't give that."""

    name: str
    posterior: float
    log_likelihood: float | None


@dataclass(frozen=True)
class Ways:
    """All ways in the order of :data:`WAYS`; ``copies``: for each animal the chances of 0, 1 and 2 copies if the trait is
    inherited, shape (3,), ``None`` where nothing inherited is possible."""

    ways: tuple[Way, ...]
    copies: list[Floats] | None


def chances_of_shown(way: str, figures: Figures) -> Floats:
    """Chance of each class for 0, 1 and 2 copies, shape (copies, classes); classes in the order of :data:`SHOWN`."""
    rows = []
    for expected in EXPECTED[way]:
        if expected == "no":
            rows.append(_unexpected(figures.mistake))
        elif way in ONE_FORM:
            seen = 1 - figures.error
            rows.append([figures.error, seen * (1 - figures.strong_share), seen * figures.strong_share])
        else:
            rows.append([1 - figures.error if shown == expected else figures.error / 2 for shown in SHOWN])
    return np.array(rows)


def _unexpected(chance: float) -> list[float]:
    """The three classes where the trait is not expected, but seems to be there with a chance."""
    return [1 - chance, 0.9 * chance, 0.1 * chance]


def ways_of(animals: Sequence[Shower], proband: int, figures: Figures) -> Ways:
    """The chance of each way, exactly, and the copies of each animal. ValueError where no way can give what is seen, and
    :class:`~eyot_core.proof.elimination.TooTangled` where there are too many animals or relations."""
    if len(animals) > MOST_ANIMALS:
        raise TooTangled(f"{len(animals):,} animals; at most {MOST_ANIMALS:,} can be worked through together")
    by_name = {way: _inherited(way, animals, proband, figures) for way in WAYS if way != "none"}
    logs = {"none": _not_inherited(animals, proband, figures)} | {way: log for way, (log, _) in by_name.items()}
    weights = {way: _weight(figures.prior.get(way, 0.0), logs[way]) for way in WAYS}
    top = max(weights.values())
    if top == -math.inf:
        raise ValueError("no way of inheritance that the prior allows can give what is seen")
    shares = {way: math.exp(weight - top) for way, weight in weights.items()}
    total = sum(shares.values())
    ways = tuple(Way(way, shares[way] / total, logs[way]) for way in WAYS)
    inherited = total - shares["none"]
    if inherited <= 0:
        return Ways(ways, None)
    copies = [np.zeros(3) for _ in animals]
    for way, (_, marginals) in by_name.items():
        for place, marginal in enumerate(marginals):
            copies[place] += shares[way] / inherited * marginal
    return Ways(ways, copies)


def _weight(prior: float, log: float | None) -> float:
    return -math.inf if prior == 0 or log is None else math.log(prior) + log


def _not_inherited(animals: Sequence[Shower], proband: int, figures: Figures) -> float | None:
    chances = dict(zip(SHOWN, _unexpected(figures.background), strict=True)) | {UNSEEN: 1.0}
    if any(chances[animal.shows] == 0 for animal in animals):
        return None
    return sum(math.log(chances[animal.shows]) for place, animal in enumerate(animals) if place != proband)


def _inherited(
    way: str, animals: Sequence[Shower], proband: int, figures: Figures
) -> tuple[float | None, list[Floats]]:
    """Log likelihood given that the proband shows what it shows, and each animal's chances of 0, 1, 2 copies."""
    whole = over_showers(way, animals, figures)
    alone = over_showers(
        way,
        [Shower(one.member, one.sex, one.shows if place == proband else UNSEEN) for place, one in enumerate(animals)],
        figures,
    )
    if whole.log is None or alone.log is None:
        return None, []
    return whole.log - alone.log, [_copies(one, sexed=way == "sex_linked") for one in whole.marginals]


def over_showers(way: str, animals: Sequence[Shower], figures: Figures, held: tuple[int, int] | None = None) -> Summed:
    """The chance of all that is seen under one way of inheritance, and each animal's states.

    ``held``: an animal and the one state that it is taken to be in. A known sex costs nothing: its half is given back.
    """
    sexed = way == "sex_linked"
    locus = sex_linked(figures.frequency, figures.recombination) if sexed else autosomal(figures.frequency)
    shown, copies = chances_of_shown(way, figures), SEXED_COPIES if sexed else np.arange(3)
    known = {}
    for place, animal in enumerate(animals):
        likelihood = np.ones(locus.states)
        if animal.shows != UNSEEN:
            likelihood = shown[copies, SHOWN.index(animal.shows)]
        if sexed and animal.sex is not None:
            likelihood = likelihood * ((animal.sex == FEMALE) == SEXED_FEMALE) * 2.0
        if held is not None and held[0] == place:
            likelihood = likelihood * (np.arange(locus.states) == held[1])
        known[place] = likelihood
    return over_pedigree([animal.member for animal in animals], locus, known)


def _copies(states: Floats, *, sexed: bool) -> Floats:
    return np.bincount(SEXED_COPIES, weights=states, minlength=3).astype(np.float64) if sexed else states
