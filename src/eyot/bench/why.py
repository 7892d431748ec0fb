"""Why a gene stands where it stands, and what it would be if looks were answered otherwise; nothing is saved."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from eyot_core.drawing.glyphs import glyph
from eyot_core.identify.at_work import AtWork, rules_at_work
from eyot_core.identify.evidence import Hatchling
from eyot_core.identify.inference import Inference
from eyot_core.identify.questions import Settling
from eyot_core.identify.why import Cue, cues_of, outlooks
from eyot_core.wording.chances import odds, percent

from eyot.bench.judgement import PROVEN_FROM, ClutchJudgement, Judgement, plain, trait_words
from eyot.bench.models import Look
from eyot.bench.settling import what_settles
from eyot.bench.sibling_comparisons import counting_comparisons, words_of
from eyot.bench.table_judgement import TableJudgement
from eyot.season.models import Egg, Stage

NOT_COUNTED = "off"
BAR = 120
RARELY = 0.02
MOST_TRIED, MOST_TOLD = 20, 3
SILENT = 1.05


@dataclass(frozen=True)
class CueRow:
    """One look in the balance. ``bar``: half-width of its weight in drawing units; ``choices``: its other answers, for a what-if."""

    trait: str
    stage: str
    name: str
    seen: str
    drawing: str
    factor: str
    speaks_for: bool
    bar: int
    expected: str
    rules: list[str]
    choices: list[tuple[str, str]]
    chosen: str

    @property
    def width(self) -> int:
        """Length of the bar, whichever way it points."""
        return abs(self.bar)


@dataclass(frozen=True)
class WhyView:
    """The balance of one gene."""

    gene: str
    name: str
    copies: int
    before: str
    after: str
    asked: str
    cues: list[CueRow]
    silent: list[CueRow]
    beside: list[str]
    hidden: list[str]
    outlook: list[str]
    settles: list[str]
    is_changed: bool


def why_view(judgement: Judgement, egg: Egg, gene: str, copies: int, asked: Mapping[str, str]) -> WhyView:
    """The balance of a gene. ``asked``: other answers by "trait.stage", a level or ``off``, to see what would be."""
    if isinstance(judgement, TableJudgement):
        return _by_itself(judgement, egg, gene, copies, asked)
    assert isinstance(judgement, ClutchJudgement)
    return _in_a_clutch(judgement, egg, gene, copies, asked)


def _by_itself(judgement: TableJudgement, egg: Egg, gene: str, copies: int, asked: Mapping[str, str]) -> WhyView:
    """Of an animal of unknown parents: each look's weight is that beside the leading combination."""
    asked = _known(judgement.hatchling, asked)
    changed = _changed(judgement.hatchling, asked)
    now = judgement.answered_otherwise(changed) if changed != judgement.hatchling else judgement
    stored, (after, before) = judgement.shown_chances(egg, gene, copies)[0], now.shown_chances(egg, gene, copies)
    looks = {(look.trait, look.stage): look for look in judgement.looks[egg.pk]}
    cues = {cue.trait: cue for cue in now.cues(gene, copies)}
    leading = now.one.leading
    at_work = rules_at_work(judgement.catalogue, leading, egg.stage) if leading is not None else []
    rows = [_row(judgement, look, cues.get(look.trait), asked, gene, at_work) for look in looks.values()]
    return WhyView(
        gene=gene,
        name=judgement.naming.copies(gene, copies),
        copies=copies,
        before=odds(before),
        after=percent(stored, certain=not looks),
        asked=percent(after),
        cues=_weighed(rows),
        silent=[row for row in rows if not row.bar],
        beside=[],
        hidden=[f"{rule.claim} ({rule.standing})" for rule in at_work if gene in rule.weakens],
        outlook=_outlook_by_itself(now, egg, gene),
        settles=[] if after >= PROVEN_FROM else what_settles(judgement.catalogue, [{gene: copies}, {}]),
        is_changed=now is not judgement,
    )


def _outlook_by_itself(judgement: TableJudgement, egg: Egg, gene: str) -> list[str]:
    """Of the looks that tell most now, those that tell most of this gene."""
    telling = [
        (look.trait, settling)
        for look in judgement.next_looks(egg, egg.stage)[:MOST_TRIED]
        if (settling := judgement.settling(egg, look.trait, egg.stage)) and settling.gene == gene
    ]
    return [_settles_words("now", trait, "", settling) for trait, settling in telling[:MOST_TOLD]]


def _in_a_clutch(judgement: ClutchJudgement, egg: Egg, gene: str, copies: int, asked: Mapping[str, str]) -> WhyView:
    index = judgement.index(egg)
    asked = _known(judgement.inference.hatchlings[index], asked)
    changed = _changed(judgement.inference.hatchlings[index], asked)
    inference = _with(judgement, index, changed)
    form = (gene, "shown", copies)
    posterior = inference.posteriors[index]
    stored = judgement.chance_of(judgement.inference.posteriors[index].sums, *form)
    now = judgement.chance_of(posterior.sums, *form)
    looks = {(look.trait, look.stage): look for look in judgement.looks[egg.pk]}
    cues = {cue.trait: cue for cue in cues_of(inference, index, gene, copies)}
    at_work = rules_at_work(judgement.catalogue, _leading(judgement, inference, index), egg.stage)
    rows = [_row(judgement, look, cues.get(look.trait), asked, gene, at_work) for look in looks.values()]
    naming = judgement.naming
    return WhyView(
        gene=gene,
        name=naming.copies(gene, copies),
        copies=copies,
        before=odds(judgement.chance_of(posterior.prior_sums, *form)),
        after=percent(stored, certain=not looks),
        asked=percent(now),
        cues=_weighed(rows),
        silent=[row for row in rows if not row.bar],
        beside=_beside(judgement, inference, egg, form),
        hidden=[f"{rule.claim} ({rule.standing})" for rule in at_work if gene in rule.weakens],
        outlook=_outlook(inference, index, gene, egg.stage),
        settles=[] if now >= PROVEN_FROM else what_settles(judgement.catalogue, [{gene: copies}, {}]),
        is_changed=changed != judgement.inference.hatchlings[index],
    )


