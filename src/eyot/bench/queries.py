"""Reads of the bench: what one page or fragment shows, worked out before the template."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.db.models import Prefetch

from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.questions import NextLook
from eyot_core.wording.chances import odds, percent

from eyot.bench.judgement import ClutchJudgement, Combination, GeneChances, plain, recessives, trait_words
from eyot.bench.models import Call, CalledGene, Look
from eyot.collection.wording import naming
from eyot.photos.models import Photo
from eyot.season.models import Clutch, Egg, Stage

AXIS = 200
SETTLED = 0.97
LIKELY = 0.8
RULED_OUT = 0.03
WORTH_A_LOOK_BITS = 0.01
WAIT_FROM = 1.4


def judged(clutch: Clutch) -> ClutchJudgement:
    """The judgement of a clutch that was read before, from all its looks: one query."""
    looks = Look.objects.filter(egg__clutch=clutch).select_related("seen_by")
    return ClutchJudgement(clutch, list(clutch.eggs.all()), looks)


@dataclass(frozen=True)
class LevelChoice:
    """One answer that can be chosen."""

    id: str
    name: str
    title: str
    drawing: str
    number: int
    chosen: bool


@dataclass(frozen=True)
class LookRow:
    """One look with its answers. ``number``: its place among the answered looks, 0 if it is not answered."""

    trait: str
    name: str
    question: str
    levels: tuple[LevelChoice, ...]
    number: int
    answer: str
    others: tuple[str, ...]
    suggested: bool
    drawn: bool


@dataclass(frozen=True)
class Notch:
    """Where a look moved a chance to."""

    x: int
    number: int


@dataclass(frozen=True)
class GeneLine:
    """One gene's two lines."""

    gene: str
    name: str
    form: str
    copies: int
    before: str
    after: str
    thin: int
    thick: int
    lost: int
    notches: list[Notch]
    spoken_of: bool
    verdict: str
    callable: bool
    base_name: str
    can_be_two: bool
    always_two: bool
    two_likelier: bool


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
    """The look worth most now, or why there is none."""

    trait: str
    name: str
    drawings: list[tuple[str, str]]
    sentence: str
    waiting: str


@dataclass(frozen=True)
class TrailEntry:
    """One line of the trail."""

    at: object
    who: str
    stage: str
    kind: str
    text: str
    note: str = ""
    undo: int | None = None
    withdrawn: bool = False


@dataclass(frozen=True)
class BenchView:
    """Everything that changes on the bench when a look is answered."""

    egg: Egg
    stage: str
    stage_words: str
    rows: list[LookRow]
    answered: int
    more: int
    genes: list[GeneLine]
    candidates: list[Candidate]
    next_step: NextStep | None
    surprises: list[str]
    contradiction: bool
    trail: list[TrailEntry]
    last_call: Call | None
    trade: list[tuple[str, str]]


def bench_view(judgement: ClutchJudgement, egg: Egg, stage: str, reader_id: int) -> BenchView:
    """The bench of one hatchling at one stage, as one reader sees it."""
    counted = judgement.looks[egg.pk]
    best = judgement.next_looks(egg, stage)
    suggested = best[0] if best and best[0].gain > WORTH_A_LOOK_BITS else None
    trait = suggested.trait if suggested else ""
    shown = _asked(judgement, counted, stage, trait)
    rows = _look_rows(judgement, counted, stage, reader_id, trait, shown.__contains__)
    lines = judgement.genes(egg)
    calls = list(egg.calls.select_related("made_by"))
    return BenchView(
        egg=egg,
        stage=stage,
        stage_words=Stage(stage).label,
        rows=rows,
        answered=len(counted),
        more=len(judgement.model.catalogue.traits) - len(rows),
        genes=[_gene_line(line, lines, counted) for line in lines],
        candidates=[candidate_of(row) for row in judgement.combinations(egg, 4)],
        next_step=_next_step(judgement, egg, stage, suggested) if suggested else None,
        surprises=[_surprise(judgement, egg, row.trait, row.expected) for row in judgement.surprises(egg)],
        contradiction=judgement.inference.contradictions[judgement.index(egg)],
        trail=trail_of(judgement.all_looks[egg.pk], calls, reader_id),
        last_call=calls[-1] if calls else None,
        trade=[(naming().gene(gene), percent(judgement.carried_if_not_shown(gene))) for gene in recessives(judgement)],
    )


