"""What the demo's animals truly are; only its made-up photos are drawn from it."""

from __future__ import annotations

from collections import Counter

from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.genotypes import genotype_of

from eyot.demo.scenario import CLUTCHES, NAME
from eyot.season.models import Egg


def truth_of(egg: Egg) -> dict[str, list[str]] | None:
    """The genotype of an egg of the demo, ``None`` where the scenario has none or the egg is no part of it."""
    if egg.clutch.collection.name != NAME:
        return None
    of_clutch = next((demo.eggs for demo in CLUTCHES if demo.code == egg.clutch.code), ())
    words = of_clutch[egg.number - 1].truth if egg.number <= len(of_clutch) else ""
    return genotype_in(words) if words else None


def genotype_in(words: str) -> dict[str, list[str]]:
    """The genotype in a scenario's words ("piebald piebald leopard")."""
    return genotype_of(builtin_catalogue(), dict(Counter(sorted(words.split()))))
