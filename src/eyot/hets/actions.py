"""Changes of what is known of carriers. Every one is kept with who and when, and can be taken back in the record of changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import TypeVar

from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError

from eyot_core.wording.names import Naming

from eyot.collection.actions import add_override, withdraw_override
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal, CarriedGene, CatalogueOverride, Collection, valid_chance
from eyot.hets.carriers import how_proven, is_entered
from eyot.hets.kinship import gene_kin, recessives_of, records_of
from eyot.hets.ledger import PROVEN, counts_of
from eyot.hets.markers import LEAST_PROVEN, markers_of
from eyot.hets.models import GeneTest, HetMarker, PastBreeding
from eyot.hets.reckoning import reckoned
from eyot.shared.refusal import Refused

MOST_HATCHLINGS = 400
Row = TypeVar("Row", PastBreeding, GeneTest)
SEEN = {"seen": True, "unseen": False}


def _gene_name(animal: Animal, gene: str) -> str:
    catalogue = catalogue_of(animal.collection)
    if gene not in recessives_of(catalogue):
        raise Refused(f"“{gene}” is no recessive gene of the catalogue. Nothing was changed.")
    return Naming(catalogue).gene(gene)


def switch_markers(collection: Collection, member: AbstractBaseUser, at: datetime) -> None:
    """Marks count, or nothing but genetics counts; for the whole collection."""
    words = "marks of hets don’t count any more" if collection.markers_on else "marks of hets count"
    with recording(collection, member, at, words, "collection") as record:
        record.change(collection, markers_on=not collection.markers_on)


def keep_marks(animal: Animal, member: AbstractBaseUser, gene: str, answers: Mapping[str, str], at: datetime) -> None:
    """What was seen of each mark; ``answers``: seen, unseen or empty (not looked for) by "trait.level"."""
    name, rows = _gene_name(animal, gene), {(row.trait, row.level): row for row in animal.marks.filter(gene=gene)}
    with recording(animal.collection, member, at, f"marks of het {name}: {animal.name}", subject_of(animal)) as record:
        for marker in markers_of(catalogue_of(animal.collection), gene):
            trait, level = marker["trait"], marker["level"]
            answer, row = answers.get(f"{trait}.{level}", ""), rows.get((trait, level))
            if answer not in ("", *SEEN):
                raise Refused(f"A mark is seen, not seen, or not looked for, not “{answer}”. Nothing was changed.")
            if row and not answer:
                record.remove(row)
            elif row:
                record.change(row, seen=SEEN[answer])
            elif answer:
                record.add(HetMarker(animal=animal, gene=gene, trait=trait, level=level, seen=SEEN[answer]))


def add_breeding(animal: Animal, member: AbstractBaseUser, row: PastBreeding, at: datetime) -> PastBreeding:
    """A breeding outside the record. :class:`Refused`, with nothing changed, for counts that can't be."""
    name = _gene_name(animal, row.gene)
    if row.visuals > row.hatchlings:
        raise Refused(
            f"{row.visuals} of {row.hatchlings} can’t show it: more visuals than hatchlings. Nothing was changed."
        )
    if not 0 < row.hatchlings <= MOST_HATCHLINGS:
        raise Refused(f"Hatchlings: from 1 to {MOST_HATCHLINGS}. Nothing was changed.", field="hatchlings")
    if row.partner not in PastBreeding.Partner.values:
        raise Refused("Say what the partner was. Nothing was changed.")
    if row.partner == PastBreeding.Partner.NORMAL and row.visuals:
        raise Refused("A normal partner gives no visual: one of the two is wrong. Nothing was changed.")
    if row.partner == PastBreeding.Partner.POSSIBLE:
        _check_chance(row.chance)
    words = f"{animal.name} × {row.get_partner_display()}: {row.visuals} of {row.hatchlings} {name}"
    return _added(animal, member, row, words, at)


def _check_chance(text: str) -> None:
    try:
        valid_chance(text)
    except ValidationError as error:
        raise Refused(
            f"A possible het needs its chance, such as 2/3: {error.messages[0]} Nothing was changed."
        ) from None


def add_test(animal: Animal, member: AbstractBaseUser, row: GeneTest, at: datetime) -> GeneTest:
    """A laboratory's result. :class:`Refused`, with nothing changed, for what is no result or no rate."""
    name = _gene_name(animal, row.gene)
    if row.result not in GeneTest.Result.values:
        raise Refused("A result is “carrier” or “clear”. Nothing was changed.")
    if not (0 <= row.sensitivity <= 1 and 0 <= row.specificity <= 1):
        raise Refused("Error rates are shares from 0 to 1, such as 0.99. Nothing was changed.")
    if not row.laboratory.strip():
        raise Refused("Say which laboratory it was. Nothing was changed.", field="laboratory")
    return _added(animal, member, row, f"test of {animal.name}: {name} {row.result}", at)


