"""What one known genotype shows: for references and drawings."""

from __future__ import annotations

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.tables import Floats
from eyot_core.identify.traits import Genotype, chances_of_look


def chances_of_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, Floats]:
    """P(level | genotype, stage) for every trait, shape (levels,). ``genotype``: non-wild alleles by locus."""
    return {trait: chances_of_look(catalogue, trait, stage, genotype) for trait in catalogue.traits}


def likeliest_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, str]:
    """The most probable level of every trait."""
    found = chances_of_looks(catalogue, genotype, stage)
    return {trait: catalogue.traits[trait].levels[int(chances.argmax())].id for trait, chances in found.items()}


def drawn_looks(catalogue: Catalogue, genotype: Genotype, stage: str, random: np.random.Generator) -> dict[str, str]:
    """One animal's levels, drawn at random from what its genotype shows."""
    found = chances_of_looks(catalogue, genotype, stage)
    return {
        trait: catalogue.traits[trait].levels[int(random.choice(len(chances), p=chances))].id
        for trait, chances in found.items()
    }
