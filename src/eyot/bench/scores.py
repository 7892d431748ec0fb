"""How well calls held: each called gene of which something was proven since, by gene, stage and verdict, and the calibration."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from eyot_core.hatchery.scoring import Share, calibration, share
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.bench.models import CalledGene, Proof
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.season.models import Stage
from eyot.shared.scales import Scale

CLAIMED = (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY)
PLOT, MARGIN = 300, 40


@dataclass(frozen=True)
class Scored:
    """One called gene against its proof."""

    gene: str
    stage: str
    verdict: str
    chance: float
    claimed: bool
    there: bool


@dataclass(frozen=True)
class ScoreRow:
    """One gene at one stage: how many calls were right, over-called (claimed, not there), under-called (there, denied)."""

    gene: str
    stage: str
    count: int
    right: int
    over: int
    under: int


@dataclass(frozen=True)
class VerdictRow:
    """How one verdict held: the share that was there, in words with its interval."""

    verdict: str
    words: str


@dataclass(frozen=True)
class PlotPoint:
    """One bin of the calibration in drawing units, with its interval and words."""

    x: int
    y: int
    low: int
    high: int
    radius: int
    words: str


@dataclass(frozen=True)
class Scores:
    """All of it."""

    count: int
    verdicts: list[VerdictRow]
    rows: list[ScoreRow]
    plot: list[PlotPoint]


def scored(collection: Collection, member_id: int | None = None) -> list[Scored]:
    """Every called gene with a proof, of all members or one: two queries. A call of a recessive is one of a visual."""
    proofs = {(proof.egg_id, proof.gene): proof for proof in Proof.objects.filter(egg__clutch__collection=collection)}
    called = CalledGene.objects.filter(call__egg__in={egg for egg, _ in proofs}).select_related("call")
    if member_id:
        called = called.filter(call__made_by=member_id)
    rows, genes = [], catalogue_of(collection).genes
    for row in called:
        proof = proofs.get((row.call.egg_id, row.gene))
        if proof:
            visual = 2 if row.gene in genes and genes[row.gene].is_recessive else 1
            there = proof.copies >= max(row.copies, visual)
            rows.append(Scored(row.gene, row.call.stage, row.verdict, row.chance, row.verdict in CLAIMED, there))
    return rows


def scores_of(collection: Collection, member_id: int | None = None) -> Scores:
    """What the scored calls say."""
    rows, naming = scored(collection, member_id), Naming(catalogue_of(collection))
    by_place: dict[tuple[str, str], list[Scored]] = defaultdict(list)
    for one in rows:
        by_place[naming.gene(one.gene), one.stage].append(one)
    return Scores(
        count=len(rows),
        verdicts=[VerdictRow(words, _held(rows, value)) for value, words in CalledGene.Verdict.choices],
        rows=sorted((_row(*place, calls) for place, calls in by_place.items()), key=lambda row: (row.gene, row.stage)),
        plot=[_point(one.held, one.share) for one in calibration([r.chance for r in rows], [r.there for r in rows])],
    )


def _held(rows: list[Scored], verdict: str) -> str:
    own = [row for row in rows if row.verdict == verdict]
    if not own:
        return "none proven yet"
    held = share(sum(row.there for row in own), len(own))
    return f"{held.right} of {held.count} were there ({percent(held.low)} to {percent(held.high)} behind it)"


def _row(gene: str, stage: str, calls: list[Scored]) -> ScoreRow:
    decided = [row for row in calls if row.verdict not in (CalledGene.Verdict.POSSIBLE, CalledGene.Verdict.UNKNOWN)]
    right = sum(row.claimed == row.there for row in decided)
    over = sum(row.claimed and not row.there for row in decided)
    return ScoreRow(
        gene, Stage(stage).label, len(calls), right, over, sum(row.there and not row.claimed for row in decided)
    )


def _point(held: float, so: Share) -> PlotPoint:
    x, y = Scale(0, 1, MARGIN, MARGIN + PLOT), Scale(0, 1, MARGIN / 2 + PLOT, MARGIN / 2)
    words = f"held {percent(held)}: {so.right} of {so.count} were so"
    return PlotPoint(x(held), y(so.right / so.count), y(so.low), y(so.high), min(9, 3 + so.count // 8), words)
