"""Reads on animals. Everything starts from the collection."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.core.paginator import Page, Paginator
from django.db.models import Prefetch, Q, QuerySet
from django.shortcuts import get_object_or_404

from eyot_core.catalogue import Catalogue
from eyot_core.genetics.animals import parent_from
from eyot_core.genetics.makers import chance_on_y
from eyot_core.parsing import Node
from eyot_core.wording.chances import percent
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import key_of
from eyot_core.wording.names import Naming

from eyot.animals.individuals import seen_as
from eyot.animals.lines import meant_by, names_of
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene, Collection, Sex
from eyot.collection.queries import own_animals
from eyot.collection.wording import gene_statement
from eyot.photos.models import Photo
from eyot.photos.queries import photos_of_animals
from eyot.season.models import Clutch, ClutchSire, Egg, Weighing
from eyot.season.queries import parent_entry
from eyot.shared.refusal import Refused

ON_A_PAGE = 60
ROLES = (
    ("", "any role"),
    ("dam", "dams"),
    ("sire", "sires"),
    ("young", "hatched here"),
    ("table", "photographed or on the table"),
    ("archived", "archived"),
    ("elsewhere", "live elsewhere"),
)


@dataclass(frozen=True)
class Asked:
    """What the list is narrowed to. ``words``: names, IDs or genes."""

    words: str = ""
    sex: str = ""
    role: str = ""
    page: str = "1"


@dataclass(frozen=True)
class Listed:
    """One page of the list. ``genes``: what the words were read as, where they name genes."""

    page: Page[Animal]
    genes: list[str]


def listed(collection: Collection, asked: Asked) -> Listed:
    """The animals that fit, by name, a page of them: three queries."""
    by_place = {"archived": {"archived_on__isnull": False}, "elsewhere": {"elsewhere": True}}
    asked_place = by_place.get(asked.role, {"archived_on": None, "elsewhere": False})
    animals = collection.animals.filter(**asked_place)
    if asked.sex in Sex.values and asked.sex:
        animals = animals.filter(sex=asked.sex)
    animals = _of_role(animals, asked.role)
    names, genes = names_of(collection), list[tuple[str, int]]()
    if asked.words:
        plain = Q(name__icontains=asked.words) | Q(code__icontains=asked.words)
        by_name = animals.filter(plain)
        read = understood(names, asked.words)
        meant = [] if read.unknown else meant_by(names, read)
        genes = [(gene, 1) for either in meant for gene in either]
        by_gene = animals
        for either in meant:
            by_gene = by_gene.filter(Q(pk__in=CarriedGene.objects.filter(gene__in=either).values("animal")))
        animals = by_name | by_gene if genes else by_name
    rows = animals.prefetch_related("genes", Prefetch("weighings", Weighing.objects.order_by("-on", "-pk")))
    return Listed(Paginator(rows, ON_A_PAGE).get_page(asked.page), [names.naming.gene(gene) for gene, _ in genes])


def _of_role(animals: QuerySet[Animal], role: str) -> QuerySet[Animal]:
    if role == "dam":
        return animals.filter(Q(pk__in=Clutch.objects.values("dam")) | Q(young_as_dam__isnull=False)).distinct()
    if role == "sire":
        return animals.filter(Q(pk__in=ClutchSire.objects.values("sire")) | Q(young_as_sire__isnull=False)).distinct()
    if role == "table":
        return animals.filter(hatched_from__clutch__elsewhere=True)
    return animals.filter(hatched_from__clutch__elsewhere=False) if role == "young" else animals


def animal_of(collection: Collection, number: int) -> Animal:
    """One animal with its genes and parents; 404 where this collection has none of that number."""
    animals = collection.animals.select_related("collection", "dam", "sire", "hatched_from__clutch")
    return get_object_or_404(animals.prefetch_related("genes", "dam__genes", "sire__genes", "weighings"), pk=number)


@dataclass(frozen=True)
class StatedGene:
    """One gene of an animal: its seed, its words, how known, and what the parents add."""

    gene: str
    mark: str
    name: str
    known: str
    words: str
    maker: str
    may_be_het: bool


def stated_genes(animal: Animal, naming: Naming) -> list[StatedGene]:
    """The genes of an animal, what shows first."""
    rows = [_stated_gene(animal, row, naming) for row in animal.genes.all()]
    return sorted(rows, key=lambda row: ("two", "one", "carried", "doubt").index(row.mark))


def _stated_gene(animal: Animal, row: CarriedGene, naming: Naming) -> StatedGene:
    gene = naming.catalogue.genes.get(row.gene)
    name = naming.copies(row.gene, row.copies) if gene else row.gene
    if row.chance != "1":
        mark = "doubt"
    elif gene and gene.is_recessive and row.copies == 1:
        mark = "carried"
    else:
        mark = "two" if row.copies == 2 else "one"
    words = gene_statement(row, naming)
    known = row.get_known_display().lower()
    may_be_het = gene is not None and gene.is_recessive and mark in ("carried", "doubt")
    return StatedGene(row.gene, mark, name, known, words, _maker(animal, row, naming.catalogue), may_be_het)


def _maker(animal: Animal, row: CarriedGene, catalogue: Catalogue) -> str:
    """Where a male's sex-linked gene came from, as stated or as his parents have it; empty where that is no question."""
    gene = catalogue.genes.get(row.gene)
    if gene is None or not catalogue.loci[gene.locus].on_sex_chromosome or animal.sex != Sex.MALE or row.copies == 2:
        return ""
    if row.on_chromosome:
        return "male maker, as stated" if row.on_chromosome == "Y" else "female maker, as stated"
    if not (animal.dam and animal.sire):
        return "male or female maker: open, since its parents are not both entered"
    dam = parent_from(Node(parent_entry(animal.dam)), catalogue, is_sire=False)
    sire = parent_from(Node(parent_entry(animal.sire)), catalogue, is_sire=True)
    on_y = chance_on_y(catalogue, row.gene, dam, sire)
    if on_y is None:
        return "male or female maker: open; by their genes neither parent can have given it"
    return f"male maker {percent(on_y)}, female maker {percent(1 - on_y)}, by its parents"


