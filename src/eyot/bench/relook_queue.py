"""The re-look queue: which hatchling is due which look, the most telling first, by the core's own gain."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from django.db.models import Prefetch

from eyot.bench.judgement import ClutchJudgement, trait_words
from eyot.bench.models import Look
from eyot.bench.siblings import judged
from eyot.collection.models import Collection
from eyot.season.models import Clutch, Egg, Stage
from eyot.season.queries import clutches_of

MONTHS_AFTER_DAYS = 90
MOST_CLUTCHES = 6
WORTH_BITS = 0.02


@dataclass(frozen=True)
class Due:
    """A hatchling that is due a look at a stage: the look that tells most, what it is worth in bits, and since when."""

    egg: Egg
    stage: str
    stage_words: str
    look: str
    gain: float
    since: date


@dataclass(frozen=True)
class RelookQueue:
    """The looks that are due, the most telling first; ``waiting``: clutches that were not weighed yet."""

    rows: list[Due]
    waiting: int


def due_stage(egg: Egg, today: date, seen: set[str]) -> tuple[str, date] | None:
    """The stage at which a hatchling is due a look and since when; ``None`` where none is due."""
    if egg.shed_on is None:
        return None
    months = egg.shed_on + timedelta(days=MONTHS_AFTER_DAYS)
    if today >= months:
        return None if Stage.MONTHS in seen else (Stage.MONTHS, months)
    return None if Stage.SHED in seen else (Stage.SHED, egg.shed_on)


def relook_queue_of(collection: Collection, today: date) -> RelookQueue:
    """What is due in the clutches that are not closed. Of many clutches the longest due are weighed: a fixed number at once."""
    looks = Prefetch("eggs__looks", Look.objects.that_may_count().filter(withdrawn_at=None))
    clutches = clutches_of(collection).filter(closed_on=None, eggs__shed_on__isnull=False).distinct()
    clutches = clutches.prefetch_related(looks, "dam__genes", "clutch_sires__sire__genes")
    due = [(clutch, eggs) for clutch in clutches if (eggs := _due_eggs(clutch, today))]
    due.sort(key=lambda row: min(since for _, _, since in row[1]))
    rows = [row for clutch, eggs in due[:MOST_CLUTCHES] for row in _weighed(judged(clutch), eggs)]
    return RelookQueue(sorted(rows, key=lambda row: -row.gain), max(0, len(due) - MOST_CLUTCHES))


def count_due(collection: Collection, today: date) -> int:
    """How many hatchlings are due a look: two queries, no inference."""
    eggs = Egg.objects.filter(clutch__collection=collection, clutch__closed_on=None, shed_on__isnull=False)
    looks = Prefetch("looks", Look.objects.that_may_count().filter(withdrawn_at=None))
    return sum(
        due_stage(egg, today, {look.stage for look in egg.looks.all()}) is not None
        for egg in eggs.prefetch_related(looks)
    )


def _due_eggs(clutch: Clutch, today: date) -> list[tuple[Egg, str, date]]:
    due = []
    for egg in clutch.eggs.all():
        stage = due_stage(egg, today, {look.stage for look in egg.looks.all()})
        if stage:
            due.append((egg, *stage))
    return due


def _weighed(judgement: ClutchJudgement, eggs: list[tuple[Egg, str, date]]) -> list[Due]:
    rows = []
    for egg, stage, since in eggs:
        best = next(iter(judgement.next_looks(egg, stage)), None)
        if best and best.gain > WORTH_BITS:
            egg.clutch = judgement.clutch
            rows.append(Due(egg, stage, Stage(stage).label, str(trait_words(best.trait)["name"]), best.gain, since))
    return rows
