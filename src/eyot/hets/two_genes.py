"""One gene or two? What counted young say of two traits that look alike or may share a place, in words."""

from __future__ import annotations

from eyot_core.proof.next_pairing import one_locus, same_place
from eyot_core.wording.chances import percent

from eyot.shared.refusal import Refused

PRIOR = 0.5
"""Chance that two look-alikes are one gene, before anything hatched."""


def one_gene_or_two(first: int, second: int, hatchlings: int, visuals: int) -> str:
    """What a pairing of two recessive look-alikes says. ``first``, ``second``: copies of its own line in each parent, 1 or 2."""
    if hatchlings == 0 or visuals > hatchlings:
        raise Refused("Count the hatchlings, and how many of them show it: not more than hatched.")
    chance = one_locus(PRIOR, first, second, hatchlings, visuals)
    return (
        f"One gene, or two alleles of one: {percent(chance)}. Two genes that make good for each other: {percent(1 - chance)}. "
        "Reckoned from even chances, one hatchling in fifty being misread."
    )


def one_place_or_two(both: int, one: int, neither: int) -> str:
    """What young of an animal with a new gene and one of a known complex, bred to normals, say of the new gene's place."""
    if not both + one + neither:
        raise Refused("Count the young that show both, one of them, or neither.")
    chance = same_place(PRIOR, both, one, neither)
    return (
        f"At the place of the known gene, allelic to it: {percent(chance)}. Elsewhere: {percent(1 - chance)}. "
        "Reckoned from even chances, one young in fifty being misread; genes near one another are not told from allelic ones."
    )
