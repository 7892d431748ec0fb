"""What one known genotype shows: for references and drawings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.animals import Parent
from eyot_core.genetics.inheritance import Group
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats
from eyot_core.identify.traits import TraitModel

Genotype = Mapping[str, Sequence[str]]


def chances_of_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, Floats]:
    """P(level | genotype, stage) for every trait, shape (levels,). ``genotype``: non-wild alleles by locus."""
    one = np.ones((1, 1, 1))
    groups = tuple(
        Group(
            loci=(locus,),
            children=((tuple(sorted(alleles)),),),
            dam_states=(None,),
            dam=np.ones(1),
            sire_states=((None,),),
            sires=(np.ones(1),),
            transmission=((one, one),),
            on_sex_chromosome=False,
        )
        for locus, alleles in genotype.items()
    )
    nobody = Parent(is_sire=False, states={})
    model = TraitModel(Pairing(catalogue, nobody, (nobody,), groups))
    return {trait: model.table(trait, stage).chances.reshape(-1) for trait in catalogue.traits}


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
