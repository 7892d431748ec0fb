"""Which of the keeper's pairings can make a wanted combination, and how many eggs that would take.

Animals that state the same at the wanted loci count alike, so that thousands of pairings are ranked as a few; the figures of the
pairings that lead are then worked out exactly, with all that is known of the two.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import islice, product
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.errors import InputError
from eyot_core.genetics.animals import Parent, parent_from
from eyot_core.genetics.goals import goal_chances
from eyot_core.genetics.tables import Floats
from eyot_core.hatchery.wishes import Wish, Wished
from eyot_core.parsing import Node
from eyot_core.wording.chances import odds

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.pairing.forecast import needed_words, pairing_for

MOST_PAIRINGS = 12
ANYBODY = 0
Entries = tuple[tuple[Any, ...], ...]
Alike = list[tuple[Parent, list[int]]]
"""Parents that state the same, each with the numbers of the animals; ``ANYBODY`` stands for a partner without the wanted genes."""


@dataclass(frozen=True)
class GoalRow:
    """One pairing that can make the goal; a side that is ``None`` may be anybody."""

    dam: Animal | None
    sire: Animal | None
    each: str
    needed: str


@dataclass(frozen=True)
class Goal:
    """The pairings that lead, best first; ``count``: of all that can; ``missing``: genes that nobody here carries."""

    rows: list[GoalRow]
    count: int
    missing: list[str]


def goal_of(collection: Collection, wish: Wish) -> Goal:
    """All pairings of animals that are here, ranked at once; the figures of those that lead are exact. Three queries."""
    catalogue, wanted = catalogue_of(collection), dict(wish.genes)
    stated, sexes = _stated(collection, catalogue, wanted)
    carried = {gene for entries in stated.values() for gene, *_ in entries}
    missing = [gene for gene in wanted if gene not in carried]
    if missing:
        return Goal([], 0, missing)
    dams = _alike({pk: stated[pk] for pk in stated if sexes[pk] != Sex.MALE}, catalogue, is_sire=False)
    sires = _alike({pk: stated[pk] for pk in stated if sexes[pk] != Sex.FEMALE}, catalogue, is_sire=True)
    chances = goal_chances(catalogue, [parent for parent, _ in dams], [parent for parent, _ in sires], wanted, wish.sex)
    rows = _exact(collection, _best(chances, dams, sires), wish)
    return Goal(rows, _count(chances, dams, sires), [])


def _stated(
    collection: Collection, catalogue: Catalogue, wanted: Mapping[str, int]
) -> tuple[dict[int, Entries], dict[int, str]]:
    """What animals state at the wanted loci, and their sexes, by number: one query."""
    loci = {catalogue.genes[gene].locus for gene in wanted}
    genes = [gene.id for gene in catalogue.genes.values() if gene.locus in loci]
    rows = CarriedGene.objects.filter(
        animal__collection=collection, animal__archived_on=None, animal__elsewhere=False, gene__in=genes
    )
    fields = ("animal", "animal__sex", "gene", "copies", "chance", "two_chance", "on_chromosome")
    stated, sexes = defaultdict[int, list[tuple[Any, ...]]](list), {}
    for pk, sex, *entry in rows.order_by("gene").values_list(*fields):
        stated[pk].append(tuple(entry))
        sexes[pk] = sex
    return {pk: tuple(entries) for pk, entries in stated.items()}, sexes


def _alike(stated: Mapping[int, Entries], catalogue: Catalogue, *, is_sire: bool) -> Alike:
    """Animals by what they state, and last anybody; those that can't be as stated are left out."""
    groups = defaultdict[Entries, list[int]](list)
    for pk, entries in stated.items():
        groups[entries].append(pk)
    alike: Alike = []
    for entries, numbers in groups.items():
        rows = [_row(*entry).as_entry() for entry in entries]
        try:
            alike.append((parent_from(Node({"genes": rows}), catalogue, is_sire=is_sire), numbers))
        except InputError:
            continue
    return [*alike, (parent_from(Node({}), catalogue, is_sire=is_sire), [ANYBODY])]


def _row(gene: str, copies: int, chance: str, two_chance: str, on: str) -> CarriedGene:
    return CarriedGene(gene=gene, copies=copies, chance=chance, two_chance=two_chance, on_chromosome=on)


def _best(chances: Floats, dams: Alike, sires: Alike) -> list[tuple[int, int]]:
    """The pairings that lead, by number."""
    order = (-chances).argsort(axis=None, kind="stable")
    places = (divmod(int(place), len(sires)) for place in order if chances.flat[place] > 0)
    pairs = (pair for d, s in places for pair in product(dams[d][1], sires[s][1]) if pair[0] != pair[1])
    return list(islice(pairs, MOST_PAIRINGS))


def _count(chances: Floats, dams: Alike, sires: Alike) -> int:
    """How many pairings of two animals can make it."""
    sizes = [[len(hers) * len(his) if ANYBODY not in (*hers, *his) else 0 for _, his in sires] for _, hers in dams]
    return int(((chances > 0) * sizes).sum())


def _exact(collection: Collection, pairs: Sequence[tuple[int, int]], wish: Wish) -> list[GoalRow]:
    animals = collection.animals.prefetch_related("genes").in_bulk({pk for pair in pairs for pk in pair})
    exact = []
    for dam, sire in ((animals.get(dam), animals.get(sire)) for dam, sire in pairs):
        wished = Wished(pairing_for(collection, dam, [sire]), wish)
        if wished.chance > 0:
            exact.append((wished.chance, GoalRow(dam, sire, odds(wished.chance), needed_words(wished))))
    return [row for _, row in sorted(exact, key=lambda row: -row[0])]
