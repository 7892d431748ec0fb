"""The het ledger: every animal that may carry a recessive, by the trade's figure, by its marks, and after everything."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from django.core.paginator import Page, Paginator

from eyot_core.catalogue import Catalogue
from eyot_core.proof.carriers import Standing
from eyot_core.proof.kin import KinStanding
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, Collection, Sex
from eyot.hets.kinship import GeneKin, Records, all_parents, gene_kin, records_of
from eyot.hets.markers import MarkerCount, marker_counts
from eyot.hets.reckoning import reckoned

LISTED_FROM = 0.03
"""Chance from which an animal stands in the ledger; one of which nothing is stated stays below."""
PROVEN, VISUAL = 1 - 1e-9, 0.5
RULED_OUT = 0.01
TRADE = {1.0: "100 % het", 2 / 3: "66 % possible het", 0.5: "50 % possible het"}
SORTS = (("worth", "worth proving first"), ("chance", "likeliest first"), ("name", "by name"))
LEAST_PARTNER = 0.1
ON_A_PAGE = 60


@dataclass(frozen=True)
class Asked:
    """What the ledger is narrowed to. ``role``: ``young`` for what was held back here."""

    gene: str = ""
    sex: str = ""
    role: str = ""
    sort: str = "worth"
    page: str = "1"


@dataclass(frozen=True)
class LedgerRow:
    """One animal with one gene. ``after``: chance after marks, breedings, tests and relatives; ``drawn``: how far that may be
    off where it is drawn, in words."""

    animal: Animal
    gene: str
    gene_name: str
    trade: str
    from_parents: float
    with_marks: float
    after: float
    evidence: str
    settles: str
    drawn: str

    @property
    def figures(self) -> tuple[str, str, str]:
        """From the parents, with marks, after everything; in words."""
        return (
            percent(self.from_parents, certain=True),
            percent(self.with_marks, certain=True),
            percent(self.after, certain=self.is_proven),
        )

    @property
    def is_proven(self) -> bool:
        """Is it certain?"""
        return self.after >= PROVEN

    @property
    def shift(self) -> tuple[int, int]:
        """Trade's figure and chance after everything, as lengths out of 100."""
        return round(self.from_parents * 100), round(self.after * 100)


@dataclass(frozen=True)
class WaitingGene:
    """A gene that a worker is at. ``as_of``: since when the figures shown are, none where it has not made any yet;
    ``is_missing``: is nothing shown?"""

    name: str
    as_of: datetime | None
    is_missing: bool


@dataclass(frozen=True)
class Ledger:
    """The rows asked for. ``contradictions``: genes of which the records say what can't be; ``drawn``, ``tangled``: those of
    which not all is exact; ``waiting``: those that a worker is at, or failed at where ``has_failed``."""

    rows: list[LedgerRow]
    genes: list[tuple[str, str]]
    contradictions: list[str]
    drawn: list[str]
    tangled: list[str]
    waiting: list[WaitingGene]
    has_failed: bool
    page: Page[Entry]


@dataclass(frozen=True)
class Partner:
    """An animal that would prove another. ``visual``: chance that a hatchling of the two shows it, if the other carries it."""

    animal: Animal
    visual: float
    words: str


@dataclass(frozen=True)
class Entry:
    """One animal with one gene, before it is put into words."""

    animal: Animal
    kin: GeneKin
    standing: KinStanding

    @property
    def worth(self) -> float:
        """How open it is: 0 to 1, 1 at even chances."""
        return 4 * self.standing.carrier * (1 - self.standing.carrier)


