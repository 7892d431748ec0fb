"""Look-alikes to drill: those that the catalogue notes, and those that somebody took for one another; spaced over days."""

from __future__ import annotations

import secrets
from collections import Counter
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser

from eyot_core.catalogue import Catalogue
from eyot_core.exercises.known import overlap

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.practice.answering import genotype_of_key, genotype_of_side
from eyot.practice.making import animal_with
from eyot.practice.models import Drill, Exercise
from eyot.season.models import Stage

TOO_ALIKE = 0.8
"""How much two may overlap in their looks to be drilled; of what is more alike no look tells."""
MIXED_UP = 2
"""So often has one gene to be taken for another before the two are drilled."""


def noted_pairs(catalogue: Catalogue) -> list[str]:
    """The look-alikes of two that the catalogue notes and that looks can tell apart, as keys."""
    pairs = []
    for note in catalogue.document.get("lookalikes", []):
        sides = [".".join(gene for gene, copies in one.items() for _ in range(copies)) for one in note["candidates"]]
        if len(sides) == 2 and can_be_told("~".join(sides), catalogue):
            pairs.append("~".join(sides))
    return list(dict.fromkeys(pairs))


def can_be_told(pair: str, catalogue: Catalogue) -> bool:
    """May an eye learn to tell the two apart? Not where both look the same, nor where a gene is no longer in the catalogue."""
    try:
        one, other = (genotype_of_key(catalogue, side) for side in pair.split("~"))
    except KeyError:
        return False
    return overlap(catalogue, one, other, Stage.SHED) <= TOO_ALIKE


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
    return [pair for pair, count in counts.most_common() if count >= MIXED_UP and can_be_told(pair, catalogue)]


def _side(catalogue: Catalogue, gene: str) -> str:
    return f"{gene}.{gene}" if catalogue.genes[gene].is_recessive else gene


def due(collection: Collection, member: AbstractBaseUser, at: datetime) -> list[str]:
    """Pairs whose day has come."""
    return [drill.pair for drill in _drills(collection, member) if drill.due_at <= at]


def _drills(collection: Collection, member: AbstractBaseUser) -> list[Drill]:
    """What was begun and can be told apart, the soonest due first."""
    drills = Drill.objects.filter(collection=collection, member_id=member.pk).order_by("due_at", "pk")
    catalogue = catalogue_of(collection)
    return [drill for drill in drills if can_be_told(drill.pair, catalogue)]


def next_pair(collection: Collection, member: AbstractBaseUser, at: datetime) -> str:
    """What comes next: what is due, then own mistakes, then what the catalogue notes, then whatever is due soonest."""
    if waiting := due(collection, member, at):
        return waiting[0]
    drills = _drills(collection, member)
    begun = {drill.pair for drill in drills}
    if fresh := [pair for pair in mixed_up(collection, member) if pair not in begun]:
        return fresh[0]
    if fresh := [pair for pair in noted_pairs(catalogue_of(collection)) if pair not in begun]:
        return secrets.choice(fresh)
    return drills[0].pair if drills else ""


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
