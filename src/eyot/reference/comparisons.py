"""The page of look-alikes: computed for any two to four combinations, with the keepers' notes where there are some."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from eyot_core.body_places import BY_ID, WHOLE, place_of
from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.identify.compare import Comparison
from eyot_core.wording.chances import percent

from eyot.bench.settling import cost_of_a_mistake, what_settles
from eyot.reference.looks import LookLine, look_lines, words_of
from eyot.reference.subjects import STAGE_WORDS, Subject, subject_of

MOST = 4
NOT_TOLD_BELOW = 0.02
MOST_PLACES = 3


@dataclass(frozen=True)
class StageChance:
    """How often all looks at a stage name the right one."""

    stage: str
    words: str
    chance: str
    width: int


@dataclass(frozen=True)
class PartingPlace:
    """A place on the body that parts the candidates, with the looks that are seen there."""

    id: str
    name: str
    looks: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class ComparisonPage:
    """Everything that the page says. One object for one state of the catalogue, so that what is rendered of it can be kept."""

    candidates: tuple[Subject, ...]
    lines: tuple[LookLine, ...]
    alike: tuple[str, ...]
    stages: tuple[StageChance, ...]
    waiting: str
    settling: tuple[str, ...]
    cost: str
    note: dict[str, Any] | None
    places: tuple[PartingPlace, ...]


def _places(catalogue: Catalogue, lines: Sequence[LookLine]) -> tuple[PartingPlace, ...]:
    """Where the looks are seen that part the candidates, the most telling first."""
    names, at = words_of(catalogue), dict[str, list[str]]()
    for line in lines:
        place = place_of(line.trait, names[line.trait]["region"])
        if place != WHOLE:
            at.setdefault(place, []).append(str(names[line.trait]["name"]).lower())
    return tuple(
        PartingPlace(place, BY_ID[place].name, tuple(looks)) for place, looks in list(at.items())[:MOST_PLACES]
    )


def note_of(catalogue: Catalogue, keys: tuple[str, ...]) -> dict[str, Any] | None:
    """The keepers' note on just these candidates, in any order."""
    wanted = sorted(sorted(subject_of(catalogue, key).genes) for key in keys)
    for note in catalogue.document.get("lookalikes", []):
        if note["candidates"] and sorted(sorted(one.items()) for one in note["candidates"]) == wanted:
            return dict(note)
    return None


@lru_cache(maxsize=300)
def comparison_page(catalogue: Catalogue, keys: tuple[str, ...], stage: str) -> ComparisonPage:
    """The page for some combinations at a stage; 404 where one can't be."""
    candidates = tuple(subject_of(catalogue, key) for key in keys)
    comparison = Comparison(catalogue, tuple(one.genotype for one in candidates))
    copies = [dict(one.genes) for one in candidates]
    return ComparisonPage(
        candidates=candidates,
        lines=(lines := tuple(look_lines(comparison, stage))),
        alike=tuple(_alike(comparison, stage)),
        stages=tuple(_stage(comparison, each) for each in STAGES),
        waiting=_waiting(comparison, stage),
        settling=(*_by_looks(comparison), *what_settles(catalogue, copies)),
        cost=cost_of_a_mistake(catalogue, copies),
        note=note_of(catalogue, keys),
        places=_places(catalogue, lines),
    )


def _stage(comparison: Comparison, stage: str) -> StageChance:
    chance = comparison.told_apart[stage]
    even = 1 / len(comparison.genotypes)
    return StageChance(stage, STAGE_WORDS[stage], percent(chance), round(100 * max(0.0, chance - even) / (1 - even)))


def _alike(comparison: Comparison, stage: str) -> list[str]:
    """Looks that part one of the candidates from a normal animal but not the candidates from one another."""
    names = words_of(comparison.catalogue)
    against_normal = [Comparison(comparison.catalogue, ({}, one)) for one in comparison.genotypes if one]
    telling = {
        row.trait
        for one in against_normal
        for row in one.differences(stage)
        if row.strength in ("strong", "near-certain")
    }
    rows = [row for row in comparison.differences(stage) if row.trait in telling and row.bits < NOT_TOLD_BELOW]
    return [names[row.trait]["name"].lower() for row in rows]


def _waiting(comparison: Comparison, stage: str) -> str:
    best, now = comparison.best_stage, comparison.told_apart[stage]
    later = STAGES.index(best) > STAGES.index(stage)
    if later and comparison.told_apart[best] > now:
        return (
            f"Wait: all looks {STAGE_WORDS[stage]} name the right one in {percent(now)}, "
            f"{STAGE_WORDS[best]} in {percent(comparison.told_apart[best])}."
        )
    return (
        f"No later stage tells more than {STAGE_WORDS[best]}." if best == stage else f"Best judged {STAGE_WORDS[best]}."
    )


def _by_looks(comparison: Comparison) -> list[str]:
    if comparison.looks_settle_it:
        return []
    best = comparison.told_apart[comparison.best_stage]
    return [f"Looks alone do not settle it: at best they name the right one in {percent(best)}."]
