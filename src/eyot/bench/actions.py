"""Changes of the bench. Any member of the collection may look and call; nothing is ever overwritten."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import NamedTuple
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.utils import timezone

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.label import Called, Part, by_gene, by_trade_names

from eyot.bench.judgement import Judgement
from eyot.bench.measured import measured_words
from eyot.bench.models import Call, CalledGene, Confidence, Look, Proof
from eyot.collection.history import recording, subject_of
from eyot.season.models import Egg, Stage
from eyot.shared.devices import entered_before
from eyot.shared.refusal import Refused
from eyot.shared.units import long_day

MOMENT = timedelta(microseconds=1)
FROM_OUTSIDE = (CalledGene.Verdict.POSSIBLE, CalledGene.Verdict.NOT)
"""What may be said of a gene that the parents are not known to have."""


@dataclass(frozen=True)
class Answer:
    """One answer as it came in. ``key`` is made by the device: an answer that comes twice counts once. ``photo``: the number of the photo
    whose suggestion it accepts, empty for an answer of the keeper's own. ``follows``: the key of the answer that it takes the place of."""

    trait: str
    level: str
    stage: str
    confidence: str
    key: UUID
    light: str = ""
    photo: str = ""
    follows: UUID | None = None


@transaction.atomic
def record_look(egg: Egg, user: AbstractBaseUser, answer: Answer, at: datetime) -> Look:
    """Adds a look. Refused, with nothing changed, for a trait, level, stage or confidence that is not known."""
    trait = builtin_catalogue().traits.get(answer.trait)
    if trait is None:
        raise Refused(f"“{answer.trait}” is not a look that Eyot knows. Nothing was changed; your other answers stand.")
    if answer.level != "unseen" and answer.level not in trait.level_index:
        allowed = ", ".join(trait.level_index)
        raise Refused(
            f"“{answer.level}” is not an answer to {answer.trait} (allowed: {allowed}). Nothing was changed; your other answers stand."
        )
    if answer.stage not in Stage.values or answer.confidence not in Confidence.values:
        raise Refused(
            "The stage or how sure you are was not understood. Nothing was changed; your other answers stand."
        )
    if not egg.is_open:
        raise Refused(f"Egg {egg.number} is not open: there is nothing to look at yet.")
    if known := entered_before(Look, answer.key, egg.pk):
        return known
    return Look.objects.create(
        key=answer.key,
        egg=egg,
        trait=answer.trait,
        level=answer.level,
        stage=answer.stage,
        confidence=answer.confidence,
        light=answer.light,
        measured=_rests_on(egg, answer),
        seen_by_id=user.pk,
        seen_at=_after_what_it_follows(egg, user, answer, at),
    )


def _after_what_it_follows(egg: Egg, user: AbstractBaseUser, answer: Answer, at: datetime) -> datetime:
    """The moment of an answer: behind that of the one it takes the place of, whatever the clocks say."""
    if answer.follows is None:
        return at
    followed = Look.objects.filter(key=answer.follows, egg=egg, seen_by_id=user.pk, trait=answer.trait).first()
    return max(at, followed.seen_at + MOMENT) if followed else at


def _rests_on(egg: Egg, answer: Answer) -> str:
    """What an accepted suggestion rests on; empty for an answer of the keeper's own."""
    try:
        photo = egg.photos.filter(pk=UUID(answer.photo)).first()
    except ValueError:
        return ""
    return measured_words(photo, answer.trait, answer.level) if photo else ""


def withdraw_look(egg: Egg, user: AbstractBaseUser, look_id: int, at: datetime) -> Look:
    """Takes back one's own look; the row stays in the trail. The answer before it counts again."""
    look = Look.objects.filter(egg=egg, seen_by_id=user.pk, pk=look_id).first()
    if look is None:
        raise Refused("Only your own looks can be taken back. Nothing was changed.")
    if look.withdrawn_at is None:
        look.withdrawn_at = at
        look.save(update_fields=["withdrawn_at"])
    return look


class OnGene(NamedTuple):
    """What a call says of one gene. ``maybe_two``: one copy is called, a second is possible; ``reason``: why a gene is called
    that the parents are not known to have."""

    verdict: str
    copies: int
    maybe_two: bool = False
    reason: str = ""


def possible_from_outside(judgement: Judgement, gene: str, reason: str) -> OnGene:
    """A gene that the parents are not known to have, called possible: as it would show."""
    entry = judgement.catalogue.genes.get(gene)
    return OnGene(CalledGene.Verdict.POSSIBLE, 2 if entry and entry.is_recessive else 1, reason=reason.strip())


