"""What the looks say of a clutch and of each hatchling: from rows to the core, and from the core to what a page shows.

The tables of a pairing are kept in memory; a look changes only the inference.
"""

from __future__ import annotations

import json
from abc import ABC, abstractmethod
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from typing import Any

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.genetics.inheritance import sex_index
from eyot_core.genetics.pairing import pairing_from
from eyot_core.genetics.shown import ShownClasses
from eyot_core.genetics.tables import Floats, Marginals
from eyot_core.identify.evidence import Hatchling, Observation
from eyot_core.identify.inference import Inference, KeptWork
from eyot_core.identify.questions import NextLook, Settling, Surprise, gain_bits, next_looks, surprises, what_it_settles
from eyot_core.identify.traits import TraitModel
from eyot_core.parsing import Node
from eyot_core.wording.label import Called, Part, parts_of
from eyot_core.wording.names import Naming

from eyot.bench.models import Look, SiblingComparison
from eyot.bench.sibling_comparisons import as_comparisons
from eyot.collection.catalogue import catalogue_of
from eyot.season.models import Clutch, Egg
from eyot.season.queries import pairing_document

PROVEN_FROM = 0.99
SETTLED = 0.97
LIKELY = 0.8
RULED_OUT = 0.03
MOST_LOOKS = 12
WORTH_ASKING_BITS = 0.004


class PreparedPairing:
    """What depends on the stated parents alone: the tables of the pairing, and which looks tell its children apart."""

    def __init__(self, document: str, catalogue: Catalogue) -> None:
        self.model = TraitModel(pairing_from(Node(json.loads(document)), catalogue))
        self.kept = KeptWork()
        self._asked: dict[str, tuple[str, ...]] = {}

    def worth_asking(self, stage: str) -> tuple[str, ...]:
        """The looks that tell siblings apart at a stage, at most twelve, the most telling first."""
        if stage not in self._asked:
            expected = self.model.pairing.expected_sums
            gains = {trait: gain_bits(self.model, expected, trait, stage) for trait in self.model.catalogue.traits}
            best = sorted(gains, key=lambda trait: -gains[trait])[:MOST_LOOKS]
            self._asked[stage] = tuple(trait for trait in best if gains[trait] > WORTH_ASKING_BITS)
        return self._asked[stage]


@lru_cache(maxsize=24)
def _prepared(document: str, catalogue: Catalogue) -> PreparedPairing:
    return PreparedPairing(document, catalogue)


def prepared(clutch: Clutch) -> PreparedPairing:
    """A clutch's pairing, made ready once for the same statements on the same parents."""
    return _prepared(json.dumps(pairing_document(clutch), sort_keys=True), catalogue_of(clutch.collection))


def counting(looks: Iterable[Look]) -> list[Look]:
    """The looks that count: of each person, trait and stage the last one that was not withdrawn. In the order of first answers."""
    latest: dict[tuple[int, str, str], Look] = {}
    for look in looks:
        key = (look.seen_by_id, look.trait, look.stage)
        if look.withdrawn_at is None:
            latest[key] = look
    return [look for look in latest.values() if look.level != "unseen"]


def as_hatchling(egg: Egg, looks: Sequence[Look]) -> Hatchling:
    """An egg and the looks that count, in the form of the core. A sex that is not sure counts as not known."""
    observations = tuple(Observation(look.trait, look.level, look.stage, look.confidence) for look in looks)
    return Hatchling(str(egg.number), observations, sex_index(egg.sex) if egg.sex and egg.sex_sure else None)


@dataclass(frozen=True)
class GeneChances:
    """One form of one gene of one hatchling. ``form``: "shown" or "carried"; ``steps``: the chance after each look, from none on."""

    gene: str
    form: str
    copies: int
    before: float
    after: float
    steps: tuple[float, ...]


@dataclass(frozen=True)
class Combination:
    """One candidate: genotype, chance after looking, chance from the parents."""

    genotype: dict[str, list[str]]
    chance: float
    before: float


