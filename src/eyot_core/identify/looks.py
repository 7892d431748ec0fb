"""What one known genotype shows: for references and drawings."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.tables import Floats
from eyot_core.identify.traits import Genotype, chances_of_look

TELLING = 0.28
LIFTED = 2.5
TYPICAL = 2.5


def chances_of_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, Floats]:
    """P(level | genotype, stage) for every trait, shape (levels,), read-only. ``genotype``: non-wild alleles by locus."""
    alleles = tuple(sorted((locus, tuple(here)) for locus, here in genotype.items()))
    return dict(_chances(catalogue, alleles, stage))


@lru_cache(maxsize=512)
def _chances(catalogue: Catalogue, alleles: tuple[tuple[str, tuple[str, ...]], ...], stage: str) -> dict[str, Floats]:
    """Kept, since drawings and references ask for the same animals again and again."""
    genotype = {locus: list(here) for locus, here in alleles}
    by_trait = {trait: chances_of_look(catalogue, trait, genotype, (stage,))[0] for trait in catalogue.traits}
    for chances in by_trait.values():
        chances.setflags(write=False)
    return by_trait


def likeliest_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, str]:
    """The most probable level of every trait."""
    by_trait = chances_of_looks(catalogue, genotype, stage)
    return {trait: catalogue.traits[trait].levels[int(chances.argmax())].id for trait, chances in by_trait.items()}


def telling_looks(catalogue: Catalogue, genotype: Genotype, stage: str) -> dict[str, str]:
    """The look that a drawing should show: the most probable level, but rather than a level that normals show most, another
    that has at least ``TELLING`` and is ``LIFTED`` times as likely as in a normal animal.

    A pastel is drawn yellow though its lobes are as likely tan: it is by the yellow that keepers know it.
    """
    by_trait, normal = chances_of_looks(catalogue, genotype, stage), chances_of_looks(catalogue, {}, stage)
    shown = {}
    for trait, chances in by_trait.items():
        least = max(TELLING, 1.25 / len(chances))  # a look that is covered is as likely one way as another
        telling = np.where((chances >= least) & (chances >= LIFTED * normal[trait]), chances, 0)
        best = int(telling.argmax() if telling.max() > 0 else chances.argmax())
        shown[trait] = catalogue.traits[trait].levels[best].id
    return shown


def typical_looks(catalogue: Catalogue, genotype: Genotype, stage: str, random: np.random.Generator) -> dict[str, str]:
    """One typical animal's levels: drawn at random by the power ``TYPICAL`` of their chances, so that the rare stays rare.

    Looks are independent in the model, and of 50 of them some would always come out odd.
    """
    looks = {}
    for trait, chances in chances_of_looks(catalogue, genotype, stage).items():
        weights = chances**TYPICAL
        levels, covered = catalogue.traits[trait].levels, chances.max() <= 1.25 / len(chances)
        chosen = 0 if covered else int(random.choice(len(weights), p=weights / weights.sum()))
        looks[trait] = levels[chosen].id
    return looks


def drawn_looks(catalogue: Catalogue, genotype: Genotype, stage: str, random: np.random.Generator) -> dict[str, str]:
    """One animal's levels, drawn at random from what its genotype shows."""
    by_trait = chances_of_looks(catalogue, genotype, stage)
    return {
        trait: catalogue.traits[trait].levels[int(random.choice(len(chances), p=chances))].id
        for trait, chances in by_trait.items()
    }
