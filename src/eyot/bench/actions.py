"""Changes of the bench. Any member of the collection may look and call; nothing is ever overwritten."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from eyot_core.catalogue import builtin_catalogue
from eyot_core.wording.chances import percent

from eyot.bench.judgement import ClutchJudgement
from eyot.bench.models import Call, CalledGene, Confidence, Look, Proof
from eyot.collection.history import recording, subject_of
from eyot.season.models import Egg, Stage
from eyot.shared.refusal import Refused


@dataclass(frozen=True)
class Answer:
    """One answer as it came in. ``key`` is made by the device: an answer that comes twice counts once."""

    trait: str
    level: str
    stage: str
    confidence: str
    key: UUID
    light: str = ""
    measured: str = ""


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
    look, _ = Look.objects.get_or_create(
        key=answer.key,
        defaults={
            "egg": egg,
            "trait": answer.trait,
            "level": answer.level,
            "stage": answer.stage,
            "confidence": answer.confidence,
            "light": answer.light,
            "measured": answer.measured,
            "seen_by_id": user.pk,
            "seen_at": at,
        },
    )
    return look


def withdraw_look(egg: Egg, user: AbstractBaseUser, look_id: int, at: datetime) -> Look:
    """Takes back one's own look; the row stays in the trail. The answer before it counts again."""
    look = Look.objects.filter(egg=egg, seen_by_id=user.pk, pk=look_id).first()
    if look is None:
        raise Refused("Only your own looks can be taken back. Nothing was changed.")
    if look.withdrawn_at is None:
        look.withdrawn_at = at
        look.save(update_fields=["withdrawn_at"])
    return look


@transaction.atomic
def make_call(
    judgement: ClutchJudgement,
    egg: Egg,
    user: AbstractBaseUser,
    verdicts: Mapping[str, tuple[str, int]],
    stage: str,
    note: str,
    key: UUID,
    at: datetime,
) -> Call:
    """Adds a call: for each gene a verdict and the copies, with the chances as they stand now. Any member may."""
    known = set(judgement.model.pairing.given_genes)
    for gene, (verdict, copies) in verdicts.items():
        if gene not in known or verdict not in CalledGene.Verdict.values or copies not in (1, 2):
            raise Refused(f"The verdict on “{gene}” was not understood. No call was made; your looks stand.")
    if not verdicts or not egg.is_open or stage not in Stage.values:
        raise Refused("A call needs an open egg and a verdict on each gene. No call was made; your looks stand.")
    label = label_of(judgement, verdicts)
    call, made = Call.objects.get_or_create(
        key=key,
        defaults={"egg": egg, "stage": stage, "label": label, "note": note, "made_by_id": user.pk, "made_at": at},
    )
    if made:
        posterior = judgement.inference.posteriors[judgement.index(egg)]
        for gene, (verdict, copies) in verdicts.items():
            form: tuple[str, str, int] = (gene, "shown", copies)
            CalledGene.objects.create(
                call=call,
                gene=gene,
                verdict=verdict,
                copies=copies,
                chance=judgement.chance_of(posterior.sums, *form),
                from_parents=judgement.chance_of(posterior.prior_sums, *form),
            )
    return call


def prove(egg: Egg, user: AbstractBaseUser, proofs: Mapping[str, int | None], how: str, on: date, at: datetime) -> None:
    """What genes of a hatchling turned out to be: copies by gene, ``None`` takes a proof away. Any member may."""
    if how not in Proof.How.values:
        raise Refused("How it was proven was not understood. Nothing was changed.")
    if on > at.date():
        raise Refused(f"{on:%-d %b %Y} lies ahead. Nothing was changed.")
    if any(copies not in (None, 0, 1, 2) for copies in proofs.values()):
        raise Refused("Copies are none, one or two. Nothing was changed.")
    kept = {proof.gene: proof for proof in egg.proofs.all()}
    what = f"{egg}: proven by {Proof.How(how).label}"
    with recording(egg.clutch.collection, user, at, what, subject_of(egg.clutch)) as record:
        for gene, copies in proofs.items():
            row = kept.get(gene)
            if row and copies is None:
                record.remove(row)
            elif row and row.copies != copies:
                record.change(row, copies=copies, how=how, on=on)
            elif row is None and copies is not None:
                record.add(Proof(egg=egg, gene=gene, copies=copies, how=how, on=on))


def label_of(judgement: ClutchJudgement, verdicts: Mapping[str, tuple[str, int]]) -> str:
    """The label in the form breeders write: what is sure or likely, then what is possible, then hets by the trade's figure."""
    words = judgement.naming
    genes = judgement.model.catalogue.genes
    named, possible, hets = [], [], []
    for gene, (verdict, copies) in verdicts.items():
        if verdict in (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY):
            named.append(words.copies(gene, copies))
            continue
        if verdict == CalledGene.Verdict.POSSIBLE:
            possible.append(f"possible {words.copies(gene, copies)}")
        if genes[gene].is_recessive:
            chance = judgement.carried_if_not_shown(gene)
            if chance > 0:
                hets.append(het_words(words.gene(gene), chance))
    return ", ".join([" ".join(named) or "Normal", *possible, *hets])


def het_words(name: str, chance: float) -> str:
    """A possible het in the trade's words.

    >>> het_words("Clown", 2 / 3), het_words("Clown", 1.0)
    ('66 % possible het Clown', 'het Clown')
    """
    if chance >= 1 - 1e-9:
        return f"het {name}"
    trade = "66\u00a0%" if abs(chance - 2 / 3) < 0.008 else percent(chance)
    return f"{trade} possible het {name}".replace("\u00a0", " ")
