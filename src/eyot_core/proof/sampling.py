"""Distributions under a product of small factors that is too tangled to be summed exactly: drawn, with their error.

Some variables are held at what they are, so that the rest hangs together loosely enough to be summed out exactly; the rest is
drawn from its joint distribution; then others are held. Many chains run at once, each from a start of its own; how far their
means lie apart is the error. The draws are the same each time. Source: blocked Gibbs sampling.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from math import prod

import numpy as np
from numpy.random import Generator, default_rng
from numpy.typing import NDArray

from eyot_core.genetics.tables import Floats
from eyot_core.proof.elimination import Factor, Places, cost_of, neighbours

States = NDArray[np.intp]
CHAINS = 64
SWEEPS = 40
FLOORS = (1e-1, 1e-2, 1e-3, 1e-4, 1e-6, 1e-9)
"""What counts for 0 while a start is looked for: less and less."""
SETTLING = 10
AT_ONCE = 729
"""Numbers in the largest table of one chain: six animals of three states."""
MOST_KEPT = 300_000
"""Numbers in all tables of one chain together."""
MOST_BLOCKS = 8
UNDRAWN = 1e-3
"""Counted for each state that is possible, in draws of one chain: what is only unlikely is never taken for impossible."""


@dataclass(frozen=True)
class Sampled:
    """``means``: for each variable the distribution that each chain found, shape (chains, states); empty where the factors
    leave nothing possible. A state that is impossible for certain has 0; of others that were never drawn, nobody knows."""

    means: list[Floats]


@dataclass(frozen=True)
class _Step:
    """One variable that is drawn: its clique without it, the factors and the messages of earlier steps that go in."""

    variable: int
    others: tuple[int, ...]
    factors: tuple[int, ...]
    messages: tuple[int, ...]


@dataclass(frozen=True)
class _Block:
    """What is drawn while ``held`` stays: steps in the order in which they are summed out."""

    held: frozenset[int]
    steps: list[_Step]


def sampled(factors: Sequence[Factor], sizes: Sequence[int]) -> Sampled | None:
    """Each variable's distribution, by :data:`CHAINS` chains of :data:`SWEEPS` sweeps.

    ``sizes``: states of each variable; each variable stands in at least one factor. ``None`` where no start was found in which
    nothing is impossible, or too much hangs together even so.
    """
    possible = possible_states(factors, sizes)
    few = [kept.size for kept in possible]
    if 0 in few:
        return Sampled([])
    narrowed = [factor.narrowed(possible) for factor in factors]
    blocks = _blocks(narrowed, few)
    random = default_rng(0)
    states = _start(narrowed, few, blocks, random) if blocks else None
    if blocks is None or states is None:
        return None
    sums = [np.full((CHAINS, size), UNDRAWN) for size in few]
    for _ in range(SETTLING):
        _sweep(narrowed, few, blocks, states, random)
    for _ in range(SWEEPS):
        _sweep(narrowed, few, blocks, states, random, sums)
    return Sampled([_widened(*row) for row in zip(sums, possible, sizes, strict=True)])


def possible_states(factors: Sequence[Factor], sizes: Sequence[int]) -> list[Places]:
    """The states of each variable that are left when every factor has ruled out what it can, again and again."""
    left = [np.ones(size, dtype=bool) for size in sizes]
    touching: list[list[int]] = [[] for _ in sizes]
    for number, factor in enumerate(factors):
        for variable in factor.variables:
            touching[variable].append(number)
    waiting = set(range(len(factors)))
    while waiting:
        factor = factors[waiting.pop()]
        states = [np.flatnonzero(left[variable]) for variable in factor.variables]
        table = factor.values[np.ix_(*states)] > 0
        for axis, variable in enumerate(factor.variables):
            stays = table.any(axis=tuple(other for other in range(table.ndim) if other != axis))
            if not stays.all():
                left[variable][states[axis][~stays]] = False
                waiting.update(touching[variable])
    return [np.flatnonzero(states) for states in left]


def _widened(sums: Floats, possible: Places, size: int) -> Floats:
    whole = np.zeros((CHAINS, size))
    whole[:, possible] = sums / sums.sum(axis=1, keepdims=True)
    return whole


def _blocks(factors: Sequence[Factor], sizes: Sequence[int]) -> list[_Block] | None:
    """Blocks of which each variable is drawn in one at least."""
    blocks: list[_Block] = []
    never = set(range(len(sizes)))
    while never:
        block = _block(factors, sizes, never if blocks else set())
        left = never & block.held
        if len(blocks) == MOST_BLOCKS or left == never or _kept(block, sizes) > MOST_KEPT:
            return None
        blocks.append(block)
        never = left
    return blocks


def _kept(block: _Block, sizes: Sequence[int]) -> int:
    return sum(prod(sizes[one] for one in (step.variable, *step.others)) for step in block.steps)


def _block(factors: Sequence[Factor], sizes: Sequence[int], drawn_first: set[int]) -> _Block:
    """Variables in the order in which they are summed out, always the one of the smallest table; where that is too large, the
    one with most neighbours is held instead, if possible none of ``drawn_first``."""
    near = neighbours(factors, len(sizes))
    waiting = [(cost_of(near[variable], sizes), variable) for variable in range(len(sizes))]
    heapify(waiting)
    order: list[tuple[int, set[int]]] = []
    left, held = set(range(len(sizes))), set[int]()
    while waiting:
        cost, best = heappop(waiting)
        if best not in left or cost != cost_of(near[best], sizes):
            continue  # its neighbours have changed since; it waits again with its new cost
        is_held = cost * sizes[best] > AT_ONCE
        gone = min(left, key=lambda one: (one in drawn_first, -len(near[one]), one)) if is_held else best
        around = near[gone]
        left.discard(gone)
        if is_held:
            held.add(gone)
            heappush(waiting, (cost, best))
        else:
            order.append((gone, around))
        for other in around:
            if not is_held:
                near[other] |= around - {other}
            near[other].discard(gone)
            heappush(waiting, (cost_of(near[other], sizes), other))
    return _Block(frozenset(held), _steps(factors, [(one, tuple(sorted(around - held))) for one, around in order]))


def _steps(factors: Sequence[Factor], order: Sequence[tuple[int, tuple[int, ...]]]) -> list[_Step]:
    place = {variable: step for step, (variable, _) in enumerate(order)}
    tables: list[list[int]] = [[] for _ in order]
    messages: list[list[int]] = [[] for _ in order]
    for number, factor in enumerate(factors):
        free = [place[variable] for variable in factor.variables if variable in place]
        if free:
            tables[min(free)].append(number)
    for step, (_, others) in enumerate(order):
        if others:
            messages[min(place[other] for other in others)].append(step)
    return [
        _Step(variable, others, tuple(tables[step]), tuple(messages[step]))
        for step, (variable, others) in enumerate(order)
    ]


def _start(
    factors: Sequence[Factor], sizes: Sequence[int], blocks: Sequence[_Block], random: Generator
) -> States | None:
    """States in which nothing is impossible, shape (chains, variables): what is impossible is made rarer and rarer."""
    states = np.stack([random.integers(size, size=CHAINS) for size in sizes], axis=1)
    for floor in FLOORS:
        floored = [Factor(factor.variables, np.maximum(factor.values, floor)) for factor in factors]
        _sweep(floored, sizes, blocks, states, random)
    fine = np.all([factor.values[tuple(states[:, one] for one in factor.variables)] > 0 for factor in factors], axis=0)
    if not fine.any():
        return None
    states[~fine] = states[random.choice(np.flatnonzero(fine), size=int((~fine).sum()))]
    return states


def _sweep(
    factors: Sequence[Factor],
    sizes: Sequence[int],
    blocks: Sequence[_Block],
    states: States,
    random: Generator,
    sums: Sequence[Floats] = (),
) -> None:
    """Draws every block once; ``sums`` gathers the distributions that were drawn from."""
    chains = np.arange(CHAINS)
    for block in blocks:
        for step, joint in zip(
            reversed(block.steps), reversed(_summed_out(factors, sizes, block, states)), strict=True
        ):
            chances = joint[(chains, *(states[:, other] for other in step.others))]
            chances = chances / chances.sum(axis=1, keepdims=True)
            drawn = (chances.cumsum(axis=1) < random.random((CHAINS, 1))).sum(axis=1)
            states[:, step.variable] = np.minimum(drawn, chances.shape[1] - 1)
            if sums:
                sums[step.variable][:] += chances


def _summed_out(factors: Sequence[Factor], sizes: Sequence[int], block: _Block, states: States) -> list[Floats]:
    """For each step the product over its clique, given what is held: shape (chains, its others' states, its own states)."""
    joints: list[Floats] = []
    messages: list[Floats] = []
    for step in block.steps:
        clique = (*step.others, step.variable)
        joint = np.ones((CHAINS, *(sizes[one] for one in clique)))
        for number in step.factors:
            free, values = _given(factors[number], block.held, states)
            joint *= _along(clique, free, values, sizes)
        for earlier in step.messages:
            joint *= _along(clique, block.steps[earlier].others, messages[earlier], sizes)
        joints.append(joint)
        message = joint.sum(axis=-1)
        scale = message.reshape(CHAINS, -1).max(axis=1)
        messages.append(message / scale.reshape(CHAINS, *[1] * len(step.others)))
    return joints


def _given(factor: Factor, held: frozenset[int], states: States) -> tuple[tuple[int, ...], Floats]:
    """A factor's variables that are free, and its table given those that are held: shape (chains or 1, free ones' states)."""
    free = tuple(one for one in factor.variables if one not in held)
    fixed = [one for one in factor.variables if one in held]
    if not fixed:
        return free, factor.values[None]
    turned = factor.values.transpose([factor.variables.index(one) for one in (*fixed, *free)])
    return free, turned[tuple(states[:, one] for one in fixed)]


def _along(clique: Sequence[int], variables: Sequence[int], values: Floats, sizes: Sequence[int]) -> Floats:
    """A table over some of a clique's variables, with an axis for each of the clique's."""
    ordered = [one for one in clique if one in variables]
    turned = values.transpose(0, *(1 + variables.index(one) for one in ordered))
    return turned.reshape(values.shape[0], *(sizes[one] if one in variables else 1 for one in clique))
