"""What could be known of an exercise's animal, and what is true of it."""

from __future__ import annotations

import json
from functools import lru_cache

from eyot_core.catalogue import Catalogue
from eyot_core.exercises.known import Known, clearly_read, shows
from eyot_core.exercises.made_up import pairing_of_two
from eyot_core.exercises.pictures import shown_in
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.unknown_parents import open_answer

from eyot.collection.catalogue import catalogue_of
from eyot.practice.models import Exercise, MadeUpAnimal

WORTH_NAMING = 0.02
TELLS = 0.7
"""A look tells of a gene from where on it is twice as likely, or as unlikely, with it."""


def shown_looks(animal: MadeUpAnimal, picture: str, catalogue: Catalogue) -> dict[str, str]:
    """The levels that a picture shows of an animal, by look."""
    shown = shown_in(picture, animal.looks)
    return {look: animal.looks[look] for look in shown if look in catalogue.traits and look in animal.looks}


def known_of(animal: MadeUpAnimal, picture: str, catalogue: Catalogue) -> Known:
    """What a picture tells of an animal whose parents are given; the last ones are kept, since a page asks for one several times."""
    looks = tuple(shown_looks(animal, picture, catalogue).items())
    return _known(catalogue, animal.stage, json.dumps([animal.dam, animal.sire]), looks)


@lru_cache(maxsize=16)
def _known(catalogue: Catalogue, stage: str, parents: str, looks: tuple[tuple[str, str], ...]) -> Known:
    """``parents``: the genes of dam and sire, as JSON."""
    return Known(pairing_of_two(catalogue, *json.loads(parents)), dict(looks), stage)


def could_be_known(exercise: Exercise) -> dict[str, float]:
    """How likely each gene shows in the animal, the picture seen: from the levels that are drawn, without an eye's errors. Without its
    parents: among all that such an animal may have."""
    animal, catalogue = exercise.animal, catalogue_of(exercise.collection)
    assert animal
    if exercise.is_given:
        return dict(known_of(animal, exercise.picture, catalogue).chances)
    return dict(_open_chances(catalogue, animal.stage, tuple(shown_looks(animal, exercise.picture, catalogue).items())))


@lru_cache(maxsize=64)
def _open_chances(
    catalogue: Catalogue, stage: str, looks: tuple[tuple[str, str], ...]
) -> tuple[tuple[str, float], ...]:
    seen = tuple(Observation(look, level, stage) for look, level in looks)
    (answer,) = open_answer(clearly_read(catalogue, stage), [Hatchling("animal", seen)], 1, None)["hatchlings"]
    chances = []
    for row in answer["genes"]:
        copies, entry = row["copies"], catalogue.genes[row["gene"]]
        chance = copies.get("2", 0.0) if entry.is_recessive else 1 - copies.get("0", 0.0)
        if chance >= WORTH_NAMING:
            chances.append((row["gene"], float(chance)))
    return tuple(chances)


def telling_looks(exercise: Exercise) -> dict[str, str]:
    """By gene the look that told most of it, where the parents are given: there one would have to look."""
    if exercise.animal is None or not exercise.is_given:
        return {}
    known = known_of(exercise.animal, exercise.picture, catalogue_of(exercise.collection))
    heaviest = {gene: known.cues(gene)[:1] for gene in known.genes}
    return {gene: cues[0].look for gene, cues in heaviest.items() if cues and abs(cues[0].weight) >= TELLS}


def true_genes(exercise: Exercise) -> list[str]:
    """The genes that show in an exercise's animal."""
    catalogue = catalogue_of(exercise.collection)
    if exercise.egg:
        proofs = {proof.gene: proof.copies for proof in exercise.egg.proofs.all()}
        least = {gene: 2 if catalogue.genes[gene].is_recessive else 1 for gene in proofs if gene in catalogue.genes}
        return [gene for gene in least if proofs[gene] >= least[gene]]
    assert exercise.animal
    genotype = exercise.animal.genotype
    return [gene for gene, entry in catalogue.genes.items() if shows(genotype, gene, entry.is_recessive)]
