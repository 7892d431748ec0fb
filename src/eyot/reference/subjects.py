"""What a page of the reference is about: a combination as its key, and the words and drawings that go with it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from django.http import Http404
from django.urls import reverse

from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.genetics.genotypes import genotype_of
from eyot_core.wording.lookup import Carried, key_of
from eyot_core.wording.names import Naming

NORMAL = "normal"
STAGE_WORDS = {
    "egg": "in the egg",
    "wet": "wet",
    "blue": "in the blue",
    "shed": "after the first shed",
    "months": "at some months",
    "adult": "adult",
}


@dataclass(frozen=True)
class Subject:
    """One combination: genes with copies in the order chosen, its genotype and its words."""

    genes: tuple[Carried, ...]
    genotype: dict[str, list[str]]
    label: str
    trade_name: str

    @property
    def key(self) -> str:
        """Its part of an address."""
        return key_of(self.genes)

    @property
    def address(self) -> str:
        """Its own page."""
        return reverse("combination", args=[self.key])


def subject_of(catalogue: Catalogue, key: str) -> Subject:
    """The combination of a key; 404 where a gene is unknown or a locus would need more than two alleles."""
    counts = Counter(key.split(".")) if key != NORMAL else Counter[str]()
    if not all(gene in catalogue.genes and copies <= 2 for gene, copies in counts.items()):
        raise Http404(f"no such combination: {key}")
    try:
        return subject_from(catalogue, tuple(counts.items()))
    except ValueError:
        raise Http404(f"no animal can have {key}") from None


def subject_from(catalogue: Catalogue, genes: tuple[Carried, ...]) -> Subject:
    """The combination of some genes; ValueError where a locus would need more than two alleles."""
    genotype, naming = genotype_of(catalogue, dict(genes)), Naming(catalogue)
    return Subject(genes, genotype, naming.label(genotype), naming.trade_name(genotype))


def stage_from(asked: str | None) -> str:
    """A stage that was asked for, else after the first shed."""
    return asked if asked in STAGES else "shed"
