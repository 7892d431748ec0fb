"""Reads of the bench: what one page or fragment shows, worked out before the template."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from django.contrib.auth.models import AbstractBaseUser

from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.questions import NextLook
from eyot_core.identify.sibling_comparisons import comparable
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.names import Naming

from eyot.bench.blind import Sight, sight_of
from eyot.bench.body_map import MapArea, body_map
from eyot.bench.judgement import (
    ClutchJudgement,
    Combination,
    GeneChances,
    Judgement,
    plain,
    recessives,
    trait_words,
)
from eyot.bench.look_rows import LookRow, asked, look_rows
from eyot.bench.models import Call, CalledGene, Look
from eyot.bench.sibling_comparisons import choices_for, counting_comparisons, words_of
from eyot.bench.table_judgement import TableJudgement
from eyot.bench.told_by import OpenGene, ToldBy, told_by
from eyot.bench.trail import TrailEntry, trail_of
from eyot.collection.models import Collection
from eyot.season.models import Egg, Stage

AXIS = 200
CANDIDATES = 4
LEAST_CHANCE = 1e-9
WORTH_A_LOOK_BITS = 0.01
WAIT_FROM = 1.4


@dataclass(frozen=True)
class Notch:
    """Where a look moved a chance to."""

    x: int
    number: int


@dataclass(frozen=True)
class Mover:
    """The look that moved a gene's chance most, one way. ``side``: "for" or "against"; ``words``: the look and what was seen."""

    side: str
    words: str
    drawing: str


@dataclass(frozen=True)
class GeneLine:
    """One gene's two lines. ``movers``: the looks that moved it most, for and against; ``others``: how many more moved it."""

    gene: str
    name: str
    form: str
    copies: int
    before: str
    after: str
    prior: int
    posterior: int
    lost: int
    notches: list[Notch]
    movers: list[Mover]
    others: int
    spoken_of: bool
    verdict: str
    callable: bool
    base_name: str
    can_be_two: bool
    always_two: bool
    two_likelier: bool
    rivals: list[str]


@dataclass(frozen=True)
class Candidate:
    """One combination with its figures."""

    label: str
    trade_name: str
    chance: str
    before: str
    key: str


@dataclass(frozen=True)
class NextStep:
    """The look worth most now. ``levels``: of each its id, its words and its drawing."""

    trait: str
    name: str
    question: str
    levels: list[tuple[str, str, str]]
    sentence: str
    waiting: str


@dataclass(frozen=True)
class BesideForm:
    """What can be said of this hatchling beside a sibling. ``said``: what was said and counts, in words."""

    choices: list[tuple[str, str]]
    siblings: list[int]
    said: list[str]


@dataclass(frozen=True)
class BenchView:
    """Everything that changes on the bench when a look is answered."""

    egg: Egg
    stage: str
    stage_words: str
    rows: list[LookRow]
    body_map: list[MapArea]
    answered: int
    more: int
    genes: list[GeneLine]
    candidates: list[Candidate]
    told_by: list[ToldBy]
    next_step: NextStep | None
    surprises: list[str]
    contradiction: bool
    trail: list[TrailEntry]
    beside: BesideForm | None
    last_call: Call | None
    trade: list[tuple[str, str]]
    others: list[tuple[str, str]]
    sight: Sight
    before_words: str = "parents"

    @property
    def settled(self) -> str:
        """The genes that surely show, by the collection's own threshold, or in words that none does."""
        sure = [line.base_name for line in self.genes if line.callable and line.verdict == CalledGene.Verdict.SURE]
        return ", ".join(sure) or ("Nothing is settled yet" if self.open_genes else "None of their genes shows")

    @property
    def open_genes(self) -> list[GeneLine]:
        """The genes that may show and may not."""
        return open_among(self.genes)

    @property
    def look_alikes(self) -> str:
        """The two leading candidates, for the page that tells them apart; empty if there is one only."""
        return "~".join(row.key for row in self.candidates[:2]) if len(self.candidates) > 1 else ""


def _told_by(judgement: Judgement, leading: Combination, lines: Sequence[GeneLine], stage: str) -> list[ToldBy]:
    asked = [OpenGene(line.gene, line.base_name, 2 if line.always_two else 1, line.after) for line in open_among(lines)]
    return told_by(judgement, leading, asked, stage)


def open_among(lines: Sequence[GeneLine]) -> list[GeneLine]:
    """The genes that may show and may not, the most open first."""
    decided = (CalledGene.Verdict.SURE, CalledGene.Verdict.NOT)
    return [line for line in lines if line.callable and line.verdict not in decided]


