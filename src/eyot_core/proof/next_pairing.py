"""Which test pairing would tell most of how a trait is inherited, and whether two look-alikes are one gene.

Source: expected information gain of a litter's counts, in bits.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import lgamma

import numpy as np
from numpy.typing import NDArray

from eyot_core.genetics.inheritance import FEMALE, MALE
from eyot_core.genetics.tables import Floats
from eyot_core.identify.questions import information_bits
from eyot_core.proof.pedigree import SEXED_COPIES, Locus, Member, autosomal, sex_linked
from eyot_core.proof.ways import SHOWN, WAYS, Figures, Shower, chances_of_shown, over_showers, ways_of

NORMAL = -1
"""In place of an animal's number: an unrelated one that does not show it."""


@dataclass(frozen=True)
class ProvingPairing:
    """One pairing that could be tried. ``dam``, ``sire``: places in the pedigree, or :data:`NORMAL`; ``bits``: what its
    hatchlings are expected to tell of the way, by their number."""

    dam: int
    sire: int
    bits: tuple[float, ...]


def test_pairings(
    animals: Sequence[Shower],
    proband: int,
    figures: Figures,
    pairs: Sequence[tuple[int, int]],
    hatchlings: Sequence[int] = (4, 8, 12),
) -> list[ProvingPairing]:
    """The expected information in bits of each pairing for some numbers of hatchlings, the most telling first. Exact."""
    posterior = {way.name: way.posterior for way in ways_of(animals, proband, figures).ways if way.posterior > 0}
    joints = {way: _joints(way, animals, figures, pairs) for way in posterior if way != "none"}
    pairings = []
    for number, (dam, sire) in enumerate(pairs):
        bits = tuple(_bits(posterior, joints, number, figures, count) for count in hatchlings)
        pairings.append(ProvingPairing(dam, sire, bits))
    return sorted(pairings, key=lambda pairing: -pairing.bits[-1])


def _bits(
    posterior: Mapping[str, float], joints: Mapping[str, list[Floats]], number: int, figures: Figures, count: int
) -> float:
    counts, ways = _outcomes(count), [way for way in WAYS if way in posterior]
    rows = []
    for way in ways:
        if way == "none":
            b = figures.background
            rows.append(_multinomial(np.array([[1 - b, 0.9 * b, 0.1 * b]]), counts)[0])
        else:
            classes = _classes(way, figures)
            rows.append(joints[way][number].reshape(-1) @ _multinomial(classes.reshape(-1, len(SHOWN)), counts))
    return information_bits(np.array([posterior[way] for way in ways]), np.array(rows))


def _classes(way: str, figures: Figures) -> Floats:
    """Chance of each class in a child of each pair of parents' states, shape (dam's states, sire's states, classes)."""
    locus, copies = _locus(way, figures)
    child = locus.child
    totals = child.sum(axis=-1, keepdims=True)
    child = np.divide(child, totals, out=np.zeros_like(child), where=totals > 0)
    return np.asarray(child @ chances_of_shown(way, figures)[copies])


def _locus(way: str, figures: Figures) -> tuple[Locus, NDArray[np.int64]]:
    if way == "sex_linked":
        return sex_linked(figures.frequency, figures.recombination), SEXED_COPIES
    return autosomal(figures.frequency), np.arange(3)


def _joints(way: str, animals: Sequence[Shower], figures: Figures, pairs: Sequence[tuple[int, int]]) -> list[Floats]:
    """For each pair the joint chances of the parents' states, shape (dam's states, sire's states): the dam held at each state in turn."""
    states = _locus(way, figures)[0].states
    wanted = [*animals, *(Shower(Member(), sex, "no") for sex in (FEMALE, MALE))]
    places = {FEMALE: len(animals), MALE: len(animals) + 1}
    by_dam: dict[int, list[tuple[float, list[Floats]]]] = {}
    joints = []
    for dam, sire in pairs:
        at_dam, at_sire = places[FEMALE] if dam == NORMAL else dam, places[MALE] if sire == NORMAL else sire
        if at_dam not in by_dam:
            by_dam[at_dam] = [_held(way, wanted, figures, at_dam, state) for state in range(states)]
        joint = np.array(
            [weight * marginals[at_sire] if marginals else np.zeros(states) for weight, marginals in by_dam[at_dam]]
        )
        joints.append(joint / joint.sum())
    return joints


def _held(way: str, animals: Sequence[Shower], figures: Figures, place: int, state: int) -> tuple[float, list[Floats]]:
    """The chance of all that is seen with one animal in one state, and everybody's states then."""
    summed = over_showers(way, animals, figures, held=(place, state))
    return (0.0, []) if summed.log is None else (float(np.exp(summed.log)), summed.marginals)


@lru_cache(maxsize=32)
def _outcomes(count: int) -> NDArray[np.int64]:
    """How many of each class, every way of it, shape (outcomes, classes)."""
    return np.array(
        [(count - yes - strong, yes, strong) for yes in range(count + 1) for strong in range(count + 1 - yes)]
    )


def _multinomial(classes: Floats, counts: NDArray[np.int64]) -> Floats:
    """Chance of each outcome, shape (rows of classes, outcomes)."""
    ways = np.array([lgamma(row.sum() + 1) - sum(lgamma(one + 1) for one in row) for row in counts])
    with np.errstate(divide="ignore", invalid="ignore"):
        logs = np.log(classes)
        terms = np.where(counts[np.newaxis] > 0, counts[np.newaxis] * logs[:, np.newaxis], 0.0)
    return np.asarray(np.exp(terms.sum(axis=-1) + ways))


def same_place(prior: float, both: int, one: int, neither: int) -> float:
    """Chance that a new gene sits at the place of a known one, after breeding an animal with one of each to normals.

    At one place every young gets one or the other; at two places half of them get both or neither. ``both``, ``one``,
    ``neither``: young by what they show. ValueError for negative counts or none at all. Linkage is left aside; one in fifty
    is taken to be misread.
    """
    if min(both, one, neither) < 0 or both + one + neither == 0:
        raise ValueError("count the young that show both, one of them, or neither")
    odd, misread = both + neither, 0.02
    logs = [
        _log(prior) + one * np.log(1 - misread) + odd * np.log(misread),
        _log(1 - prior) + (one + odd) * np.log(0.5),
    ]
    return float(1 / (1 + np.exp(logs[1] - logs[0])))


def _log(chance: float) -> float:
    return float(np.log(max(chance, 1e-300)))


def one_locus(prior: float, first: int, second: int, hatchlings: int, visuals: int, error: float = 0.02) -> float:
    """Chance that two recessive look-alikes are one gene (or alleles), after a pairing of an animal of each.

    ``first``, ``second``: copies of its own line that each parent has, 1 (a het) or 2 (a visual). If they are one gene, a
    hatchling shows it with half of each parent's copies multiplied; if not, none shows it: they complement each other.
    ``error``: that a hatchling is taken for the other. ValueError where the counts can't be.
    """
    if not 0 <= visuals <= hatchlings:
        raise ValueError(f"visuals must be from 0 to {hatchlings}, got {visuals}")
    if first not in (1, 2) or second not in (1, 2):
        raise ValueError("each parent has one or two copies of its own line")
    shown = first / 2 * second / 2
    if_one = shown * (1 - error) + (1 - shown) * error
    logs = [
        _log(chance) + visuals * np.log(rate) + (hatchlings - visuals) * np.log(1 - rate)
        for chance, rate in ((prior, if_one), (1 - prior, error))
    ]
    return float(1 / (1 + np.exp(logs[1] - logs[0])))
