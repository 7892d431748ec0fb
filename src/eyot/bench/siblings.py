"""A clutch's hatchlings beside one another: the judgement of all, and the row of frames."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Prefetch

from eyot.bench.claims import claims_in, latest_claim, read_claim
from eyot.bench.judgement import LIKELY, SETTLED, ClutchJudgement, Judgement
from eyot.bench.models import Call, Look, SiblingComparison
from eyot.bench.table_judgement import TableJudgement
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg


def judged(clutch: Clutch) -> ClutchJudgement:
    """The judgement of a clutch that was read before, from all its looks and comparisons: two queries."""
    looks = Look.objects.filter(egg__clutch=clutch).select_related("seen_by__invitation")
    compared = SiblingComparison.objects.filter(egg__clutch=clutch).select_related("seen_by", "egg", "other")
    return ClutchJudgement(clutch, list(clutch.eggs.all()), looks, list(compared))


def judged_one(clutch: Clutch) -> Judgement:
    """The same for what is done with one egg: an animal from elsewhere is judged by itself, unless both parents are entered."""
    if not clutch.elsewhere:
        return judged(clutch)
    (egg,) = clutch.eggs.all()
    if egg.kept_as and egg.kept_as.dam and egg.kept_as.sire:
        return judged(clutch)
    claim = latest_claim(egg)
    looks = Look.objects.filter(egg=egg).select_related("seen_by__invitation")
    claims = claims_in(read_claim(clutch.collection, claim.line)) if claim else ()
    return TableJudgement(clutch, egg, looks, claims, claim.trust_percent / 100 if claim else 0.0)


@dataclass(frozen=True)
class Frame:
    """One egg in the row of siblings."""

    egg: Egg
    photo: Photo | None
    words: str
    call: Call | None = None


def filmstrip(judgement: ClutchJudgement, clutch: Clutch) -> list[Frame]:
    """All eggs of a clutch in order, each with its latest photo and what it is held to be."""
    eggs = clutch.eggs.prefetch_related("calls__genes", Prefetch("photos", Photo.objects.order_by("taken_at")))
    return [_frame(judgement, egg) for egg in eggs]


def _frame(judgement: ClutchJudgement, egg: Egg) -> Frame:
    photos, calls = [photo for photo in egg.photos.all() if photo.has_sizes], list(egg.calls.all())
    photo = next((photo for photo in reversed(photos) if photo.kind == Photo.Kind.BACK), photos[-1] if photos else None)
    if calls:
        return Frame(egg, photo, calls[-1].label, calls[-1])
    if not egg.is_open:
        return Frame(egg, photo, egg.get_state_display().lower())
    return Frame(egg, photo, first_guess(judgement, egg))


def first_guess(judgement: ClutchJudgement, egg: Egg) -> str:
    """What the looks so far make of a hatchling: genes that are sure, those that are likely with a question mark."""
    if not judgement.looks[egg.pk]:
        return "no idea yet"
    children = judgement.inference.posteriors[judgement.index(egg)].sums
    named: dict[str, str] = {}
    for gene, form, copies in judgement.forms():
        chance = judgement.chance_of(children, gene, form, copies)
        if form == "shown" and chance >= LIKELY:
            words = judgement.naming
            name = words.gene(gene) if words.catalogue.genes[gene].is_recessive else words.copies(gene, copies)
            named[gene] = name if chance >= SETTLED else f"{name}?"
    return " ".join(named.values()) or "no idea yet"