def bench_view(judgement: Judgement, egg: Egg, stage: str, reader: AbstractBaseUser) -> BenchView:
    """The bench of one hatchling at one stage, as one reader may see it."""
    sight = sight_of(egg, reader, stage)
    counted = judgement.looks[egg.pk]
    best = judgement.next_looks(egg, stage)
    suggested = best[0] if best and best[0].gain > WORTH_A_LOOK_BITS else None
    trait = suggested.trait if suggested else ""
    shown = asked(judgement, counted, stage, trait)
    rows = sight.rows(look_rows(judgement, counted, stage, reader.pk, trait, shown.__contains__))
    lines = judgement.genes(egg)
    calls = list(egg.calls.select_related("made_by"))
    genes = [_gene_line(line, lines, counted, judgement) for line in lines]
    combinations = [] if sight.blind else judgement.combinations(egg, CANDIDATES)
    return BenchView(
        egg=egg,
        stage=stage,
        stage_words=Stage(stage).label,
        rows=rows,
        body_map=body_map(rows),
        answered=len(counted),
        more=len(judgement.catalogue.traits) - len(rows),
        genes=genes,
        candidates=[candidate_of(row, judgement.naming) for row in combinations],
        told_by=_told_by(judgement, combinations[0], genes, stage) if combinations else [],
        next_step=_next_step(judgement, egg, stage, suggested) if suggested else None,
        surprises=[]
        if sight.blind
        else [_surprise(judgement, egg, row.trait, row.expected) for row in judgement.surprises(egg)],
        contradiction=judgement.contradicts(egg),
        trail=trail_of(egg, judgement.all_looks[egg.pk], judgement.compared, calls, reader.pk),
        beside=_beside(judgement, egg, {row.trait for row in rows}),
        last_call=calls[-1] if calls else None,
        trade=_trade(judgement),
        others=_others(judgement),
        sight=sight,
        before_words="before looks" if isinstance(judgement, TableJudgement) else "parents",
    )


def _trade(judgement: Judgement) -> list[tuple[str, str]]:
    """The trade's figure for each recessive that the parents can give: none where they are not known."""
    if not isinstance(judgement, ClutchJudgement):
        return []
    return [
        (judgement.naming.gene(gene), percent(judgement.carried_if_not_shown(gene))) for gene in recessives(judgement)
    ]


def _others(judgement: Judgement) -> list[tuple[str, str]]:
    """Genes that are not listed: that the parents are not known to have, or that hardly anything speaks for; by name."""
    given = set(judgement.listed_genes)
    names = [(gene, judgement.naming.gene(gene)) for gene in judgement.catalogue.genes if gene not in given]
    return sorted(names, key=lambda row: row[1].lower())


def _beside(judgement: Judgement, egg: Egg, traits: set[str]) -> BesideForm | None:
    """Nothing where no sibling is open, or no look that is asked here has an order."""
    compared = [row for row in counting_comparisons(judgement.compared) if egg.pk in (row.egg_id, row.other_id)]
    wanted = [trait for trait in comparable(judgement.catalogue) if trait in traits]
    siblings = [other.number for other in judgement.eggs if other.is_open and other.pk != egg.pk]
    if not siblings or not wanted:
        return None
    return BesideForm(choices_for(wanted), siblings, [words_of(row, egg) for row in compared])


def answered_by_anyone(judgement: Judgement, egg: Egg, stage: str) -> set[str]:
    """The looks that somebody has answered at a stage, be it with "can't see"."""
    return {look.trait for look in judgement.all_looks[egg.pk] if look.stage == stage and look.withdrawn_at is None}


def rarely_asked(judgement: Judgement, egg: Egg, stage: str, reader: AbstractBaseUser) -> list[LookRow]:
    """The looks that tell little of this pairing and that nobody has answered, for those who want to answer them all the same."""
    best = judgement.next_looks(egg, stage)
    suggested = best[0].trait if best and best[0].gain > WORTH_A_LOOK_BITS else ""
    counted = judgement.looks[egg.pk]
    shown = asked(judgement, counted, stage, suggested)
    return look_rows(judgement, counted, stage, reader.pk, suggested, lambda trait: trait not in shown)


def _gene_line(line: GeneChances, lines: list[GeneChances], looks: list[Look], judgement: Judgement) -> GeneLine:
    naming = judgement.naming
    recessive = naming.catalogue.genes[line.gene].is_recessive
    two = next(
        (other.after for other in lines if other.gene == line.gene and other.form == "shown" and other.copies == 2), 0.0
    )
    places = [round(step * AXIS) for step in line.steps]
    moves = [
        (number, places[number])
        for number in range(1, len(places))
        if abs(places[number] - places[number - 1]) >= AXIS * 0.03
    ]
    posterior = round(line.after * AXIS)
    return GeneLine(
        gene=line.gene,
        name=naming.gene(line.gene) if recessive else naming.copies(line.gene, line.copies),
        form=line.form,
        copies=line.copies,
        before=odds(line.before),
        after=percent(line.after, certain=not looks),
        prior=round(line.before * AXIS),
        posterior=posterior,
        lost=max(0, round(line.before * AXIS) - posterior),
        notches=[Notch(x, number) for number, x in moves] if len(line.steps) == len(looks) + 1 else [],
        movers=(movers := _movers_of(judgement, line, looks, [number for number, _ in moves])),
        others=max(0, len(moves) - len(movers)),
        spoken_of=abs(line.after - line.before) > 0.005,
        verdict=proposed_verdict(line.after, judgement.clutch.collection),
        callable=line.form == "shown" and (recessive or line.copies == 1),
        base_name=naming.gene(line.gene),
        can_be_two=not recessive and two > 0,
        always_two=recessive,
        two_likelier=not recessive and two > line.after / 2,
        rivals=_rivals(judgement, line.gene),
    )


