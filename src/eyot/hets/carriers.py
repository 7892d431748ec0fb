"""One animal and one recessive: where it stands, on what that rests, and what would settle it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from eyot_core.proof.kin import VISUAL, KinStanding
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene
from eyot.hets.kinship import GeneKin, Records, all_parents, records_of
from eyot.hets.ledger import (
    PROVEN,
    NeededRow,
    drawn_words,
    needed_by,
    partners_of,
    settles_soonest,
    trade_words,
)
from eyot.hets.markers import MarkerRow, marker_rows
from eyot.hets.models import GeneTest, PastBreeding
from eyot.hets.reckoning import reckoned
from eyot.photos.models import Photo
from eyot.season.models import Clutch


@dataclass(frozen=True)
class BredRow:
    """One clutch of the record that speaks of it: the hatchlings that show the gene, and how many don't.

    ``one_of``: what a visual says where the sire is one of several; empty where there is one.
    """

    clutch: Clutch
    partner: str
    visuals: list[int]
    others: int
    one_of: str


@dataclass(frozen=True)
class CarrierPage:
    """Everything of the page. ``figures``: from the parents, with marks, after everything; ``bars``: the same out of 200.

    ``basis``: see :class:`~eyot_core.proof.kin.KinStanding`; ``drawn``: how far the last figure may be off then; ``waits``: is a
    worker at it, with ``as_of``: since when the figures shown are; none where it has not made any that count relatives.
    """

    name: str
    is_visual: bool
    is_proven: bool
    offer: str
    contradiction: bool
    basis: str
    drawn: str
    waits: bool
    has_failed: bool
    is_missing: bool
    as_of: datetime | None
    trade: str
    figures: tuple[str, str, str]
    bars: tuple[int, int, int]
    parents: list[str]
    schools: str
    markers_on: bool
    marks: list[MarkerRow]
    bred: list[BredRow]
    past: list[PastBreeding]
    tests: list[GeneTest]
    reasons: list[str]
    settles: str
    is_tested_for: bool
    needed: list[NeededRow]
    ultraviolet: list[Photo]


def carrier_details(animal: Animal, gene: str) -> CarrierPage:
    """Where an animal stands with a gene: a fixed number of queries."""
    catalogue = catalogue_of(animal.collection)
    records, naming = records_of(animal.collection, catalogue), Naming(catalogue)
    everywhere = reckoned(animal.collection, records, [gene])
    kin = everywhere.of(gene)
    standing = kin.of(animal.pk) or KinStanding(0.0, 0.0, (1.0, 0.0, 0.0))
    after = standing.carrier
    partners, bred, photos = partners_of(records, kin), bred_rows(records, gene, animal), _photos(animal)
    chances = (standing.from_parents, standing.with_marks, after)
    return CarrierPage(
        name=naming.gene(gene),
        is_visual=standing.copies[2] > PROVEN,
        is_proven=after >= PROVEN,
        offer=how_proven(records, gene, animal) if after >= PROVEN and not is_entered(records, gene, animal) else "",
        contradiction=kin.standings is None,
        basis=standing.basis,
        drawn=drawn_words(standing),
        waits=gene in everywhere.waiting and not everywhere.has_failed,
        has_failed=gene in everywhere.waiting and everywhere.has_failed,
        is_missing=not kin.names and gene in everywhere.waiting,
        as_of=everywhere.waiting.get(gene),
        trade=trade_words(standing.from_parents),
        figures=(
            percent(chances[0], certain=True),
            percent(chances[1], certain=True),
            percent(after, certain=after >= PROVEN),
        ),
        bars=(round(chances[0] * 200), round(chances[1] * 200), round(chances[2] * 200)),
        parents=[_parent_words(role, one, kin) for role, one in (("dam", animal.dam), ("sire", animal.sire))],
        schools=naming.text(gene, "carriers"),
        markers_on=records.markers_on,
        marks=marker_rows(catalogue, animal, gene, records.marks.get(gene, {}).get(animal.pk, ()), photos),
        bred=bred,
        past=list(records.past.get(gene, {}).get(animal.pk, ())),
        tests=list(records.tests.get(gene, {}).get(animal.pk, ())),
        reasons=_reasons(naming.gene(gene), bred, records, gene, animal),
        settles=settles_soonest(catalogue, gene, animal, after, partners),
        is_tested_for=gene in catalogue.tested_genes,
        needed=needed_by(animal, after, partners) if after < PROVEN else [],
        ultraviolet=[photo for photo in photos if photo.kind == Photo.Kind.ULTRAVIOLET],
    )


def is_entered(records: Records, gene: str, animal: Animal) -> bool:
    """Does the animal's own record say for certain that it has the gene?"""
    row = records.stated.get(gene, {}).get(animal.pk)
    return row is not None and row.chance == "1"