class Judgement(ABC):
    """What all looks at some eggs say. Slugs and dead eggs are left out."""

    def __init__(
        self, clutch: Clutch, eggs: Sequence[Egg], looks: Iterable[Look], compared: Sequence[SiblingComparison] = ()
    ) -> None:
        self.clutch = clutch
        self.eggs = [egg for egg in eggs if egg.state not in (Egg.State.SLUG, Egg.State.DEAD)]
        by_egg: dict[int, list[Look]] = {egg.pk: [] for egg in self.eggs}
        for look in looks:
            if look.egg_id in by_egg:
                by_egg[look.egg_id].append(look)
        self.all_looks = by_egg
        self.looks = {pk: counting(look for look in given if not look.stands_apart) for pk, given in by_egg.items()}
        self.compared = compared

    def index(self, egg: Egg) -> int:
        """Place of an egg among those that are judged."""
        return [other.pk for other in self.eggs].index(egg.pk)

    @property
    @abstractmethod
    def catalogue(self) -> Catalogue:
        """The collection's catalogue."""

    @cached_property
    def naming(self) -> Naming:
        """The words of the collection's catalogue."""
        return Naming(self.catalogue)

    @property
    @abstractmethod
    def given_genes(self) -> Collection[str]:
        """The genes that the hatchlings may have, as far as is known of where they come from."""

    @property
    def listed_genes(self) -> Sequence[str]:
        """Of these, the ones to be named where each is spoken of."""
        return list(self.given_genes)

    @abstractmethod
    def worth_asking(self, stage: str) -> tuple[str, ...]:
        """The looks to put before the keeper at a stage, the most telling first."""

    @abstractmethod
    def genes(self, egg: Egg) -> list[GeneChances]:
        """The genes of one hatchling that are worth a line, in every form, before and after."""

    @abstractmethod
    def combinations(self, egg: Egg, top: int) -> list[Combination]:
        """The most probable combinations of what shows of one hatchling: hets are not told apart here."""

    @abstractmethod
    def next_looks(self, egg: Egg, stage: str) -> list[NextLook]:
        """Looks that were not answered at this stage or later, the most telling first."""

    @abstractmethod
    def settling(self, egg: Egg, trait: str, stage: str) -> Settling | None:
        """What one look would settle."""

    @abstractmethod
    def gain_after_shed(self, egg: Egg, trait: str) -> float:
        """What the same look would be worth, in bits, after the first shed."""

    @abstractmethod
    def surprises(self, egg: Egg) -> list[Surprise]:
        """Answers that hardly fit."""

    @abstractmethod
    def contradicts(self, egg: Egg) -> bool:
        """Can no animal of this origin show what was seen?"""

    @abstractmethod
    def shown_chances(self, egg: Egg, gene: str, copies: int) -> tuple[float, float]:
        """Chances that it shows a gene, or has two copies of it, after looking and before; none where it can't have it."""

    @abstractmethod
    def label_parts(self, call: Sequence[Called], looked: Mapping[str, float], least: float) -> list[Part]:
        """The parts of the label that a call gives. ``looked``: chances of possible genes after looking; ``least``: see there."""


