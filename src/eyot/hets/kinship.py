"""A collection's animals and hatchlings as a pedigree of one recessive gene: from rows to the core."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import TypeVar

from django.db.models import QuerySet

from eyot_core.catalogue import Catalogue
from eyot_core.proof.carriers import Breeding
from eyot_core.proof.kin import (
    AT_ONCE,
    CARRIES,
    NOT_VISUAL,
    NOTHING,
    VISUAL,
    Effort,
    Kin,
    KinStanding,
    Three,
    breeding_likelihood,
    standings,
    times,
)
from eyot_core.proof.pedigree import Member

from eyot.bench.judgement import counting
from eyot.bench.models import CalledGene, Look, Proof
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.hets.markers import markers_of, ratio_of
from eyot.hets.models import GeneTest, HetMarker, PastBreeding
from eyot.season.models import ClutchSire, Egg

Name = tuple[str, int]
Record = TypeVar("Record", HetMarker, PastBreeding, GeneTest)
CERTAIN = (CarriedGene.Known.SEEN, CarriedGene.Known.BRED, CarriedGene.Known.TESTED)
EXACTLY: dict[int, Three] = {0: (1.0, 0.0, 0.0), 1: (0.0, 1.0, 0.0), 2: VISUAL}


@dataclass
class Records:
    """Everything of a collection that speaks of recessive genes, read at once: a fixed number of queries.

    ``hatched``: of each hatchling with evidence its likelihood, by gene; ``sires``: of each clutch, with their weights;
    ``looked``: of each hatchling the last answer on the bench to each look that is a mark of some carrier.
    """

    catalogue: Catalogue
    animals: dict[int, Animal]
    stated: dict[str, dict[int, CarriedGene]]
    eggs: dict[int, Egg]
    hatched: dict[str, dict[int, Three]]
    sires: dict[int, tuple[tuple[int, float], ...]]
    marks: dict[str, dict[int, list[HetMarker]]]
    past: dict[str, dict[int, list[PastBreeding]]]
    tests: dict[str, dict[int, list[GeneTest]]]
    looked: dict[int, dict[str, str]]
    markers_on: bool
    children: dict[int, list[int]] = field(default_factory=lambda: defaultdict(list))


def recessives_of(catalogue: Catalogue) -> list[str]:
    """The recessive genes of a catalogue."""
    return [gene for gene, entry in catalogue.genes.items() if entry.is_recessive]


def records_of(collection: Collection, catalogue: Catalogue) -> Records:
    """Reads the records: nine queries."""
    genes = recessives_of(catalogue)
    animals = {row.pk: row for row in collection.animals.select_related("hatched_from__clutch")}
    stated: dict[str, dict[int, CarriedGene]] = defaultdict(dict)
    for row in CarriedGene.objects.filter(animal__collection=collection, gene__in=genes):
        stated[row.gene][row.animal_id] = row
    hatched = _hatched(collection, genes)
    looked = _looked(collection, catalogue) if collection.markers_on else {}
    wanted = {egg for by_egg in hatched.values() for egg in by_egg} | looked.keys()
    eggs = {egg.pk: egg for egg in Egg.objects.filter(pk__in=wanted).select_related("clutch")}
    records = Records(
        catalogue,
        animals,
        stated,
        eggs,
        hatched,
        sires_of(ClutchSire.objects.filter(clutch__collection=collection)),
        _by_gene(HetMarker.objects.filter(animal__collection=collection)),
        _by_gene(PastBreeding.objects.filter(animal__collection=collection)),
        _by_gene(GeneTest.objects.filter(animal__collection=collection)),
        looked,
        collection.markers_on,
    )
    for animal in animals.values():
        for parent in (animal.dam_id, animal.sire_id):
            if parent is not None:
                records.children[parent].append(animal.pk)
    return records


def sires_of(clutches: QuerySet[ClutchSire]) -> dict[int, tuple[tuple[int, float], ...]]:
    """The sires of each clutch, with their weights: one query."""
    sires: dict[int, tuple[tuple[int, float], ...]] = {}
    for clutch, sire, weight in clutches.values_list("clutch_id", "sire_id", "weight"):
        sires[clutch] = (*sires.get(clutch, ()), (sire, float(weight)))
    return sires


def _by_gene(rows: Iterable[Record]) -> dict[str, dict[int, list[Record]]]:
    by_gene: dict[str, dict[int, list[Record]]] = defaultdict(lambda: defaultdict(list))
    for row in rows:
        by_gene[row.gene][row.animal_id].append(row)
    return by_gene


def _looked(collection: Collection, catalogue: Catalogue) -> dict[int, dict[str, str]]:
    """The last answers to looks that are marks of carriers, by hatchling: one query."""
    traits = {row["trait"] for row in catalogue.document["markers"]}
    looks = (
        Look.objects.that_may_count()
        .filter(egg__clutch__collection=collection, trait__in=traits)
        .order_by("seen_at", "pk")
    )
    looked: dict[int, dict[str, str]] = defaultdict(dict)
    for look in counting(looks):
        looked[look.egg_id][look.trait] = look.level
    return dict(looked)


def _hatched(collection: Collection, genes: list[str]) -> dict[str, dict[int, Three]]:
    """What each hatchling turned out to be: by proof, else by its last call where that is sure either way."""
    hatched: dict[str, dict[int, Three]] = defaultdict(dict)
    called = CalledGene.objects.filter(call__egg__clutch__collection=collection, gene__in=genes).order_by("call_id")
    for gene, verdict, copies, egg in called.values_list("gene", "verdict", "copies", "call__egg"):
        hatched[gene].pop(egg, None)
        if verdict == CalledGene.Verdict.SURE and copies == 2:
            hatched[gene][egg] = VISUAL
        elif verdict == CalledGene.Verdict.NOT:
            hatched[gene][egg] = NOT_VISUAL
    proofs = Proof.objects.filter(egg__clutch__collection=collection, gene__in=genes)
    for gene, copies, egg in proofs.values_list("gene", "copies", "egg"):
        hatched[gene][egg] = EXACTLY[copies]
    return hatched


@dataclass(frozen=True)
class GeneKin:
    """One gene's pedigree: the animals and hatchlings in it by name, and where each stands (``None``: contradictory records)."""

    gene: str
    names: dict[Name, int]
    standings: list[KinStanding] | None

    @property
    def is_tangled(self) -> bool:
        """Hang some of these animals together too closely, or are they too many, to count what is known of relatives?"""
        return any(one.basis == "own" for one in self.standings or ())

    @property
    def is_drawn(self) -> bool:
        """Do some stand by draws?"""
        return any(one.basis == "drawn" for one in self.standings or ())

    def of(self, animal: int) -> KinStanding | None:
        """Where an animal stands; none where it has no part in the gene, or the records contradict one another."""
        place = self.names.get(("animal", animal))
        return self.standings[place] if self.standings is not None and place is not None else None


