"""What the clutch page shows, worked out before the template."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from eyot_core.genetics.pairing import Floats
from eyot_core.hatchery.days import expected_days
from eyot_core.hatchery.luck import at_least_one
from eyot_core.identify.answer import makers_after, parents_after
from eyot_core.wording.chances import odds, percent

from eyot.bench.judgement import PROVEN_FROM, ClutchJudgement, recessives
from eyot.bench.queries import LIKELY, RULED_OUT, SETTLED, Frame
from eyot.collection.models import CarriedGene
from eyot.collection.wording import gene_statement, naming
from eyot.season.models import Clutch, Egg
from eyot.season.queries import sire_names

TABLE_AXIS = 120
BOX_WIDTH, BOX_HEIGHT = 560, 400
DAYS_WIDTH, DAYS_LEFT = 1150, 40


@dataclass(frozen=True)
class Cell:
    """One gene in one egg: ``mark`` one, two, doubt, none, unlooked; ``words`` for readers of text."""

    mark: str
    words: str


@dataclass(frozen=True)
class GeneRow:
    """One gene over all eggs, with what was to be expected and what was found."""

    name: str
    cells: list[Cell]
    expected: str
    found: str
    thin: int
    thick: int
    maybe: int


def gene_rows(judgement: ClutchJudgement, frames: list[Frame]) -> list[GeneRow]:
    """Genes by eggs. A mark stands where a look spoke and the chance is at least 97 % or at most 3 %; between lies doubt."""
    return [_gene_row(judgement, frames, *form) for form in judgement.forms() if form[1] == "shown"]


def _gene_row(judgement: ClutchJudgement, frames: list[Frame], gene: str, form: str, copies: int) -> GeneRow:
    prior = judgement.chance_of(judgement.inference.expected, gene, form, copies)
    cells, found, maybe = [], 0, 0.0
    for frame in frames:
        cell, chance = _cell(judgement, frame.egg, gene, form, copies)
        cells.append(cell)
        found += cell.mark in ("one", "two")
        maybe += chance if cell.mark == "doubt" else 0.0
    eggs = len(judgement.eggs)
    name = naming().copies(gene, copies)
    return GeneRow(
        name,
        cells,
        expected=f"{prior * eggs:.1f}",
        found=str(found),
        thin=round(prior * TABLE_AXIS),
        thick=round(found / eggs * TABLE_AXIS) if eggs else 0,
        maybe=round(maybe / eggs * TABLE_AXIS) if eggs else 0,
    )


def _cell(judgement: ClutchJudgement, egg: Egg, gene: str, form: str, copies: int) -> tuple[Cell, float]:
    if egg not in judgement.eggs or not egg.is_open:
        return Cell("unlooked", egg.get_state_display()), 0.0
    posterior = judgement.inference.posteriors[judgement.index(egg)]
    chance = judgement.chance_of(posterior.children, gene, form, copies)
    looked = bool(judgement.looks[egg.pk])
    if looked and chance >= SETTLED:
        return Cell("two" if copies == 2 else "one", percent(chance)), chance
    if looked and chance <= RULED_OUT:
        return Cell("none", percent(chance)), chance
    return Cell("doubt" if looked else "unlooked", f"{percent(chance)}" + ("" if looked else ", from the parents")), chance


@dataclass(frozen=True)
class ParentSays:
    """What the clutch says of one parent, as sentences."""

    name: str
    role: str
    genes: list[str]
    sentences: list[str]


def parents_say(judgement: ClutchJudgement, clutch: Clutch) -> list[ParentSays]:
    """What the looks say of dam and sires, gene by gene of which something was uncertain."""
    after = parents_after(judgement.inference)
    found = [ParentSays(clutch.dam.name, "dam", gene_words(clutch.dam.genes.all()), _sentences(judgement, clutch.dam.genes.all(), after["dam"]))]
    makers = makers_after(judgement.inference)
    for index, entry in enumerate(clutch.clutch_sires.all()):
        sentences = _sentences(judgement, entry.sire.genes.all(), after["sires"][index])
        sentences += [f"{naming().gene(row['gene'])} on his X (female maker): {percent(row['on_x'])}." for row in makers if row["sire"] == index]
        found.append(ParentSays(entry.sire.name, "sire", gene_words(entry.sire.genes.all()), sentences))
    return found


def gene_words(genes: Iterable[CarriedGene]) -> list[str]:
    """The genes of an animal, each with how it is known."""
    return [gene_statement(gene) for gene in genes]


def _sentences(judgement: ClutchJudgement, statements: Iterable[CarriedGene], uncertain: list[dict[str, Any]]) -> list[str]:
    stated = {gene.gene: gene for gene in statements}
    found = []
    for row in uncertain:
        gene = row["gene"]
        there = 1 - row["copies"]["0"]
        name = naming().gene(gene)
        before = gene_statement(stated[gene]) if gene in stated else name
        if there >= PROVEN_FROM:
            proof = _proving_egg(judgement, gene)
            found.append(f"{before} → proven{f' by egg {proof}' if proof else ''} ({percent(there)}).")
        else:
            found.append(f"{before}: now {percent(there)}.")
    return found


def _proving_egg(judgement: ClutchJudgement, gene: str) -> int | None:
    """The hatchling that most surely shows the gene."""
    chances = {egg.number: judgement.chance_of(judgement.inference.posteriors[i].children, gene, "shown", 2) for i, egg in enumerate(judgement.eggs)}
    best = max(chances, key=lambda number: chances[number], default=None)
    return best if best is not None and chances[best] > LIKELY else None


@dataclass(frozen=True)
class RecessiveSays:
    """What holds for eggs not open yet and for siblings that do not show a recessive."""

    name: str
    next_egg: str
    carried: str
    at_least_one: str
    shut: int


def recessives_say(judgement: ClutchJudgement) -> list[RecessiveSays]:
    """For each recessive: the chance of each unopened egg, and of each sibling that does not show it."""
    shut = sum(egg.is_shut for egg in judgement.eggs)
    found = []
    for gene in recessives(judgement):
        shown = judgement.chance_of(judgement.unseen_sibling, gene, "shown", 2)
        found.append(
            RecessiveSays(
                naming().gene(gene),
                odds(shown),
                odds(judgement.carried_if_not_shown(gene)),
                percent(_at_least_one_shown(judgement, gene, shut)),
                shut,
            )
        )
    return found


def _at_least_one_shown(judgement: ClutchJudgement, gene: str, eggs: int) -> float:
    """Chance of at least one that shows it among unopened eggs, over the hypotheses on the parents (siblings are not independent)."""
    hypotheses: Floats = judgement.inference.hypotheses
    total = 0.0
    for place in range(hypotheses.size):
        weight = float(hypotheses.flat[place])
        if weight > 0:
            one = hypotheses * 0
            one.flat[place] = 1.0
            total += weight * at_least_one(min(1.0, judgement.chance_of(judgement.inference.unknown_under(one), gene, "shown", 2)), eggs)
    return total


@dataclass(frozen=True)
class BoxEgg:
    """An egg as it lies in the box."""

    frame: Frame
    x: int
    y: int
    label_y: int


def box_of(frames: list[Frame]) -> list[BoxEgg]:
    """Places of the eggs in drawing units."""
    found = []
    for frame in frames:
        x, y = round(75 + frame.egg.across * (BOX_WIDTH - 150)), round(62 + frame.egg.down * (BOX_HEIGHT - 150))
        found.append(BoxEgg(frame, x, y, y + 62))
    return found


@dataclass(frozen=True)
class DayMark:
    """A day of the clutch on its line."""

    x: int
    name: str
    on: date
    ahead: bool


@dataclass(frozen=True)
class DayLine:
    """The days of a clutch as one line."""

    marks: list[DayMark]
    due: tuple[int, int]
    today: int
    day: int
    ticks: list[tuple[int, int]]


def day_line(clutch: Clutch, today: date) -> DayLine | None:
    """The line of days, from the laying to some days past the shed; ``None`` before the laying."""
    if clutch.laid_on is None:
        return None
    laid = clutch.laid_on
    expected = expected_days(laid, clutch.out_on)
    shed = clutch.shed_on or max(expected.shed_on, today)
    span = max((shed - laid).days, (today - laid).days) + 5

    def place(day: date) -> int:
        return round(DAYS_LEFT + (day - laid).days / span * (DAYS_WIDTH - 2 * DAYS_LEFT))

    known = [("laid", laid, False)]
    known += [("cut", clutch.cut_on, False)] if clutch.cut_on else []
    known += [("out", clutch.out_on or expected.out_on, clutch.out_on is None), ("blue", expected.blue_on, expected.blue_on > today)]
    known += [("shed", clutch.shed_on or expected.shed_on, clutch.shed_on is None)]
    marks = [DayMark(place(day), name, day, ahead) for name, day, ahead in known]
    ticks = [(round(DAYS_LEFT + d / span * (DAYS_WIDTH - 2 * DAYS_LEFT)), d) for d in range(10, min(span, 55), 10)]
    return DayLine(marks, (place(expected.due_from), place(expected.due_to)), place(today), (today - laid).days, ticks)


def heading(clutch: Clutch, today: date) -> str:
    """Dam × sires and the day, as a line."""
    names = f"{clutch.dam.name} × {' or '.join(sire_names(clutch))}"
    return f"{names}, day {(today - clutch.laid_on).days}" if clutch.laid_on else f"{names}, not laid yet"


def welfare_notes(judgement: ClutchJudgement) -> list[tuple[str, str]]:
    """Genes of this pairing with known welfare trouble, with what is known; notes on two copies only where they can come."""
    pairing, found = judgement.model.pairing, []
    for gene in pairing.given_genes:
        note, entry = naming().told(gene, "welfare"), pairing.catalogue.genes[gene]
        group = pairing.groups[pairing.group_of[entry.locus][0]]
        doubles = any(len(genotype) == 2 and gene in genotype for child in group.children for genotype in child)
        if note and (doubles or naming().told(gene, "welfare_from") != "2"):
            found.append((naming().gene(gene), note))
    return found
