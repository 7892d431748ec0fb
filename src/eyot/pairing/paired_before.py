"""The pairings of a collection's last seasons, to be planned again."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from eyot.animals.queries import naming_of, strip_key
from eyot.collection.models import Collection
from eyot.season.models import Clutch
from eyot.season.queries import clutches_of

MOST = 8


@dataclass(frozen=True)
class PairedBefore:
    """One clutch: ``query``: its parents as the planner asks for them; ``parents``: name and combination of each; ``came``: how many
    hatchlings, in words."""

    clutch: Clutch
    query: str
    parents: list[tuple[str, str]]
    came: str


def paired_before(collection: Collection) -> list[PairedBefore]:
    """The newest pairings: a fixed number of queries."""
    clutches = clutches_of(collection).prefetch_related("dam__genes", "clutch_sires__sire__genes")
    naming, rows = naming_of(collection), []
    for clutch in clutches.order_by("-paired_on", "-laid_on", "-pk")[:MOST]:
        parents = [clutch.own_dam, *(entry.sire for entry in clutch.clutch_sires.all())]
        query = [("dam", clutch.own_dam.name), *(("sire", entry.sire.name) for entry in clutch.clutch_sires.all())]
        eggs = clutch.eggs.all()
        came = f"{sum(egg.is_open for egg in eggs)} of {len(eggs)} eggs open or hatched"
        drawn = [(animal.name, strip_key(animal, naming)) for animal in parents]
        rows.append(PairedBefore(clutch, urlencode(query), drawn, came))
    return rows
