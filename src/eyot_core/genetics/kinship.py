"""How related two animals are, over the pedigree that is known.

Source: the coefficient of kinship by its recursive rule (the younger animal's is the mean of its parents'); an animal's
inbreeding is the kinship of its parents.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from functools import cache
from graphlib import CycleError, TopologicalSorter
from itertools import product
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


@dataclass(frozen=True)
class Path:
    """One way in which two animals are kin: ``over_dam`` and ``over_sire`` lead from each of them to ``ancestor``, both ends told;
    ``share``: of the inbreeding of their young."""

    ancestor: Any
    over_dam: tuple[Any, ...]
    over_sire: tuple[Any, ...]
    share: float


def paths(pedigree: Parents, dam: Hashable, sire: Hashable) -> list[Path]:
    """All ways in which two animals are kin, the largest share first; the shares sum to their :func:`kinship`.

    Source: Wright's rule, (1/2)^(n + m + 1) · (1 + F of the ancestor) over all pairs of chains that share nobody but the ancestor.

    >>> [(one.ancestor, one.share) for one in paths({"son": ("dam", "other")}, "dam", "son")]
    [('dam', 0.25)]
    """
    found = []
    hers, his = _chains(pedigree, dam), _chains(pedigree, sire)
    for ancestor in hers.keys() & his.keys():
        own = 1 + kinship(pedigree, *pedigree.get(ancestor, (None, None)))
        for one, other in product(hers[ancestor], his[ancestor]):
            if set(one) & set(other) == {ancestor}:
                found.append(Path(ancestor, one, other, 0.5 ** (len(one) + len(other) - 1) * own))
    return sorted(found, key=lambda path: (-path.share, str(path.ancestor)))


def _chains(pedigree: Parents, one: Any) -> dict[Any, list[tuple[Any, ...]]]:
    """Of each animal that one descends from, itself too, the chains that lead up to it."""
    chains: dict[Any, list[tuple[Any, ...]]] = {}
    open_: list[tuple[Any, ...]] = [(one,)]
    while open_:
        chain = open_.pop()
        chains.setdefault(chain[-1], []).append(chain)
        open_ += [(*chain, parent) for parent in pedigree.get(chain[-1], (None, None)) if parent is not None]
    return chains


def in_circles(pedigree: Parents) -> set[Any]:
    """The animals that would be ancestors of themselves: with them nothing can be reckoned.

    >>> in_circles({"a": ("b", None), "b": ("a", None), "c": ("a", None)}) == {"a", "b"}
    True
    """
    found: set[Any] = set()
    while True:
        known = {
            one: [each for each in pair if each is not None and each not in found] for one, pair in pedigree.items()
        }
        try:
            TopologicalSorter({one: parents for one, parents in known.items() if one not in found}).prepare()
        except CycleError as error:
            found |= {*error.args[1]}
        else:
            return found