def rarely_asked(judgement: ClutchJudgement, egg: Egg, stage: str, reader_id: int) -> list[LookRow]:
    """The looks that tell little of this pairing, for those who want to answer them all the same."""
    best = judgement.next_looks(egg, stage)
    suggested = best[0].trait if best and best[0].gain > WORTH_A_LOOK_BITS else ""
    counted = judgement.looks[egg.pk]
    shown = _asked(judgement, counted, stage, suggested)
    return _look_rows(judgement, counted, stage, reader_id, suggested, lambda trait: trait not in shown)


def _asked(judgement: ClutchJudgement, counted: list[Look], stage: str, suggested: str) -> set[str]:
    """The looks to put before the keeper: those that tell siblings apart, those answered, the one worth most."""
    answered = {look.trait for look in counted if look.stage == stage}
    return {*judgement.prepared.worth_asking(stage), *answered, *filter(None, [suggested])}


def _look_rows(
    judgement: ClutchJudgement,
    counted: list[Look],
    stage: str,
    reader_id: int,
    suggested: str,
    wanted: Callable[[str], bool],
) -> list[LookRow]:
    """The wanted looks in the order in which keepers look."""
    numbers = {look.pk: index + 1 for index, look in enumerate(counted)}
    by_trait: dict[str, list[Look]] = {}
    for look in counted:
        if look.stage == stage:
            by_trait.setdefault(look.trait, []).append(look)
    return [
        _look_row(trait, by_trait.get(trait, []), numbers, reader_id, suggested=trait == suggested)
        for trait in judgement.model.catalogue.traits
        if wanted(trait)
    ]


def _look_row(trait: str, answers: list[Look], numbers: dict[int, int], reader_id: int, *, suggested: bool) -> LookRow:
    words = trait_words(trait)
    own = next((look for look in answers if look.seen_by_id == reader_id), None)
    levels = tuple(
        LevelChoice(
            id=level["id"],
            name=plain(level["id"]),
            title=": ".join(filter(None, (plain(level["id"]), level.get("words")))),
            drawing=glyph(trait, level["id"]),
            number=index + 1,
            chosen=own is not None and own.level == level["id"],
        )
        for index, level in enumerate(words["levels"])
    )
    return LookRow(
        trait=trait,
        name=words["name"],
        question=words["question"],
        levels=levels,
        number=numbers[own.pk] if own else 0,
        answer=f"{plain(own.level)}" + ("" if own.confidence == "sure" else f", {own.confidence}") if own else "",
        others=tuple(
            f"{look.seen_by.get_username()}: {plain(look.level)}" for look in answers if look.seen_by_id != reader_id
        ),
        suggested=suggested,
        drawn=all(level.drawing for level in levels),
    )


def _gene_line(line: GeneChances, lines: list[GeneChances], looks: list[Look]) -> GeneLine:
    recessive = naming().catalogue.genes[line.gene].is_recessive
    two = next(
        (other.after for other in lines if other.gene == line.gene and other.form == "shown" and other.copies == 2), 0.0
    )
    places = [round(step * AXIS) for step in line.steps]
    moves = [
        (number, places[number])
        for number in range(1, len(places))
        if abs(places[number] - places[number - 1]) >= AXIS * 0.03
    ]
    thick = round(line.after * AXIS)
    return GeneLine(
        gene=line.gene,
        name=naming().gene(line.gene) if recessive else naming().copies(line.gene, line.copies),
        form=line.form,
        copies=line.copies,
        before=odds(line.before),
        after=percent(line.after, certain=not looks),
        thin=round(line.before * AXIS),
        thick=thick,
        lost=max(0, round(line.before * AXIS) - thick),
        notches=[Notch(x, number) for number, x in moves],
        spoken_of=abs(line.after - line.before) > 0.005,
        verdict=proposed_verdict(line.after),
        callable=line.form == "shown" and (recessive or line.copies == 1),
        base_name=naming().gene(line.gene),
        can_be_two=not recessive and two > 0,
        always_two=recessive,
        two_likelier=not recessive and two > line.after / 2,
    )


