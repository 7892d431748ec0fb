"""Siblings laid beside one another: "egg 3 is lighter than egg 4" as evidence, without counting any look twice.

Each of the two has one true level of the look, of which its own answers are evidence too. The comparison says how the two
levels stand to each other: ``more`` and ``less`` are the order of the look's scale; two animals of one level are told apart half
of the time, either way alike, and of a level off the scale nothing is said. Of an unsure eye (clarity × confidence) the rest is
spread evenly over the three answers. The assumption that one level looks alike half of the time is ours, not measured.
"""

from __future__ import annotations

import string
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from eyot_core.catalogue.model import Catalogue, Trait
from eyot_core.genetics.tables import Floats
from eyot_core.identify.evidence import CONFIDENCE

ANSWERS = ("more", "same", "less")
ALIKE = np.array([0.25, 0.5, 0.25])
"""Chances of the three answers for two animals of one level."""
MOST_COMPARED = 20
"""Hatchlings of one clutch that can be laid beside others: each takes a letter of the sum."""


@dataclass(frozen=True)
class ComparedSiblings:
    """``one`` shows more (or less, or the same) of a look than ``other``; both are places among the hatchlings."""

    trait: str
    one: int
    other: int
    answer: str
    stage: str
    confidence: str = "sure"


def comparable(catalogue: Catalogue) -> list[str]:
    """The looks of a catalogue by which siblings can be compared: those with a scale."""
    return [trait.id for trait in catalogue.traits.values() if trait.scale]


def chances_of_answer(trait: Trait, comparison: ComparedSiblings) -> Floats:
    """Chance of the answer for each pair of true levels, shape (levels of one, levels of other)."""
    ranks = np.full(len(trait.levels), np.nan)
    ranks[list(trait.scale)] = np.arange(len(trait.scale))
    difference = ranks[:, np.newaxis] - ranks[np.newaxis, :]
    answer = ANSWERS.index(comparison.answer)
    clear = np.select(
        [difference > 0, difference < 0, difference == 0],
        [float(answer == 0), float(answer == 2), ALIKE[answer]],
        1 / len(ANSWERS),
    )
    r = trait.clarity[comparison.stage] * CONFIDENCE[comparison.confidence]
    return np.asarray(r * clear + (1 - r) / len(ANSWERS))


def summed(parts: Mapping[int, Floats], pairs: Sequence[tuple[int, int, Floats]], kept: int | None = None) -> Floats:
    """Σ over the true levels of all compared hatchlings of the product of their parts and the chances of the answers.

    ``parts``: for each hatchling, by level and hypothesis, shape (levels, hypotheses); ``pairs``: two hatchlings with the
    chances of the answer. Shape (hypotheses,); with ``kept``, that hatchling's own part is left out and its levels stay: the
    weight of each of its levels, shape (levels, hypotheses). ValueError for more than ``MOST_COMPARED``.
    """
    if len(parts) > MOST_COMPARED:
        raise ValueError(f"at most {MOST_COMPARED} hatchlings of a clutch can be compared, got {len(parts)}")
    letters = dict(zip(parts, string.ascii_lowercase, strict=False))
    named = [(letters[one] + letters[other], chances) for one, other, chances in pairs]
    named += [(letters[index] + "Z", part) for index, part in parts.items() if index != kept]
    if kept is not None:
        named.append((letters[kept] + "Z", np.ones_like(parts[kept])))
    answer = "Z" if kept is None else letters[kept] + "Z"
    formula = ",".join(axes for axes, _ in named) + "->" + answer
    return np.asarray(np.einsum(formula, *(values for _, values in named), optimize="greedy"))
