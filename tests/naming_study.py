"""Which drawings carry their own cues: each gene named from what is drawn, without its parents.

Every gene by itself, and usual pairs, drawn as practice and as references draw them. What could be named is bounded by the exact
posterior over all single genes (and the normal animal), or all pairs, from the levels that the drawing shows. A simulated keeper reads
levels off the pixels, of those looks for which the strip has a measure; he knows how often he reads each rightly, and does without
the others. Run with ``bin/eyot judgement naming``.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue import builtin_catalogue
from eyot_core.drawing.skin import skin_colours
from eyot_core.exercises.pictures import SHOWN
from eyot_core.identify.evidence import answering
from eyot_core.identify.looks import chances_of_looks, drawn_looks, telling_looks
from eyot_core.photo.measures import measures_of
from eyot_core.photo.strip import COLUMNS, ROWS, V_MOST, Strip
from eyot_core.photo.suggest import BANDS, suggestions

from tests.judgement_study import STAGE, Genotype, Tell

DRAWN, PAIRS = 8, 200
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
HARDLY = 0.2
Looks = Mapping[str, str]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Drawn:
    """One drawing: what it is of, the levels of looks that it shows, and those that were read off its pixels."""

    genes: str
    looks: Looks
    read: Looks


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


def read_off(looks: Looks, seed: int) -> dict[str, str]:
    """The levels that measures of the drawn skin suggest, as a strip of a photo without faults shows it."""
    u = (np.arange(COLUMNS) + 0.5) / COLUMNS
    light = skin_colours(looks, seed, u, np.linspace(-V_MOST, V_MOST, ROWS)).astype(np.float32)
    none = np.zeros(light.shape[:2], dtype=bool)
    measured = measures_of(Strip(light, ~none, none, none, True, True, 0.0, 1.0))
    return {one.trait: one.level for one in suggestions(measured)}


@cache
def tables(among: tuple[str, ...]) -> dict[str, Floats]:
    """By look the chances of its levels in each of some combinations, (combinations, levels)."""
    shown = [
        chances_of_looks(builtin_catalogue(), genotype_of([] if genes == NORMAL else genes.split(".")), STAGE)
        for genes in among
    ]
    return {look: np.array([one[look] for one in shown]) for look in builtin_catalogue().traits}


def held(looks: Looks, among: tuple[str, ...], true: str, right: Mapping[str, float] | None = None) -> float:
    """How likely an animal is what it is, from levels of looks, each of some combinations as likely before. ``right``: by look how often an
    eye reads it rightly, where it errs."""
    logs = np.zeros(len(among))
    for look, level in looks.items():
        trait = builtin_catalogue().traits[look]
        chances = tables(among)[look]
        if right is not None:
            chances = chances @ answering(trait, right[look])
        logs = logs + np.log(np.maximum(chances[:, trait.level_index[level]], 1e-12))
    weights = np.exp(logs - logs.max())
    return float(weights[among.index(true)] / weights.sum())


def drawing(work: tuple[str, int]) -> Drawn:
    """One drawing of a combination as practice has it, by its seed; seed 0: as references do."""
    genes, seed = work
    random = np.random.default_rng([seed, *genes.encode()])
    genotype = genotype_of([] if genes == NORMAL else genes.split("."))
    looks = (
        drawn_looks(builtin_catalogue(), genotype, STAGE, random)
        if seed
        else telling_looks(builtin_catalogue(), genotype, STAGE)
    )
    return Drawn(genes, {look: looks[look] for look in (*SHOWN["strip"], *BANDS)}, read_off(looks, seed))


def report_naming(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Singles and pairs, look by look and gene by gene."""
    alone = list(pool.map(drawing, [(genes, 1 + at) for genes in singles() for at in range(DRAWN)], chunksize=8))
    shown = list(pool.map(drawing, [(genes, 0) for genes in singles()], chunksize=8))
    both = list(pool.map(drawing, [(genes, 3) for genes in pairs()], chunksize=8))
    right = {look: share_right(look, [*alone, *both]) for look in BANDS}
    tell(f"\n## Naming drawings\n\n{len(alone)} drawings of {len(singles())} singles, {len(both)} of usual pairs.\n")
    tell(
        "| drawings of | by all looks drawn | by the looks that have a measure | by those, read off the pixels |\n|---|---|---|---|"
    )
    for name, rows, among in (
        ("singles, as references draw them", shown, singles()),
        ("singles, as practice does", alone, singles()),
        ("usual pairs, as practice does", both, pairs()),
    ):
        ways = [
            [held(row.looks, among, row.genes) for row in rows],
            [held({look: row.looks[look] for look in BANDS}, among, row.genes) for row in rows],
            [held(row.read, among, row.genes, right) for row in rows],
        ]
        tell(f"| {name} | {' | '.join(f'{np.mean(way):.1%}' for way in ways)} |")
    tell("\n| look | read | rightly | what is misread most |\n|---|---|---|---|")
    for look in BANDS:
        rows = [*alone, *both]
        wrong = Counter(
            (row.looks[look], row.read[look]) for row in rows if row.read.get(look, row.looks[look]) != row.looks[look]
        )
        (true, level), count = wrong.most_common(1)[0]
        seen = sum(look in row.read for row in rows) / len(rows)
        tell(f"| {look} | {seen:.0%} | {right[look]:.0%} | {true} read as {level}, {count} times |")
    by_gene = defaultdict[str, list[float]](list)
    for row in alone:
        by_gene[row.genes].append(held(row.looks, singles(), row.genes))
    means = sorted((float(np.mean(values)), gene) for gene, values in by_gene.items())
    hardly = ", ".join(f"{gene} {mean:.0%}" for mean, gene in means if mean <= HARDLY)
    tell(f"\nHardly named, all looks of the strip known: {hardly}.")


def share_right(look: str, rows: Sequence[Drawn]) -> float:
    """How often a look is read rightly, of the times that it is read."""
    seen = [row.read[look] == row.looks[look] for row in rows if look in row.read]
    return float(np.mean(seen))


if __name__ == "__main__":
    with ProcessPoolExecutor() as workers:
        report_naming(workers, print)