def how_proven(records: Records, gene: str, animal: Animal) -> str:
    """How a carrier is known, as a record has it: bred, tested, or declared by what its parents are."""
    past = records.past.get(gene, {}).get(animal.pk, ())
    if any(row.visuals for row in bred_rows(records, gene, animal)) or any(row.visuals for row in past):
        return CarriedGene.Known.BRED
    tests = records.tests.get(gene, {}).get(animal.pk, ())
    tested = any(row.result == GeneTest.Result.CARRIER for row in tests)
    return CarriedGene.Known.TESTED if tested else CarriedGene.Known.DECLARED


def bred_rows(records: Records, gene: str, animal: Animal) -> list[BredRow]:
    """The clutches of the record in which hatchlings of an animal were called or proven for the gene, by code."""
    by_clutch: dict[int, list[tuple[int, bool]]] = {}
    clutches: dict[int, Clutch] = {}
    for pk, likelihood in records.hatched.get(gene, {}).items():
        egg = records.eggs[pk]
        if animal.pk in all_parents(records, ("egg", pk)):
            clutches[egg.clutch_id] = egg.clutch
            by_clutch.setdefault(egg.clutch_id, []).append((egg.number, likelihood == VISUAL))
    rows = []
    for number, hatched in by_clutch.items():
        clutch = clutches[number]
        sires = [sire for sire, _ in records.sires.get(number, ())]
        partners = sires if clutch.dam_id == animal.pk else [_dam_of(clutch)]
        name = " or ".join(records.animals[one].name for one in partners)
        visuals = sorted(egg for egg, shows in hatched if shows)
        rows.append(BredRow(clutch, name, visuals, len(hatched) - len(visuals), _one_of(records, clutch)))
    return sorted(rows, key=lambda row: row.clutch.code)


def _dam_of(clutch: Clutch) -> int:
    assert clutch.dam_id is not None, "a clutch that was laid here"
    return clutch.dam_id


def _one_of(records: Records, clutch: Clutch) -> str:
    """What a visual says where more than one sire may be its own; empty where there is one."""
    sires = [records.animals[sire].name for sire, _ in records.sires.get(clutch.pk, ())]
    if len(sires) < 2:
        return ""
    return (
        f"it comes from {records.animals[_dam_of(clutch)].name}, who carries it, and from one of {' and '.join(sires)}"
    )


def _parent_words(role: str, parent: Animal | None, kin: GeneKin) -> str:
    if parent is None:
        return f"{role} not entered"
    standing = kin.of(parent.pk)
    if standing is None:
        return f"{parent.name}: nothing is stated"
    if standing.copies[2] > PROVEN:
        return f"{parent.name}: visual"
    chance = standing.carrier
    return f"{parent.name}: het, certain" if chance >= PROVEN else f"{parent.name}: het with {percent(chance)}"


def _reasons(name: str, bred: Sequence[BredRow], records: Records, gene: str, animal: Animal) -> list[str]:
    """What moved it from the trade's figure, the decisive first."""
    sentences = []
    for row in bred:
        if row.visuals:
            eggs = f"egg {row.visuals[0]}" if len(row.visuals) == 1 else f"eggs {', '.join(map(str, row.visuals))}"
            shows = f"{eggs} of {row.clutch.code} show{'s' * (len(row.visuals) == 1)} {name}"
            both = f"it comes from both parents, so {animal.name} and {row.partner} carry it"
            sentences.append(f"{shows}: {row.one_of or both}.")
        elif row.others:
            sentences.append(
                f"{row.others} hatchling{'s' * (row.others != 1)} of {row.clutch.code} with {row.partner}, none visual."
            )
    sentences += _of_siblings(name, records, gene, animal)
    return [words[0].upper() + words[1:] for words in sentences]


def _of_siblings(name: str, records: Records, gene: str, animal: Animal) -> list[str]:
    """Visual siblings and half-siblings: they say what the parents are."""
    if animal.dam is None:
        return []
    by_clutch: dict[str, list[int]] = {}
    for pk, likelihood in records.hatched.get(gene, {}).items():
        egg = records.eggs[pk]
        if likelihood == VISUAL and egg.clutch.dam_id == animal.dam_id and egg.kept_as_id != animal.pk:
            by_clutch.setdefault(egg.clutch.code, []).append(egg.number)
    return [
        f"{'egg' if len(eggs) == 1 else 'eggs'} {', '.join(map(str, sorted(eggs)))} of {code} "
        f"{'shows' if len(eggs) == 1 else 'show'} {name}: so {animal.dam.name} carries it."
        for code, eggs in sorted(by_clutch.items())
    ]


def _photos(animal: Animal) -> list[Photo]:
    egg = getattr(animal, "hatched_from", None)
    return [photo for photo in egg.photos.all() if photo.has_sizes] if egg else []
