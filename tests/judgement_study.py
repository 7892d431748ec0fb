"""How good the judgement is: simulated clutches, looks answered with a keeper's errors, under the model and under changed ones.

Run with ``bin/eyot judgement``, which writes the tables of docs/judgement.md to standard output. A seed fixes everything.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from copy import deepcopy
from dataclasses import dataclass
from functools import cache
from typing import Any
from unittest.mock import patch

import numpy as np
from numpy.typing import NDArray

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.catalogue.model import GeneLoad, Trait
from eyot_core.catalogue.read import catalogue_from
from eyot_core.errors import InputError
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.genetics.population import population
from eyot_core.genetics.tables import Marginals
from eyot_core.identify import estimation
from eyot_core.identify.evidence import CONFIDENCE, Hatchling, Observation, answering, hatchlings_from, mistakes
from eyot_core.identify.inference import Inference
from eyot_core.identify.looks import drawn_looks
from eyot_core.identify.questions import gain_bits
from eyot_core.identify.traits import TraitModel, chances_of_look
from eyot_core.identify.unknown_parents import OpenIdentification
from eyot_core.parsing import Node

from tests.core.random_documents import tied_document

PAIRINGS, HATCHLINGS, STAGE = 300, 7, "shed"
FEWEST_GENES, MOST_GENES, MOST_CELLS = 2, 8, 400_000
LOOKS = 12
UNCERTAIN, UNLISTED = 0.25, 0.05
JITTER, LINE = 0.3, 0.3
VARIANTS = 10
SURE, BINS = 0.97, 10
OPEN_SAMPLE, ORDER_SAMPLE = 240, 200
OPEN_LOOKS, SHOWING, DOUBLE, HARDLY = 20, 0.7, 0.1, 0.05
EYE_PAIRINGS, ESTIMATED = 150, 60
CUE = 0.65
HALF = 0.5
Genotype = dict[str, list[str]]
Entry = dict[str, Any]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Eye:
    """How a keeper errs. ``errors``: times as often as the model has it; ``near``: share of mistakes that go to the next level of
    a scale (the model: half); ``weak``: how often a strong sign is answered a step too weak; ``hope``: how often a look is answered
    as the keeper would like it."""

    name: str
    errors: float = 1.0
    near: float = 0.5
    weak: float = 0.0
    hope: float = 0.0

    def mistakes(self, trait: Trait) -> Floats:
        """P(answer | true level) where this eye errs, shape (true levels, answers)."""
        anywhere = np.tile([level.mistaken for level in trait.levels], (len(trait.levels), 1))
        anywhere = anywhere / anywhere.sum(axis=1, keepdims=True)
        beside = 2 * mistakes(trait) - anywhere  # the model is half of each
        on_scale = np.isin(np.arange(len(trait.levels)), trait.scale)[:, np.newaxis]
        return np.asarray(np.where(on_scale, self.near * beside + (1 - self.near) * anywhere, anywhere))


AS_THE_MODEL = Eye("as the model has it")
CHANGED = Eye("twice as many errors", errors=2.0)
EYES = (
    Eye("errs to the next level only", near=1.0),
    Eye("errs anywhere", near=0.0),
    Eye("a third of strong signs a step too weak", weak=0.33),
    Eye("one look in ten as hoped for", hope=0.1),
)


@dataclass(frozen=True)
class Called:
    """One gene of one hatchling: the chances that were held by each way of judging, and whether it was there."""

    gene: str
    there: bool
    parents: float
    alone: float
    joint: float


@dataclass(frozen=True)
class Clutch:
    """A simulated clutch: what is stated of the parents, the true genotypes, and the answers to the looks."""

    stated: Pairing
    truths: tuple[Genotype, ...]
    hatchlings: tuple[Hatchling, ...]


@cache
def changed_catalogue(number: int) -> Catalogue:
    """The built-in catalogue with every weight jittered by 30 % and every gene's line stronger or weaker."""
    if number == 0:
        return builtin_catalogue()
    random = np.random.default_rng([number, 77])
    document = deepcopy(builtin_catalogue().document)
    lines = {entry["id"]: random.uniform(1 - LINE, 1 + LINE) for entry in document["genes"]}
    for effect in document["effects"]:
        line = np.mean([lines.get(one.get("gene", ""), 1.0) for one in effect["when"]] or [1.0])
        times = float(np.exp(random.normal(0, JITTER)) * line)
        if "push" in effect:
            effect["push"] = {level: push * times for level, push in effect["push"].items()}
        if "shift" in effect:
            effect["shift"] *= times
    return catalogue_from(Node(document))


