"""What the explanation of a pairing shows: which animals, which gene, and the square of their gametes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db.models import QuerySet

from eyot_core.catalogue import Catalogue
from eyot_core.genetics.square import STATES, Small, Square, allelic, complementing, male_maker, square
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.collection.queries import own_animals
from eyot.hets.kinship import recessives_of

Held = tuple[str, str, str]
OF_COPIES = ("normal", "het", "visual")


@dataclass(frozen=True)
class Explained:
    """``dam``, ``sire``: names, or "a dam" where none is chosen; their states; the square of gametes."""

    dam: str
    sire: str
    gene: str
    name: str
    states: tuple[str, str]
    choices: list[str]
    genes: list[tuple[str, str]]
    dams: list[str]
    sires: list[str]
    square: Square
    sentences: list[str]
    terms: dict[str, Small]
    maker: str


def explained(collection: Collection, given: Mapping[str, str]) -> Explained:
    """The square for what was chosen; a state that is not chosen is what the animal's record says."""
    catalogue = catalogue_of(collection)
    naming = Naming(catalogue)
    animals = own_animals(collection)
    listed, held = list(animals.values_list("name", "sex")), _held(animals)
    named = animals.filter(name__in=[given.get("dam", ""), given.get("sire", "")]).prefetch_related("genes")
    chosen = {one.name: one for one in named}
    genes = [(gene, naming.gene(gene)) for gene in recessives_of(catalogue)]
    dam, sire = chosen.get(given.get("dam", "")), chosen.get(given.get("sire", ""))
    gene = given["gene"] if given.get("gene") in dict(genes) else _first_gene([dam, sire], [gene for gene, _ in genes])
    states = (_state(dam, gene, given.get("dam_state", "")), _state(sire, gene, given.get("sire_state", "")))
    gametes = square(STATES[states[0]][0], STATES[states[1]][0])
    return Explained(
        dam=dam.name if dam else "",
        sire=sire.name if sire else "",
        gene=gene,
        name=naming.gene(gene),
        states=states,
        choices=list(STATES),
        genes=genes,
        dams=[name for name, sex in listed if sex != "male"],
        sires=[name for name, sex in listed if sex != "female"],
        square=gametes,
        sentences=follows_from(gametes, naming.gene(gene)),
        terms=_terms(catalogue, naming, held),
        maker=_maker(held)[0],
    )


def _held(animals: QuerySet[Animal]) -> list[Held]:
    """What animals here have, each gene and place of it once: gene, chromosome, and the first animal of it."""
    rows = CarriedGene.objects.filter(animal__in=animals).order_by("animal__name", "pk")
    first: dict[tuple[str, str], str] = {}
    for gene, chromosome, name in rows.values_list("gene", "on_chromosome", "animal__name").iterator():
        first.setdefault((gene, chromosome), name)
    return [(gene, chromosome, name) for (gene, chromosome), name in first.items()]


def follows_from(square: Square, name: str) -> list[str]:
    """What follows of the four equally likely children for a gene of that name, in sentences."""
    without, het, visual = square.counts
    sentences = []
    if visual:
        sentences.append(f"{visual} in 4 show {name}: they have it from both parents.")
    if het and without:
        sentences.append(
            f"Of those that don’t show it, {het} in {het + without} carry it. Nobody sees which: each is called "
            f"{round(100 * het / (het + without) - 0.5)} % possible het."
        )
    elif het:
        sentences.append("All others carry it: 100 % het.")
    if not het and not visual:
        sentences.append(f"None gets {name}.")
    return sentences


def _terms(catalogue: Catalogue, naming: Naming, held: Sequence[Held]) -> dict[str, Small]:
    """The other terms, on genes that animals here have where there are some."""
    first, second = _alleles(catalogue, held)
    on_sex = (gene for gene, one in catalogue.genes.items() if catalogue.loci[one.locus].on_sex_chromosome)
    return {
        "allelic": allelic(naming.gene(first), naming.gene(second)),
        "complementing": complementing(),
        "maker": male_maker(naming.gene(_maker(held)[1] or next(on_sex))),
    }


def _alleles(catalogue: Catalogue, held: Sequence[Held]) -> tuple[str, str]:
    """Two genes of one place: of an animal here, or the first that the catalogue has."""
    by_locus: dict[str, list[str]] = {}
    genes = dict.fromkeys(gene for gene, _, _ in held)
    for gene in (*(gene for gene in genes if gene in catalogue.genes), *catalogue.genes):
        alleles = by_locus.setdefault(catalogue.genes[gene].locus, [])
        if gene not in alleles and not catalogue.genes[gene].is_recessive:
            alleles.append(gene)
        if len(alleles) == 2:
            return alleles[0], alleles[1]
    raise ValueError("no two genes of the catalogue share a place")


def _maker(held: Sequence[Held]) -> tuple[str, str]:
    """A male here with a sex-linked gene on his Y, and the gene; empty where there is none."""
    return next(((name, gene) for gene, chromosome, name in held if chromosome == "Y"), ("", ""))


def _first_gene(parents: list[Animal | None], genes: list[str]) -> str:
    stated = [row.gene for one in parents if one for row in one.genes.all()]
    return next((gene for gene in stated if gene in genes), genes[0])


def _state(animal: Animal | None, gene: str, chosen: str) -> str:
    if chosen in STATES:
        return chosen
    if animal is None:
        return "het"
    row = next((one for one in animal.genes.all() if one.gene == gene), None)
    return OF_COPIES[row.copies] if row else "normal"
