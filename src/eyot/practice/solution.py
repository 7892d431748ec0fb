"""The solution of an exercise: the truth beside what was said and could be known, and which cues told it, were missed, or misled."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eyot_core.body_places import place_of
from eyot_core.catalogue import Catalogue
from eyot_core.drawing.plate import AT, STRIP_HEIGHT, STRIP_WIDTH
from eyot_core.exercises.known import Cue, shows
from eyot_core.exercises.pictures import STRIP
from eyot_core.identify.looks import likeliest_looks
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.practice.knowing import TELLS, known_of
from eyot.practice.models import Exercise

WORDS = {"sure": "sure", "likely": "likely", "hint": "a hint", "no": "not there"}
CUES = 2
"""So many cues a gene are told."""


@dataclass(frozen=True)
class ToldCue:
    """A cue in words: the look and its level, how many times likelier with the gene, what it did, and where on the body it is. ``seen``:
    the level that was read, where it was another."""

    look: str
    level: str
    times: str
    did: str
    place: str
    seen: str

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of its pictures, in their own units: they keep their room before they are there."""
        return AT[self.place][2:] if self.place in AT else (STRIP_WIDTH, STRIP_HEIGHT)


@dataclass(frozen=True)
class SeenLook:
    """A look that was read: its name, the level that was read, and the one that is drawn."""

    name: str
    read: str
    true: str

    @property
    def is_right(self) -> bool:
        """Was it read rightly?"""
        return self.read == self.true


def looks_seen(exercise: Exercise) -> list[SeenLook]:
    """What was read of an animal, beside what it shows."""
    if exercise.animal is None:
        return []
    entries = {entry["id"]: entry["name"] for entry in catalogue_of(exercise.collection).document["traits"]}
    return [
        SeenLook(entries[look], level.replace("_", " "), exercise.animal.looks[look].replace("_", " "))
        for look, level in exercise.answer.get("looks", {}).items()
        if look in entries
    ]


@dataclass(frozen=True)
class GeneRow:
    """One gene of the solution."""

    gene: str
    name: str
    is_there: bool
    said: str
    could: str
    lost: str
    cues: list[ToldCue]


def solution_of(exercise: Exercise) -> list[GeneRow]:
    """The rows of an answered exercise, the dearest mistakes first."""
    assert exercise.said is not None
    catalogue = catalogue_of(exercise.collection)
    naming = Naming(catalogue)
    known = known_of(exercise.animal, exercise.picture, catalogue) if exercise.animal and exercise.is_given else None
    rows = []
    for score in sorted(exercise.said["scores"], key=lambda one: -((one["said"] - one["could"]) ** 2)):
        gene = score["gene"]
        cues = known.cues(gene) if known and gene in known.genes else []
        rows.append(
            GeneRow(
                gene,
                naming.gene(gene),
                score["is_there"],
                WORDS[exercise.said["genes"].get(gene, "no")],
                percent(score["could"]),
                f"{100 * (score['said'] - score['could']) ** 2:.0f}",
                _told(catalogue, cues, score, exercise.answer.get("looks", {})),
            )
        )
    return rows


def _told(catalogue: Catalogue, cues: list[Cue], score: Mapping[str, Any], seen: Mapping[str, str]) -> list[ToldCue]:
    entries = {entry["id"]: entry for entry in catalogue.document["traits"]}
    told = []
    for cue in [one for one in cues if abs(one.weight) >= TELLS][:CUES]:
        entry, speaks_for = entries[cue.look], cue.weight > 0
        times = 2.718281828459045 ** abs(cue.weight)
        told.append(
            ToldCue(
                entry["name"],
                cue.level.replace("_", " "),
                f"{times:.0f} times {'likelier' if speaks_for else 'rarer'} with it",
                _did(speaks_for, score),
                _place(cue.look, entry["region"]),
                seen[cue.look].replace("_", " ") if seen.get(cue.look, cue.level) != cue.level else "",
            )
        )
    return told


def _place(look: str, region: str) -> str:
    """Where on the body a cue is seen, as drawings have it; the whole animal as a strip."""
    if region == "head":
        return "crown"
    place = place_of(look, region)
    return place if place in AT else STRIP


def _did(speaks_for: bool, score: Mapping[str, Any]) -> str:
    """What a cue did with the answer: it told the truth or led away from it, and was followed or missed."""
    named = score["said"] >= 0.5
    if speaks_for == score["is_there"]:
        return "told" if named == speaks_for else "missed"
    return "misled" if named == speaks_for else "would have misled"


def looks_otherwise(exercise: Exercise, gene: str) -> dict[str, str]:
    """The looks of the same animal without a gene that it has, or with one that it has not: what that changes is as it mostly is then."""
    assert exercise.animal
    catalogue, animal = catalogue_of(exercise.collection), exercise.animal
    other = {locus: [one for one in alleles if one != gene] for locus, alleles in animal.genotype.items()}
    if not shows(animal.genotype, gene, catalogue.genes[gene].is_recessive):
        copies = 2 if catalogue.genes[gene].is_recessive else 1
        locus = catalogue.genes[gene].locus
        other[locus] = [*other.get(locus, []), *[gene] * copies][-2:]
    as_it_is = likeliest_looks(catalogue, animal.genotype, animal.stage)
    then = likeliest_looks(catalogue, {locus: here for locus, here in other.items() if here}, animal.stage)
    return {look: then[look] if then.get(look) != as_it_is.get(look) else level for look, level in animal.looks.items()}