def parent(random: np.random.Generator, genes: Sequence[str], catalogue: Catalogue) -> tuple[list[Entry], list[Entry]]:
    """A parent as stated, and as it truly is: a quarter of its genes are possible only; recessives are mostly hets."""
    count = int(random.integers(FEWEST_GENES, MOST_GENES + 1))
    stated, true = [], []
    loci: set[str] = set()
    for gene in random.permutation(list(genes)):
        entry = catalogue.genes[str(gene)]
        if entry.locus in loci or len(stated) == count:
            continue
        loci.add(entry.locus)
        two = bool(random.random() < (0.3 if entry.is_recessive else 0.1)) and entry.viability[2] == 1
        chance = random.choice(["2/3", "1/2"]) if random.random() < UNCERTAIN else "1"
        row: Entry = {"gene": entry.id, "copies": 2 if two else 1}
        stated.append(row | ({} if chance == "1" else {"chance": str(chance)}))
        if chance == "1" or random.random() < eval_chance(str(chance)):
            true.append(row)
    return stated, true


def eval_chance(text: str) -> float:
    """A fraction as a number."""
    top, bottom = text.split("/")
    return int(top) / int(bottom)


def clutch_of(seed: int, *, changed: bool, eye: Eye | None = None) -> Clutch:
    """One clutch; pairings too large or lethal are drawn again."""
    eye = eye or (CHANGED if changed else AS_THE_MODEL)
    random = np.random.default_rng([2026, seed, int(changed)])
    catalogue = builtin_catalogue()
    shown_by = changed_catalogue(1 + seed % VARIANTS) if changed else catalogue
    while True:
        dam, true_dam = parent(random, list(catalogue.genes), catalogue)
        sire, true_sire = parent(random, list(catalogue.genes), catalogue)
        if changed and random.random() < UNLISTED:
            known = {row["gene"] for row in (*dam, *sire)}
            extra = [gene for gene in catalogue.genes if gene not in known]
            true_dam = [*true_dam, {"gene": str(random.choice(extra)), "copies": 1}]
        try:
            stated = pairing_from(Node({"dam": {"genes": dam}, "sires": [{"genes": sire}]}), catalogue)
            true = pairing_from(Node({"dam": {"genes": true_dam}, "sires": [{"genes": true_sire}]}), catalogue)
        except InputError:
            continue
        if max(np.prod(stated.shape), np.prod(true.shape)) <= MOST_CELLS and stated.can_hatch and true.can_hatch:
            break
    flat = true.expected.reshape(-1)
    truths = tuple(true.genotype_at(int(cell)) for cell in random.choice(len(flat), size=HATCHLINGS, p=flat))
    asked = worth_asking(TraitModel(stated))
    hoped = hopes_of(stated, asked) if eye.hope else None
    hatchlings = [
        Hatchling(str(at), answers(shown_by, truth, asked, random, eye, hoped)) for at, truth in enumerate(truths)
    ]
    return Clutch(stated, truths, tuple(hatchlings))


def worth_asking(model: TraitModel) -> list[str]:
    """The looks that tell siblings of a pairing apart, the most telling first."""
    sums = model.pairing.expected_sums
    gains = {trait: gain_bits(model, sums, trait, STAGE) for trait in model.catalogue.traits}
    return sorted(gains, key=lambda trait: -gains[trait])[:LOOKS]


def answers(
    catalogue: Catalogue,
    truth: Genotype,
    traits: Iterable[str],
    random: np.random.Generator,
    eye: Eye,
    hoped: Mapping[str, str] | None = None,
) -> tuple[Observation, ...]:
    """A keeper's answers: the level that shows, or another as often as the stage and this eye mislead.

    ``hoped``: for each look the level that would please, seen by an eye that hopes.
    """
    shown, found = drawn_looks(catalogue, truth, STAGE, random), []
    for name in traits:
        trait = builtin_catalogue().traits[name]
        right = max(0.0, 1 - eye.errors * (1 - trait.clarity[STAGE] * CONFIDENCE["sure"]))
        level = trait.level_index[shown[name]]
        if random.random() >= right:
            level = int(random.choice(len(trait.levels), p=eye.mistakes(trait)[level]))
        elif random.random() < eye.weak:
            level = weaker(trait, level)
        answer = trait.levels[level].id
        if hoped and name in hoped and random.random() < eye.hope:
            answer = hoped[name]
        found.append(Observation(name, answer, STAGE))
    return tuple(found)