def ledger(collection: Collection, asked: Asked) -> Ledger:
    """One page of the ledger: eight queries, and one reckoning for each gene that anybody may carry."""
    catalogue = catalogue_of(collection)
    records, naming = records_of(collection, catalogue), Naming(catalogue)
    everywhere = reckoned(collection, records)
    kins = [kin for kin in everywhere.kins if kin.gene == (asked.gene or kin.gene)]
    entries = [entry for kin in kins for entry in _entries(records, kin)]
    wanted = sorted(
        (entry for entry in entries if _is_asked(entry, asked)), key=ORDERS.get(asked.sort, ORDERS["worth"])
    )
    page = Paginator(wanted, ON_A_PAGE).get_page(asked.page)
    partners = {kin.gene: partners_of(records, kin) for kin in {entry.kin.gene: entry.kin for entry in page}.values()}
    return Ledger(
        rows=[_row(records, entry, partners[entry.kin.gene], naming) for entry in page],
        genes=[(kin.gene, naming.gene(kin.gene)) for kin in everywhere.kins],
        contradictions=[naming.gene(kin.gene) for kin in everywhere.kins if kin.standings is None],
        drawn=[naming.gene(kin.gene) for kin in kins if kin.is_drawn],
        tangled=[naming.gene(kin.gene) for kin in kins if kin.is_tangled and kin.gene not in everywhere.waiting],
        waiting=[
            WaitingGene(naming.gene(kin.gene), everywhere.waiting[kin.gene], not kin.names)
            for kin in kins
            if kin.gene in everywhere.waiting
        ],
        has_failed=everywhere.has_failed,
        page=page,
    )


def _is_asked(entry: Entry, asked: Asked) -> bool:
    by_sex = not asked.sex or entry.animal.sex == asked.sex
    return by_sex and (asked.role != "young" or getattr(entry.animal, "hatched_from", None) is not None)


TIE = 9
ORDERS: dict[str, Callable[[Entry], tuple[float | str, ...]]] = {
    "worth": lambda entry: (-round(entry.worth, TIE), entry.animal.name, entry.kin.gene),
    "chance": lambda entry: (-round(entry.standing.carrier, TIE), entry.animal.name, entry.kin.gene),
    "name": lambda entry: (entry.animal.name, entry.kin.gene),
}


def _entries(records: Records, kin: GeneKin) -> list[Entry]:
    entries = []
    for (kind, number), place in kin.names.items():
        if kind == "animal" and kin.standings is not None and records.animals[number].is_here:
            standing = kin.standings[place]
            likely = max(standing.carrier, standing.from_parents) >= LISTED_FROM
            if likely and standing.copies[2] < VISUAL:
                entries.append(Entry(records.animals[number], kin, standing))
    return entries


def _row(records: Records, entry: Entry, partners: Sequence[Partner], naming: Naming) -> LedgerRow:
    animal, gene, standing = entry.animal, entry.kin.gene, entry.standing
    return LedgerRow(
        animal,
        gene,
        naming.gene(gene),
        trade_words(standing.from_parents),
        standing.from_parents,
        standing.with_marks,
        standing.carrier,
        evidence_words(records, gene, animal.pk),
        settles_soonest(records.catalogue, gene, animal, standing.carrier, partners),
        drawn_words(standing),
    )


def drawn_words(standing: KinStanding) -> str:
    """How far a chance that is drawn may be off: twice its standard error, in points; empty where it is exact.

    >>> drawn_words(KinStanding(0.5, 0.5, (0.5, 0.5, 0.0))), drawn_words(KinStanding(0.5, 0.5, (0.5, 0.5, 0.0), "drawn", 0.006))
    ('', '± 2')
    """
    return f"± {math.ceil(200 * standing.error)}" if standing.error else ""


def trade_words(chance: float) -> str:
    """The trade's words for a chance from the parents alone.

    >>> trade_words(2 / 3), trade_words(0.5), trade_words(1.0), trade_words(1 / 3), trade_words(0)
    ('66 % possible het', '50 % possible het', '100 % het', '33 % possible het', 'nothing by its parents')
    """
    for value, words in TRADE.items():
        if abs(chance - value) < 1e-6:
            return words
    return f"{int(chance * 100)} % possible het" if chance >= 0.01 else "nothing by its parents"


