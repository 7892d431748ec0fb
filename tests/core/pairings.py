"""Short ways to write documents for tests."""

from __future__ import annotations

from typing import Any

from eyot_core.catalogue import builtin_catalogue, catalogue_from
from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.cross import outcomes_of
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.identify.answer import identify
from eyot_core.parsing import Node

Json = dict[str, Any]
ALL_STAGES = ("egg", "wet", "blue", "shed", "months", "adult")
CLEAR = dict.fromkeys(ALL_STAGES, 1.0)


def gene(name: str, locus: str, inheritance: str = "incomplete_dominant", **more: Any) -> Json:
    """A gene's entry in a catalogue."""
    return {"id": name, "locus": locus, "inheritance": inheritance, **more}


def trait(name: str, *levels: str, clarity: Json | None = None) -> Json:
    """A trait whose levels have no bases."""
    return {"id": name, "levels": [{"id": level} for level in levels], "clarity": clarity or CLEAR}


def document_of(genes: list[Json], loci: list[Json] | None = None, **more: Any) -> Json:
    """A catalogue document; loci are made from the genes unless given."""
    named = loci or [{"id": locus} for locus in dict.fromkeys(entry["locus"] for entry in genes)]
    return {"format": "eyot-catalogue/1", "loci": named, "genes": genes, **more}


def catalogue_of(genes: list[Json], loci: list[Json] | None = None, **more: Any) -> Catalogue:
    """The same, read."""
    return catalogue_from(Node(document_of(genes, loci, **more)))


def animal(*entries: str | Json, **more: Any) -> Json:
    """An animal from names: "mojave" one copy, "clown*2" two, "clown?2/3" possible; or whole entries."""
    return {"genes": [_entry(entry) if isinstance(entry, str) else entry for entry in entries], **more}


def _entry(text: str) -> Json:
    name, _, chance = text.partition("?")
    name, _, copies = name.partition("*")
    return {"gene": name, "copies": int(copies or 1)} | ({"chance": chance} if chance else {})


def pairing(dam: Json, *sires: Json, catalogue: Catalogue | None = None) -> Pairing:
    """A pairing, by default of the built-in catalogue."""
    return pairing_from(Node({"dam": dam, "sires": list(sires)}), catalogue or builtin_catalogue())


def shares(found: Pairing) -> dict[str, float]:
    """Chances of one hatchling by the names of its alleles, sorted and joined: "fire vanilla", "" for wild type."""
    return {
        " ".join(sorted(allele for alleles in row.genotype.values() for allele in alleles)): row.probability
        for row in outcomes_of(found)
    }


def identified(
    dam: Json | None, sires: list[Json], hatchlings: list[Json], catalogue: Catalogue | None = None, **options: Any
) -> Json:
    """The answer of ``identify``."""
    document = {"dam": dam, "sires": sires, "hatchlings": hatchlings, "options": options}
    return identify(Node(document), catalogue or builtin_catalogue())


def look(trait_id: str, level: str, stage: str = "shed", confidence: str = "sure") -> Json:
    """One observation."""
    return {"trait": trait_id, "level": level, "stage": stage, "confidence": confidence}


def hatchling(name: str, *looks: Json, **facts: Any) -> Json:
    """One hatchling."""
    return {"id": name, "observations": list(looks), **facts}


def chance_of(answer: Json, index: int, name: str, copies: str = "1") -> float:
    """Chance of so many copies of a gene in one hatchling after all looks."""
    return next(row["copies"][copies] for row in answer["hatchlings"][index]["genes"] if row["gene"] == name)