def weaker(trait: Trait, level: int) -> int:
    """A step nearer to what normal animals show."""
    if level not in trait.scale:
        return level
    at, wild = trait.scale.index(level), max(trait.scale, key=lambda one: trait.levels[one].base)
    return trait.scale[at + int(np.sign(trait.scale.index(wild) - at))]


def hopes_of(pairing: Pairing, traits: Iterable[str]) -> dict[str, str]:
    """For each look the level that most speaks for some gene that the pairing can give."""
    catalogue, found = builtin_catalogue(), {}
    for name in traits:
        normal = chances_of_look(catalogue, name, {}, (STAGE,))[0]
        best = (1.5, "")
        for gene in pairing.given_genes:
            entry = catalogue.genes[gene]
            own = chances_of_look(catalogue, name, {entry.locus: [gene] * (2 if entry.is_recessive else 1)}, (STAGE,))[
                0
            ]
            place = int((own - normal).argmax())
            best = max(best, (float(own[place] / normal[place]), catalogue.traits[name].levels[place].id))
        if best[1]:
            found[name] = best[1]
    return found


def there(pairing: Pairing, truth: Genotype, gene: str) -> bool:
    """Does the hatchling show the gene?"""
    entry = pairing.catalogue.genes[gene]
    return truth.get(entry.locus, []).count(gene) >= (2 if entry.is_recessive else 1)


def chance(pairing: Pairing, sums: Marginals, gene: str) -> float:
    """Chance that a hatchling shows a gene."""
    g, counting = pairing.counting[gene]
    needed = 2 if pairing.catalogue.genes[gene].is_recessive else 1
    return float((counting @ sums.of([g]))[needed:].sum())


def judged(work: tuple[int, bool, Eye | None]) -> list[Called]:
    """All genes of all hatchlings of one clutch that the parents leave open."""
    seed, changed, eye = work
    clutch = clutch_of(seed, changed=changed, eye=eye)
    model = TraitModel(clutch.stated)
    joint, found = Inference(clutch.stated, clutch.hatchlings, model), []
    for index, (hatchling, truth) in enumerate(zip(clutch.hatchlings, clutch.truths, strict=True)):
        alone = Inference(clutch.stated, [hatchling], model).posteriors[0]
        for gene in clutch.stated.given_genes:
            prior = chance(clutch.stated, clutch.stated.expected_sums, gene)
            if 1e-6 < prior < 1 - 1e-6:
                held = chance(clutch.stated, joint.posteriors[index].sums, gene)
                single = chance(clutch.stated, alone.sums, gene)
                found.append(Called(gene, there(clutch.stated, truth, gene), prior, single, held))
    return found


def animal_of(random: np.random.Generator, most: int) -> Genotype:
    """An animal with up to so many genes, each number as likely, each gene as likely as any other: recessives mostly in two copies, so that
    they show, others mostly in one. No more than two alleles at a locus, and none that does not live."""
    catalogue = builtin_catalogue()
    wanted, animal = int(random.integers(0, most + 1)), {}
    while sum(len(set(alleles)) for alleles in animal.values()) < wanted:
        gene = catalogue.genes[str(random.choice(list(catalogue.genes)))]
        copies = 2 if random.random() < (SHOWING if gene.is_recessive else DOUBLE) else 1
        both = sorted([*animal.get(gene.locus, []), *[gene.id] * copies])
        if (
            len(both) <= 2
            and len(set(both)) * copies <= 2
            and all(catalogue.genes[one].viability[both.count(one)] > 0 for one in both)
        ):
            animal[gene.locus] = both
    return animal