def evidence_words(records: Records, gene: str, number: int) -> str:
    """How much is known beside the parents, in words."""
    marks = len(records.marks.get(gene, {}).get(number, ()))
    tests = len(records.tests.get(gene, {}).get(number, ()))
    past = sum(row.hatchlings for row in records.past.get(gene, {}).get(number, ()))
    hatched = sum(number in all_parents(records, ("egg", egg)) for egg in records.hatched.get(gene, ()))
    parts = [
        f"{marks} mark{'s' * (marks != 1)}" * bool(marks),
        f"{past + hatched} hatchling{'s' * (past + hatched != 1)}" * bool(past + hatched),
        f"{tests} test{'s' * (tests != 1)}" * bool(tests),
    ]
    return ", ".join(filter(None, parts))


def partners_of(records: Records, one: GeneKin) -> list[Partner]:
    """Animals that would prove a carrier of the gene, the quickest first."""
    if one.standings is None:
        return []
    partners = []
    for (kind, number), place in one.names.items():
        if kind == "animal" and records.animals[number].is_here:
            copies = one.standings[place].copies
            visual = 0.5 * (0.5 * copies[1] + copies[2])
            if visual >= LEAST_PARTNER:
                words = (
                    "visual"
                    if copies[2] > VISUAL
                    else "het"
                    if copies[1] >= PROVEN
                    else f"het with {percent(copies[1])}"
                )
                partners.append(Partner(records.animals[number], visual, words))
    return sorted(partners, key=lambda partner: (-partner.visual, partner.animal.name))


def partners_for(animal: Animal, partners: Sequence[Partner]) -> list[Partner]:
    """Those of the other sex, or of one that is not known."""
    other = {Sex.FEMALE: Sex.MALE, Sex.MALE: Sex.FEMALE}.get(Sex(animal.sex))
    return [one for one in partners if one.animal.pk != animal.pk and (other is None or one.animal.sex in (other, ""))]


def settles_soonest(catalogue: Catalogue, gene: str, animal: Animal, after: float, partners: Sequence[Partner]) -> str:
    """What would settle it soonest: a test where one is offered, else the partner here that proves it with the fewest hatchlings."""
    if after >= PROVEN:
        return "nothing: it is certain"
    tested = "a DNA test of a shed" if gene in catalogue.tested_genes else ""
    best = next((one for one in partners_for(animal, partners) if one.words in ("visual", "het")), None)
    if best is None:
        return tested or "no certain partner is here"
    needed = Standing.of(after).still_needed(best.words, 0.05)
    if needed == 0:
        return "as good as ruled out"
    bred = f"{best.animal.name} ({best.words}): {needed} hatchlings without a visual leave 5 %"
    return f"{tested}; or {bred}" if tested else bred


def counts_of(collection: Collection, gene: str) -> list[MarkerCount]:
    """A gene's marks among the collection's own proven animals; what marks say themselves proves nobody."""
    catalogue = catalogue_of(collection)
    records = records_of(collection, catalogue)
    kin = gene_kin(replace(records, markers_on=False), gene)
    proven = {}
    for (kind, number), place in kin.names.items():
        if kind == "animal" and kin.standings is not None:
            chance = kin.standings[place].carrier
            if chance >= PROVEN or chance <= RULED_OUT:
                proven[number] = chance >= PROVEN
    marks = [row for rows in records.marks.get(gene, {}).values() for row in rows]
    return marker_counts(catalogue, gene, marks, proven)


@dataclass(frozen=True)
class NeededRow:
    """How many more hatchlings, none visual, until 5 % and 1 % are left; by one partner."""

    partner: Partner
    five: int | None
    one: int | None


def needed_by(animal: Animal, after: float, partners: Sequence[Partner], most: int = 6) -> list[NeededRow]:
    """The partners here that would prove it, with how many hatchlings each takes. A possible het may never settle it."""
    standing, rows = Standing.of(after), list[NeededRow]()
    for partner in partners_for(animal, partners)[:most]:
        if partner.words in ("visual", "het"):
            counts = [standing.still_needed(partner.words, target) for target in (0.05, 0.01)]
            rows.append(NeededRow(partner, *counts))
        else:
            rows.append(NeededRow(partner, None, None))
    return rows
