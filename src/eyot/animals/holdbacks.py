"""A hatchling that stays becomes an animal: its parents, sex and day from the clutch, its genes from the last call."""

from __future__ import annotations

from datetime import datetime
from fractions import Fraction

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone

from eyot_core.wording.label import written_chance
from eyot_core.wording.statements import Statement

from eyot.animals.actions import Details, check_details
from eyot.bench.judgement import ClutchJudgement, recessives
from eyot.bench.models import Call, CalledGene
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import recording, subject_of
from eyot.collection.models import Animal, CarriedGene
from eyot.season.models import Egg
from eyot.shared.refusal import Refused

SETTLED_SIRE = 0.97
FINEST = 100


def hold_back(egg: Egg, member: AbstractBaseUser, name: str, at: datetime) -> Animal:
    """Enters a hatchling as an animal. Any member may. What is called sure or likely counts as seen, what is possible as
    possible with its chance; recessives that may be carried keep the chance from the clutch. :class:`Refused` without a call.
    """
    clutch = egg.clutch
    if hasattr(egg, "kept_as") and egg.kept_as_id:
        raise Refused(f"Egg {egg.number} stays already, as {egg.kept_as}. Nothing was changed.")
    if egg.state != Egg.State.OUT:
        raise Refused(f"Egg {egg.number} is not out yet. Nothing was changed.")
    call = egg.calls.prefetch_related("genes").last()
    if call is None:
        raise Refused(
            f"Egg {egg.number} has no call yet: make one on the bench, then it can stay as an animal. Nothing was changed."
        )
    judgement = judged(clutch)
    details = Details(" ".join(name.split())[:60], egg.code, egg.sex, egg.out_on, note=f"Held back from {clutch.code}.")
    check_details(clutch.collection, details, timezone.localdate(at))
    animal = Animal(
        collection=clutch.collection,
        name=details.name,
        code=details.code,
        sex=details.sex,
        hatched_on=details.hatched_on,
        dam=clutch.dam,
        sire=_sire(judgement, egg),
        note=details.note,
    )
    with recording(clutch.collection, member, at, f"{details.name} held back: {egg}", "") as record:
        record.add(animal)
        record.subject = subject_of(animal)
        for statement in statements_of(call, judgement, egg):
            record.add(CarriedGene.stating(animal, statement))
        record.change(egg, kept_as=animal)
    return animal


def _sire(judgement: ClutchJudgement, egg: Egg) -> Animal | None:
    """The sire, where there is one or the looks settle which."""
    entries = list(egg.clutch.clutch_sires.all())
    if len(entries) < 2:
        return entries[0].sire if entries else None
    chances = judgement.inference.posteriors[judgement.index(egg)].sires
    best = int(chances.argmax())
    return entries[best].sire if chances[best] >= SETTLED_SIRE else None


def statements_of(call: Call, judgement: ClutchJudgement, egg: Egg) -> list[Statement]:
    """What a call states of an animal's genes."""
    catalogue, statements = catalogue_of(egg.clutch.collection), {}
    for gene in call.genes.all():
        if gene.verdict in (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY):
            second = _second_copy(judgement, egg, gene) if gene.maybe_two else ""
            statements[gene.gene] = Statement(gene.gene, gene.copies, CarriedGene.Known.SEEN, two_chance=second)
        elif gene.verdict == CalledGene.Verdict.EITHER:
            statements[gene.gene] = Statement(gene.gene, gene.copies, CarriedGene.Known.POSSIBLE, "1/2")
        elif gene.verdict == CalledGene.Verdict.POSSIBLE and not catalogue.genes[gene.gene].is_recessive:
            statements[gene.gene] = Statement(
                gene.gene, gene.copies, CarriedGene.Known.POSSIBLE, _fraction(gene.chance)
            )
    for name in recessives(judgement):
        carried = judgement.carried_if_not_shown(name)
        if name not in statements and carried > 0:
            known = CarriedGene.Known.DECLARED if carried >= 1 - 1e-9 else CarriedGene.Known.POSSIBLE
            statements[name] = Statement(name, 1, known, _fraction(carried))
    return list(statements.values())


def _second_copy(judgement: ClutchJudgement, egg: Egg, gene: CalledGene) -> str:
    """How likely a second copy is, where one is there."""
    sums = judgement.inference.posteriors[judgement.index(egg)].sums
    one, two = (judgement.chance_of(sums, gene.gene, "shown", copies) for copies in (1, 2))
    return _fraction(two / one if one > 0 else 0.5)


def _fraction(chance: float) -> str:
    """A chance as a keeper would write it; never none, since it is still possible."""
    return str(max(written_chance(chance), Fraction(1, FINEST)))