def judged_open(seed: int) -> list[tuple[float, float, bool]]:
    """Each gene of the catalogue in an animal of unknown parents, shown or not: the chance held, that without gene loads, and whether
    it is there."""
    random, catalogue = np.random.default_rng([8, seed]), builtin_catalogue()
    truth = animal_of(random, MOST_GENES)
    asked = random.choice(list(catalogue.traits), OPEN_LOOKS, replace=False)
    hatchling = Hatchling("1", answers(catalogue, truth, asked, random, AS_THE_MODEL))
    held, plain = (
        OpenIdentification.of(catalogue, hatchling, population(catalogue, loads)) for loads in ((), (GeneLoad(1, 1),))
    )
    rows = []
    for gene in catalogue.genes.values():
        first = 2 if gene.is_recessive else 1
        chances = [sum(list(one.copies(gene.id).values())[first:]) for one in (held, plain)]
        rows.append((chances[0], chances[1], truth.get(gene.locus, []).count(gene.id) >= first))
    return rows


def looks_needed(seed: int) -> tuple[float, float]:
    """Looks until half of the doubt is gone: by the next look each time, and in the catalogue's fixed order.

    Not a number where it is not gone after all looks of the catalogue.
    """
    random = np.random.default_rng([7, seed])
    clutch = clutch_of(seed, changed=False)
    model = TraitModel(clutch.stated)
    every = answers(builtin_catalogue(), clutch.truths[0], builtin_catalogue().traits, random, AS_THE_MODEL)
    by_trait = {look.trait: look for look in every}
    goal = doubt(clutch.stated, clutch.stated.expected_sums) * HALF

    def until(following: Any) -> float:
        taken: list[Observation] = []
        sums = clutch.stated.expected_sums
        while doubt(clutch.stated, sums) > goal and len(taken) < len(by_trait):
            left = [trait for trait in by_trait if trait not in {look.trait for look in taken}]
            taken.append(by_trait[following(sums, left)])
            sums = Inference(clutch.stated, [Hatchling("1", tuple(taken))], model).posteriors[0].sums
        return len(taken) if doubt(clutch.stated, sums) <= goal else np.nan

    best = until(lambda sums, left: max(left, key=lambda trait: gain_bits(model, sums, trait, STAGE)))
    return best, until(lambda sums, left: left[0])


def doubt(pairing: Pairing, sums: Marginals) -> float:
    """The doubt that is left: the entropies of all genes, in bits, added up."""
    chances = np.clip([chance(pairing, sums, gene) for gene in pairing.given_genes], 1e-12, 1 - 1e-12)
    return float(-(chances * np.log2(chances) + (1 - chances) * np.log2(1 - chances)).sum())


def calibration_error(chances: Floats, truths: NDArray[np.bool_]) -> float:
    """The mean distance, over ten bins weighted by their counts, between what was held and what was so."""
    bins = np.minimum((chances * BINS).astype(int), BINS - 1)
    parts = [(bins == b) for b in range(BINS) if (bins == b).any()]
    return float(sum(part.mean() * abs(chances[part].mean() - truths[part].mean()) for part in parts))


def row(name: str, chances: Floats, truths: NDArray[np.bool_]) -> str:
    """One line of the table: accuracy, Brier score, calibration error, over-confidence, and how "sure" holds."""
    side = np.maximum(chances, 1 - chances)
    right = (chances >= HALF) == truths
    sure = chances >= SURE
    held = f"{truths[sure].mean():.1%} of {sure.sum():,}" if sure.any() else "never sure"
    brier = float(((chances - truths) ** 2).mean())
    return (
        f"| {name} | {right.mean():.1%} | {brier:.4f} | {calibration_error(chances, truths):.3f} | "
        f"{side.mean() - right.mean():+.3f} | {held} |"
    )


Tell = Callable[[str], None]
HEAD = (
    "| way of judging | right | Brier | calibration error | over-confidence | “sure” right |\n|---|---|---|---|---|---|"
)