def _movers_of(judgement: Judgement, line: GeneChances, looks: Sequence[Look], moving: Sequence[int]) -> list[Mover]:
    if not isinstance(judgement, TableJudgement):
        return _movers(line.steps, moving, looks)
    answers, movers = {(look.trait, look.stage): look.level for look in looks}, []
    cues = judgement.cues(line.gene, line.copies)
    for side, of_side in (
        ("for", [cue for cue in cues if cue.factor > 1]),
        ("against", [cue for cue in cues if cue.factor < 1]),
    ):
        if of_side:
            trait, level = of_side[0].trait, answers[of_side[0].trait, of_side[0].stage]
            movers.append(Mover(side, f"{trait_words(trait)['name']}: {plain(level)}", glyph(trait, level)))
    return movers


def _movers(steps: Sequence[float], moving: Sequence[int], looks: Sequence[Look]) -> list[Mover]:
    """Of the looks that moved a chance, by number from 1, the strongest for and the strongest against, in log odds."""
    odds_of = [math.log(max(step, LEAST_CHANCE) / max(1 - step, LEAST_CHANCE)) for step in steps]
    moved = {number: odds_of[number] - odds_of[number - 1] for number in moving}
    strongest = [
        ("for", max(moved, key=moved.__getitem__, default=0)),
        ("against", min(moved, key=moved.__getitem__, default=0)),
    ]
    return [
        Mover(
            side,
            f"{trait_words(looks[number - 1].trait)['name']}: {plain(looks[number - 1].level)}",
            glyph(looks[number - 1].trait, looks[number - 1].level),
        )
        for side, number in strongest
        if number and (moved[number] > 0) == (side == "for")
    ]


def _rivals(judgement: Judgement, gene: str) -> list[str]:
    """The other genes at its locus that the pairing can give and that show with one copy: it may be this or one of them."""
    genes = judgement.catalogue.genes
    if genes[gene].is_recessive:
        return []
    return [
        judgement.naming.gene(other)
        for other in judgement.listed_genes
        if other != gene and genes[other].locus == genes[gene].locus and not genes[other].is_recessive
    ]


def proposed_verdict(chance: float, collection: Collection) -> str:
    """What a chance proposes for a call by the collection's own thresholds; the keeper decides."""
    if chance * 100 >= collection.sure_percent:
        return CalledGene.Verdict.SURE
    if chance * 100 >= collection.likely_percent:
        return CalledGene.Verdict.LIKELY
    return CalledGene.Verdict.NOT if chance * 100 <= collection.not_percent else CalledGene.Verdict.POSSIBLE


def candidate_of(row: Combination, naming: Naming) -> Candidate:
    """One combination in words and figures."""
    key = ".".join(sorted(allele for alleles in row.genotype.values() for allele in alleles)) or "normal"
    return Candidate(
        naming.label(row.genotype), naming.trade_name(row.genotype), percent(row.chance), odds(row.before), key
    )


def _next_step(judgement: Judgement, egg: Egg, stage: str, look: NextLook) -> NextStep:
    trait, words = look.trait, trait_words(look.trait)
    settling = judgement.settling(egg, trait, stage)
    sentence = ""
    if settling:
        gene = judgement.naming.gene(settling.gene)
        often = settling.chance > 0.05
        sentence = (
            f"A sure answer settles {gene} with a chance of {odds(settling.chance)}."
            if often
            else f"It says most of {gene}; one look alone won't settle it."
        )
    before_shed = stage in (Stage.EGG, Stage.WET, Stage.BLUE)
    waits = before_shed and judgement.gain_after_shed(egg, trait) > WAIT_FROM * look.gain
    waiting = "The same look after the first shed tells more: wait with what is doubtful." if waits else ""
    levels = [(level["id"], plain(level["id"]), glyph(trait, level["id"])) for level in words["levels"]]
    return NextStep(trait, words["name"], words["question"], levels, sentence, waiting)


def _surprise(judgement: Judgement, egg: Egg, trait: str, expected: float) -> str:
    answers = sorted({plain(look.level) for look in judgement.looks[egg.pk] if look.trait == trait})
    seen = f"{trait_words(trait)['name']} “{' / '.join(answers)}”"
    return f"{seen} hardly fits the rest with these parents ({odds(expected)}). Look again, in other light."
