"""What an animal is claimed to be: kept with how far it is trusted, weighed against the looks, in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from eyot_core.drawing.body_map import area_of
from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.claims import Claim, Standing
from eyot_core.identify.questions import NextLook
from eyot_core.identify.why import Cue
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import HALF, Statement, Understood, written

from eyot.bench.judgement import plain, trait_words
from eyot.bench.models import SellersClaim
from eyot.bench.settling import what_settles
from eyot.bench.table_judgement import TableJudgement
from eyot.collection.catalogue import catalogue_of, lookup
from eyot.collection.models import Collection
from eyot.season.models import Egg

LONGEST_LINE = 400
TRUSTS = (
    (95, "I would stake on it"),
    (80, "a breeder’s word, as usual"),
    (50, "somebody’s word"),
    (20, "an advertisement"),
)
"""How far a claim is trusted, in per cent and in words."""
USUAL = 80
BORNE_OUT = 3.0
BELIEVED, DOUBTED = 0.9, 0.5
SPEAKS = 1.2
WORTH_ASKING_BITS = 0.02
MOST_ASKED = 4
VERDICTS = {
    "borne": "borne out by the looks",
    "likely": "fits the looks",
    "open": "neither borne out nor refuted",
    "unseen": "can’t be seen: breeding or a test tells",
    "doubtful": "doubtful",
    "refuted": "hardly possible",
}
PHOTOS = {
    "head": "the head close up, from above and from its left side",
    "eye": "the head close up, from above and from its left side",
    "neck": "the head close up, from above and from its left side",
    "belly": "the whole belly, from the chin to the tip of the tail",
    "back": "the whole animal from above, stretched out",
    "flank": "the left flank in daylight, sharp enough to count the spots in its lobes",
    "whole": "the whole animal from above, in daylight with white paper beside it",
    "signs": "anything odd close up, and a few seconds of film of it moving",
}
"""What shows each area of the body, as a seller is asked for it."""


def latest_claim(egg: Egg) -> SellersClaim | None:
    """The claim that counts: the last one, where it claims anything. One query."""
    last = egg.claims.select_related("made_by").last()
    return last if last and last.line else None


def read_claim(collection: Collection, line: str) -> Understood:
    """A claim as it is understood."""
    return understood(lookup(catalogue_of(collection)), line[:LONGEST_LINE])


def claims_in(read: Understood) -> tuple[Claim, ...]:
    """What a line claims, gene by gene."""
    return tuple(Claim(one.gene, one.copies, float(Fraction(one.chance))) for one in read.statements)


@dataclass(frozen=True)
class ClaimRow:
    """One gene of a claim, weighed. ``verdict``: one word; ``because``: the looks that moved it, as (drawing, words)."""

    gene: str
    name: str
    verdict: str
    kind: str
    stated: str
    after: str
    among_all: str
    strength: str
    because: list[tuple[str, str]]
    settles: list[str]


@dataclass(frozen=True)
class ClaimView:
    """A claim and how it stands. ``summary``: in a sentence; ``not_understood``: words that count for nothing."""

    claim: SellersClaim
    trust: str
    rows: list[ClaimRow]
    summary: str
    not_understood: list[str]


def claim_view(judgement: TableJudgement, claim: SellersClaim, read: Understood) -> ClaimView:
    """How a claim stands, gene by gene."""
    names = lookup(judgement.catalogue)
    by_claim = {(one.gene, one.copies): one for one in read.statements}
    rows = [
        _row(judgement, one, _name(by_claim[one.claim.gene, one.claim.copies], names)) for one in judgement.standings()
    ]
    trust = dict(TRUSTS).get(claim.trust_percent, f"{claim.trust_percent} %")
    return ClaimView(claim, trust, rows, _summary(rows), [word for word, _ in read.unknown])


def _name(statement: Statement, names: Lookup) -> str:
    """A gene of a claim as the claim has it; what is even odds is called possible."""
    if statement.chance != HALF:
        return written(statement, names)
    return f"possible {written(replace(statement, chance='1', known='seen'), names)}"


def _row(judgement: TableJudgement, standing: Standing, name: str) -> ClaimRow:
    claim = standing.claim
    cues = judgement.cues(claim.gene, claim.copies)
    kind = _kind(judgement, standing, cues)
    towards = [cue for cue in cues if (cue.factor > 1) == (standing.factor >= 1)]
    strength = max(standing.factor, 1 / standing.factor)
    return ClaimRow(
        claim.gene,
        name,
        VERDICTS[kind],
        kind,
        percent(standing.stated),
        percent(standing.after),
        odds(standing.among_all),
        "" if strength < SPEAKS else f"{strength:.1f} times" if strength < 10 else f"{strength:.0f} times",
        [_cue_words(judgement, cue) for cue in towards[:2]] if strength >= SPEAKS else [],
        [] if kind == "borne" else what_settles(judgement.catalogue, [{claim.gene: claim.copies}, {}]),
    )


def _kind(judgement: TableJudgement, standing: Standing, cues: Sequence[Cue]) -> str:
    """How a claim stands, as a key of ``VERDICTS``."""
    if standing.after >= BELIEVED and standing.factor >= BORNE_OUT:
        return "borne"
    if standing.factor <= 1 / BORNE_OUT:
        return "refuted" if standing.after < 1 - BELIEVED else "doubtful"
    if standing.factor >= SPEAKS:
        return "likely"
    gene = judgement.catalogue.genes[standing.claim.gene]
    if gene.is_recessive and standing.claim.copies == 1 and not cues:
        return "unseen"
    return "doubtful" if standing.factor <= 1 / SPEAKS and standing.after < DOUBTED else "open"


def _cue_words(judgement: TableJudgement, cue: Cue) -> tuple[str, str]:
    seen = [
        look for look in judgement.looks[judgement.eggs[0].pk] if look.trait == cue.trait and look.stage == cue.stage
    ]
    level = seen[-1].level
    place = judgement.catalogue.traits[cue.trait].level_index[level]
    words = (
        f"{trait_words(cue.trait)['name']}: {plain(level)}, expected in {percent(float(cue.with_gene[place]))} with it, "
        f"in {percent(float(cue.without_gene[place]))} without"
    )
    return glyph(cue.trait, level), words


def _summary(rows: Sequence[ClaimRow]) -> str:
    """The claim as a whole: what is refuted or doubtful first, with its strongest reason."""
    against = sorted(
        (row for row in rows if row.kind in ("refuted", "doubtful")), key=lambda row: row.kind == "doubtful"
    )
    if against:
        worst = against[0]
        others = f", and {len(against) - 1} more" if len(against) > 1 else ""
        reason = f", because {worst.because[0][1][0].lower()}{worst.because[0][1][1:]}" if worst.because else ""
        return f"The claim is doubtful: {worst.name} ({worst.after}){others}{reason}."
    seen = [row for row in rows if row.kind in ("borne", "likely")]
    unseen = [row.name for row in rows if row.kind == "unseen"]
    left = f" {', '.join(unseen)} can’t be seen." if unseen else ""
    if len(seen) + len(unseen) == len(rows) and seen:
        return f"The claim is believable: {', '.join(row.name for row in seen)} fit what was seen.{left}"
    return f"Nothing seen so far speaks against the claim, and not enough for it.{left}"


@dataclass(frozen=True)
class PhotoToAsk:
    """One photo to ask a seller for, and the looks that it would let one answer."""

    what: str
    looks: list[str]


def photos_to_ask(looks: Sequence[NextLook]) -> list[PhotoToAsk]:
    """What to ask a seller to photograph: the places of the looks that tell most, the most telling first."""
    wanted: dict[str, list[str]] = {}
    for look in looks:
        if look.gain > WORTH_ASKING_BITS:
            words = trait_words(look.trait)
            wanted.setdefault(PHOTOS[area_of(words["region"])], []).append(words["name"].lower())
    return [PhotoToAsk(what, names[:MOST_ASKED]) for what, names in list(wanted.items())[:MOST_ASKED]]
