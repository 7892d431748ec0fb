"""How closely a plan breeds: the inbreeding of every animal on the way, and whose blood the last one has."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eyot_core.genetics.kinship import kinship

from eyot.collection.models import Collection
from eyot.projects.reckoning import Steps

Pedigree = dict[str, tuple[str | None, str | None]]


@dataclass(frozen=True)
class Kin:
    """``inbreeding``: of each animal that is held back, by its name in the plan; ``founders``: the shares of the last one's blood, the
    largest first, as names and shares."""

    inbreeding: Mapping[str, float]
    founders: list[tuple[str, float]]


def kin_of(collection: Collection, plan: Steps, named: Mapping[str, str] | None = None) -> Kin:
    """The kin of a plan's animals, over the pedigree as it is known; ``named``: own animals' names in the plan. One query."""
    own = named or {}
    pedigree: Pedigree = {}
    names = {}
    for pk, name, dam, sire in collection.animals.values_list("pk", "name", "dam_id", "sire_id"):
        one, *parents = (f"a{number}" if number else None for number in (pk, dam, sire))
        pedigree[own.get(str(one), str(one))] = tuple(own.get(each, each) if each else None for each in parents)  # type: ignore[assignment]
        names[own.get(str(one), str(one))] = name
    for step in plan:
        pedigree[step["keep"]["id"]] = (step["dam"], step["sire"])
    inbreeding = {step["keep"]["id"]: kinship(pedigree, step["dam"], step["sire"]) for step in plan}
    last = plan[-1]["keep"]["id"] if plan else ""
    shares: dict[str, float] = {}
    if last:
        _shared(pedigree, last, 1.0, shares)
    founders = sorted(((names.get(one, one), share) for one, share in shares.items()), key=lambda pair: -pair[1])
    return Kin(inbreeding, founders)


def _shared(pedigree: Pedigree, one: str, share: float, shares: dict[str, float]) -> None:
    known = [parent for parent in pedigree.get(one, (None, None)) if parent]
    for parent in known:
        _shared(pedigree, parent, share / 2, shares)
    if len(known) < 2:
        shares[one] = shares.get(one, 0.0) + share * (2 - len(known)) / 2
