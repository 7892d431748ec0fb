"""Look-alikes to drill: those that the catalogue notes, and those that somebody took for one another; spaced over days."""

from __future__ import annotations

import secrets
from collections import Counter
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot_core.catalogue import Catalogue

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.practice.answering import genotype_of_side
from eyot.practice.making import animal_with
from eyot.practice.models import Drill, Exercise
from eyot.season.models import Stage

MIXED_UP = 2
"""So often has one gene to be taken for another before the two are drilled."""


def noted_pairs(catalogue: Catalogue) -> list[str]:
    """The look-alikes of two that the catalogue notes, as keys; not those of one genotype told by its origin or age."""
    pairs = []
    for note in catalogue.document.get("lookalikes", []):
        sides = [".".join(gene for gene, copies in one.items() for _ in range(copies)) for one in note["candidates"]]
        known = all(gene in catalogue.genes for side in sides for gene in side.split("."))
        if len(set(sides)) == len(sides) == 2 and known and all(sides):
            pairs.append("~".join(sides))
    return list(dict.fromkeys(pairs))


def mixed_up(collection: Collection, member: AbstractBaseUser) -> list[str]:
    """Pairs of genes of which somebody named one where the other was, the commonest first."""
    catalogue, counts = catalogue_of(collection), Counter[str]()
    answered = Exercise.objects.filter(collection=collection, member_id=member.pk, player="", said__isnull=False)
    for one_answered in answered.filter(kind__in=[Exercise.Kind.NAME, Exercise.Kind.OWN]):
        scores = one_answered.answer["scores"]
        wrong = [row["gene"] for row in scores if row["said"] >= 0.5 and not row["is_there"]]
        missed = [row["gene"] for row in scores if row["said"] < 0.5 and row["is_there"]]
        for one in wrong:
            for other in missed:
                sides = sorted((one, other))
                if all(gene in catalogue.genes for gene in sides):
                    counts["~".join(_side(catalogue, gene) for gene in sides)] += 1
    return [pair for pair, count in counts.most_common() if count >= MIXED_UP]


def _side(catalogue: Catalogue, gene: str) -> str:
    return f"{gene}.{gene}" if catalogue.genes[gene].is_recessive else gene


def due(collection: Collection, member: AbstractBaseUser, at: datetime) -> list[str]:
    """Pairs whose day has come."""
    drills = Drill.objects.filter(collection=collection, member_id=member.pk, due_at__lte=at)
    return list(drills.values_list("pair", flat=True))


def next_pair(collection: Collection, member: AbstractBaseUser, at: datetime) -> str:
    """What comes next: what is due, then own mistakes, then what the catalogue notes, then whatever is due soonest."""
    if waiting := due(collection, member, at):
        return waiting[0]
    drills = Drill.objects.filter(collection=collection, member_id=member.pk)
    begun = set(drills.values_list("pair", flat=True))
    if fresh := [pair for pair in mixed_up(collection, member) if pair not in begun]:
        return fresh[0]
    if fresh := [pair for pair in noted_pairs(catalogue_of(collection)) if pair not in begun]:
        return secrets.choice(fresh)
    soonest = drills.order_by("due_at").first()
    return soonest.pair if soonest else ""


def put(collection: Collection, member: AbstractBaseUser, pair: str, at: datetime) -> Exercise:
    """One of two look-alikes, made up anew."""
    exercise = Exercise(
        collection=collection,
        member_id=member.pk,
        kind=Exercise.Kind.PAIR,
        pair=pair,
        picture="plate",
        asked_at=at,
    )
    side = secrets.choice(pair.split("~"))
    exercise.animal = animal_with(collection, genotype_of_side(exercise, side), Stage.SHED, at)
    exercise.save()
    return exercise
