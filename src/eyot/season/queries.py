"""Reads on clutches and eggs. Everything starts from the collection."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import Any

from django.db.models import Count, Prefetch, Q, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone

from eyot_core.genetics.population import unknown_parent
from eyot_core.hatchery.days import Expected, expected_days

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, Collection
from eyot.season.models import Clutch, ClutchSire, Egg, Temperature


def clutches_of(collection: Collection) -> QuerySet[Clutch]:
    """All clutches with parents, sires and eggs."""
    return collection.clutches.select_related("dam", "collection").prefetch_related(
        Prefetch("clutch_sires", ClutchSire.objects.select_related("sire")), "eggs"
    )


def expected_of(clutch: Clutch, today: date | None = None) -> Expected:
    """The days to expect of a clutch that is laid, from what has happened so far and its incubator's mean temperature."""
    assert clutch.laid_on is not None
    return expected_days(clutch.laid_on, cut_on=clutch.cut_on, out_on=clutch.out_on, today=today, mean_c=clutch.mean_c)


def readings_of(clutch: Clutch, now: datetime) -> list[tuple[datetime, float, bool]]:
    """The readings of a clutch's incubator from the laying until it hatched, as time, °C and whether simulated: one query."""
    if clutch.incubator_id is None or clutch.laid_on is None:
        return []
    start = timezone.make_aware(datetime.combine(clutch.laid_on, time()))
    end = timezone.make_aware(datetime.combine(clutch.out_on, time(23, 59))) if clutch.out_on else now
    rows = Temperature.objects.filter(incubator=clutch.incubator_id, at__gte=start, at__lte=end)
    return list(rows.values_list("at", "celsius", "simulated"))


def clutches_of_season(collection: Collection, year: int | None) -> QuerySet[Clutch]:
    """The clutches laid or paired in a year; without one, those that are not closed. With rounds: a fixed number of queries."""
    clutches = clutches_of(collection).prefetch_related("rounds__sire")
    if year is None:
        return clutches.filter(closed_on=None)
    return clutches.filter(Q(laid_on__year=year) | Q(laid_on=None, paired_on__year=year))


def seasons_of(collection: Collection) -> list[int]:
    """The years in which clutches were laid or paired, newest first: one query."""
    days = collection.clutches.values_list("laid_on", "paired_on")
    return sorted({first.year for laid, paired in days if (first := laid or paired)}, reverse=True)


def clutch_of(collection: Collection, code: str) -> Clutch:
    """One clutch by its code; 404 where this collection has none."""
    return get_object_or_404(_with_genes(collection), code=code)


def recorded_clutch_of(collection: Collection, code: str) -> Clutch:
    """The same with what its record shows besides: the incubator and the rounds."""
    clutches = _with_genes(collection).select_related("incubator").prefetch_related("rounds__sire")
    return get_object_or_404(clutches, code=code)


def clutch_of_any(collection: Collection, code: str) -> Clutch:
    """The same, of those that were laid elsewhere too: for what is done with one egg."""
    here = _with_genes(collection).filter(code=code).first()
    if here:
        return here
    elsewhere = Clutch.everything.filter(collection=collection, elsewhere=True).select_related("collection")
    return get_object_or_404(elsewhere.prefetch_related("eggs__kept_as", "clutch_sires"), code=code)


def _with_genes(collection: Collection) -> QuerySet[Clutch]:
    return clutches_of(collection).prefetch_related("dam__genes", "clutch_sires__sire__genes")


def egg_of(clutch: Clutch, number: int) -> Egg:
    """One egg of a clutch that was read before; 404 if it has none of that number."""
    for egg in clutch.eggs.all():
        if egg.number == number:
            egg.clutch = clutch
            return egg
    raise Http404(f"{clutch.code} has no egg {number}")


def open_calls_by_clutch(collection: Collection) -> dict[int, int]:
    """How many hatchlings are open and not called yet, by clutch, in clutches that are not closed."""
    waiting = Egg.objects.filter(
        clutch__collection=collection,
        clutch__closed_on=None,
        clutch__elsewhere=False,
        state__in=[Egg.State.PIPPED, Egg.State.OPEN, Egg.State.WRAPPED, Egg.State.OUT],
        calls=None,
    )
    return dict(waiting.values("clutch").annotate(count=Count("pk")).order_by().values_list("clutch", "count"))


def eggs_without_originals(collection: Collection) -> list[Egg]:
    """The eggs of which a photo's file was looked for and not found: one query."""
    eggs = Egg.objects.filter(clutch__collection=collection, photos__original_missing=True, photos__taken_away_at=None)
    return list(eggs.select_related("clutch").distinct())


def parent_entry(animal: Animal) -> dict[str, Any]:
    """What is known of a parent, in the form of the core's contract."""
    return {"genes": [gene.as_entry() for gene in animal.genes.all()]}


def pairing_document(clutch: Clutch) -> dict[str, Any]:
    """Dam and sires of a clutch, in the form of the core's contract; of one that was laid elsewhere what is entered with its animal."""
    if clutch.elsewhere:
        (egg,) = clutch.eggs.all()
        assert egg.kept_as and egg.kept_as.dam and egg.kept_as.sire
        return {"dam": parent_entry(egg.kept_as.dam), "sires": [parent_entry(egg.kept_as.sire)]}
    sires = [{**parent_entry(entry.sire), "weight": entry.weight} for entry in clutch.clutch_sires.all()]
    return {"dam": parent_entry(clutch.own_dam), "sires": sires or [unknown_sire(clutch.collection, clutch.own_dam)]}


def unknown_sire(collection: Collection, dam: Animal) -> dict[str, Any]:
    """A sire that is not known, in the form of the core's contract: he may have any of her genes, as often as the population has.

    What only he could have given is left out: every gene of the catalogue at once is more than can be reckoned exactly.
    """
    genes = (gene.gene for gene in dam.genes.all())
    return {"genes": unknown_parent(catalogue_of(collection), genes)}


def sire_names(clutch: Clutch) -> list[str]:
    """Names of the sires, in order."""
    return [entry.sire.name for entry in clutch.clutch_sires.all()]
