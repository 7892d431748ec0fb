"""A gene's page: what to look for in one copy and in two, how it ages, whom it resembles, and how sure the field is of it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from django.http import Http404

from eyot_core.catalogue import Catalogue
from eyot_core.catalogue.overlay import OWN
from eyot_core.catalogue.written import PUSH_SCALE
from eyot_core.identify.compare import Comparison
from eyot_core.wording.names import Naming

from eyot.reference.looks import LookLine, by_region, covered_looks, look_lines, words_of
from eyot.reference.subjects import Subject, subject_from

INHERITANCE = {
    "recessive": "recessive: seen in two copies only",
    "incomplete_dominant": "incomplete dominant: one copy shows, two show more or otherwise",
    "dominant": "dominant: one copy shows; two are not told apart by eye",
}
STANDINGS = {
    "established": "established: many breeders, repeated",
    "reported": "reported: several independent keepers, not fully settled",
    "disputed": "disputed: keepers contradict each other",
    "keeper": "this collection's own: not in the built-in catalogue",
}
MOST_NAMES = 14


@dataclass(frozen=True)
class Form:
    """A gene in one or two copies, with the looks that part it from a normal animal."""

    subject: Subject
    regions: tuple[tuple[str, list[LookLine]], ...]
    told_apart: float
    covered: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class GenePage:
    """Everything that the page says. One object for one state of the catalogue, so that what is rendered of it can be kept."""

    id: str
    name: str
    entry: dict[str, Any]
    inheritance: str
    standing: str
    complex: str
    allelism: str
    others: tuple[tuple[str, str], ...]
    forms: tuple[Form, ...]
    company: tuple[dict[str, Any], ...]
    lookalikes: tuple[dict[str, Any], ...]
    names: tuple[tuple[str, Subject], ...]
    markers: tuple[dict[str, Any], ...]
    disputes: tuple[str, ...]
    own: tuple[str, ...]


@lru_cache(maxsize=400)
def gene_page(catalogue: Catalogue, gene: str, stage: str) -> GenePage:
    """The page of one gene at a stage; 404 if there is no such gene."""
    if gene not in catalogue.genes:
        raise Http404(f"no such gene: {gene}")
    document, naming = catalogue.document, Naming(catalogue)
    entry = next(row for row in document["genes"] if row["id"] == gene)
    locus = next(row for row in document["loci"] if row["id"] == catalogue.genes[gene].locus)
    alleles = [other.id for other in catalogue.genes_at(locus["id"]) if other.id != gene]
    return GenePage(
        id=gene,
        name=naming.gene(gene),
        entry=entry,
        inheritance=INHERITANCE[catalogue.genes[gene].inheritance],
        standing=STANDINGS.get(entry.get("standing", ""), ""),
        complex=locus.get("name", ""),
        allelism=locus.get("allelism", ""),
        others=tuple((other, naming.gene(other)) for other in alleles),
        forms=tuple(_form(catalogue, gene, copies, stage) for copies in _copies(catalogue, gene)),
        company=tuple(_company(catalogue, gene)),
        lookalikes=tuple(note for note in document.get("lookalikes", []) if _names(note, gene)),
        names=tuple(_trade_names(catalogue, gene)),
        markers=tuple(row for row in document.get("markers", []) if row["when"][0]["gene"] == gene),
        disputes=tuple(row["words"] for row in document.get("disputes", []) if gene in row.get("genes", [])),
        own=tuple(_seen_otherwise(catalogue, entry)),
    )


def _seen_otherwise(catalogue: Catalogue, entry: dict[str, Any]) -> list[str]:
    """In what this collection sees the gene otherwise than the built-in catalogue."""
    looks, words = [], words_of(catalogue)
    if entry.get("standing") == OWN:
        looks.append("An own gene of this collection, not in the built-in catalogue")
    if "built_in_name" in entry:
        looks.append(f"Built in as {entry['built_in_name']}")
    for dispute in catalogue.document.get("disputes", []):
        if dispute.get("switched") and entry["id"] in dispute["genes"]:
            looks.append(str(dispute["other_side"]).rstrip("."))
    for effect in catalogue.document["effects"]:
        if effect.get("rule") == OWN and effect["when"][0]["gene"] == entry["id"]:
            levels = ", ".join(
                f"{level.replace('_', ' ')} {push / PUSH_SCALE:+g}" for level, push in _weights(catalogue, effect)
            )
            looks.append(f"Own weight: {words[effect['trait']]['name'].lower()} {levels}")
    return looks


def _weights(catalogue: Catalogue, effect: dict[str, Any]) -> list[tuple[str, float]]:
    """The levels that an own weight speaks for; a shift is told by the end of the scale that it goes to."""
    shift = effect.get("shift", 0.0)
    trait = catalogue.traits[effect["trait"]]
    end = [(trait.levels[trait.scale[-1 if shift > 0 else 0]].id, abs(shift))] if shift else []
    return [*effect.get("push", {}).items(), *end]


def _copies(catalogue: Catalogue, gene: str) -> list[int]:
    """The copies that show and can live; for a dominant gene two are not told from one."""
    entry = catalogue.genes[gene]
    wanted = [2] if entry.is_recessive else [1] if entry.inheritance == "dominant" else [1, 2]
    return [copies for copies in wanted if entry.viability[copies] > 0]


def _form(catalogue: Catalogue, gene: str, copies: int, stage: str) -> Form:
    subject = subject_from(catalogue, ((gene, copies),))
    comparison = Comparison(catalogue, ({}, subject.genotype))
    return Form(
        subject,
        tuple(by_region(look_lines(comparison, stage))),
        comparison.told_apart_at(stage),
        tuple(covered_looks(comparison, stage)),
    )


def _names(note: dict[str, Any], gene: str) -> bool:
    return any(gene in candidate for candidate in note["candidates"])


def _company(catalogue: Catalogue, gene: str) -> list[dict[str, Any]]:
    """The interactions that name the gene, each once."""
    named: set[str] = set()
    for kind in ("effects", "dilutions", "masks"):
        for entry in catalogue.document.get(kind, []):
            conditions = entry["when"]
            own = (
                any(one.get("gene") == gene and one["copies"] != [0] for one in conditions) or entry.get("gene") == gene
            )
            if own and len(conditions) + (entry.get("gene") == gene) > 1:
                named.add(entry.get("rule", ""))
    return [rule for rule in catalogue.document.get("rules", []) if rule["id"] in named and rule["id"][0] in "IX"]


def _trade_names(catalogue: Catalogue, gene: str) -> list[tuple[str, Subject]]:
    rows = [row for row in catalogue.document.get("names", []) if gene in row["genes"]]
    return [(row["name"], subject_from(catalogue, tuple(row["genes"].items()))) for row in rows[:MOST_NAMES]]