def _weighed(rows: list[CueRow]) -> list[CueRow]:
    return sorted((row for row in rows if row.bar), key=lambda row: -abs(row.bar))


def _beside(judgement: ClutchJudgement, inference: Inference, egg: Egg, form: tuple[str, str, int]) -> list[str]:
    """Each comparison of this hatchling, with how many times it moves the odds, all else counted."""
    index, sentences = judgement.index(egg), []
    now = judgement.chance_of(inference.posteriors[index].sums, *form)
    for row in counting_comparisons(judgement.compared):
        if egg.pk in (row.egg_id, row.other_id):
            without = judgement.inference_of(inference.hatchlings, without={row.pk})
            before = judgement.chance_of(without.posteriors[index].sums, *form)
            words = f"{words_of(row, egg).capitalize()} ({row.seen_by.get_username()}, {row.get_stage_display()})"
            sentences.append(f"{words}: {moved_words(before, now)}")
    return sentences


def moved_words(before: float, after: float) -> str:
    """How many times the odds of a chance are moved, and which way."""
    if not (0 < before < 1 and 0 < after < 1):
        return "it makes no difference"
    factor = after / (1 - after) / (before / (1 - before))
    strength = max(factor, 1 / factor)
    return (
        f"{'for' if factor > 1 else 'against'}, {strength:.1f} times" if strength > SILENT else "it says nothing of it"
    )


def _known(hatchling: Hatchling, asked: Mapping[str, str]) -> dict[str, str]:
    """What is asked of looks that the hatchling has, with levels that they have."""
    known = {}
    for look in hatchling.observations:
        key = f"{look.trait}.{look.stage}"
        levels = {level["id"] for level in trait_words(look.trait)["levels"]} | {NOT_COUNTED}
        if asked.get(key) in levels:
            known[key] = asked[key]
    return known


def _changed(hatchling: Hatchling, asked: Mapping[str, str]) -> Hatchling:
    """The hatchling with other answers, or without some."""
    answers = [(look, asked.get(f"{look.trait}.{look.stage}", look.level)) for look in hatchling.observations]
    kept = tuple(replace(look, level=level) for look, level in answers if level != NOT_COUNTED)
    return replace(hatchling, observations=kept)


def _with(judgement: ClutchJudgement, index: int, hatchling: Hatchling) -> Inference:
    others = list(judgement.inference.hatchlings)
    others[index] = hatchling
    return judgement.inference_of(others)


def _leading(judgement: ClutchJudgement, inference: Inference, index: int) -> dict[str, list[str]]:
    best = int(inference.posteriors[index].children.argmax())
    return judgement.model.pairing.genotype_at(best)


def _row(
    judgement: Judgement, look: Look, cue: Cue | None, asked: Mapping[str, str], gene: str, at_work: list[AtWork]
) -> CueRow:
    words = trait_words(look.trait)
    chosen = asked.get(f"{look.trait}.{look.stage}", look.level)
    level = chosen if chosen != NOT_COUNTED else look.level
    levels = [(entry["id"], plain(entry["id"])) for entry in words["levels"]]
    expected, factor, bar = "", "", 0
    if cue and chosen != NOT_COUNTED:
        place = judgement.catalogue.traits[look.trait].level_index[level]
        name = judgement.naming.gene(gene)
        chances = percent(float(cue.with_gene[place])), percent(float(cue.without_gene[place]))
        expected = f"expected in {chances[0]} with {name}, in {chances[1]} without"
        strength = max(cue.factor, 1 / cue.factor)
        factor = f"{strength:.1f} times" if strength < 10 else f"{strength:.0f} times"
        bar = min(BAR, max(2, round(BAR * (strength - 1) / (strength + 3))))
    return CueRow(
        look.trait,
        look.stage,
        str(words["name"]),
        plain(level),
        glyph(look.trait, level),
        factor,
        bool(cue and cue.factor > 1),
        bar if not cue or cue.factor > 1 else -bar,
        expected,
        [f"{rule.claim} ({rule.standing})" for rule in at_work if look.trait in (*rule.adds, *rule.covers)],
        [*levels, (NOT_COUNTED, "leave it out")],
        chosen,
    )


def _outlook(inference: Inference, index: int, gene: str, stage: str) -> list[str]:
    """What would settle it at this stage and later, a sentence each."""
    done = {look.trait for look in inference.hatchlings[index].observations if look.stage == stage}
    sentences = []
    for one in outlooks(inference, index, gene, stage):
        again = ", once more" if one.trait in done and one.stage == stage else ""
        when = "now" if one.stage == stage else Stage(one.stage).label
        sentences.append(_settles_words(when, one.trait, again, one.settling))
    return sentences


def _settles_words(when: str, trait: str, again: str, settling: Settling) -> str:
    look = f"{when}: {trait_words(trait)['name'].lower()}{again}"
    if settling.chance > RARELY:
        return f"{look} settles it with a chance of {odds(settling.chance)}"
    return f"{look} tells most of it, though one look alone won’t settle it"
