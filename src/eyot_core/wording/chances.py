"""Chances as people read them."""

from __future__ import annotations

from math import gcd

LARGEST_DENOMINATOR = 8
CLOSE = 0.012
RAREST = 10_000
SIMPLE = tuple((a / b, f"{a} in {b}") for b in range(2, LARGEST_DENOMINATOR + 1) for a in range(1, b) if gcd(a, b) == 1)


def percent(chance: float, *, certain: bool = False) -> str:
    """A chance in per cent. 0 % and 100 % only where it is certain.

    >>> percent(0.974), percent(0.9999), percent(0.0004), percent(1.0, certain=True)
    ('97\\xa0%', '>99\\xa0%', '<1\\xa0%', '100\\xa0%')
    """
    if certain and chance in (0.0, 1.0):
        return f"{chance * 100:.0f}\u00a0%"
    if chance > 0.994:
        return ">99\u00a0%"
    if chance < 0.006:
        return "<1\u00a0%"
    return f"{chance * 100:.0f}\u00a0%"


def odds(chance: float) -> str:
    """A chance as a simple ratio; per cent where none is close.

    >>> odds(1 / 6), odds(0.248), odds(0.665), odds(0.6), odds(0.03), odds(1e-9)
    ('1 in 6', '1 in 4', '2 in 3', '3 in 5', '1 in 33', 'under 1 in 10,000')
    """
    if chance >= 1:
        return "certain"
    if chance <= 0:
        return "none"
    value, words = min(SIMPLE, key=lambda ratio: abs(ratio[0] - chance))
    if abs(value - chance) <= CLOSE and chance > 1 / 10:
        return words
    if chance < 1 / RAREST:
        return f"under 1 in {RAREST:,}"
    if chance < 0.12:
        return f"1 in {round(1 / chance)}"
    return percent(chance)