def strip_key(animal: Animal, naming: Naming) -> str:
    """The combination of what an animal certainly has, as drawings of it are asked for."""
    known = naming.catalogue.genes
    return key_of([(row.gene, row.copies) for row in animal.genes.all() if row.chance == "1" and row.gene in known])


@dataclass(frozen=True)
class Offspring:
    """One clutch of an animal, with how many of its eggs are open or hatched."""

    clutch: Clutch
    partner: str
    hatched: int


def clutches_with(animal: Animal) -> list[Offspring]:
    """The pairings and clutches in which an animal stands, newest first: a fixed number of queries."""
    rows = Clutch.objects.filter(Q(dam=animal) | Q(clutch_sires__sire=animal)).distinct()
    rows = rows.select_related("dam").prefetch_related("eggs", "clutch_sires__sire")
    clutches = []
    for clutch in rows.order_by("-laid_on", "-pk"):
        hatched = sum(egg.is_open for egg in clutch.eggs.all())
        clutches.append(
            Offspring(clutch, clutch.sire_words if clutch.dam_id == animal.pk else clutch.own_dam.name, hatched)
        )
    return clutches


def young_of(animal: Animal) -> list[Animal]:
    """Animals of the collection that have it as a parent, by name."""
    return list(animal.collection.animals.filter(Q(dam=animal) | Q(sire=animal)))


def photos_of(animal: Animal) -> list[Photo]:
    """Its photos, those of the hatchling that it was too, oldest first."""
    egg = seen_as(animal)
    return [photo for photo in egg.photos.order_by("taken_at") if photo.has_sizes] if egg else []


def newest_pictures(animals: Iterable[Animal]) -> dict[int, Photo]:
    """The newest photo of each animal, one from above where there is one: one query."""
    return {
        number: next((photo for photo in photos if photo.kind == Photo.Kind.BACK), photos[0])
        for number, photos in photos_of_animals(animal.pk for animal in animals).items()
    }


def newest_strip(photos: Sequence[Photo]) -> Photo | None:
    """Of an animal's photos, oldest first, the newest from above that was unrolled."""
    return next((one for one in reversed(photos) if one.kind == Photo.Kind.BACK and one.has_strip), None)


def hatchling_named(collection: Collection, words: str) -> Egg:
    """A hatchling as a keeper writes it: "W-02/3", "W-02 3" or its ID. :class:`Refused` where there is none."""
    code, _, number = words.replace("/", " ").strip().rpartition(" ")
    eggs = Egg.objects.filter(clutch__collection=collection, clutch__elsewhere=False).select_related(
        "clutch", "kept_as"
    )
    numbered = (
        eggs.filter(clutch__code__iexact=code.strip(), number=int(number))
        if number.isdecimal() and len(number) < 4
        else []
    )
    egg = next(iter(numbered), None) or next((one for one in eggs if words and one.code == words), None)
    if egg is None:
        raise Refused(
            f"“{words[:40]}” is no hatchling here; write it as W-02/3. Nothing was changed.", field="hatchling"
        )
    return egg


def names_in(collection: Collection, *, sex: str = "") -> list[str]:
    """Names of the animals that are here, for choosing; of one sex or of unknown sex where asked."""
    animals = own_animals(collection)
    return list((animals.exclude(sex=sex) if sex else animals).values_list("name", flat=True))


def naming_of(collection: Collection) -> Naming:
    """The words of the collection's catalogue."""
    return Naming(catalogue_of(collection))
