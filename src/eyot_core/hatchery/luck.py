"""Counts against odds."""

from __future__ import annotations


def at_least_one(chance: float, eggs: int) -> float:
    """Chance that at least one of ``eggs`` independent hatchlings is of a kind that has ``chance`` each.

    >>> at_least_one(0.25, 2)
    0.4375
    """
    if not 0 <= chance <= 1:
        raise ValueError(f"chance must be from 0 to 1, got {chance}")
    if eggs < 0:
        raise ValueError(f"eggs must be 0 or more, got {eggs}")
    return 1 - (1 - chance) ** eggs
