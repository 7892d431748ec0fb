"""What pages show of hets: worked out at once where that is quick, else by a worker, whose last figures stand meanwhile."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from hashlib import sha256
from typing import Any

from django.db import transaction
from django.db.models import BigIntegerField, F, Func, JSONField, QuerySet, Sum, TextField, Value
from django.db.models.functions import Cast
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from eyot_core.catalogue import Catalogue
from eyot_core.proof.kin import PATIENT, KinStanding

from eyot.bench.models import CalledGene, Look, Proof
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import CarriedGene, Collection
from eyot.hets.kinship import GeneKin, Name, Records, gene_kin, recessives_of, records_of
from eyot.hets.models import GeneReckoning, GeneTest, HetMarker, PastBreeding
from eyot.season.models import Clutch, ClutchSire, Egg
from eyot.shared.jobs import has_failed

MOST_AT_ONCE = 2_000
"""Animals of a collection up to which everything is worked out while a page is waited for, but for tangled families."""
JOB = "hets.reckon"


@dataclass(frozen=True)
class Reckoned:
    """``kins``: genes in which anybody has a part. ``waiting``: those that a worker is at, with when the figures shown were made;
    none where it has not made any. ``has_failed``: they wait in vain, for a worker failed at the records as they stand."""

    kins: list[GeneKin]
    waiting: dict[str, datetime | None] = field(default_factory=dict)
    has_failed: bool = False

    def of(self, gene: str) -> GeneKin:
        """One gene's; empty where nobody has a part in it."""
        return next((kin for kin in self.kins if kin.gene == gene), GeneKin(gene, {}, []))


def reckoned(collection: Collection, records: Records, genes: Sequence[str] = ()) -> Reckoned:
    """Where all stand with some genes, or with all recessives; orders from a worker what is too much to wait for."""
    genes = genes or recessives_of(records.catalogue)
    if len(records.animals) > MOST_AT_ONCE:
        kins = [GeneKin(gene, {}, []) for gene in genes]
        heavy = [gene for gene in genes if _has_part(records, gene)]
    else:
        kins = [gene_kin(records, gene) for gene in genes]
        heavy = [kin.gene for kin in kins if kin.is_tangled]
    kept = (
        {row.gene: row for row in GeneReckoning.objects.filter(collection=collection, gene__in=heavy)} if heavy else {}
    )
    stamp = stamp_of(collection, records.catalogue) if heavy else ""
    waiting = {
        gene: kept[gene].reckoned_at if gene in kept else None for gene in heavy if not _is_of(kept, gene, stamp)
    }
    failed = bool(waiting) and has_failed(JOB, collection=collection.pk, stamp=stamp)
    if waiting and not failed:
        order(collection, stamp)
    shown = [_with_kept(kin, kept[kin.gene]) if kin.gene in kept else kin for kin in kins]
    return Reckoned([kin for kin in shown if kin.names or kin.gene in waiting], waiting, failed)


def _is_of(kept: dict[str, GeneReckoning], gene: str, stamp: str) -> bool:
    return gene in kept and kept[gene].stamp == stamp


def _has_part(records: Records, gene: str) -> bool:
    parts = (records.stated, records.hatched, records.marks, records.past, records.tests)
    return any(by_gene.get(gene) for by_gene in parts)


def _with_kept(kin: GeneKin, row: GeneReckoning) -> GeneKin:
    """A worker's figures for those that stand by their own records alone, or for all where nothing was worked out at once."""
    if row.figures is None:
        return GeneKin(kin.gene, kin.names, None)
    known = dict(map(_standing_of, row.figures))
    if not kin.names:
        return GeneKin(kin.gene, {name: place for place, name in enumerate(known)}, list(known.values()))
    rows = [
        known.get(name, one) if one.basis == "own" else one
        for name, one in zip(kin.names, kin.standings or (), strict=True)
    ]
    return GeneKin(kin.gene, kin.names, rows)


def _row_of(name: Name, one: KinStanding) -> list[Any]:
    return [*name, one.from_parents, one.with_marks, *one.copies, one.basis, one.error]


