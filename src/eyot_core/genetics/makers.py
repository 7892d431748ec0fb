"""Male maker or female maker: on which chromosome a son has a sex-linked gene, worked out from his parents.

Source: a male maker's gene sits on his Y, a female maker's on the X (docs/glossary.md); it crosses over with the share that the
catalogue gives its locus. Bayes' rule weighs the two parents.
"""

from __future__ import annotations

from eyot_core.catalogue.model import Catalogue
from eyot_core.genetics.animals import Parent
from eyot_core.genetics.inheritance import MALE, gametes


def chance_on_y(catalogue: Catalogue, gene: str, dam: Parent, sire: Parent) -> float | None:
    """Chance that the one copy of a sex-linked gene that a son has lies on his Y (male maker) rather than on his X.

    ``None`` where these parents can't give a son exactly one copy. A copy from his sire lies on the Y, one from his dam on
    the X; the two are weighed by how likely each is, the sire's own place and the recombination of the locus included.
    """
    locus = catalogue.genes[gene].locus
    from_dam = _passes(catalogue, gene, locus, dam)
    from_sire = _passes(catalogue, gene, locus, sire)
    on_y, on_x = from_sire * (1 - from_dam), from_dam * (1 - from_sire)
    return on_y / (on_y + on_x) if on_y + on_x > 0 else None


def _passes(catalogue: Catalogue, gene: str, locus: str, parent: Parent) -> float:
    """Chance that a parent passes the gene to a son."""
    return sum(
        chance * share
        for state, chance in parent.states_at(locus).items()
        for gamete, share in gametes(catalogue, (locus,), state, parent.is_sire, MALE).items()
        if gamete[0] == gene
    )
