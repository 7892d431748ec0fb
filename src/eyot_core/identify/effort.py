"""How much work an identification would be, known before any of it is begun; what is too much is refused.

A *step* is one number of a trait's table made, about a fifth of a microsecond; sums over parents' states cost a sixtieth of
that for each number. Measured on the machines of docs/benchmarks.md; what is let through takes at most about five seconds
and half a gigabyte.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import prod

from eyot_core.catalogue.model import STAGES
from eyot_core.errors import InputError
from eyot_core.genetics.pairing import MOST_HYPOTHESES, Pairing
from eyot_core.identify.evidence import Hatchling
from eyot_core.identify.traits import TraitModel

MOST_STEPS = 15_000_000
MOST_NUMBERS = 60_000_000
SUMS_IN_A_STEP = 60
ASKING_SHARE = 3
"""Of the genes that a pairing can't give, one in so many is named by the rules of an ordinary look."""


def check_effort(model: TraitModel, hatchlings: Sequence[Hatchling]) -> None:
    """InputError where the answer to these hatchlings' looks would take too long or too much memory."""
    pairing = model.pairing
    cells, pairs = prod(pairing.shape), pairing.hypotheses
    steps = _steps_of_tables(model, hatchlings) + _steps_of_sums(pairing, hatchlings)
    numbers = len(hatchlings) * (3 * cells + 2 * pairs)
    if pairs <= MOST_HYPOTHESES and steps <= MOST_STEPS and numbers <= MOST_NUMBERS:
        return
    share = max(pairs / MOST_HYPOTHESES, steps / MOST_STEPS, numbers / MOST_NUMBERS)
    raise InputError(
        f"about {share:,.1f} times too much at once: {cells:,} genotypes that the hatchlings may "
        f"have, {pairs:,} sets of parents by what is only possible of them, {len(hatchlings)} hatchlings. Leave out the possible "
        "genes that matter least, or name fewer sires"
    )


def _steps_of_tables(model: TraitModel, hatchlings: Sequence[Hatchling]) -> int:
    """Numbers in the tables: of all traits at the stages looked at, and of each look once more for genes that explain it."""
    catalogue, pairing = model.catalogue, model.pairing
    sizes = {
        (trait.id, stage): model.cells_of(trait.id, stage) * len(trait.levels)
        for trait in catalogue.traits.values()
        for stage in STAGES
    }
    stages = {hatchling.latest_stage for hatchling in hatchlings}
    asked = sum(size for (_, stage), size in sizes.items() if stage in stages)
    outside = len(catalogue.genes) - len(pairing.group_of)
    seen = {(look.trait, look.stage) for hatchling in hatchlings for look in hatchling.observations}
    return asked * (2 + len(hatchlings)) // 2 + sum(sizes[key] for key in seen) * (1 + outside // ASKING_SHARE)


def _steps_of_sums(pairing: Pairing, hatchlings: Sequence[Hatchling]) -> int:
    """Sums over the parents' states: for each hatchling, each of its looks and each sire; and of all hatchlings together."""
    rounds = sum(2 + len(hatchling.observations) for hatchling in hatchlings)
    sums = sum(_sums_of(pairing, sire) + pairing.hypotheses for sire in range(len(pairing.sires)))
    return (rounds * sums + len(hatchlings) ** 2 * pairing.hypotheses) // SUMS_IN_A_STEP


def _sums_of(pairing: Pairing, sire: int) -> int:
    """Products in summing one sire's children group by group into his and the dam's states."""
    done, left = 1, prod(pairing.shape)
    total = left
    for group in pairing.groups[: pairing.certain_from]:
        states = len(group.dam) * len(group.sires[sire])
        total += done * left * states
        done, left = done * states, left // len(group.children)
    return total * (2 if pairing.has_sex_locus else 1)