def proposed_verdict(chance: float) -> str:
    """What a chance proposes for a call; the keeper decides."""
    if chance >= SETTLED:
        return CalledGene.Verdict.SURE
    if chance >= LIKELY:
        return CalledGene.Verdict.LIKELY
    return CalledGene.Verdict.NOT if chance <= RULED_OUT else CalledGene.Verdict.POSSIBLE


def candidate_of(row: Combination) -> Candidate:
    """One combination in words and figures."""
    key = ".".join(sorted(allele for alleles in row.genotype.values() for allele in alleles)) or "normal"
    return Candidate(
        naming().label(row.genotype), naming().trade_name(row.genotype), percent(row.chance), odds(row.before), key
    )


def _next_step(judgement: ClutchJudgement, egg: Egg, stage: str, look: NextLook) -> NextStep:
    trait, words = look.trait, trait_words(look.trait)
    settling = judgement.settling(egg, trait, stage)
    sentence = ""
    if settling:
        gene = naming().gene(settling.gene)
        often = settling.chance > 0.05
        sentence = (
            f"A sure answer settles {gene} {odds(settling.chance)} times."
            if often
            else f"It says most of {gene}; one look alone won't settle it."
        )
    before_shed = stage in (Stage.EGG, Stage.WET, Stage.BLUE)
    waits = before_shed and judgement.gain_after_shed(egg, trait) > WAIT_FROM * look.gain
    waiting = "The same look after the first shed tells more: wait with what is doubtful." if waits else ""
    drawings = [(plain(level["id"]), glyph(trait, level["id"])) for level in words["levels"]]
    return NextStep(trait, words["name"], drawings, sentence, waiting)


def _surprise(judgement: ClutchJudgement, egg: Egg, trait: str, expected: float) -> str:
    answers = sorted({plain(look.level) for look in judgement.looks[egg.pk] if look.trait == trait})
    seen = f"{trait_words(trait)['name']} “{' / '.join(answers)}”"
    return f"{seen} hardly fits the rest with these parents ({odds(expected)}). Look again, in other light."


def trail_of(looks: Sequence[Look], calls: Sequence[Call], reader_id: int) -> list[TrailEntry]:
    """Every look and every call, the newest first."""
    entries = [
        TrailEntry(
            look.seen_at,
            look.seen_by.get_username(),
            look.get_stage_display(),
            "look",
            _look_words(look),
            undo=look.pk if look.seen_by_id == reader_id and look.withdrawn_at is None else None,
            withdrawn=look.withdrawn_at is not None,
        )
        for look in looks
    ]
    for call in calls:
        entries.append(
            TrailEntry(
                call.made_at, call.made_by.get_username(), call.get_stage_display(), "call", call.label, call.note
            )
        )
    return sorted(entries, key=lambda entry: entry.at, reverse=True)  # type: ignore[arg-type,return-value]


def _look_words(look: Look) -> str:
    name = trait_words(look.trait)["name"]
    return f"{name}: can’t see" if look.level == "unseen" else f"{name}: {plain(look.level)}, {look.confidence}"


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
    photos, calls = list(egg.photos.all()), list(egg.calls.all())
    photo = photos[-1] if photos else None
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
            name = naming().gene(gene) if naming().catalogue.genes[gene].is_recessive else naming().copies(gene, copies)
            named[gene] = name if chance >= SETTLED else f"{name}?"
    return " ".join(named.values()) or "no idea yet"