def enter_carrier(animal: Animal, member: AbstractBaseUser, gene: str, at: datetime) -> CarriedGene:
    """Writes a certain carrier into the animal's record, with how it is known. :class:`Refused` while it is not certain."""
    name, catalogue = _gene_name(animal, gene), catalogue_of(animal.collection)
    records = records_of(animal.collection, catalogue)
    everywhere = reckoned(animal.collection, records, [gene])
    if gene in everywhere.waiting and everywhere.has_failed:
        raise Refused("A worker failed at the figures of this gene, so nothing is certain. Nothing was changed.")
    if gene in everywhere.waiting:
        raise Refused("A worker is at the figures of this gene: try again in a minute. Nothing was changed.")
    standing = everywhere.of(gene).of(animal.pk)
    if standing is None or standing.carrier < PROVEN or is_entered(records, gene, animal):
        raise Refused("There is nothing certain to enter: records or results were changed since. Nothing was changed.")
    row, known = records.stated.get(gene, {}).get(animal.pk), how_proven(records, gene, animal)
    with recording(animal.collection, member, at, f"{animal.name}: het {name}, {known}", subject_of(animal)) as record:
        if row is None:
            return record.add(CarriedGene(animal=animal, gene=gene, copies=1, known=known))
        record.change(row, copies=1, known=known, chance="1", two_chance="")
        return row


def _added(animal: Animal, member: AbstractBaseUser, row: Row, words: str, at: datetime) -> Row:
    row.animal = animal
    with recording(animal.collection, member, at, words, subject_of(animal)) as record:
        record.add(row)
        _check_fits(animal, row.gene)
    return row


def _check_fits(animal: Animal, gene: str) -> None:
    """The records must not contradict one another; what contradicts is not kept."""
    collection = animal.collection
    if gene_kin(records_of(collection, catalogue_of(collection)), gene).standings is None:
        raise Refused(
            "That can’t be, with what is certain of this animal and its relatives: look for a slip in this entry, in the "
            "animal’s record, or in a parent’s. Nothing was changed."
        )


@dataclass(frozen=True)
class Typed:
    """One result as a file has it, with its row."""

    row: int
    animal: str
    gene: str
    result: str
    on: date | None
    laboratory: str
    sensitivity: float
    specificity: float


def take_over_ratio(collection: Collection, member: AbstractBaseUser, gene: str, mark: str) -> CatalogueOverride:
    """Uses what the collection's own proven animals say of a mark. :class:`Refused` below the floor."""
    counted = next((row for row in counts_of(collection, gene) if f"{row.trait}.{row.level}" == mark), None)
    if counted is None or not counted.is_enough:
        raise Refused(f"This takes {LEAST_PROVEN} proven carriers and as many proven others. Nothing was changed.")
    value = {"kind": "marker", "gene": gene, "trait": counted.trait, "level": counted.level}
    for held in collection.overrides.filter(withdrawn_at=None, value__contains=value):
        withdraw_override(held)
    ratios = {"ratio_seen": round(counted.own_seen, 3), "ratio_unseen": round(counted.own_unseen, 3)}
    counts = {"carriers": counted.carriers.count, "others": counted.others.count}
    return add_override(collection, member, value | ratios | counts)


def import_tests(collection: Collection, member: AbstractBaseUser, typed: Sequence[Typed], at: datetime) -> int:
    """A laboratory's file, as a whole or not at all; :class:`Refused` names every fault by its row."""
    animals = {animal.name.lower(): animal for animal in collection.animals.all()}
    animals |= {animal.code.lower(): animal for animal in collection.animals.exclude(code="")}
    genes, faults = {gene.lower(): gene for gene in recessives_of(catalogue_of(collection))}, []
    naming = Naming(catalogue_of(collection))
    genes |= {naming.gene(gene).lower(): gene for gene in genes.values()}
    rows = []
    for one in typed:
        animal, gene = animals.get(one.animal.lower()), genes.get(one.gene.lower())
        if animal is None:
            faults.append(f"row {one.row}: there is no animal “{one.animal}”")
        elif gene is None:
            faults.append(f"row {one.row}: “{one.gene}” is no recessive gene that is known")
        elif one.result not in GeneTest.Result.values:
            faults.append(f"row {one.row}: a result is “carrier” or “clear”, not “{one.result}”")
        elif one.on is None:
            faults.append(f"row {one.row}: the day is missing")
        else:
            rows.append(
                GeneTest(
                    animal=animal,
                    gene=gene,
                    result=one.result,
                    on=one.on,
                    laboratory=one.laboratory[:60],
                    sensitivity=one.sensitivity,
                    specificity=one.specificity,
                )
            )
    if faults:
        raise Refused(f"Nothing was taken from the file. {'; '.join(faults[:12])}.")
    with recording(collection, member, at, f"{len(rows)} test results from a file", "collection") as record:
        record.add_all(rows)
    return len(rows)
