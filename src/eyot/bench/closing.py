"""The closing sheet of a clutch: all hatchlings, what was expected and what came, luck in plain words, and what the parents are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from eyot_core.hatchery.luck import luck
from eyot_core.identify.answer import parents_after
from eyot_core.wording.chances import odds, percent

from eyot.bench.actions import label_of, said_in
from eyot.bench.judgement import PROVEN_FROM, SETTLED, ClutchJudgement
from eyot.bench.models import Call, CalledGene
from eyot.bench.siblings import Frame
from eyot.collection.models import Animal, CarriedGene
from eyot.collection.wording import gene_statement
from eyot.season.models import Clutch, Egg, Weighing

RARE = 0.05
SEEN_AS = (CalledGene.Verdict.SURE, CalledGene.Verdict.LIKELY)


@dataclass(frozen=True)
class SheetRow:
    """One hatchling: its call in two wordings, gene by gene and by trade names where one fits exactly."""

    egg: Egg
    label: str
    trade: str
    call: Call | None
    weight: Weighing | None


def sheet_rows(judgement: ClutchJudgement, frames: Sequence[Frame]) -> list[SheetRow]:
    """All eggs in order; a hatchling without a call says what the looks make of it. One query."""
    weights = {row.egg_id: row for row in Weighing.objects.filter(egg__in=[frame.egg for frame in frames])}
    return [
        SheetRow(
            frame.egg,
            frame.call.label if frame.call else frame.words,
            trade_label(judgement, frame.call) if frame.call else "",
            frame.call,
            weights.get(frame.egg.pk),
        )
        for frame in frames
    ]


def trade_label(judgement: ClutchJudgement, call: Call) -> str:
    """The label with trade names for what is called sure, as far as names fit; empty where none does."""
    said = said_in(call)
    label = label_of(judgement, call.egg, said, trade=True)
    return label if label != label_of(judgement, call.egg, said) else ""


@dataclass(frozen=True)
class CameRow:
    """One gene: how many were expected and came, and whether that is luck."""

    name: str
    expected: str
    came: str
    words: str


def came_rows(judgement: ClutchJudgement, frames: Sequence[Frame]) -> list[CameRow]:
    """What was expected of the hatchlings and what came, by the calls, and by the looks where no call was made."""
    hatched = [frame for frame in frames if frame.egg.is_open and frame.egg in judgement.eggs]
    if not hatched:
        return []
    rows = []
    for gene, form, copies in judgement.forms():
        if form == "shown":
            chance = judgement.chance_of(judgement.inference.pairing.expected_sums, gene, form, copies)
            states = [_came(judgement, frame, gene, copies) for frame in hatched]
            came, open_ones = states.count(True), states.count(None)
            rows.append(_came_row(judgement.naming.copies(gene, copies), chance, came, open_ones, len(hatched)))
    return rows


def _came(judgement: ClutchJudgement, frame: Frame, gene: str, copies: int) -> bool | None:
    """Does a hatchling have the gene? ``None`` where that is open."""
    called = next((row for row in frame.call.genes.all() if row.gene == gene), None) if frame.call else None
    if called and called.verdict in SEEN_AS:
        return called.copies >= copies
    if called and called.verdict == CalledGene.Verdict.NOT:
        return False
    if called or not judgement.looks[frame.egg.pk]:
        return None
    chance = judgement.chance_of(judgement.inference.posteriors[judgement.index(frame.egg)].sums, gene, "shown", copies)
    return True if chance >= SETTLED else False if chance <= 1 - SETTLED else None


def _came_row(name: str, chance: float, came: int, open_ones: int, count: int) -> CameRow:
    expected = f"{chance * count:.1f} of {count}"
    if open_ones:
        return CameRow(name, expected, f"{came}, {open_ones} open", "told when all are called")
    often = luck(came, count, chance)
    words = f"as odd a count comes in {odds(often)} clutches" if often < RARE else "nothing out of the ordinary"
    return CameRow(
        name,
        expected,
        str(came),
        f"{words}{'; luck, unless clutch after clutch says the same' if often < RARE else ''}",
    )


@dataclass(frozen=True)
class Offer:
    """A change that the clutch offers for a parent's record, with the reason."""

    animal: Animal
    gene: str
    copies: int
    before: str
    after: str
    reason: str
    gone: bool


def offers(judgement: ClutchJudgement, clutch: Clutch) -> list[Offer]:
    """What the parents turned out to be, where their record says otherwise; never changed without the keeper."""
    after = parents_after(judgement.inference)
    offered = _offers_for(judgement, clutch, clutch.own_dam, after["dam"])
    for index, entry in enumerate(clutch.clutch_sires.all()):
        offered += _offers_for(judgement, clutch, entry.sire, after["sires"][index])
    return offered


def _offers_for(judgement: ClutchJudgement, clutch: Clutch, animal: Animal, rows: list[dict[str, Any]]) -> list[Offer]:
    stated = {gene.gene: gene for gene in animal.genes.all()}
    offered = []
    for row in rows:
        gene = stated.get(row["gene"])
        if gene is None:
            continue
        there, two = 1 - row["copies"]["0"], row["copies"]["2"]
        name, before = judgement.naming.gene(row["gene"]), gene_statement(gene, judgement.naming)
        reason = f"clutch {clutch.code} leaves {percent(there)}"
        if there >= PROVEN_FROM and (gene.chance != "1" or (gene.two_chance and two >= PROVEN_FROM)):
            copies = 2 if two >= PROVEN_FROM else 1
            after = f"{judgement.naming.copies(row['gene'], copies)} ({CarriedGene.Known.BRED.label.lower()})"
            offered.append(Offer(animal, row["gene"], copies, before, after, reason, gone=False))
        elif there <= 1 - PROVEN_FROM:
            offered.append(Offer(animal, row["gene"], 0, before, f"no {name}", reason, gone=True))
    return offered
