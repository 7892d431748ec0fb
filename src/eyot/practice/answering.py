"""Answers to exercises: kept once, never changed, scored against what could be known."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from fsrs import Card, Rating, Scheduler

from eyot_core.catalogue import Catalogue
from eyot_core.exercises.scores import SAID, Score, scored
from eyot_core.identify.evidence import CONFIDENCE

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.practice.knowing import could_be_known, telling_looks, true_genes
from eyot.practice.models import Drill, Exercise, Wish
from eyot.shared.refusal import Refused

SCHEDULER = Scheduler(enable_fuzzing=False)
ANSWERED = "This was answered already, and its solution shown: the first answer stands. Take the next one."


def _open(exercise: Exercise) -> Exercise:
    """The exercise, locked until its answer is kept. :class:`Refused` where it has one."""
    locked = Exercise.objects.select_for_update().get(pk=exercise.pk)
    if locked.said is not None:
        raise Refused(ANSWERED)
    return locked


@transaction.atomic
def name(exercise: Exercise, said: Mapping[str, str], at: datetime, seen: Mapping[str, str] | None = None) -> Score:
    """An animal is named: by gene how sure; ``seen``: what was read of it, by look. :class:`Refused` for genes, words and levels that there
    are not."""
    row = _open(exercise)
    catalogue = catalogue_of(row.collection)
    for gene, word in said.items():
        if gene not in catalogue.genes or word not in SAID:
            raise Refused("That is no gene or no word for how sure one is. Nothing was kept.")
    for look, level in (seen or {}).items():
        if look not in catalogue.traits or level not in catalogue.traits[look].level_index:
            raise Refused("That is no level of a look. Nothing was kept.")
    could = _proven(row) if row.egg_id else could_be_known(row)
    score, telling = scored(said, could, true_genes(row)), telling_looks(row)
    row.said = {
        "genes": dict(said),
        "scores": [
            {"gene": one.gene, "said": one.said, "could": round(one.could, 6), "is_there": one.is_there}
            for one in score.genes
        ],
        "telling": telling,
        "points": score.points,
        "looks": dict(seen or {}),
    }
    row.lost, row.luck, row.answered_at = score.lost, score.luck, at
    row.is_right = all((one.said >= 0.5) == one.is_there for one in score.genes)
    row.save()
    return score


def _proven(row: Exercise) -> dict[str, float]:
    """Of an own animal what was proven is what could be known."""
    assert row.egg
    there = set(true_genes(row))
    return {proof.gene: float(proof.gene in there) for proof in row.egg.proofs.all()}


@transaction.atomic
def read_look(exercise: Exercise, level: str, confidence: str, at: datetime) -> bool:
    """One look is read; tells whether rightly. :class:`Refused` for a level that the look has not."""
    row = _open(exercise)
    trait = catalogue_of(row.collection).traits[row.look]
    if level not in trait.level_index or confidence not in CONFIDENCE:
        raise Refused("Choose one of the levels. Nothing was kept.")
    assert row.animal
    row.said = {"level": level, "true": row.animal.looks[row.look], "confidence": confidence, "stage": row.animal.stage}
    row.is_right, row.answered_at = level == row.animal.looks[row.look], at
    row.save()
    return row.is_right


@transaction.atomic
def tell_apart(exercise: Exercise, chosen: str, at: datetime) -> bool:
    """One of two look-alikes is named; tells whether rightly, and when the pair comes again."""
    row = _open(exercise)
    sides = row.pair.split("~")
    if chosen not in sides:
        raise Refused("Choose one of the two. Nothing was kept.")
    assert row.animal
    true = next(side for side in sides if row.animal.genotype == genotype_of_side(row, side))
    row.said = {"chosen": chosen, "true": true}
    row.is_right, row.answered_at = chosen == true, at
    row.save()
    drill, _ = Drill.objects.select_for_update().get_or_create(
        collection=row.collection,
        member=row.member,
        pair=row.pair,
        defaults={"card": Card(due=at).to_dict(), "due_at": at},
    )
    rating = Rating.Good if row.is_right else Rating.Again
    card, _ = SCHEDULER.review_card(Card.from_dict(drill.card), rating, at)
    drill.card, drill.due_at = card.to_dict(), card.due
    drill.save()
    return row.is_right


def wish(collection: Collection, member: AbstractBaseUser, *, on_today: bool, shares: bool) -> None:
    """What a member wants of practice."""
    values = {"on_today": on_today, "shares": shares}
    Wish.objects.update_or_create(collection=collection, member_id=member.pk, defaults=values)


def genotype_of_side(row: Exercise, side: str) -> dict[str, list[str]]:
    """The genotype of one of two look-alikes, from its key."""
    return genotype_of_key(catalogue_of(row.collection), side)


def genotype_of_key(catalogue: Catalogue, key: str) -> dict[str, list[str]]:
    """The genotype of a key: genes with a dot between them, once for each copy. KeyError for a gene that is not in the catalogue."""
    genotype = dict[str, list[str]]()
    for gene in key.split("."):
        genotype.setdefault(catalogue.genes[gene].locus, []).append(gene)
    return genotype
