"""What the cutting page and its sheet show, worked out before the template."""

from __future__ import annotations

from dataclasses import dataclass

from eyot_core.genetics.tables import Marginals
from eyot_core.identify.inference import Inference
from eyot_core.identify.questions import gain_bits, what_it_settles
from eyot_core.wording.chances import percent

from eyot.bench.judgement import LIKELY, RULED_OUT, SETTLED, ClutchJudgement, as_hatchling
from eyot.bench.look_rows import LookRow, look_rows
from eyot.bench.siblings import first_guess, judged
from eyot.season.models import Clutch, Egg, Stage

MOST_LOOKS = 5
WORTH_BITS = 0.01
MOVED = 0.05
CAUSE = 0.02


@dataclass(frozen=True)
class CutLook:
    """One look to answer at the cut, with the gene of which it tells most."""

    gene: str
    row: LookRow


@dataclass(frozen=True)
class CutEgg:
    """One egg on the cutting page."""

    egg: Egg
    looks: list[CutLook]
    photos: int


def genes_to_guess(judgement: ClutchJudgement) -> list[tuple[str, str]]:
    """What a first guess may name: each form that shows, as (id, words)."""
    naming = judgement.naming
    forms = [(gene, copies) for gene, form, copies in judgement.forms() if form == "shown"]
    return [(f"{gene}-{copies}", naming.copies(gene, copies)) for gene, copies in forms]


def looks_of_genes(judgement: ClutchJudgement) -> list[tuple[str, str]]:
    """The looks to put at the cut, as (trait, gene): for each gene the one that tells most of it, strong ones first."""
    model, expected = judgement.model, judgement.model.pairing.expected_sums
    gains = {trait: gain_bits(model, expected, trait, Stage.EGG) for trait in model.catalogue.traits}
    ranked = [trait for trait in sorted(gains, key=lambda trait: -gains[trait]) if gains[trait] > WORTH_BITS]
    fresh = Inference(model.pairing, [as_hatchling(Egg(), [])], model)
    ranked_looks = [
        (trait, settling.gene) for trait in ranked if (settling := what_it_settles(fresh, 0, trait, Stage.EGG))
    ]
    first = {gene: trait for trait, gene in reversed(ranked_looks)}
    chosen = set(first.values())
    ordered = [row for row in ranked_looks if row[0] in chosen] + [row for row in ranked_looks if row[0] not in chosen]
    return ordered[:MOST_LOOKS]


def cut_eggs(judgement: ClutchJudgement, clutch: Clutch, reader_id: int) -> list[CutEgg]:
    """All eggs in box order, each with its looks and how many photos it has: one query."""
    asked = looks_of_genes(judgement)
    wanted = {trait for trait, _ in asked}
    eggs = []
    for egg in clutch.eggs.prefetch_related("photos"):
        counted = judgement.looks.get(egg.pk, [])
        rows = {row.trait: row for row in look_rows(judgement, counted, Stage.EGG, reader_id, "", wanted.__contains__)}
        looks = [CutLook(judgement.naming.gene(gene), rows[trait]) for trait, gene in asked]
        eggs.append(CutEgg(egg, looks, sum(photo.stage == Stage.EGG for photo in egg.photos.all())))
    return eggs


@dataclass(frozen=True)
class Moved:
    """One gene of an egg that its siblings move: before, after, and why."""

    name: str
    alone: str
    with_siblings: str
    why: str


@dataclass(frozen=True)
class SheetRow:
    """One egg of the sheet: first guess as spoken, what its own looks say, what its siblings suggest changing."""

    egg: Egg
    own: str
    moved: list[Moved]
    odd: str


def sheet_of(clutch: Clutch) -> list[SheetRow]:
    """All eggs after the last cut."""
    judgement = judged(clutch)
    return [_sheet_row(judgement, egg) for egg in clutch.eggs.all()]


def _sheet_row(judgement: ClutchJudgement, egg: Egg) -> SheetRow:
    if egg not in judgement.eggs or not egg.is_open:
        return SheetRow(egg, egg.get_state_display().lower(), [], "")
    index = judgement.index(egg)
    if judgement.inference.contradictions[index]:
        return SheetRow(egg, "", [], "Its looks fit nothing that these parents can give: look again, or see the bench.")
    alone = Inference(judgement.model.pairing, [judgement.inference.hatchlings[index]], judgement.model)
    own, joint = alone.posteriors[0].sums, judgement.inference.posteriors[index].sums
    moved = [
        Moved(
            _form_words(judgement, *form), percent(before), percent(after), _why(judgement, index, form, after - before)
        )
        for form in judgement.forms()
        if abs((after := judgement.chance_of(joint, *form)) - (before := judgement.chance_of(own, *form))) >= MOVED
    ]
    words = first_guess(judgement, egg) if judgement.looks[egg.pk] else "not looked at"
    return SheetRow(egg, words, moved, _against_guess(judgement, egg, joint))


def _form_words(judgement: ClutchJudgement, gene: str, form: str, copies: int) -> str:
    words = judgement.naming.copies(gene, copies)
    return f"{words}, carried" if form == "carried" else words


def _why(judgement: ClutchJudgement, index: int, form: tuple[str, str, int], shift: float) -> str:
    """The sibling without whose looks the chance would move back most, and what it says of a parent."""
    best, best_shift = None, CAUSE
    for other, egg in enumerate(judgement.eggs):
        if other != index and judgement.looks[egg.pk]:
            kept = [
                one if at != other else as_hatchling(egg, []) for at, one in enumerate(judgement.inference.hatchlings)
            ]
            beside = {row.pk for row in judgement.compared if egg.pk in (row.egg_id, row.other_id)}
            without = judgement.inference_of(kept, beside)
            change = judgement.chance_of(judgement.inference.posteriors[index].sums, *form) - judgement.chance_of(
                without.posteriors[index].sums, *form
            )
            if change * shift > 0 and abs(change) > best_shift:
                best, best_shift = egg, abs(change)
    name = judgement.naming.gene(form[0])
    if best is None:
        return f"the siblings together say so of the parents’ {name}"
    shows = _shows(judgement, best, form[0])
    return f"egg {best.number} {shows}, which says that a parent {'carries' if shift > 0 else 'may not carry'} {name}"


def _shows(judgement: ClutchJudgement, egg: Egg, gene: str) -> str:
    copies = 2 if judgement.model.catalogue.genes[gene].is_recessive else 1
    sums: Marginals = judgement.inference.posteriors[judgement.index(egg)].sums
    chance = judgement.chance_of(sums, gene, "shown", copies)
    return (
        f"shows {judgement.naming.gene(gene)} ({percent(chance)})"
        if chance >= LIKELY
        else f"was looked at ({percent(chance)})"
    )


def _against_guess(judgement: ClutchJudgement, egg: Egg, sums: Marginals) -> str:
    """Where the first guess names what the looks now rule out, or leaves out what they settle."""
    guessed = egg.first_guess.lower()
    if not guessed:
        return ""
    sentences = []
    for gene, form, copies in judgement.forms():
        if form == "shown":
            name = judgement.naming.copies(gene, copies)
            chance = judgement.chance_of(sums, gene, form, copies)
            named = name.lower() in guessed
            if named and chance <= RULED_OUT:
                sentences.append(f"{name} was guessed; the looks leave {percent(chance)}")
            if (
                not named
                and chance >= SETTLED
                and copies == (2 if judgement.model.catalogue.genes[gene].is_recessive else 1)
            ):
                sentences.append(f"{name} was not guessed; the looks make it {percent(chance)}")
    return "; ".join(sentences)