def gene_kin(records: Records, gene: str, effort: Effort = AT_ONCE) -> GeneKin:
    """Where all stand with one gene that have a part in it."""
    names, kin = pedigree_of(records, gene)
    return GeneKin(gene, names, standings(kin, records.catalogue.genes[gene].frequency, effort) if kin else [])


def pedigree_of(records: Records, gene: str) -> tuple[dict[Name, int], list[Kin]]:
    """The pedigree of one gene: whoever is stated or descends from one that is, has evidence, and all their forebears."""
    stated_animals = _stated_or_descended(records, gene)
    names = _names(records, gene, stated_animals)
    return names, [_kin(records, gene, name, names, stated_animals) for name in names]


def _stated_or_descended(records: Records, gene: str) -> set[int]:
    """Animals that are stated to have the gene, or may have it from one that is."""
    stated: set[int] = set()
    waiting = list(records.stated.get(gene, ()))
    while waiting:
        animal = waiting.pop()
        if animal not in stated:
            stated.add(animal)
            waiting += records.children.get(animal, ())
    return stated


def _names(records: Records, gene: str, stated_animals: set[int]) -> dict[Name, int]:
    wanted: set[Name] = {("animal", animal) for animal in stated_animals}
    for by_animal in (records.marks.get(gene, {}), records.past.get(gene, {}), records.tests.get(gene, {})):
        wanted |= {("animal", animal) for animal in by_animal}
    wanted |= {_name_of(records.eggs[egg]) for egg in records.hatched.get(gene, ())}
    wanted |= {
        name
        for name in _marked_on_the_bench(records, gene)
        if any(one in stated_animals for one in all_parents(records, name))
    }
    waiting, names = list(wanted), set[Name]()
    while waiting:
        name = waiting.pop()
        if name not in names:
            names.add(name)
            waiting += [("animal", parent) for parent in all_parents(records, name)]
    return {name: place for place, name in enumerate(sorted(names))}


def _marked_on_the_bench(records: Records, gene: str) -> list[Name]:
    """Hatchlings of which a look was answered that is a mark of the gene's carriers."""
    traits = {row["trait"] for row in markers_of(records.catalogue, gene)}
    return [_name_of(records.eggs[egg]) for egg, looked in records.looked.items() if traits & looked.keys()]


