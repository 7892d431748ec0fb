"""What speaks against a pairing before it is saved: each a short warning with how sure it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from eyot_core.catalogue import Catalogue
from eyot_core.genetics.kinship import kinship
from eyot_core.genetics.pairing import Pairing
from eyot_core.hatchery.outcomes import having
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.names import Naming

from eyot.bench.clutch_queries import welfare_notes
from eyot.collection.models import Animal, Collection
from eyot.season.models import Weighing
from eyot.shared.units import long_day

RELATED_FROM = 1 / 64


@dataclass(frozen=True)
class PairingWarning:
    """One thing to weigh. ``kind``: welfare, loss, lines, locus, related or weight."""

    kind: str
    title: str
    words: str


def warnings_of(
    collection: Collection, pairing: Pairing | None, dam: Animal, sires: Sequence[Animal]
) -> list[PairingWarning]:
    """All that speaks against a pairing, gravest first."""
    warnings = _of_genes(pairing, dam, sires) if pairing else []
    return warnings + _related(collection, dam, sires) + _weights(collection, dam, sires)


def _of_genes(pairing: Pairing, dam: Animal, sires: Sequence[Animal]) -> list[PairingWarning]:
    naming = Naming(pairing.catalogue)
    warnings = _losses(pairing, naming) + _together(pairing)
    warnings += [
        PairingWarning(
            "welfare",
            name,
            f"{note[0].upper()}{note[1:]}.{restricted}",
        )
        for name, note, restricted in welfare_notes(pairing, naming)
    ]
    catalogue = pairing.catalogue
    warnings += _of_the_dam(catalogue, dam) + _lines(catalogue, naming, dam, sires)
    return warnings + _one_locus(catalogue, naming, dam, sires)


def _losses(pairing: Pairing, naming: Naming) -> list[PairingWarning]:
    """Eggs that are lost because of two copies."""
    loss = pairing.loss
    if loss < 0.005:
        return []
    lethal = sorted(
        {
            naming.gene(gene)
            for group in pairing.groups
            for states in (group.dam_states, *group.sire_states)
            for state in states
            for gene in _alleles(state)
            if pairing.catalogue.genes[gene].viability[2] < 1
        }
    )
    words = {
        naming.text(gene, "viability_words")
        for gene in pairing.given_genes
        if pairing.catalogue.genes[gene].viability[2] < 1
    }
    said = "".join(f" Of {one}." for one in sorted(filter(None, words)))
    return [
        PairingWarning(
            "loss",
            "Eggs will be lost",
            f"{percent(loss)} of the eggs, through two copies of {' or '.join(lethal)}; how many die is partly estimated.{said}",
        )
    ]


def _alleles(state: object) -> list[str]:
    if isinstance(state, tuple):
        return [allele for part in state for allele in _alleles(part)]
    return [state] if isinstance(state, str) else []


def _together(pairing: Pairing) -> list[PairingWarning]:
    """Pairs of genes that must not come together, where they can."""
    warnings = []
    for row in pairing.catalogue.document.get("cautions", []):
        kind = having(pairing, row["when"]) if row.get("when") else None
        if kind and kind.chance > 0:
            warnings.append(
                PairingWarning(
                    "loss",
                    row["title"],
                    f"{row['words']} ({row['standing']}); here {odds(kind.chance)} of the hatchlings.",
                )
            )
    return warnings


def _of_the_dam(catalogue: Catalogue, dam: Animal) -> list[PairingWarning]:
    """Genes with which a female is not bred."""
    hers = {gene.gene for gene in dam.genes.all()}
    return [
        PairingWarning("welfare", row["title"], f"{row['words']} ({row['standing']}).")
        for row in catalogue.document.get("cautions", [])
        if hers & {*row.get("dam", [])}
    ]


def _lines(catalogue: Catalogue, naming: Naming, dam: Animal, sires: Sequence[Animal]) -> list[PairingWarning]:
    """Look-alike lines at different loci, one on each side."""
    warnings = []
    for row in catalogue.document.get("cautions", []):
        lines = set(row.get("lines", []))
        hers = {gene.gene for gene in dam.genes.all()} & lines
        for sire in sires:
            his = {gene.gene for gene in sire.genes.all()} & lines
            if hers and his and not hers & his:
                names = f"{naming.gene(min(hers))} with {naming.gene(min(his))}"
                warnings.append(
                    PairingWarning(
                        "lines", "Lines that do not complement", f"{names}: {row['words']} ({row['standing']})."
                    )
                )
    return warnings


def _one_locus(catalogue: Catalogue, naming: Naming, dam: Animal, sires: Sequence[Animal]) -> list[PairingWarning]:
    """Two alleles of one complex in a parent: they are one place, not two genes to add up."""
    warnings = []
    for parent in (dam, *sires):
        held: dict[str, list[str]] = {}
        for gene in parent.genes.all():
            if gene.gene in catalogue.genes and gene.chance == "1":
                held.setdefault(catalogue.genes[gene.gene].locus, []).append(gene.gene)
        for genes in held.values():
            if len(genes) > 1:
                names = " and ".join(map(naming.gene, genes))
                warnings.append(
                    PairingWarning(
                        "locus",
                        "One locus counted twice",
                        f"{parent.name} has {names} at one locus: every egg gets one of them, none gets both from it, none gets neither.",
                    )
                )
    return warnings


def _related(collection: Collection, dam: Animal, sires: Sequence[Animal]) -> list[PairingWarning]:
    rows = collection.animals.values_list("pk", "dam_id", "sire_id")
    pedigree = {pk: (mother, father) for pk, mother, father in rows}
    warnings = []
    for sire in sires:
        shared = kinship(pedigree, dam.pk, sire.pk)
        if shared >= RELATED_FROM:
            relation = _relation(pedigree, dam.pk, sire.pk)
            words = f"{dam.name} and {sire.name} are {relation}: inbreeding of the young {percent(shared)}"
            warnings.append(PairingWarning("related", "Related animals", f"{words}, as far as the pedigree is known."))
    return warnings


def _relation(pedigree: Mapping[int, tuple[int | None, int | None]], first: int, second: int) -> str:
    hers, his = pedigree[first], pedigree[second]
    if second in hers or first in his:
        return "parent and child"
    shared = {parent for parent in hers if parent} & {parent for parent in his if parent}
    return {2: "full siblings", 1: "half-siblings"}.get(len(shared), "relatives")


def last_weight(animal: Animal) -> Weighing | None:
    """The latest weight of an animal whose weights were read before."""
    return max(animal.weighings.all(), key=lambda row: (row.on, row.pk), default=None)


def _weights(collection: Collection, dam: Animal, sires: Sequence[Animal]) -> list[PairingWarning]:
    warnings = []
    for animal, least, role in (
        (dam, collection.dam_least_g, "dam"),
        *((sire, collection.sire_least_g, "sire") for sire in sires),
    ):
        last = last_weight(animal)
        if last and last.grams < least:
            warnings.append(
                PairingWarning(
                    "weight",
                    f"{animal.name} is light",
                    f"{last.grams:g} g on {long_day(last.on)}; your own threshold for a {role} is {least} g.",
                )
            )
        elif last is None and role == "dam":
            warnings.append(
                PairingWarning(
                    "weight",
                    f"{animal.name} has no weight",
                    f"Your own threshold for a dam is {least} g; weigh her first.",
                )
            )
    return warnings
