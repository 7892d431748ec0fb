"""Sums over many variables of a product of small factors, exactly: one variable after the other is summed out.

Factors are tables over a few variables. States that a variable's own factors rule out are left aside; the order is chosen
greedily by the size of what each step makes, and how much that is is known before anything is multiplied. A second pass back
gives every variable's own distribution. Source: bucket elimination; the passes are those of a junction tree.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from math import log

import numpy as np
from numpy.typing import NDArray

from eyot_core.genetics.tables import Floats

Places = NDArray[np.intp]
MOST_CELLS = 12_000_000


class TooTangled(ValueError):
    """The variables hang together so closely that the tables would not fit into memory."""


@dataclass(frozen=True)
class Factor:
    """A table over variables: one axis each, in the order of ``variables``."""

    variables: tuple[int, ...]
    values: Floats

    def narrowed(self, possible: Sequence[Places]) -> Factor:
        """The table over those states alone that each variable may be in."""
        return Factor(self.variables, self.values[np.ix_(*(possible[variable] for variable in self.variables))])


@dataclass(frozen=True)
class Summed:
    """``log``: natural log of the whole sum, ``None`` if it is 0; ``marginals``: each variable's distribution, or empty then."""

    log: float | None
    marginals: list[Floats]


@dataclass
class _Bucket:
    """One step: the variable, the product over its clique, what is left over the others, and the later step it goes to."""

    variable: int
    clique: tuple[int, ...]
    values: Floats
    message: Factor
    parent: int | None


def summed(factors: Sequence[Factor], sizes: Sequence[int], most: int = MOST_CELLS) -> Summed:
    """The sum over all variables of the product of the factors, and each variable's distribution under it.

    ``sizes``: states of each variable; each variable stands in at least one factor; ``most``: numbers in all tables together,
    beyond which :class:`TooTangled` is raised before anything is multiplied.
    """
    possible = possible_of(factors, sizes)
    if not all(kept.size for kept in possible):
        return Summed(None, [])
    few = [kept.size for kept in possible]
    order = _order(factors, few, most)
    found = _summed([factor.narrowed(possible) for factor in factors], few, order)
    return Summed(found.log, [_widened(*row) for row in zip(found.marginals, possible, sizes, strict=False)])


def possible_of(factors: Sequence[Factor], sizes: Sequence[int]) -> list[Places]:
    """The states of each variable that its own factors leave."""
    left = [np.ones(size, dtype=bool) for size in sizes]
    for factor in factors:
        if len(factor.variables) == 1:
            left[factor.variables[0]] &= factor.values > 0
    return [np.flatnonzero(states) for states in left]


def _widened(marginal: Floats, possible: Places, size: int) -> Floats:
    whole = np.zeros(size)
    whole[possible] = marginal
    return whole


def _summed(factors: Sequence[Factor], sizes: Sequence[int], order: Sequence[int]) -> Summed:
    place = {variable: step for step, variable in enumerate(order)}
    waiting: list[list[Factor]] = [[] for _ in order]
    for factor in factors:
        waiting[min(place[variable] for variable in factor.variables)].append(factor)
    steps: list[_Bucket] = []
    total = 0.0
    for step, variable in enumerate(order):
        product = _product(waiting[step], sizes)
        values = product.values.sum(axis=product.variables.index(variable))
        rest = tuple(other for other in product.variables if other != variable)
        scale = float(values.max())
        if scale == 0:
            return Summed(None, [])
        total += log(scale)
        message = Factor(rest, values / scale)
        parent = min((place[other] for other in rest), default=None)
        steps.append(_Bucket(variable, product.variables, product.values, message, parent))
        if parent is not None:
            waiting[parent].append(message)
    return Summed(total, _marginals(steps, sizes))


def _marginals(steps: list[_Bucket], sizes: Sequence[int]) -> list[Floats]:
    """The way back: each clique's joint distribution from that of the step that took its message."""
    beliefs: dict[int, Factor] = {}
    marginals: dict[int, Floats] = {}
    for place in range(len(steps) - 1, -1, -1):
        step = steps[place]
        belief = Factor(step.clique, step.values)
        if step.parent is not None:
            above = _onto(beliefs[step.parent], step.message.variables)
            share = np.divide(
                above.values, step.message.values, out=np.zeros_like(above.values), where=step.message.values > 0
            )
            belief = _product([belief, Factor(step.message.variables, share)], sizes)
        belief = Factor(belief.variables, belief.values / belief.values.sum())
        beliefs[place] = belief
        marginals[step.variable] = _onto(belief, (step.variable,)).values
    return [marginals[variable] for variable in range(len(sizes))]


def _onto(factor: Factor, kept: tuple[int, ...]) -> Factor:
    """A factor summed over all variables but some, axes in their order."""
    gone = tuple(axis for axis, variable in enumerate(factor.variables) if variable not in kept)
    left = [variable for variable in factor.variables if variable in kept]
    values = factor.values.sum(axis=gone) if gone else factor.values
    return Factor(kept, values.transpose([left.index(variable) for variable in kept]))


def _product(factors: Sequence[Factor], sizes: Sequence[int]) -> Factor:
    union = tuple(sorted({variable for factor in factors for variable in factor.variables}))
    values = np.ones([sizes[variable] for variable in union])
    for factor in factors:
        ordered = sorted(factor.variables)
        turned = factor.values.transpose([factor.variables.index(variable) for variable in ordered])
        values = values * turned.reshape([sizes[variable] if variable in ordered else 1 for variable in union])
    return Factor(union, values)


def _order(factors: Sequence[Factor], sizes: Sequence[int], most: int) -> list[int]:
    """Variables in the order in which they are summed out: always the one whose step makes the smallest table.

    :class:`TooTangled` as soon as the tables together would have more than ``most`` numbers.
    """
    near = neighbours(factors, len(sizes))
    waiting = [(cost_of(near[variable], sizes), variable) for variable in range(len(sizes))]
    heapify(waiting)
    order: list[int] = []
    gone: set[int] = set()
    cells = 0
    while waiting:
        cost, best = heappop(waiting)
        if best in gone or cost != cost_of(near[best], sizes):
            continue  # its neighbours have changed since; it waits again with its new cost
        gone.add(best)
        order.append(best)
        cells += cost * sizes[best]
        if cells > most:
            raise TooTangled(f"{len(near[best]) + 1} animals hang together at once")
        for other in near[best]:
            near[other] |= near[best] - {other}
            near[other].discard(best)
            heappush(waiting, (cost_of(near[other], sizes), other))
    return order


def neighbours(factors: Sequence[Factor], count: int) -> list[set[int]]:
    """Of each variable those that stand in a factor with it."""
    near: list[set[int]] = [set() for _ in range(count)]
    for factor in factors:
        for variable in factor.variables:
            near[variable] |= set(factor.variables) - {variable}
    return near


def cost_of(others: set[int], sizes: Sequence[int]) -> int:
    """How many numbers a table over some variables has; of one that is too large, only that it is."""
    cells = 1
    for other in others:
        cells *= sizes[other]
        if cells > MOST_CELLS:
            return MOST_CELLS + 1
    return cells