class ClutchJudgement(Judgement):
    """What all looks at a clutch say, whose parents are stated."""

    def __init__(
        self, clutch: Clutch, eggs: Sequence[Egg], looks: Iterable[Look], compared: Sequence[SiblingComparison] = ()
    ) -> None:
        super().__init__(clutch, eggs, looks, compared)
        self.prepared = prepared(clutch)
        self.model = self.prepared.model
        self.inference = self.inference_of([as_hatchling(egg, self.looks[egg.pk]) for egg in self.eggs])

    @property
    def catalogue(self) -> Catalogue:
        """The collection's catalogue."""
        return self.model.catalogue

    @property
    def given_genes(self) -> list[str]:
        """The genes that the parents can give."""
        return self.model.pairing.given_genes

    def worth_asking(self, stage: str) -> tuple[str, ...]:
        """The looks that tell siblings apart at a stage, at most twelve; their order stays as it is while looks are answered."""
        return self.prepared.worth_asking(stage)

    def contradicts(self, egg: Egg) -> bool:
        """Can no child of these parents show what was seen?"""
        return self.inference.contradictions[self.index(egg)]

    def shown_chances(self, egg: Egg, gene: str, copies: int) -> tuple[float, float]:
        """Chances that it shows a gene, or has two copies of it, after looking and before; none where the parents can't give it."""
        if gene not in self.given_genes:
            return 0.0, 0.0
        posterior = self.inference.posteriors[self.index(egg)]
        form: tuple[str, str, int] = (gene, "shown", copies)
        return self.chance_of(posterior.sums, *form), self.chance_of(posterior.prior_sums, *form)

    def label_parts(self, call: Sequence[Called], looked: Mapping[str, float], least: float) -> list[Part]:
        """The parts of a label: what is carried by what is held of the parents now."""
        return parts_of(self.inference.pairing, call, self.inference.hypotheses, looked, least)

    def inference_of(self, hatchlings: Sequence[Hatchling], without: Collection[int] = ()) -> Inference:
        """What other answers of the same hatchlings would say; ``without``: comparisons (rows by their keys) left out."""
        rows = [row for row in self.compared if row.pk not in without]
        comparisons = as_comparisons(rows, self.eggs)
        return Inference(self.model.pairing, hatchlings, self.model, self.prepared.kept, comparisons)

    def forms(self) -> list[tuple[str, str, int]]:
        """What the pairing can give, as gene, form and copies: a recessive is shown (two) or carried (one)."""
        pairing, forms = self.model.pairing, []
        for gene in pairing.given_genes:
            entry = pairing.catalogue.genes[gene]
            most = int(max(pairing.groups[pairing.group_of[entry.locus][0]].copies_of(gene, entry.locus)))
            if entry.is_recessive:
                forms += [(gene, "shown", 2)] * (most == 2) + [(gene, "carried", 1)]
            else:
                forms += [(gene, "shown", 1)] + [(gene, "shown", 2)] * (most == 2)
        return forms

    def chance_of(self, children: Marginals, gene: str, form: str, copies: int) -> float:
        """Chance of a form in a distribution over genotypes: at least one copy, or exactly two; carried: exactly one."""
        g, counting = self.model.pairing.counting[gene]
        chances = counting @ children.of([g])
        return float(chances[1] if form == "carried" else chances[copies:].sum())

    def genes(self, egg: Egg) -> list[GeneChances]:
        """Every form of every gene of one hatchling, before and after, look by look."""
        index = self.index(egg)
        posterior, steps = self.inference.posteriors[index], self.inference.step_by_step(index)
        return [
            GeneChances(
                *form,
                before=self.chance_of(posterior.prior_sums, *form),
                after=self.chance_of(posterior.sums, *form),
                steps=tuple(self.chance_of(step, *form) for step in steps),
            )
            for form in self.forms()
        ]

    def combinations(self, egg: Egg, top: int) -> list[Combination]:
        """The most probable combinations of what shows of one hatchling: hets are not told apart here."""
        posterior = self.inference.posteriors[self.index(egg)]
        return self._shown_combinations(posterior.children, posterior.prior, top)

    def what_can_come(self, top: int) -> list[Combination]:
        """The most probable combinations of what shows of any egg of this pairing, before anything is seen."""
        return self._shown_combinations(self.inference.pairing.expected, self.inference.pairing.expected, top)

    def _shown_combinations(self, after: Floats, before: Floats, top: int) -> list[Combination]:
        merged_after, merged_before = self._shown_classes.merged(after), self._shown_classes.merged(before)
        best = (-merged_after).argsort(axis=None, kind="stable")[:top]
        rows = [(int(index), float(merged_after.flat[index]), float(merged_before.flat[index])) for index in best]
        return [Combination(self._shown_classes.genotype_at(index), *chances) for index, *chances in rows]

    @cached_property
    def _shown_classes(self) -> ShownClasses:
        return ShownClasses(self.model.pairing)

    def next_looks(self, egg: Egg, stage: str) -> list[NextLook]:
        """Looks that were not answered at this stage or later, the most telling first."""
        return next_looks(self.inference, self.index(egg), stage)

    def settling(self, egg: Egg, trait: str, stage: str) -> Settling | None:
        """What one look would settle."""
        return what_it_settles(self.inference, self.index(egg), trait, stage)

    def gain_after_shed(self, egg: Egg, trait: str) -> float:
        """What the same look would be worth, in bits, after the first shed."""
        return gain_bits(self.model, self.inference.posteriors[self.index(egg)].sums, trait, "shed")

    def surprises(self, egg: Egg) -> list[Surprise]:
        """Answers that hardly fit."""
        return surprises(self.inference, self.index(egg))

    @cached_property
    def unseen_sibling(self) -> Marginals:
        """Chances of genotypes of a hatchling of which nothing is seen, after all looks at the others."""
        return self.inference.next_hatchling()

    def carried_if_not_shown(self, gene: str) -> float:
        """The trade's figure for a recessive: chance that one that does not show it carries it.

        From the parents, and from what siblings proved of them.
        """
        carried = self.chance_of(self.unseen_sibling, gene, "carried", 1)
        shown = self.chance_of(self.unseen_sibling, gene, "shown", 2)
        return carried / (1 - shown) if shown < 1 else 0.0


def recessives(judgement: ClutchJudgement) -> list[str]:
    """The recessive genes that the pairing can give."""
    genes = judgement.model.catalogue.genes
    return [gene for gene in judgement.model.pairing.given_genes if genes[gene].is_recessive]


@cache
def trait_words(trait: str) -> dict[str, Any]:
    """The catalogue's words for a trait: name, question, levels with words, region."""
    return next(entry for entry in builtin_catalogue().document["traits"] if entry["id"] == trait)


def plain(name: str) -> str:
    """An id as words."""
    return name.replace("_", " ")
