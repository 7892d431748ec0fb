"""Looks as evidence: from the observations of one hatchling to one vector a trait.

Source: an answer is read through the eye's own errors: right with clarity × confidence, else a neighbour or any level by how
readily it is mistaken; the shares of errors are ours, judged in docs/judgement.md.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from eyot_core.catalogue.model import STAGES, Catalogue, Trait
from eyot_core.genetics.inheritance import SEXES
from eyot_core.genetics.tables import Floats
from eyot_core.parsing import Node

CONFIDENCE = {"sure": 0.98, "likely": 0.85, "hint": 0.6}
UNSEEN = "unseen"
TIE = 1e-12


@dataclass(frozen=True)
class Observation:
    """One answer: the level of a trait that was seen at a stage, and how sure the eye was."""

    trait: str
    level: str
    stage: str
    confidence: str = "sure"


@dataclass(frozen=True)
class Hatchling:
    """One hatchling with what is known and seen of it. ``sex``: 0 female, 1 male; ``sire``: index; ``None``: not known."""

    id: str
    observations: tuple[Observation, ...] = ()
    sex: int | None = None
    sire: int | None = None

    @property
    def latest_stage(self) -> str:
        """The latest stage at which something was seen; ``shed`` if nothing was."""
        seen = [STAGES.index(look.stage) for look in self.observations if look.level != UNSEEN]
        return STAGES[max(seen)] if seen else "shed"

    def seen_from(self, stage: str) -> frozenset[str]:
        """The traits that have an observation at this stage or later."""
        first = STAGES.index(stage)
        return frozenset(
            look.trait for look in self.observations if look.level != UNSEEN and STAGES.index(look.stage) >= first
        )


@dataclass(frozen=True)
class Evidence:
    """What the looks at one trait say together: a vector over its levels, at the stage that counts."""

    trait: str
    stage: str
    vector: Floats


def reliability(trait: Trait, observation: Observation) -> float:
    """clarity(trait, stage) × confidence, as it was measured of the eye or as usual."""
    word = observation.confidence
    return trait.clarity[observation.stage] * trait.sureness.get(word, CONFIDENCE[word])


def evidence_of(hatchling: Hatchling, catalogue: Catalogue) -> list[Evidence]:
    """One evidence a seen trait, in the order of first observation; those of one stage count (the most reliable, else the latest)."""
    by_trait: dict[str, list[Observation]] = defaultdict(list)
    for look in hatchling.observations:
        if look.level != UNSEEN:
            by_trait[look.trait].append(look)
    return [_joint(catalogue.traits[trait], looks) for trait, looks in by_trait.items()]


def _joint(trait: Trait, looks: list[Observation]) -> Evidence:
    best = max(reliability(trait, look) for look in looks)
    stage = max((look.stage for look in looks if reliability(trait, look) >= best - TIE), key=STAGES.index)
    vectors = [vector_of(trait, look) for look in looks if look.stage == stage]
    return Evidence(trait.id, stage, np.asarray(np.mean(vectors, axis=0)))


def vector_of(trait: Trait, look: Observation) -> Floats:
    """v(l) = P(answer | true level l), shape (levels,)."""
    return np.asarray(answering(trait, reliability(trait, look))[:, trait.level_index[look.level]])


def answering(trait: Trait, r: float) -> Floats:
    """P(answer | true level) of an eye of reliability r: r·[the same] + (1 − r)·mistakes; shape (true levels, answers)."""
    return np.asarray(r * np.eye(len(trait.levels)) + (1 - r) * mistakes(trait))


@lru_cache(maxsize=1024)
def _mistakes(weights: tuple[float, ...], scale: tuple[int, ...]) -> Floats:
    w = np.array(weights)
    mistakes = np.tile(w / w.sum(), (len(w), 1))
    for rank, level in enumerate(scale):
        beside = [scale[other] for other in (rank - 1, rank + 1) if 0 <= other < len(scale)]
        if (near := w[beside].sum()) > 0:
            mistakes[level] /= 2
            mistakes[level, beside] += w[beside] / (2 * near)
    mistakes.flags.writeable = False
    return mistakes


def mistakes(trait: Trait) -> Floats:
    """P(answer | true level) of an eye that errs, shape (true levels, answers), rows sum to 1.

    Mistakes go to all levels in proportion to ``mistaken``; from a level on a scale, half of them go to the levels next to it.
    """
    return _mistakes(tuple(level.mistaken for level in trait.levels), trait.scale)


def hatchlings_from(node: Node, catalogue: Catalogue, sires: int) -> list[Hatchling]:
    """The hatchlings in a document; :class:`~eyot_core.errors.InputError` with the place of the first mistake."""
    hatchlings: list[Hatchling] = []
    for index, entry in enumerate(node.entries()):
        entry.object([], ["id", "sex", "sire", "observations"])
        name = entry.child("id").text() if entry.has("id") else str(index + 1)
        if any(other.id == name for other in hatchlings):
            raise entry.child("id").wrong(f"the id {name!r} stands twice")
        hatchlings.append(
            Hatchling(
                id=name,
                observations=tuple(_observations(entry.children("observations"), catalogue)),
                sex=SEXES.index(entry.child("sex").choice(SEXES)) if entry.has("sex") else None,
                sire=_sire(entry.child("sire"), sires) if entry.has("sire") else None,
            )
        )
    return hatchlings


def _sire(place: Node, sires: int) -> int:
    if not sires:
        raise place.wrong("no sire can be known where nothing is known of the parents")
    return place.whole(0, sires - 1)


def _observations(entries: Iterable[Node], catalogue: Catalogue) -> Iterable[Observation]:
    for entry in entries:
        entry.object(["trait", "level", "stage"], ["confidence"])
        trait = catalogue.traits[entry.child("trait").choice(catalogue.traits)]
        level = entry.child("level").choice([*trait.level_index, UNSEEN])
        stage = entry.child("stage").choice(STAGES)
        confidence = entry.child("confidence").choice(CONFIDENCE) if entry.has("confidence") else "sure"
        yield Observation(trait.id, level, stage, confidence)
