"""What the clutch page shows, worked out before the template."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from typing import Any

from eyot_core.genetics.pairing import Pairing
from eyot_core.identify.answer import makers_after, parents_after
from eyot_core.identify.teaching import forecast_given
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.names import Naming

from eyot.bench.judgement import LIKELY, PROVEN_FROM, RULED_OUT, SETTLED, ClutchJudgement, recessives
from eyot.bench.models import Call, CalledGene
from eyot.bench.siblings import Frame
from eyot.collection.models import Animal, CarriedGene
from eyot.collection.wording import gene_statement
from eyot.photos.models import Photo
from eyot.photos.queries import photos_of_animals
from eyot.season.models import Clutch

HARDLY_MOVED = 0.01
CERTAIN = 1e-9
TABLE_AXIS = 120


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
    prior: int
    posterior: int
    maybe: int


def gene_rows(judgement: ClutchJudgement, frames: list[Frame]) -> list[GeneRow]:
    """Genes by eggs. A mark stands where a look spoke and the chance is at least 97 % or at most 3 %; between lies doubt."""
    return [_gene_row(judgement, frames, *form) for form in judgement.forms() if form[1] == "shown"]


def _gene_row(judgement: ClutchJudgement, frames: list[Frame], gene: str, form: str, copies: int) -> GeneRow:
    prior = judgement.chance_of(judgement.inference.pairing.expected_sums, gene, form, copies)
    cells, count, maybe = [], 0, 0.0
    for frame in frames:
        cell, chance = _cell(judgement, frame, gene, form, copies)
        cells.append(cell)
        count += cell.mark in ("one", "two")
        maybe += chance if cell.mark == "doubt" else 0.0
    eggs = len(judgement.eggs)
    name = judgement.naming.copies(gene, copies)
    return GeneRow(
        name,
        cells,
        expected=f"{prior * eggs:.1f}" if eggs else odds(prior),
        found=str(count) if eggs else "",
        prior=round(prior * TABLE_AXIS),
        posterior=round(count / eggs * TABLE_AXIS) if eggs else 0,
        maybe=round(maybe / eggs * TABLE_AXIS) if eggs else 0,
    )


def _cell(judgement: ClutchJudgement, frame: Frame, gene: str, form: str, copies: int) -> tuple[Cell, float]:
    """The mark of one gene in one egg, and the chance that it counts as found: 1 or 0 by the call, where there is one."""
    egg = frame.egg
    if frame.call and (called := _called_cell(frame.call, gene, copies)):
        return called
    if egg not in judgement.eggs or not egg.is_open:
        return Cell("unlooked", egg.get_state_display()), 0.0
    posterior = judgement.inference.posteriors[judgement.index(egg)]
    chance = judgement.chance_of(posterior.sums, gene, form, copies)
    looked = bool(judgement.looks[egg.pk])
    if looked and chance >= SETTLED:
        return Cell("two" if copies == 2 else "one", percent(chance)), chance
    if looked and chance <= RULED_OUT:
        return Cell("none", percent(chance)), chance
    return Cell(
        "doubt" if looked else "unlooked", f"{percent(chance)}" + ("" if looked else ", from the parents")
    ), chance


def _called_cell(call: Call, gene: str, copies: int) -> tuple[Cell, float] | None:
    """The mark of one gene by the keeper's call, if the call speaks of it."""
    entry = next((row for row in call.genes.all() if row.gene == gene), None)
    if entry is None or entry.verdict == CalledGene.Verdict.UNKNOWN:
        return None
    words = f"called {entry.get_verdict_display().lower()}, {percent(entry.chance)} then"
    if entry.verdict == CalledGene.Verdict.POSSIBLE:
        return Cell("doubt", words), entry.chance
    if entry.verdict == CalledGene.Verdict.NOT or entry.copies < copies:
        return Cell("none", words), 0.0
    return Cell("two" if copies == 2 else "one", words), 1.0


SIRE_UNKNOWN = (
    "He may have any of the dam’s genes, as often as animals in captivity have them. What only he can have given has no odds "
    "here: name it at the call, with the reason. "
    "Once he is known, name him in the clutch’s record."
)


@dataclass(frozen=True)
class ParentSays:
    """What the clutch says of one parent, as sentences."""

    name: str
    role: str
    genes: list[str]
    sentences: list[str]
    animal: Animal | None = None
    photos: tuple[Photo, ...] = ()


def parents_say(judgement: ClutchJudgement, clutch: Clutch) -> list[ParentSays]:
    """What the looks say of dam and sires, gene by gene of which something was uncertain; with their photos."""
    sires = [entry.sire for entry in clutch.clutch_sires.all()]
    pictured = photos_of_animals([clutch.own_dam.pk, *(sire.pk for sire in sires)], (Photo.Kind.BACK, Photo.Kind.BELLY))
    after = parents_after(judgement.inference)
    sayings = [
        ParentSays(
            clutch.own_dam.name,
            "dam",
            gene_words(clutch.own_dam.genes.all(), judgement.naming),
            _sentences(judgement, clutch.own_dam.genes.all(), after["dam"]),
            clutch.own_dam,
            _shown(pictured, clutch.own_dam),
        )
    ]
    if not clutch.clutch_sires.all():
        sayings.append(ParentSays("Not known", "sire", [], [SIRE_UNKNOWN]))
    makers = makers_after(judgement.inference)
    for index, entry in enumerate(clutch.clutch_sires.all()):
        sentences = _sentences(judgement, entry.sire.genes.all(), after["sires"][index])
        sentences += [
            f"{judgement.naming.gene(row['gene'])} on his X (female maker): {percent(row['on_x'])}."
            for row in makers
            if row["sire"] == index
        ]
        genes = gene_words(entry.sire.genes.all(), judgement.naming)
        pictures = _shown(pictured, entry.sire)
        sayings.append(ParentSays(entry.sire.name, "sire", genes, sentences, entry.sire, pictures))
    return sayings


