"""What practice is worth: simulated keepers of known reliability, measured by their answers; their figures taken over on new clutches.

Run with ``bin/eyot judgement practice``.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.catalogue.overlay import FORMAT, overlaid
from eyot_core.exercises.reliability import Reading, measured
from eyot_core.identify.evidence import CONFIDENCE, Hatchling, Observation, answering
from eyot_core.identify.inference import Inference
from eyot_core.identify.looks import drawn_looks
from eyot_core.identify.traits import TraitModel
from eyot_core.parsing import Node

from tests.judgement_study import HEAD, STAGE, Genotype, Tell, chance, clutch_of, row, there, worth_asking

KEEPERS, CLUTCHES, ANSWERS = 8, 25, 60
"""Keepers, new clutches of each, and answers to each look in practice: some hours, at a few seconds each."""
SLOWEST, QUICKEST = 0.45, 1.0


@cache
def clarities(keeper: int) -> dict[str, float]:
    """How reliably a keeper reads each look after the first shed: worse than the catalogue has it, each look by another share."""
    random = np.random.default_rng([keeper, 41])
    return {
        name: trait.clarity[STAGE] * float(random.uniform(SLOWEST, QUICKEST))
        for name, trait in builtin_catalogue().traits.items()
    }


@cache
def practised(keeper: int) -> Catalogue:
    """The catalogue with the keeper's own figures, as practice measures them."""
    random, opinions = np.random.default_rng([keeper, 43]), []
    for name, trait in builtin_catalogue().traits.items():
        channel = answering(trait, clarities(keeper)[name] * CONFIDENCE["sure"])
        true = random.integers(len(trait.levels), size=ANSWERS).tolist()
        readings = [
            Reading(trait.levels[one].id, trait.levels[int(random.choice(len(trait.levels), p=channel[one]))].id)
            for one in true
        ]
        after = measured(trait, STAGE, readings).after
        opinions.append({"kind": "clarity", "trait": name, "stage": STAGE, "clarity": after, "answers": ANSWERS})
    return overlaid(builtin_catalogue(), Node({"format": FORMAT, "opinions": opinions})).catalogue


@dataclass(frozen=True)
class Held:
    """One gene of one new hatchling: was it there, and how likely it was held with the catalogue's figures and with the keeper's own."""

    there: bool
    before: float
    after: float


def held(work: tuple[int, int]) -> list[Held]:
    """The genes of one new clutch that a keeper looked at."""
    keeper, seed = work
    random = np.random.default_rng([keeper, seed, 47])
    clutch = clutch_of(5_000 + seed, changed=False)
    asked = worth_asking(TraitModel(clutch.stated))
    seen = [
        Hatchling(str(at), _answers(truth, asked, clarities(keeper), random)) for at, truth in enumerate(clutch.truths)
    ]
    posteriors = [
        Inference(clutch.stated, seen, TraitModel(clutch.stated, catalogue)).posteriors
        for catalogue in (builtin_catalogue(), practised(keeper))
    ]
    return [
        Held(there(clutch.stated, truth, gene), *(chance(clutch.stated, one[at].sums, gene) for one in posteriors))
        for at, truth in enumerate(clutch.truths)
        for gene in clutch.stated.given_genes
        if 1e-6 < chance(clutch.stated, clutch.stated.expected_sums, gene) < 1 - 1e-6
    ]


def _answers(
    truth: Genotype, looks: list[str], own: Mapping[str, float], random: np.random.Generator
) -> tuple[Observation, ...]:
    shown, found = drawn_looks(builtin_catalogue(), truth, STAGE, random), []
    for name in looks:
        trait = builtin_catalogue().traits[name]
        channel = answering(trait, own[name] * CONFIDENCE["sure"])
        read = int(random.choice(len(trait.levels), p=channel[trait.level_index[shown[name]]]))
        found.append(Observation(name, trait.levels[read].id, STAGE))
    return tuple(found)


def report_practice(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """New clutches, judged with the catalogue's figures and with those that practice measured of their keepers."""
    work = [(keeper, seed) for keeper in range(KEEPERS) for seed in range(CLUTCHES)]
    genes = [one for clutch in pool.map(held, work, chunksize=4) for one in clutch]
    truths = np.array([one.there for one in genes])
    tell(
        f"\n## What practice is worth\n\n{KEEPERS} keepers who read looks worse than the catalogue has it, each look by another share; "
        f"{ANSWERS} answers to each look in practice; then {len(work)} new clutches, {len(genes):,} genes.\n\n{HEAD}"
    )
    tell(row("with the catalogue's figures", np.array([one.before for one in genes]), truths))
    tell(row("with the keeper's own", np.array([one.after for one in genes]), truths))
    off = [
        (clarities(keeper)[name], practised(keeper).traits[name].clarity[STAGE], trait.clarity[STAGE])
        for keeper in range(KEEPERS)
        for name, trait in builtin_catalogue().traits.items()
    ]
    measured_off, catalogue_off = (np.abs([one[0] - one[at] for one in off]).mean() for at in (1, 2))
    tell(
        f"\nClarity of a look, off the true one on average: {measured_off:.3f} measured, {catalogue_off:.3f} in the catalogue."
    )