def _name_of(egg: Egg) -> Name:
    """A hatchling that was kept is the animal that it became."""
    return ("animal", egg.kept_as_id) if egg.kept_as_id else ("egg", egg.pk)


def parents_in(records: Records, name: Name) -> tuple[int | None, tuple[tuple[int, float], ...]]:
    """An animal's or a hatchling's dam, and the sires of which one is its own, with weights."""
    kind, number = name
    if kind == "egg":
        clutch = records.eggs[number].clutch
        return clutch.dam_id, records.sires.get(clutch.pk, ())
    animal = records.animals[number]
    if animal.sire_id is not None:
        return animal.dam_id, ((animal.sire_id, 1.0),)
    egg = getattr(animal, "hatched_from", None)
    return animal.dam_id, records.sires.get(egg.clutch_id, ()) if egg else ()


def all_parents(records: Records, name: Name) -> list[int]:
    """All that are or may be its parents."""
    dam, sires = parents_in(records, name)
    return [one for one in (dam, *(sire for sire, _ in sires)) if one is not None]


def _member(records: Records, name: Name, names: dict[Name, int]) -> Member:
    dam, sires = parents_in(records, name)
    place = names[("animal", dam)] if dam is not None else None
    if len(sires) == 1:
        return Member(place, names[("animal", sires[0][0])])
    return Member(place, None, tuple((names[("animal", sire)], weight) for sire, weight in sires))


def _kin(records: Records, gene: str, name: Name, names: dict[Name, int], stated_animals: set[int]) -> Kin:
    kind, number = name
    member = _member(records, name, names)
    if kind == "egg":
        known = records.hatched.get(gene, {}).get(number, NOTHING)
        return Kin(member, known=known, marks=_marks(records, gene, None, number))
    row = records.stated.get(gene, {}).get(number)
    by_parents = any(parent in stated_animals for parent in all_parents(records, name))
    hatched = getattr(records.animals[number], "hatched_from", None)
    seen = records.hatched.get(gene, {}).get(hatched.pk, NOTHING) if hatched else NOTHING
    return Kin(
        member,
        start=_start(row) if row and not by_parents else None,
        known=times(_certain(row), seen),
        marks=_marks(records, gene, number, hatched.pk if hatched else None),
        bred=times(*(breeding_likelihood(_breeding(one)) for one in records.past.get(gene, {}).get(number, ()))),
        tests=times(*(test_likelihood(one) for one in records.tests.get(gene, {}).get(number, ()))),
    )


def _start(row: CarriedGene) -> Three:
    chance = float(Fraction(row.chance))
    return (1 - chance, 0.0, chance) if row.copies == 2 else (1 - chance, chance, 0.0)


def _certain(row: CarriedGene | None) -> Three:
    """What is certain of an animal itself: what it shows, and what breeding or a test settled before."""
    if row is None or row.copies == 1:
        is_certain = row is not None and row.chance == "1" and row.known in CERTAIN
        return times(NOT_VISUAL, CARRIES) if is_certain else NOT_VISUAL
    return VISUAL if row.chance == "1" else NOTHING


def _marks(records: Records, gene: str, animal: int | None, egg: int | None) -> Three:
    """What marks say: those answered in the ledger, and for the others what was answered on the bench before."""
    if not records.markers_on:
        return NOTHING
    rows = records.marks.get(gene, {}).get(animal, []) if animal is not None else []
    typed = {row.trait for row in rows}
    ratios = [ratio_of(records.catalogue, row) for row in rows]
    for marker in markers_of(records.catalogue, gene):
        level = records.looked.get(egg, {}).get(marker["trait"]) if egg is not None else None
        if level is not None and marker["trait"] not in typed:
            ratios.append(float(marker["ratio_seen" if level == marker["level"] else "ratio_unseen"]))
    return times(*((1.0, ratio, 1.0) for ratio in ratios))


def _breeding(row: PastBreeding) -> Breeding:
    chances = {PastBreeding.Partner.VISUAL: None, PastBreeding.Partner.HET: 1.0, PastBreeding.Partner.NORMAL: 0.0}
    chance = chances[PastBreeding.Partner(row.partner)] if row.partner in chances else float(Fraction(row.chance))
    return Breeding(chance, row.hatchlings, row.visuals)


def test_likelihood(row: GeneTest) -> Three:
    """Likelihood of a test's result for 0, 1 and 2 copies; a visual counts as a carrier."""
    if row.result == GeneTest.Result.CARRIER:
        return 1 - row.specificity, row.sensitivity, row.sensitivity
    return row.specificity, 1 - row.sensitivity, 1 - row.sensitivity
