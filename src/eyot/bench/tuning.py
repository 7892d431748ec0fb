"""What the collection's own proven animals say of how strongly each look tells; the keeper takes it over, or leaves it."""

from __future__ import annotations

import json
from collections import defaultdict
from dataclasses import dataclass
from functools import lru_cache

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import QuerySet

from eyot_core.catalogue.model import Catalogue
from eyot_core.catalogue.overlay import trusting_all_looks
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.traits import TraitModel
from eyot_core.identify.tuning import LEAST_HATCHLINGS, TIMES, Tuned, log_scores, tuned
from eyot_core.parsing import Node
from eyot_core.wording.chances import percent

from eyot.bench.judgement import as_hatchling, counting, trait_words
from eyot.bench.models import Look, Proof
from eyot.collection.actions import add_override, withdraw_override
from eyot.collection.catalogue import catalogue_without
from eyot.collection.models import CatalogueOverride, Collection
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutches_of, pairing_document
from eyot.shared.refusal import Refused

KIND = "trust"
MOST_CLUTCHES = 24
"""Proven clutches that are reckoned with, the newest first: the page shall come within seconds."""


@dataclass(frozen=True)
class TuningRow:
    """One look: what proven animals say of it, and what is in use. ``used``: the opinion in use, if any."""

    trait: str
    name: str
    hatchlings: int
    times: float
    before: str
    after: str
    is_enough: bool
    used: CatalogueOverride | None

    @property
    def is_offered(self) -> bool:
        """Is there something to take over: enough evidence, and another factor than is in use?"""
        return self.is_enough and self.times != (self.used.value["times"] if self.used else 1.0)


def tuning_rows(collection: Collection) -> list[TuningRow]:
    """Every look with a bearing on proven genes, the most looked at first. Works seconds the first time, for many clutches."""
    used = trusts_of(collection)
    return [
        TuningRow(
            one.trait,
            trait_words(one.trait)["name"],
            one.hatchlings,
            one.times,
            percent(one.before),
            percent(one.after),
            one.is_enough,
            used.get(one.trait),
        )
        for one in tuned_looks(collection)
    ]


def trusts_of(collection: Collection) -> dict[str, CatalogueOverride]:
    """The factors in use, by look."""
    return {row.value["trait"]: row for row in collection.overrides.filter(withdrawn_at=None, value__kind=KIND)}


def tuned_looks(collection: Collection) -> list[Tuned]:
    """What proven animals say, against the catalogue without any factors: a fixed number of queries."""
    catalogue = catalogue_without(collection, KIND)
    proofs: dict[int, dict[str, int]] = defaultdict(dict)
    for proof in Proof.objects.filter(egg__clutch__collection=collection).order_by("pk"):
        proofs[proof.egg_id][proof.gene] = proof.copies
    looks: dict[int, list[Look]] = defaultdict(list)
    for look in Look.objects.that_may_count().filter(egg__in=list(proofs)):
        looks[look.egg_id].append(look)
    scores = []
    for clutch in _proven_clutches(collection, list(proofs)):
        models = _models(json.dumps(pairing_document(clutch), sort_keys=True), catalogue)
        for egg in clutch.eggs.all():
            if egg.pk in proofs:
                scores.append(log_scores(models, proofs[egg.pk], as_hatchling(egg, counting(looks[egg.pk]))))
    return tuned(scores)


def _proven_clutches(collection: Collection, eggs: list[int]) -> QuerySet[Clutch]:
    clutches = clutches_of(collection).prefetch_related("dam__genes", "clutch_sires__sire__genes")
    with_proof = Egg.objects.filter(pk__in=eggs).values("clutch")
    return clutches.filter(pk__in=with_proof).order_by("-laid_on", "-pk")[:MOST_CLUTCHES]


@lru_cache(maxsize=MOST_CLUTCHES)
def _models(document: str, catalogue: Catalogue) -> list[TraitModel]:
    pairing = pairing_from(Node(json.loads(document)), catalogue)
    return [TraitModel(pairing, other) for other in _factors(catalogue)]


@lru_cache(maxsize=4)
def _factors(catalogue: Catalogue) -> list[Catalogue]:
    return [trusting_all_looks(catalogue, times) for times in TIMES]


@transaction.atomic
def take_over(collection: Collection, member: AbstractBaseUser, trait: str) -> CatalogueOverride:
    """Uses what proven animals say of a look, instead of a factor used before. :class:`Refused` below the floor of evidence."""
    one = next((row for row in tuned_looks(collection) if row.trait == trait), None)
    if one is None or not one.is_enough:
        raise Refused(
            f"This takes looks at {LEAST_HATCHLINGS} proven animals or more; there are {one.hatchlings if one else 0}. Nothing was changed."
        )
    if trait in (used := trusts_of(collection)):
        withdraw_override(used[trait])
    return add_override(
        collection, member, {"kind": KIND, "trait": trait, "times": one.times, "hatchlings": one.hatchlings}
    )


def give_back(collection: Collection, trait: str) -> None:
    """Uses the catalogue's own weight of a look again; the factor stays in the record."""
    if trait in (used := trusts_of(collection)):
        withdraw_override(used[trait])
