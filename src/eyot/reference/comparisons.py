"""The page of look-alikes: computed for any two to four combinations, with the keepers' notes where there are some."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from eyot_core.catalogue import STAGES, Catalogue
from eyot_core.identify.compare import Comparison, test_partner
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.reference.looks import LookLine, look_lines, words_of
from eyot.reference.subjects import STAGE_WORDS, Subject, subject_of

MOST = 4
NOT_TOLD_BELOW = 0.02
COSTLY = ("spider", "champagne", "hgw", "woma", "desert")


@dataclass(frozen=True)
class StageChance:
    """How often all looks at a stage name the right one."""

    stage: str
    words: str
    chance: str
    width: int


@dataclass(frozen=True, eq=False)
class ComparisonPage:
    """Everything that the page says. One object for one state of the catalogue, so that what is rendered of it can be kept."""

    candidates: tuple[Subject, ...]
    lines: tuple[LookLine, ...]
    alike: tuple[str, ...]
    stages: tuple[StageChance, ...]
    waiting: str
    settling: tuple[str, ...]
    cost: str
    note: dict[str, Any] | None


def note_of(catalogue: Catalogue, keys: tuple[str, ...]) -> dict[str, Any] | None:
    """The keepers' note on just these candidates, in any order."""
    wanted = sorted(sorted(subject_of(catalogue, key).genes) for key in keys)
    for note in catalogue.document.get("lookalikes", []):
        if note["candidates"] and sorted(sorted(one.items()) for one in note["candidates"]) == wanted:
            return dict(note)
    return None


@lru_cache(maxsize=300)
def comparison_page(catalogue: Catalogue, keys: tuple[str, ...], stage: str) -> ComparisonPage:
    """The page for some combinations at a stage; 404 where one can't be."""
    candidates = tuple(subject_of(catalogue, key) for key in keys)
    comparison = Comparison(catalogue, tuple(one.genotype for one in candidates))
    return ComparisonPage(
        candidates=candidates,
        lines=tuple(look_lines(comparison, stage)),
        alike=tuple(_alike(comparison, stage)),
        stages=tuple(_stage(comparison, each) for each in STAGES),
        waiting=_waiting(comparison, stage),
        settling=tuple(_settling(catalogue, candidates, comparison)),
        cost=_cost(catalogue, candidates),
        note=note_of(catalogue, keys),
    )


def _stage(comparison: Comparison, stage: str) -> StageChance:
    chance = comparison.told_apart[stage]
    even = 1 / len(comparison.genotypes)
    return StageChance(stage, STAGE_WORDS[stage], percent(chance), round(100 * max(0.0, chance - even) / (1 - even)))


def _alike(comparison: Comparison, stage: str) -> list[str]:
    """Looks that part one of the candidates from a normal animal but not the candidates from one another."""
    names = words_of(comparison.catalogue)
    against_normal = [Comparison(comparison.catalogue, ({}, one)) for one in comparison.genotypes if one]
    telling = {
        row.trait
        for one in against_normal
        for row in one.differences(stage)
        if row.strength in ("strong", "near-certain")
    }
    rows = [row for row in comparison.differences(stage) if row.trait in telling and row.bits < NOT_TOLD_BELOW]
    return [names[row.trait]["name"].lower() for row in rows]


def _waiting(comparison: Comparison, stage: str) -> str:
    best, now = comparison.best_stage, comparison.told_apart[stage]
    later = STAGES.index(best) > STAGES.index(stage)
    if later and comparison.told_apart[best] > now:
        return (
            f"Wait: all looks {STAGE_WORDS[stage]} name the right one in {percent(now)}, "
            f"{STAGE_WORDS[best]} in {percent(comparison.told_apart[best])}."
        )
    return (
        f"No later stage tells more than {STAGE_WORDS[best]}." if best == stage else f"Best judged {STAGE_WORDS[best]}."
    )


def _settling(catalogue: Catalogue, candidates: tuple[Subject, ...], comparison: Comparison) -> list[str]:
    """What settles it where looks do not: breeding by the rules of inheritance, DNA where it is offered."""
    found = []
    best = comparison.told_apart[comparison.best_stage]
    if not comparison.looks_settle_it:
        found.append(f"Looks alone do not settle it: at best they name the right one in {percent(best)}.")
    counts = [dict(one.genes) for one in candidates]
    differing = sorted({gene for one in counts for gene in one if len({other.get(gene, 0) for other in counts}) > 1})
    for gene in differing:
        found += _breeding(catalogue, gene, {one.get(gene, 0) for one in counts})
    loci = {catalogue.genes[gene].locus for gene in differing}
    if len(candidates) == 2 and len(differing) == 2 and len(loci) == 1:
        found += _allelic(catalogue, loci.pop(), *differing)
    return found


def _breeding(catalogue: Catalogue, gene: str, copies: set[int]) -> list[str]:
    naming, entry = Naming(catalogue), catalogue.genes[gene]
    name, found = naming.gene(gene), []
    if {1, 2} <= copies and entry.is_recessive:
        found.append(f"{name}: a visual gives its gene to every baby, a carrier to half of them.")
    elif {1, 2} <= copies:
        found.append(
            f"{name}: two copies give one to every baby. One baby without it ends the claim; six to eight with it make "
            "two copies likely (a single does that once in 64 to 256)."
        )
    elif entry.is_recessive and 1 in copies:
        found.append(f"{name}: a carrier paired with a visual gives visuals to half; one visual proves it.")
    dna = naming.told(gene, "dna_test")
    if dna.startswith("yes"):
        found.append(f"{name}: DNA test of a shed skin: {dna}.")
    return found


def _allelic(catalogue: Catalogue, locus: str, first: str, second: str) -> list[str]:
    naming = Naming(catalogue)
    names = f"{naming.gene(first)} and {naming.gene(second)}"
    found = [f"{names} sit at one locus: of a parent that has both, every baby gets one or the other."]
    partner = test_partner(catalogue, locus, first, second)
    if partner and partner[1] > 0.5:
        found.append(
            f"Test breeding: with {naming.gene(partner[0])}, the babies that get both alleles look most different."
        )
    return found


def _cost(catalogue: Catalogue, candidates: tuple[Subject, ...]) -> str:
    counts = [dict(one.genes) for one in candidates]
    differing = {gene for one in counts for gene in one if len({other.get(gene, 0) for other in counts}) > 1}
    naming = Naming(catalogue)
    if welfare := sorted(differing & set(COSTLY)):
        return f"high: {naming.gene(welfare[0])} matters for welfare and for pairings that must not be made."
    if any(catalogue.genes[gene].is_recessive for gene in differing):
        return "high: a recessive claimed wrongly, as visual or as het, costs years."
    if len({catalogue.genes[gene].locus for gene in differing}) == 1 and len(differing) > 1:
        return "medium: alleles of one locus; a pairing planned on the wrong one gives other crosses than hoped."
    return "medium: a wrong label; a pairing gives fewer morphs than hoped."