@transaction.atomic
def make_call(
    judgement: Judgement,
    egg: Egg,
    user: AbstractBaseUser,
    verdicts: Mapping[str, tuple[str, int] | OnGene],
    stage: str,
    note: str,
    key: UUID,
    at: datetime,
) -> Call:
    """Adds a call: for each gene a verdict and the copies, with the chances as they stand now. Any member may.

    A gene that the parents are not known to have can be called as possible, with a reason.
    """
    said = {gene: OnGene(*verdict) for gene, verdict in verdicts.items()}
    _refuse_what_is_no_call(judgement, said)
    if not said or not egg.is_open or stage not in Stage.values:
        raise Refused("A call needs an open egg and a verdict on each gene. No call was made; your looks stand.")
    label = label_of(judgement, egg, said)
    if known := entered_before(Call, key, egg.pk):
        return known
    call = Call.objects.create(key=key, egg=egg, stage=stage, label=label, note=note, made_by_id=user.pk, made_at=at)
    for gene, one in said.items():
        after, before = judgement.shown_chances(egg, gene, one.copies)
        values = one._asdict() | {"chance": after, "from_parents": before}
        CalledGene.objects.create(call=call, gene=gene, **values)
    return call


def _refuse_what_is_no_call(judgement: Judgement, said: Mapping[str, OnGene]) -> None:
    given, genes = set(judgement.given_genes), judgement.catalogue.genes
    alternatives: dict[str, int] = {}
    for gene, one in said.items():
        if gene not in genes or one.verdict not in CalledGene.Verdict.values or one.copies not in (1, 2):
            raise Refused(f"The verdict on “{gene}” was not understood. No call was made; your looks stand.")
        name = judgement.naming.gene(gene)
        if gene not in given and not (one.reason.strip() and one.verdict in FROM_OUTSIDE):
            raise Refused(
                f"The parents are not known to have {name}: call it possible, and say why you see it. "
                "No call was made; your looks stand."
            )
        if one.verdict == CalledGene.Verdict.EITHER:
            alternatives[genes[gene].locus] = alternatives.get(genes[gene].locus, 0) + 1
    if 1 in alternatives.values():
        raise Refused("“This or that” is said of two genes of one complex. No call was made; your looks stand.")


def prove(egg: Egg, user: AbstractBaseUser, proofs: Mapping[str, int | None], how: str, on: date, at: datetime) -> None:
    """What genes of a hatchling turned out to be: copies by gene, ``None`` takes a proof away. Any member may."""
    if how not in Proof.How.values:
        raise Refused("How it was proven was not understood. Nothing was changed.")
    if on > timezone.localdate(at):
        raise Refused(f"{long_day(on)} lies ahead. Nothing was changed.")
    if any(copies not in (None, 0, 1, 2) for copies in proofs.values()):
        raise Refused("Copies are none, one or two. Nothing was changed.")
    kept = {proof.gene: proof for proof in egg.proofs.all()}
    what = f"{egg}: proven by {Proof.How(how).label}"
    with recording(egg.clutch.collection, user, at, what, subject_of(egg.record)) as record:
        for gene, copies in proofs.items():
            row = kept.get(gene)
            if row and copies is None:
                record.remove(row)
            elif row and row.copies != copies:
                record.change(row, copies=copies, how=how, on=on)
            elif row is None and copies is not None:
                record.add(Proof(egg=egg, gene=gene, copies=copies, how=how, on=on))


def parts_called(judgement: Judgement, egg: Egg, said: Mapping[str, OnGene]) -> list[Part]:
    """The parts of a label, possible genes by the collection's threshold."""
    call = [
        Called(gene, "unknown" if one.verdict == CalledGene.Verdict.EITHER else one.verdict, one.copies)
        for gene, one in said.items()
    ]
    looked = {
        gene: judgement.shown_chances(egg, gene, one.copies)[0]
        for gene, one in said.items()
        if gene in judgement.given_genes
    }
    least = judgement.clutch.collection.label_percent / 100
    return judgement.label_parts(call, looked, least)


def label_of(judgement: Judgement, egg: Egg, said: Mapping[str, OnGene], *, trade: bool = False) -> str:
    """The label of a call in the form breeders write, gene by gene or with trade names; what may be one or the other last."""
    parts = parts_called(judgement, egg, said)
    label = (by_trade_names if trade else by_gene)(parts, judgement.naming)
    supers = [f"possible {judgement.naming.copies(gene, 2)}" for gene, one in said.items() if one.maybe_two]
    either: dict[str, list[str]] = {}
    for gene, one in said.items():
        if one.verdict == CalledGene.Verdict.EITHER:
            either.setdefault(judgement.catalogue.genes[gene].locus, []).append(judgement.naming.gene(gene))
    choices = [" or ".join(names) for names in either.values()]
    return ", ".join([*([] if label == "Normal" and choices else [label]), *choices, *supers])


def said_in(call: Call) -> dict[str, OnGene]:
    """What a kept call says of each gene."""
    return {row.gene: OnGene(row.verdict, row.copies, row.maybe_two, row.reason) for row in call.genes.all()}
