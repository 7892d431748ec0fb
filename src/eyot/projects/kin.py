"""How closely a plan breeds: the inbreeding of every animal on the way, and whose blood the last one has."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eyot_core.genetics.kinship import Path, in_circles, kinship, paths
from eyot_core.wording.chances import percent

from eyot.collection.models import Collection
from eyot.projects.reckoning import Steps

Pedigree = dict[str, tuple[str | None, str | None]]
MOST_PATHS = 4


@dataclass(frozen=True)
class Kin:
    """``inbreeding``: of each animal that is held back, by its name in the plan; ``paths``: over whom, in words, for those that are inbred;
    ``founders``: the shares of the last one's blood, the largest first, as names and shares; ``circles``: who would be their own ancestor
    by the record, whose parents are left out."""

    inbreeding: Mapping[str, float]
    paths: Mapping[str, list[str]]
    founders: list[tuple[str, float]]
    circles: list[str]

    @property
    def closest(self) -> float:
        """The largest inbreeding on the way."""
        return max(self.inbreeding.values(), default=0.0)


@dataclass(frozen=True)
class Family:
    """A collection's pedigree as it is known, by the names that a plan has for animals; and what they are called."""

    pedigree: Pedigree
    names: Mapping[str, str]
    circles: frozenset[str]

    @classmethod
    def of(
        cls, collection: Collection, named: Mapping[str, str] | None = None, called: Mapping[str, str] = {}
    ) -> Family:
        """``named``: own animals' names in the plan; ``called``: what those that are bought are called. One query."""
        own = named or {}
        pedigree: Pedigree = {}
        names = {}
        for pk, name, dam, sire in collection.animals.values_list("pk", "name", "dam_id", "sire_id"):
            one, *parents = (f"a{number}" if number else None for number in (pk, dam, sire))
            pedigree[own.get(str(one), str(one))] = tuple(own.get(each, each) if each else None for each in parents)  # type: ignore[assignment]
            names[own.get(str(one), str(one))] = name
        circles = frozenset(in_circles(pedigree))
        return cls(pedigree | dict.fromkeys(circles, (None, None)), {**names, **called}, circles)

    def kin(self, plan: Steps) -> Kin:
        """The kin of a plan's animals."""
        pedigree = self.pedigree | {step["keep"]["id"]: (step["dam"], step["sire"]) for step in plan}
        inbreeding = {step["keep"]["id"]: kinship(pedigree, step["dam"], step["sire"]) for step in plan}
        shares: dict[str, float] = {}
        if plan:
            _shared(pedigree, plan[-1]["keep"]["id"], 1.0, shares)
        founders = sorted(
            ((self.names.get(one, one), share) for one, share in shares.items()), key=lambda pair: -pair[1]
        )
        ways = {
            step["keep"]["id"]: [self._way(path) for path in paths(pedigree, step["dam"], step["sire"])[:MOST_PATHS]]
            for step in plan
            if inbreeding[step["keep"]["id"]] > 0
        }
        return Kin(inbreeding, ways, founders, sorted(self.names.get(one, one) for one in self.circles))

    def _way(self, path: Path) -> str:
        """One way in which a pair is kin: from the dam up to the ancestor and down to the sire."""
        chain = [*path.over_dam, *reversed(path.over_sire[:-1])]
        return f"{' – '.join(self.names.get(one, one) for one in chain)} ({percent(path.share)})"


def _shared(pedigree: Pedigree, one: str, share: float, shares: dict[str, float]) -> None:
    known = [parent for parent in pedigree.get(one, (None, None)) if parent]
    for parent in known:
        _shared(pedigree, parent, share / 2, shares)
    if len(known) < 2:
        shares[one] = shares.get(one, 0.0) + share * (2 - len(known)) / 2
