"""Which drawings carry their own cues: each gene named from what is drawn, without its parents.

Every gene by itself, and usual pairs, drawn as practice and as references draw them. What could be named is bounded by the exact
posterior over all single genes (and the normal animal), or all pairs, from the levels that the drawing shows. A simulated keeper reads
the same looks off the pixels (:mod:`tests.strip_reading`), the product's measures among them. Run with ``bin/eyot judgement naming``.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue import builtin_catalogue
from eyot_core.exercises.pictures import SHOWN, STRIP, shown_in
from eyot_core.identify.looks import chances_of_looks, drawn_looks, telling_looks

from tests.judgement_study import STAGE, Genotype, Tell
from tests.strip_reading import Eye, figures

LEARNT, AT_ONCE = 2000, 60
"""Strips that the keeper learns from, none of which he is asked about."""
OTHERWISE = (0.15, 0.35)
"""Of an animal to learn from, how many of its looks are drawn at another level than it would have: so each look is learnt by itself."""
DRAWN, PAIRS = 4, 200
NORMAL = "normal"
USUAL = (
    "pastel",
    "enchi",
    "fire",
    "mojave",
    "leopard",
    "pinstripe",
    "banana",
    "yellow_belly",
    "orange_dream",
    "spider",
)
USUAL += ("black_pastel", "cinnamon", "clown", "piebald", "ghi", "spotnose", "lesser", "phantom", "vanilla", "albino")
HARDLY, MOST_LOST = 0.2, 15
LOOKS = SHOWN[STRIP]
Looks = Mapping[str, str]
Floats = NDArray[np.float64]
Animal = tuple[Looks, int]


@dataclass(frozen=True)
class Drawn:
    """One drawing: what it is of, the levels of looks that it shows, and by look how likely its pixels are at each level."""

    genes: str
    looks: Looks
    read: Mapping[str, Floats]


def genotype_of(genes: Iterable[str]) -> Genotype:
    """An animal in which these genes show: recessives in two copies."""
    catalogue, genotype = builtin_catalogue(), dict[str, list[str]]()
    for gene in genes:
        entry = catalogue.genes[gene]
        genotype.setdefault(entry.locus, []).extend([gene] * (2 if entry.is_recessive else 1))
    return genotype


@cache
def singles() -> tuple[str, ...]:
    """The normal animal and every gene by itself."""
    return (NORMAL, *builtin_catalogue().genes)


@cache
def pairs() -> tuple[str, ...]:
    """Usual pairs of genes at two loci."""
    catalogue, random = builtin_catalogue(), np.random.default_rng(61)
    every = [
        f"{one}.{other}"
        for place, one in enumerate(USUAL)
        for other in USUAL[place + 1 :]
        if catalogue.genes[one].locus != catalogue.genes[other].locus
    ]
    return tuple(every[at] for at in sorted(random.choice(len(every), min(PAIRS, len(every)), replace=False)))


@cache
def tables(among: tuple[str, ...]) -> dict[str, Floats]:
    """By look the chances of its levels in each of some combinations, (combinations, levels)."""
    shown = [
        chances_of_looks(builtin_catalogue(), genotype_of([] if genes == NORMAL else genes.split(".")), STAGE)
        for genes in among
    ]
    return {look: np.array([one[look] for one in shown]) for look in builtin_catalogue().traits}


def held(row: Drawn, among: tuple[str, ...], *, is_read: bool) -> float:
    """How likely an animal is what it is, each of some combinations as likely before: by the drawn levels, or by what is read."""
    logs, traits = np.zeros(len(among)), builtin_catalogue().traits
    for look in shown_in(STRIP, row.looks):
        likely = (
            row.read[look] if is_read else np.eye(len(traits[look].levels))[traits[look].level_index[row.looks[look]]]
        )
        logs = logs + np.log(np.maximum(tables(among)[look] @ likely, 1e-12))
    weights = np.exp(logs - logs.max())
    return float(weights[among.index(row.genes)] / weights.sum())


def to_learn_from(seed: int) -> Animal:
    """An animal of up to two genes, of which some looks are drawn at levels of their own."""
    random, catalogue = np.random.default_rng([seed, 5]), builtin_catalogue()
    genes = [gene for gene in random.choice(singles(), size=int(random.integers(3)), replace=False) if gene != NORMAL]
    looks, share = drawn_looks(catalogue, genotype_of(genes), STAGE, random), random.choice(OTHERWISE)
    for look in LOOKS:
        if random.random() < share:
            looks[look] = str(random.choice([level.id for level in catalogue.traits[look].levels]))
    if looks["white_layout"] == "none" and looks["white_share"] != "none":
        looks["white_layout"] = (
            "saddles"  # white that is said to lie nowhere is drawn so, and would be learnt under a wrong name
        )
    return looks, seed


def to_name(work: tuple[str, int]) -> Animal:
    """An animal of a combination as practice has it, by its seed; seed 0: as references do."""
    genes, seed = work
    random, genotype = (
        np.random.default_rng([seed, *genes.encode()]),
        genotype_of([] if genes == NORMAL else genes.split(".")),
    )
    if seed:
        return drawn_looks(builtin_catalogue(), genotype, STAGE, random), seed
    return telling_looks(builtin_catalogue(), genotype, STAGE), seed


def told_of(pool: ProcessPoolExecutor, animals: Sequence[Animal]) -> Floats:
    """The figures of drawn strips."""
    parts = [animals[first : first + AT_ONCE] for first in range(0, len(animals), AT_ONCE)]
    return np.concatenate(list(pool.map(figures, parts)))


def drawings(pool: ProcessPoolExecutor, eye: Eye, works: Sequence[tuple[str, int]]) -> list[Drawn]:
    """Combinations drawn by their seeds, and read."""
    animals = [to_name(work) for work in works]
    read = eye.likelihoods(told_of(pool, animals))
    return [
        Drawn(genes, looks, {look: read[look][place] for look in LOOKS})
        for place, ((genes, _), (looks, _)) in enumerate(zip(works, animals, strict=True))
    ]


def report_naming(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Singles and pairs, look by look and gene by gene."""
    learnt = [to_learn_from(seed) for seed in range(LEARNT)]
    eye = Eye.learnt(LOOKS, [looks for looks, _ in learnt], told_of(pool, learnt))
    shown = drawings(pool, eye, [(genes, 0) for genes in singles()])
    alone = drawings(pool, eye, [(genes, 1 + at) for genes in singles() for at in range(DRAWN)])
    both = drawings(pool, eye, [(genes, 3) for genes in pairs()])
    tell(f"\n## Naming drawings\n\n{len(alone)} drawings of {len(singles())} singles, {len(both)} of usual pairs.\n")
    tell("| drawings of | by the levels that are drawn | read off the pixels |\n|---|---|---|")
    for name, rows, among in (
        ("singles, as references draw them", shown, singles()),
        ("singles, as practice does", alone, singles()),
        ("usual pairs, as practice does", both, pairs()),
    ):
        drawn, read = (float(np.mean([held(row, among, is_read=way) for row in rows])) for way in (False, True))
        tell(f"| {name} | {drawn:.1%} | {read:.1%} |")
    tell("\n| look | read rightly | the commonest level | as often as each other level comes |\n|---|---|---|---|")
    for look in sorted(LOOKS, key=lambda one: evenly_right(one, [*alone, *both])):
        rows = showing(look, [*alone, *both])
        common = max(np.unique([row.looks[look] for row in rows], return_counts=True)[1]) / len(rows)
        tell(f"| {look} | {rightly(look, rows):.0%} | {common:.0%} | {evenly_right(look, rows):.0%} |")
    by_gene = defaultdict[str, list[tuple[float, float]]](list)
    for row in shown:
        by_gene[row.genes].append((held(row, singles(), is_read=False), held(row, singles(), is_read=True)))
    means = {gene: np.mean(values, axis=0) for gene, values in by_gene.items()}
    lost = sorted(means, key=lambda gene: means[gene][1] - means[gene][0])[:MOST_LOST]
    tell(
        "\nReferences that lose most on the way: "
        + ", ".join(f"{one} {means[one][0]:.0%} to {means[one][1]:.0%}" for one in lost)
    )
    hardly = sorted((mean[0], gene) for gene, mean in means.items() if mean[0] <= HARDLY)
    tell(
        "\nHardly named from a strip, all its levels known: "
        + ", ".join(f"{gene} {mean:.0%}" for mean, gene in hardly)
        + "."
    )


def showing(look: str, rows: Sequence[Drawn]) -> list[Drawn]:
    """The drawings in which a look shows."""
    return [row for row in rows if look in shown_in(STRIP, row.looks)]


def rightly(look: str, rows: Sequence[Drawn]) -> float:
    """How often a look is read rightly where it shows, those levels taken as likely before as they come."""
    index, rows = builtin_catalogue().traits[look].level_index, showing(look, rows)
    among = np.bincount([index[row.looks[look]] for row in rows], minlength=len(index))
    return float(np.mean([int(np.argmax(row.read[look] * among)) == index[row.looks[look]] for row in rows]))


def evenly_right(look: str, rows: Sequence[Drawn]) -> float:
    """The same, every level taken as likely, each level that comes counted alike."""
    index = builtin_catalogue().traits[look].level_index
    by_level = defaultdict[str, list[bool]](list)
    for row in showing(look, rows):
        by_level[row.looks[look]].append(int(np.argmax(row.read[look])) == index[row.looks[look]])
    return float(np.mean([np.mean(values) for values in by_level.values()]))


if __name__ == "__main__":
    with ProcessPoolExecutor() as workers:
        report_naming(workers, print)
