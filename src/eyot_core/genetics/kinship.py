"""How related two animals are, over the pedigree that is known.

Source: the coefficient of kinship by its recursive rule (the younger animal's is the mean of its parents'); an animal's
inbreeding is the kinship of its parents.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from functools import cache
from typing import Any

Parents = Mapping[Any, tuple[Any, Any]]


def kinship(pedigree: Parents, first: Hashable, second: Hashable) -> float:
    """Chance that an allele drawn from one animal and one from the other descend from the same copy.

    It is the inbreeding of their young: 1/4 for full siblings and for parent and child, 1/8 for half-siblings, 1/16 for cousins.
    ``pedigree``: dam and sire of each animal, ``None`` where not known; animals not in it are founders. The pedigree must hold
    no circles.

    >>> kinship({"a": ("d", "s"), "b": ("d", "s")}, "a", "b")
    0.25
    """

    @cache
    def depth(one: Hashable) -> int:
        return 1 + max((depth(parent) for parent in pedigree.get(one, (None, None)) if parent is not None), default=0)

    @cache
    def between(one: Hashable | None, other: Hashable | None) -> float:
        if one is None or other is None:
            return 0.0
        if one == other:
            dam, sire = pedigree.get(one, (None, None))
            return 0.5 * (1 + between(dam, sire))
        younger, elder = (one, other) if depth(one) >= depth(other) else (other, one)
        dam, sire = pedigree.get(younger, (None, None))
        return 0.5 * (between(dam, elder) + between(sire, elder))

    return between(first, second)