def report_model(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Under the model as it is, and under models of which the keeper knows nothing."""
    for changed, title in ((False, "Under the model"), (True, "Under changed models")):
        called = _called(pool, changed, None)
        truths = np.array([one.there for one in called])
        tell(
            f"\n## {title}\n\n{PAIRINGS * HATCHLINGS:,} hatchlings, {len(called):,} genes that their parents leave open.\n\n{HEAD}"
        )
        for name, key in (
            ("parents only", "parents"),
            ("each hatchling alone", "alone"),
            ("with its siblings", "joint"),
        ):
            tell(row(name, np.array([getattr(one, key) for one in called]), truths))
        tell(_by_gene(called))


def report_eyes(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Keepers whose mistakes are not those of the model."""
    tell(f"\n## Keepers who err otherwise\n\n{EYE_PAIRINGS * HATCHLINGS:,} hatchlings for each.\n\n{HEAD}")
    for eye in EYES:
        called = _called(pool, False, eye, EYE_PAIRINGS)
        tell(row(eye.name, np.array([one.joint for one in called]), np.array([one.there for one in called])))


def report_looks(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """What each single look does to each gene."""
    tell(f"\n## Single looks\n\n{single_looks(builtin_catalogue())}")


def report_open(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Animals of unknown parents, with the population's gene loads and without."""
    opened = [one for rows in pool.map(judged_open, range(OPEN_SAMPLE)) for one in rows]
    held, plain, truths = (np.array(column) for column in zip(*opened, strict=True))
    tell(
        f"\n## Without parents\n\n{OPEN_SAMPLE} animals of 0 to {MOST_GENES} genes, {OPEN_LOOKS} looks at each.\n\n{HEAD}"
    )
    for name, chances in (("one load for all", plain), ("with gene loads", held)):
        open_ = np.maximum(plain, held) > HARDLY
        tell(row(f"{name}, all {len(truths):,} genes", chances, truths))
        tell(row(f"{name}, the {open_.sum():,} genes that either holds for possible", chances[open_], truths[open_]))


def tied_animal(seed: int) -> tuple[Catalogue, Hatchling]:
    """An animal with looks at random over a catalogue whose looks tie sixty loci together."""
    document = tied_document(seed, 14)
    catalogue = catalogue_from(Node(document["catalogue"]))
    return catalogue, hatchlings_from(Node(document["hatchlings"]), catalogue, 0)[0]


def kept_animal(seed: int) -> tuple[Catalogue, Hatchling]:
    """An animal of 0 to 8 genes of the built-in catalogue, with two to twelve looks."""
    random, catalogue = np.random.default_rng([77, seed]), builtin_catalogue()
    truth = animal_of(random, MOST_GENES)
    asked = random.choice(list(catalogue.traits), (2, 4, 8, 12)[seed % 4], replace=False)
    return catalogue, Hatchling("1", answers(catalogue, truth, asked, random, AS_THE_MODEL))


def estimated_off(case: tuple[Callable[[int], tuple[Catalogue, Hatchling]], int]) -> tuple[float, float, float, float]:
    """Of one animal: the largest error of any chance of a gene, the standard error that is said, what was not found, and the error of the
    log of the evidence; against eight times as many draws beside ten times as much that was followed."""
    make, seed = case
    catalogue, animal = make(seed)
    one = OpenIdentification.of(catalogue, animal)
    with patch.multiple(
        estimation, SEED=seed, FIRST=16_384, DRAWN=81_920, MOST_KEPT=40_000, FOLLOWED=200, CENTRES=48, MORE_CENTRES=48
    ):
        other = OpenIdentification.of(catalogue, animal)
    off = max(
        abs(a - b)
        for gene in catalogue.genes
        for a, b in zip(one.copies(gene).values(), other.copies(gene).values(), strict=True)
    )
    said = one.standard_error if one.is_estimated else 0.0
    return off, said, one.missed, abs(one.log_evidence - other.log_evidence)


def report_estimated(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """How near estimates come, where no bound says anything."""
    names = (
        "largest error of any gene's chance",
        "standard error that is said",
        "share not found",
        "error of log evidence",
    )
    tell("\n## Where the rest is estimated")
    for make, title in ((tied_animal, "sixty loci tied by looks"), (kept_animal, "built-in catalogue, kept animals")):
        rows = np.array(list(pool.map(estimated_off, [(make, seed) for seed in range(ESTIMATED)])))
        tell(f"\n| {ESTIMATED} animals, {title} | median | worst |\n|---|---|---|")
        for name, values in zip(names, rows.T, strict=True):
            tell(f"| {name} | {np.median(values):.4f} | {values.max():.4f} |")


def report_next(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """How many looks the next look saves."""
    needed = np.array(list(pool.map(looks_needed, range(ORDER_SAMPLE), chunksize=4)))
    tell(f"\n## Where to look next\n\n{_saved(needed, len(builtin_catalogue().traits))}")


def report_practice(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Keepers' own figures, measured by practice."""
    from tests import practice_study  # which asks this module

    practice_study.report_practice(pool, tell)


def report_naming(pool: ProcessPoolExecutor, tell: Tell) -> None:
    """Drawings named by what they show."""
    from tests import naming_study  # which asks this module

    naming_study.report_naming(pool, tell)


TABLES = {"model": report_model, "eyes": report_eyes, "looks": report_looks, "open": report_open}
TABLES |= {"estimated": report_estimated, "next": report_next, "practice": report_practice, "naming": report_naming}


def main(names: Sequence[str], tell: Tell) -> int:
    """The tables of these names, all of them if none is named; 2 where a name is not known."""
    if unknown := [name for name in names if name not in TABLES]:
        tell(f"no such table: {', '.join(unknown)}; there are {', '.join(TABLES)}")
        return 2
    with ProcessPoolExecutor() as pool:
        for name in names or TABLES:
            TABLES[name](pool, tell)
    return 0


def _called(pool: ProcessPoolExecutor, changed: bool, eye: Eye | None, pairings: int = PAIRINGS) -> list[Called]:
    work = [(seed, changed, eye) for seed in range(pairings)]
    return [one for clutch in pool.map(judged, work, chunksize=4) for one in clutch]


def single_looks(catalogue: Catalogue) -> str:
    """For each gene the chance after each level of each of its cues, from a prior of one half, a sure look after the first shed."""
    lines = ["| gene | look | chance after each answer |", "|---|---|---|"]
    for gene in catalogue.genes.values():
        genotype = {gene.locus: [gene.id] * (2 if gene.is_recessive else 1)}
        for trait in catalogue.traits.values():
            channel = answering(trait, trait.clarity[STAGE] * CONFIDENCE["sure"])
            own, normal = (chances_of_look(catalogue, trait.id, one, (STAGE,))[0] @ channel for one in (genotype, {}))
            after = own / (own + normal)
            if after.max() >= CUE or after.min() <= 1 - CUE:
                order = [*trait.scale, *(place for place in range(len(after)) if place not in trait.scale)]
                message = ", ".join(f"{trait.levels[place].id} {after[place]:.0%}" for place in order)
                lines.append(f"| {gene.id} | {trait.id} | {message} |")
    return "\n".join(lines)


def _saved(needed: Floats, every: int) -> str:
    """How many looks the next look saves, among hatchlings of which half of the doubt can be looked away, and among all."""
    reached = needed[~np.isnan(needed).any(axis=1)]
    capped = np.where(np.isnan(needed), every, needed)
    never = "in all, those of which it never goes counted with all looks"
    message = []
    for rows, words in ((reached, "of which half of the doubt goes"), (capped, never)):
        best, fixed = rows.mean(axis=0)
        counts = f"{best:.1f} looks by the next look, {fixed:.1f} in the fixed order"
        message.append(f"{len(rows)} hatchlings {words}: {counts}, {1 - best / fixed:.0%} fewer.")
    return "Looks until half of the doubt is gone. " + " ".join(message)


def _by_gene(called: Sequence[Called]) -> str:
    """The genes that are told worst and best, by Brier score beside that of the parents alone."""
    rows = []
    for gene in {one.gene for one in called}:
        own = [one for one in called if one.gene == gene]
        truths = np.array([one.there for one in own])
        joint, prior = (np.array([getattr(one, key) for one in own]) for key in ("joint", "parents"))
        rows.append(
            (
                float(((joint - truths) ** 2).mean() / ((prior - truths) ** 2).mean()),
                gene,
                len(own),
                float(((joint >= HALF) == truths).mean()),
            )
        )
    rows.sort()
    lines = ["\n| gene | n | right | doubt left (Brier, of the parents’) |", "|---|---|---|---|"]
    lines += [
        f"| {gene} | {count} | {right:.0%} | {left:.0%} |" for left, gene, count, right in (*rows[:6], *rows[-6:])
    ]
    return "\n".join(lines)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:], lambda text: print(text, flush=True)))