def _shown(pictured: Mapping[int, Sequence[Photo]], animal: Animal) -> tuple[Photo, ...]:
    """Of a parent the newest photo of each kind, from above first."""
    newest: dict[str, Photo] = {}
    for photo in pictured.get(animal.pk, ()):
        newest.setdefault(photo.kind, photo)
    return tuple(newest[kind] for kind in (Photo.Kind.BACK, Photo.Kind.BELLY) if kind in newest)


def gene_words(genes: Iterable[CarriedGene], naming: Naming) -> list[str]:
    """The genes of an animal, each with how it is known."""
    return [gene_statement(gene, naming) for gene in genes]


def _sentences(
    judgement: ClutchJudgement, statements: Iterable[CarriedGene], uncertain: list[dict[str, Any]]
) -> list[str]:
    stated = {gene.gene: gene for gene in statements}
    sentences = []
    for row in uncertain:
        gene = row["gene"]
        there = 1 - row["copies"]["0"]
        name = judgement.naming.gene(gene)
        before = gene_statement(stated[gene], judgement.naming) if gene in stated else name
        if there >= PROVEN_FROM:
            proof = _proving_egg(judgement, gene)
            sentences.append(f"{before} → proven{f' by egg {proof}' if proof else ''} ({percent(there)}).")
        elif gene in stated and abs(there - float(Fraction(stated[gene].chance))) < HARDLY_MOVED:
            sentences.append(f"{before}: no look has moved it yet.")
        else:
            sentences.append(f"{before}: now {percent(there)}.")
    return sentences


def _proving_egg(judgement: ClutchJudgement, gene: str) -> int | None:
    """The hatchling that most surely shows the gene."""
    chances = {
        egg.number: judgement.chance_of(judgement.inference.posteriors[i].sums, gene, "shown", 2)
        for i, egg in enumerate(judgement.eggs)
    }
    best = max(chances, key=lambda number: chances[number], default=None)
    return best if best is not None and chances[best] > LIKELY else None


@dataclass(frozen=True)
class RecessiveSays:
    """What holds for eggs not open yet and for siblings that do not show a recessive, as sentences."""

    name: str
    sentences: list[str]


def recessives_say(judgement: ClutchJudgement) -> list[RecessiveSays]:
    """For each recessive: the chance of each unopened egg, and of each sibling that does not show it."""
    return [
        RecessiveSays(judgement.naming.gene(gene), _recessive_sentences(judgement, gene))
        for gene in recessives(judgement)
    ]


def _recessive_sentences(judgement: ClutchJudgement, gene: str) -> list[str]:
    shut = sum(egg.is_shut for egg in judgement.eggs)
    shown = judgement.chance_of(judgement.unseen_sibling, gene, "shown", 2)
    carried = judgement.carried_if_not_shown(gene)
    sentences = []
    if shown <= 0:
        sentences.append("No egg of these parents can show it.")
    elif shut:
        locus = judgement.model.catalogue.genes[gene].locus
        of_these = forecast_given(judgement.inference, lambda genotype: genotype.get(locus, []).count(gene) == 2, shut)
        at_least_one = percent(of_these.at_least_one)
        sentences.append(
            f"Each unopened egg shows it with a chance of {odds(shown)}, at least one of {shut} with {at_least_one}."
        )
    if shown >= 1:
        return ["Every hatchling of these parents shows it."]
    certain = carried > 1 - CERTAIN
    chance = "for certain" if certain else f"with a chance of {odds(carried)}"
    sentences.append(
        f"Each {'sibling' if shut < len(judgement.eggs) else 'egg'} that does not show it carries it {chance}."
    )
    return sentences


def heading(clutch: Clutch, today: date) -> str:
    """Dam × sires and the day, as a line."""
    names = f"{clutch.own_dam.name} × {clutch.sire_words}"
    return f"{names}, day {(today - clutch.laid_on).days}" if clutch.laid_on else f"{names}, not laid yet"


RESTRICTED = " Some shows and some countries’ animal-welfare rules bar breeding or selling such forms: check what holds where you live."


def welfare_notes(pairing: Pairing, naming: Naming) -> list[tuple[str, str, str]]:
    """Genes of this pairing with known welfare trouble: name, what is known, and a sentence where such forms are barred in places.

    Notes on two copies stand only where these can come.
    """
    notes = []
    for gene in pairing.given_genes:
        note, entry = naming.text(gene, "welfare"), pairing.catalogue.genes[gene]
        group = pairing.groups[pairing.group_of[entry.locus][0]]
        doubles = any(len(genotype) == 2 and gene in genotype for child in group.children for genotype in child)
        if note and (doubles or naming.text(gene, "welfare_from") != "2"):
            notes.append((naming.gene(gene), note, RESTRICTED if naming.text(gene, "restricted") else ""))
    return notes