def _standing_of(row: list[Any]) -> tuple[Name, KinStanding]:
    kind, number, from_parents, with_marks, none, single, two, basis, error = row
    return (kind, number), KinStanding(from_parents, with_marks, (none, single, two), basis, error)


def order(collection: Collection, stamp: str) -> None:
    """Asks for the figures of a collection whose records have a stamp, once until a worker is at it; photos go first."""
    try:
        with transaction.atomic():
            lock = f"hets {collection.pk}"
            task = app.configure_task(JOB, queue="photos", queueing_lock=lock, lock=lock, priority=-10)
            task.defer(collection=collection.pk, stamp=stamp)
    except AlreadyEnqueued:
        pass


def reckon(number: int, at: datetime) -> None:
    """Works out all genes of a collection with all the time that it takes, where its records changed since the last time."""
    collection = Collection.objects.filter(pk=number).first()
    if collection is None:
        return
    catalogue = catalogue_of(collection)
    stamp = stamp_of(collection, catalogue)
    rows = GeneReckoning.objects.filter(collection=collection)
    if rows.exists() and not rows.exclude(stamp=stamp).exists():
        return
    records = records_of(collection, catalogue)
    for gene in recessives_of(catalogue):
        kin = gene_kin(records, gene, PATIENT)
        if kin.names:
            figures = (
                None if kin.standings is None else [_row_of(*row) for row in zip(kin.names, kin.standings, strict=True)]
            )
            values = {"stamp": stamp, "reckoned_at": at, "figures": figures}
            GeneReckoning.objects.update_or_create(values, collection=collection, gene=gene)
        else:
            rows.filter(gene=gene).delete()


def stamp_of(collection: Collection, catalogue: Catalogue) -> str:
    """Changes with whatever a reckoning rests on: ten queries, whose answers are single numbers."""
    traits = sorted({row["trait"] for row in catalogue.document["markers"]})
    looks = Look.objects.that_may_count().filter(egg__clutch__collection=collection, trait__in=traits)
    parts: list[tuple[QuerySet[Any], Iterable[str]]] = [
        (collection.animals.all(), ("pk", "dam", "sire")),
        (Clutch.objects.filter(collection=collection), ("pk", "dam")),
        (ClutchSire.objects.filter(clutch__collection=collection), ("clutch", "sire", "weight")),
        (Egg.objects.filter(clutch__collection=collection), ("pk", "kept_as")),
        (CarriedGene.objects.filter(animal__collection=collection), ("animal", "gene", "copies", "known", "chance")),
        (CalledGene.objects.filter(call__egg__clutch__collection=collection), ("call", "gene", "verdict", "copies")),
        (Proof.objects.filter(egg__clutch__collection=collection), ("egg", "gene", "copies")),
        (HetMarker.objects.filter(animal__collection=collection), ("animal", "gene", "trait", "level", "seen")),
        (
            PastBreeding.objects.filter(animal__collection=collection),
            ("animal", "gene", "partner", "chance", "hatchlings", "visuals"),
        ),
        (
            GeneTest.objects.filter(animal__collection=collection),
            ("animal", "gene", "result", "sensitivity", "specificity"),
        ),
        (looks, ("egg", "trait", "level", "seen_at", "withdrawn_at")),
    ]
    genes = {gene: catalogue.genes[gene].frequency for gene in recessives_of(catalogue)}
    said = [collection.markers_on, genes, catalogue.document["markers"], *(_hash(*part) for part in parts)]
    return sha256(json.dumps(said, default=str, sort_keys=True).encode()).hexdigest()


def _hash(rows: QuerySet[Any], fields: Iterable[str]) -> int:
    """A number of some rows that their order does not change."""
    values = Cast(Func(*map(F, fields), function="jsonb_build_array", output_field=JSONField()), TextField())
    row = Func(values, Value(0), function="hashtextextended", output_field=BigIntegerField())
    return int(rows.order_by().aggregate(all=Sum(row))["all"] or 0)
