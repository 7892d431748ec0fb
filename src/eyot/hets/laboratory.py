"""The simulated laboratory: a stand-in for one that tests shed skins. It draws what an animal is by the chance that stands."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal, Collection
from eyot.hets.kinship import gene_kin, recessives_of, records_of
from eyot.hets.models import GeneTest, LabOrder
from eyot.shared.refusal import Refused

NAME = "Simulated laboratory"
SENSITIVITY, SPECIFICITY = 0.99, 0.995
DAYS = 5
"""From the shed's arrival to the report."""


@dataclass(frozen=True)
class OrderRow:
    """One order with its next step. ``step``: what can be done now, empty where nothing; ``due_on``: the report's day."""

    order: LabOrder
    genes: str
    results: list[str]
    step: str
    due_on: date | None


def offered(collection: Collection) -> list[tuple[str, str]]:
    """The genes that the laboratory tests for: id and name."""
    catalogue = catalogue_of(collection)
    naming = Naming(catalogue)
    return [(gene, naming.gene(gene)) for gene in recessives_of(catalogue) if gene in catalogue.tested_genes]


def order_rows(collection: Collection, today: date) -> list[OrderRow]:
    """All orders, newest first, with what came of them: two queries."""
    naming = Naming(catalogue_of(collection))
    orders = LabOrder.objects.filter(animal__collection=collection).select_related("animal")
    tests = list(GeneTest.objects.filter(animal__collection=collection, laboratory=NAME))
    return [_row(order, naming, tests, today) for order in orders]


def _row(order: LabOrder, naming: Naming, tests: list[GeneTest], today: date) -> OrderRow:
    due = order.received_on + timedelta(days=DAYS) if order.received_on else None
    step = "" if order.reported_on else "report" if due else "received"
    results = [
        f"{naming.gene(one.gene)}: {one.result}"
        for one in tests
        if order.reported_on
        and one.animal_id == order.animal_id
        and one.gene in order.genes
        and one.on == order.reported_on
    ]
    return OrderRow(order, ", ".join(naming.gene(gene) for gene in order.genes), results, step, due)


def order_test(animal: Animal, member: AbstractBaseUser, genes: list[str], at: datetime) -> LabOrder:
    """Orders tests of an animal's shed. :class:`Refused` for genes that are not offered."""
    known = dict(offered(animal.collection))
    wanted = [gene for gene in dict.fromkeys(genes) if gene in known]
    if not wanted or len(wanted) < len(set(genes)):
        raise Refused("Choose genes that the laboratory offers. Nothing was ordered.")
    words = f"test of {animal.name} ordered (simulated): {', '.join(known[gene] for gene in wanted)}"
    with recording(animal.collection, member, at, words, subject_of(animal)) as record:
        return record.add(LabOrder(animal=animal, genes=wanted, ordered_on=timezone.localdate(at)))


def take_step(order: LabOrder, member: AbstractBaseUser, step: str, at: datetime) -> None:
    """The shed comes in, or the report is fetched; with ``pass`` the days until the report are let go by."""
    today, animal = timezone.localdate(at), order.animal
    if step == "received" and order.received_on is None:
        with recording(
            animal.collection, member, at, f"shed of {animal.name} received (simulated)", subject_of(animal)
        ) as record:
            record.change(order, received_on=today)
        return
    if step not in ("report", "pass") or order.received_on is None or order.reported_on is not None:
        raise Refused("That is not the next step of this order. Nothing was changed.")
    due = order.received_on + timedelta(days=DAYS)
    if step == "report" and today < due:
        raise Refused(f"The report comes on {due:%-d %B}. Nothing was changed.")
    _report(order, member, at)


def _report(order: LabOrder, member: AbstractBaseUser, at: datetime) -> None:
    animal = order.animal
    records = records_of(animal.collection, catalogue_of(animal.collection))
    with recording(animal.collection, member, at, f"report on {animal.name} (simulated)", subject_of(animal)) as record:
        for gene in order.genes:
            standing = gene_kin(records, gene).of(animal.pk)
            chance = 0.0 if standing is None else max(standing.carrier, standing.copies[2])
            record.add(
                GeneTest(
                    animal=animal,
                    gene=gene,
                    result=drawn_result(chance, random.Random(f"{order.pk}.{gene}")),  # noqa: S311  a simulation
                    sensitivity=SENSITIVITY,
                    specificity=SPECIFICITY,
                    on=timezone.localdate(at),
                    laboratory=NAME,
                    simulated=True,
                )
            )
        record.change(order, reported_on=timezone.localdate(at))


def drawn_result(chance: float, chooser: random.Random) -> str:
    """What the laboratory says of an animal that carries the gene with a chance: the animal is drawn, then the error."""
    is_carrier = chooser.random() < chance
    says_carrier = chooser.random() < (SENSITIVITY if is_carrier else 1 - SPECIFICITY)
    return GeneTest.Result.CARRIER if says_carrier else GeneTest.Result.CLEAR
