"""What speaks for holding a hatchling back, from the record: the sex that is short, what is worth proving, how it is within its kind.
Nothing is added up to a score."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

from eyot_core.photo.answer import measured_from
from eyot_core.photo.measures import Value
from eyot_core.wording.names import Naming

from eyot.bench.models import Call, CalledGene
from eyot.collection.models import Animal, Collection, Sex
from eyot.homes.standing import Kept
from eyot.photos.models import Photo
from eyot.photos.queries import value_words
from eyot.season.models import Egg

CALLED = (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY)
BEST = (("lightness", 1, "the lightest"), ("contrast", 1, "the most contrast"), ("chroma", 1, "the strongest colour"))
CLEAN = (("dark_share", -1, "the least dark"), ("white_share", 1, "the most white"))
FEWEST_ALIKE = 3
APART = 2.0
"""By how many deviations it has to lead for that to be told without a doubt."""


@dataclass(frozen=True)
class Reason:
    """One thing that speaks for a hatchling, in a sentence, with its ground."""

    words: str
    ground: str


@dataclass(frozen=True)
class Measured:
    """One hatchling's value of a measure, with its deviation."""

    egg: int
    value: float
    sd: float
    words: str


def reasons_to_stay(collection: Collection, row: Kept, naming: Naming) -> list[Reason]:
    """What speaks for keeping one hatchling: a few queries."""
    if row.call is None or row.died:
        return []
    kept = list(collection.animals.filter(archived_on=None, elsewhere=False).prefetch_related("genes"))
    own = [animal for animal in kept if animal.pk != row.egg.kept_as_id]
    return [*_short_sex(row, own, naming), *_worth_proving(row, own, naming), *within_its_kind(collection, row)]


def _short_sex(row: Kept, own: Sequence[Animal], naming: Naming) -> list[Reason]:
    """Genes that no animal of its sex here shows, though one of the other does."""
    if not row.egg.sex:
        return []
    short = []
    for gene, verdict in row.genes.items():
        if verdict in CALLED and gene in naming.catalogue.genes:
            having = [animal.sex for animal in own if _has(animal, gene)]
            if row.egg.sex not in having and having:
                short.append(naming.gene(gene))
    if not short:
        return []
    sex = Sex(row.egg.sex).label.lower()
    return [Reason(f"The only {sex} here with {_listed(short)}", "animals of the other sex have it, by their records")]


def _has(animal: Animal, gene: str) -> bool:
    return any(one.gene == gene and one.chance == "1" for one in animal.genes.all())


def _worth_proving(row: Kept, own: Sequence[Animal], naming: Naming) -> list[Reason]:
    """Possible hets of which a visual of the other sex is here."""
    assert row.call is not None
    reasons = []
    label = row.call.label
    for gene in naming.catalogue.genes.values():
        name = naming.gene(gene.id)
        if not gene.is_recessive or f"possible het {name}" not in label:
            continue
        visuals = [
            animal.name
            for animal in own
            if animal.sex
            and animal.sex != row.egg.sex
            and any(one.gene == gene.id and one.copies == 2 and one.chance == "1" for one in animal.genes.all())
        ]
        carried = any(one.gene == gene.id for animal in own for one in animal.genes.all())
        if visuals:
            reasons.append(
                Reason(f"Possible het {name}, worth proving", f"{_listed(visuals[:3])} shows it and could prove it")
            )
        elif not carried:
            reasons.append(Reason(f"Possible het {name}: nobody else here carries it", "by the record"))
    return reasons


def within_its_kind(collection: Collection, row: Kept) -> list[Reason]:
    """Where it leads those of the same call that were measured at the same stage: two queries."""
    alike = _alike(collection, row)
    if len(alike) < FEWEST_ALIKE:
        return []
    photos = _newest_measured(alike, row.egg.stage)
    reasons = []
    for measure, sign, words in (*BEST, *CLEAN):
        values = sorted(_values(photos, measure), key=lambda one: -sign * one.value)
        if len(values) < FEWEST_ALIKE or values[0].egg != row.egg.pk:
            continue
        first, second = values[0], values[1]
        lead, apart = abs(first.value - second.value), hypot(first.sd, second.sd)
        doubt = "" if lead > APART * apart else ": not told apart from the next for sure"
        ground = (
            f"{first.words} of {len(values)} like it, measured {row.egg.get_stage_display()}; the next {second.words}"
        )
        reasons.append(Reason(f"{words[:1].upper()}{words[1:]} of its kind", f"{ground}{doubt}"))
    return reasons


def _alike(collection: Collection, row: Kept) -> list[int]:
    """The eggs whose last call shows the same genes, this one too."""
    calls = Call.objects.filter(egg__clutch__collection=collection).order_by("egg_id", "-made_at", "-pk")
    last = calls.distinct("egg_id").prefetch_related("genes")
    kinds = {call.egg_id: _kind(call) for call in last}
    own = kinds.get(row.egg.pk)
    return [egg for egg, kind in kinds.items() if kind == own]


def _kind(call: Call) -> frozenset[tuple[str, int]]:
    return frozenset((one.gene, one.copies) for one in call.genes.all() if one.verdict in CALLED)


def _newest_measured(eggs: Sequence[int], stage: str) -> list[Photo]:
    photos = Photo.objects.filter(egg__in=eggs, stage=stage, kind=Photo.Kind.BACK, strip_done__gt=0, trouble="")
    return list(photos.exclude(line={}).order_by("egg_id", "-taken_at").distinct("egg_id"))


def _values(photos: Sequence[Photo], measure: str) -> list[Measured]:
    found = []
    for photo in photos:
        value = measured_from(photo.measures).get(measure)
        if isinstance(value, Value) and isinstance(value.value, float) and isinstance(value.sd, float):
            found.append(Measured(photo.egg_id, value.value, value.sd, value_words(measure, value)))
    return found


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def shortlist(egg: Egg) -> list[str]:
    """This hatchling and its siblings with photos at its stage, as panes side by side: at most four, itself first."""
    photos = Photo.objects.filter(egg__clutch=egg.clutch_id, stage=egg.stage, kind=Photo.Kind.BACK, sizes_done__gt=0)
    numbers = dict(photos.order_by("egg__number").values_list("egg_id", "stage"))
    order = sorted(numbers, key=lambda pk: pk != egg.pk)
    return [f"e{pk}.{numbers[pk]}" for pk in order[:4]]
