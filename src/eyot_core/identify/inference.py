"""Exact posterior over the hypotheses on the parents and over each hatchling's sire, sex and genotype.

All arrays over children have the shape of ``Pairing.shape``; all arrays over hypotheses the layout *of all*
(see :mod:`eyot_core.genetics.pairing`). Evidence is kept in logarithms.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np

from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import FEMALE, MALE
from eyot_core.genetics.pairing import Pairing
from eyot_core.genetics.tables import Floats, Marginals, Table, product_of
from eyot_core.identify.effort import check_effort
from eyot_core.identify.evidence import Evidence, Hatchling, evidence_of
from eyot_core.identify.sibling_comparisons import ComparedSiblings, chances_of_answer, summed
from eyot_core.identify.traits import TraitModel


def log_of(values: Floats) -> Floats:
    """Natural logarithm, −inf at 0, without a warning."""
    with np.errstate(divide="ignore"):
        return np.asarray(np.log(values))


@dataclass(frozen=True)
class Likelihood:
    """What the looks at one hatchling say of each genotype: ``values`` is at most 1, times exp(``log_scale``).

    ``tables[trait]``: the likelihood of one trait over the groups that touch it.
    """

    values: Floats
    log_scale: float
    evidence: tuple[Evidence, ...]
    tables: dict[str, Table]


def likelihood_of(hatchling: Hatchling, model: TraitModel) -> Likelihood:
    """Σ_l v(l)·P(l | g, s) for every seen trait, multiplied; each scaled to a maximum of 1."""
    return likelihood_from(evidence_of(hatchling, model.catalogue), model)


def likelihood_from(drawn: Sequence[Evidence], model: TraitModel) -> Likelihood:
    """The same from evidence that was drawn from the looks before."""
    tables: dict[str, Table] = {}
    scaled: list[Table] = []
    log_scale = 0.0
    for evidence in drawn:
        table = model.table(evidence.trait, evidence.stage)
        chances = table.chances @ evidence.vector
        tables[evidence.trait] = (table.groups, chances)
        largest = float(chances.max()) or 1.0
        scaled.append((table.groups, chances / largest))
        log_scale += float(np.log(largest))
    return Likelihood(product_of(scaled, model.pairing.shape), log_scale, tuple(drawn), tables)


@dataclass(frozen=True)
class HatchlingWork:
    """One hatchling's share in the inference. ``by_hypothesis``: chance of its facts and looks under each hypothesis
    (scaled by exp(−log_scale)); all zero where its own facts are impossible."""

    hatchling: Hatchling
    likelihood: Likelihood
    by_sire_and_sex: dict[tuple[int, int], Floats]
    by_hypothesis: Floats


@dataclass(frozen=True)
class HatchlingBeside:
    """A hatchling that was compared with siblings: its share for each true level of the look, and these by hypothesis.

    ``by_level``: shape (levels, hypotheses), each level's share with its own scale, all over exp(``log_scale``).
    """

    trait: str
    works: tuple[HatchlingWork, ...]
    by_level: Floats
    log_scale: float


class KeptWork:
    """Shares of the hatchlings of one pairing that were worked out before: after one look the siblings' shares stand.

    The oldest are forgotten once all together fill ``cells`` numbers.
    """

    def __init__(self, cells: int = 1_000_000) -> None:
        self._cells = cells
        self._kept: dict[Hashable, HatchlingWork] = {}

    def get(self, hatchling: Hashable, make: Callable[[], HatchlingWork]) -> HatchlingWork:
        """The share of a hatchling, made if it is not there."""
        work = self._kept.pop(hatchling, None) or make()
        self._kept[hatchling] = work
        most = max(1, self._cells // work.likelihood.values.size)
        for oldest in list(self._kept)[:-most]:
            self._kept.pop(oldest, None)
        return work


@dataclass(frozen=True, eq=False)
class Posterior:
    """One hatchling after all looks. ``children``: chances of genotypes; ``sires``: of sires; ``female``: of being female;
    ``prior_sums``: genotypes before any look, given its own sex and sire; ``log_evidence``: alone, ``None`` if impossible."""

    children: Floats
    prior_sums: Marginals
    sires: Floats
    female: float
    log_evidence: float | None
    contradiction: bool

    @cached_property
    def sums(self) -> Marginals:
        """Sums of ``children`` over groups."""
        return Marginals(self.children)

    @property
    def prior(self) -> Floats:
        """Chances of genotypes before any look."""
        return self.prior_sums.whole


class Inference:
    """Everything that a clutch's looks say, computed when first asked for. Raises InputError where nothing can hatch."""

    def __init__(
        self,
        pairing: Pairing,
        hatchlings: Sequence[Hatchling],
        model: TraitModel | None = None,
        kept: KeptWork | None = None,
        comparisons: Sequence[ComparedSiblings] = (),
    ) -> None:
        if not pairing.can_hatch:
            raise InputError("no animal of this pairing can reach hatching", "dam")
        self.pairing = pairing
        self.hatchlings = tuple(hatchlings)
        self.model = model or TraitModel(pairing)
        check_effort(self.model, self.hatchlings)
        self._kept = kept or KeptWork()
        self.comparisons = tuple(comparisons)

    @cached_property
    def work(self) -> list[HatchlingWork]:
        """Each hatchling's share, in order."""
        return [
            self._kept.get(replace(hatchling, id=""), partial(self._work_of, hatchling))
            for hatchling in self.hatchlings
        ]

    def _facts(self, hatchling: Hatchling) -> tuple[list[int], list[int]]:
        sires = list(range(len(self.pairing.sires))) if hatchling.sire is None else [hatchling.sire]
        return sires, [FEMALE, MALE] if hatchling.sex is None else [hatchling.sex]

    def _children(self, hypotheses: Floats, hatchling: Hatchling) -> Floats:
        """Chances of genotypes under weighted hypotheses, given the hatchling's own sex and sire; they sum to 1 (or to 0)."""
        children = self.pairing.children_under(hypotheses * self.pairing.per_survivor, *self._facts(hatchling))
        total = children.sum()
        return children / total if total > 0 else children

    def _prior_of(self, hatchling: Hatchling) -> Marginals:
        """Genotypes before any look, given the hatchling's own sex and sire."""
        if hatchling.sex is None and hatchling.sire is None:
            return self.pairing.expected_sums
        return Marginals(self._children(self.pairing.prior, hatchling))

    def _work_of(self, hatchling: Hatchling) -> HatchlingWork:
        return self._work_from(hatchling, likelihood_of(hatchling, self.model))

    def _work_by(self, hatchling: Hatchling, evidence: Sequence[Evidence]) -> HatchlingWork:
        return self._work_from(hatchling, likelihood_from(evidence, self.model))

    def _work_from(self, hatchling: Hatchling, likelihood: Likelihood) -> HatchlingWork:
        parts = {}
        total = np.zeros(self.pairing.stated.shape)
        for sire in self._facts(hatchling)[0]:
            weight = self.pairing.sire_weights[sire] / 2
            part = None
            for sex in self._facts(hatchling)[1]:
                if part is None or self.pairing.has_sex_locus:
                    combined = self.pairing.combined(likelihood.values, sire, sex)
                    part = weight * self.pairing.to_all(combined, sire) * self.pairing.per_survivor
                parts[sire, sex] = part
                total = total + part
        return HatchlingWork(hatchling, likelihood, parts, total)

    @cached_property
    def _possible_alone(self) -> list[bool]:
        return [bool((self.pairing.prior * work.by_hypothesis).sum() > 0) for work in self.work]

    def own_evidence(self, index: int) -> list[Evidence]:
        """A hatchling's evidence that is its own alone: a look by which it was compared with siblings is not."""
        compared = self.beside[index].trait if index in self.beside else None
        return [one for one in self.work[index].likelihood.evidence if one.trait != compared]

    @cached_property
    def beside(self) -> dict[int, HatchlingBeside]:
        """The hatchlings that were compared with siblings and are possible by themselves, by their places."""
        named = {place: one for one in self.comparisons for place in (one.one, one.other)}
        return {place: self._beside(place, one) for place, one in named.items() if self._possible_alone[place]}

    def _beside(self, place: int, comparison: ComparedSiblings) -> HatchlingBeside:
        """Its own looks at the compared trait count at the stage of the comparison only."""
        hatchling, trait = self.hatchlings[place], self.model.catalogue.traits[comparison.trait]
        kept = [o for o in hatchling.observations if o.trait != trait.id or o.stage == comparison.stage]
        seen = evidence_of(replace(hatchling, observations=tuple(kept)), self.model.catalogue)
        own = next((one.vector for one in seen if one.trait == trait.id), np.ones(len(trait.levels)))
        others = [one for one in seen if one.trait != trait.id]
        works = []
        for level in range(len(trait.levels)):
            vector = np.where(np.arange(len(trait.levels)) == level, own, 0.0)
            evidence = [*others, Evidence(trait.id, comparison.stage, vector)]
            key = (replace(hatchling, id=""), trait.id, comparison.stage, level)
            works.append(self._kept.get(key, partial(self._work_by, hatchling, evidence)))
        top = max(work.likelihood.log_scale for work in works)
        by_level = [work.by_hypothesis.reshape(-1) * np.exp(work.likelihood.log_scale - top) for work in works]
        return HatchlingBeside(trait.id, tuple(works), np.array(by_level), top)

    def _pairs(self, places: Iterable[int]) -> list[tuple[int, int, Floats]]:
        traits = self.model.catalogue.traits
        return [
            (one.one, one.other, chances_of_answer(traits[one.trait], one))
            for one in self.comparisons
            if one.one in places and one.other in places
        ]

    def _log_beside(self, left_out: int | None) -> Floats:
        """log of the share of all compared hatchlings together (but one, with its comparisons), by hypothesis."""
        parts = {place: one.by_level for place, one in self.beside.items() if place != left_out}
        if not parts:
            return np.zeros(())
        return log_of(summed(parts, self._pairs(parts.keys()))).reshape(self.pairing.prior.shape)

    @cached_property
    def _log_sums(self) -> Floats:
        """log of prior × the product over the hatchlings that are possible alone, by hypothesis."""
        wrong = [not possible for possible in self._possible_alone]
        return self._logs_but(None, wrong)

    def _logs_but(self, left_out: int | None, wrong: Sequence[bool]) -> Floats:
        """log of prior × the product over the hatchlings but one and but those that are wrong, by hypothesis."""
        logs = log_of(self.pairing.prior)
        for index, work in enumerate(self.work):
            if index != left_out and not wrong[index] and index not in self.beside:
                logs = logs + log_of(work.by_hypothesis)
        return logs if all(wrong) else logs + self._log_beside(left_out)

    @cached_property
    def contradictions(self) -> list[bool]:
        """Which hatchlings are impossible: alone, or all of them if they are impossible together."""
        if np.isneginf(self._log_sums).all():
            return [True] * len(self.hatchlings)
        return [not possible for possible in self._possible_alone]

    @cached_property
    def log_evidence(self) -> float | None:
        """Natural log of the chance of all facts and looks; ``None`` where some are impossible."""
        if any(self.contradictions):
            return None
        top = float(self._log_sums.max())
        scales = sum(
            self.beside[index].log_scale if index in self.beside else work.likelihood.log_scale
            for index, work in enumerate(self.work)
        )
        return top + float(np.log(np.exp(self._log_sums - top).sum())) + scales

    @cached_property
    def hypotheses(self) -> Floats:
        """Chance of each hypothesis on the parents after all looks."""
        return self._hypotheses_but(None)

    def _hypotheses_but(self, left_out: int | None) -> Floats:
        """Chance of each hypothesis after the looks at all hatchlings but one."""
        logs = self._logs_but(left_out, self.contradictions)
        weights = np.exp(logs - logs.max())
        return np.asarray(weights / weights.sum())

    @cached_property
    def posteriors(self) -> list[Posterior]:
        """Each hatchling after all looks, in order."""
        return [self._posterior_of(index) for index in range(len(self.work))]

    def _posterior_of(self, index: int) -> Posterior:
        work = self.work[index]
        if self.contradictions[index]:
            return self._without_facts(work.hatchling)
        shares = np.zeros((len(self.pairing.sires), 2))
        children = np.zeros(self.pairing.shape)
        for share, others in self._shares_of(index):
            for (sire, sex), part in share.by_sire_and_sex.items():
                shares[sire, sex] += (others * part).sum()
            weights = others * self.pairing.per_survivor
            children += self.pairing.children_under(weights, *self._facts(work.hatchling)) * share.likelihood.values
        children /= shares.sum()
        shares /= shares.sum()
        alone = float((self.pairing.prior * work.by_hypothesis).sum())
        return Posterior(
            children=children,
            prior_sums=self._prior_of(work.hatchling),
            sires=shares.sum(axis=1),
            female=float(shares[:, FEMALE].sum()),
            log_evidence=float(np.log(alone)) + work.likelihood.log_scale,
            contradiction=False,
        )

    def _shares_of(self, index: int) -> list[tuple[HatchlingWork, Floats]]:
        """A hatchling's share with the hypotheses after all others: one, or one for each true level of a compared look."""
        own = self.beside.get(index)
        if own is None:
            return [(self.work[index], self._hypotheses_but(index))]
        logs = log_of(self.pairing.prior)
        for place, work in enumerate(self.work):
            if place not in self.beside and not self.contradictions[place]:
                logs = logs + log_of(work.by_hypothesis)
        parts = {place: one.by_level for place, one in self.beside.items()}
        levels = summed(parts, self._pairs(parts.keys()), kept=index)
        weights = np.exp(logs - logs.max()) * levels.reshape(-1, *self.pairing.prior.shape)
        scales = [np.exp(work.likelihood.log_scale - own.log_scale) for work in own.works]
        return [(work, weights[level] * scales[level]) for level, work in enumerate(own.works)]

    def held_without(self, index: int, trait: str, groups: Sequence[int]) -> Floats:
        """What is held of one hatchling's genotypes over some groups (which hold those of the look) without its look at one trait.

        All else counted; sums to 1. The posterior divided by the look's likelihood, where that is nowhere 0.
        """
        own, chances = self.work[index].likelihood.tables[trait]
        if chances.min() > 0:
            shape = [size if one in own else 1 for one, size in zip(groups, self._sizes(groups), strict=True)]
            held = self.posteriors[index].sums.of(groups) / chances.reshape(shape)
        else:
            whole = np.zeros(self.pairing.shape)
            facts = self._facts(self.hatchlings[index])
            for share, others in self._shares_of(index):
                rest = likelihood_from([one for one in share.likelihood.evidence if one.trait != trait], self.model)
                whole += self.pairing.children_under(others * self.pairing.per_survivor, *facts) * rest.values
            held = Marginals(whole).of(groups)
        return np.asarray(held / held.sum())

    def _sizes(self, groups: Sequence[int]) -> list[int]:
        return [self.pairing.shape[group] for group in groups]

    def _without_facts(self, hatchling: Hatchling) -> Posterior:
        """The prior, without looks and facts; a stated sire and a stated sex stand as stated."""
        free = self._work_of(Hatchling(""))
        shares = np.array(
            [
                [(self.pairing.prior * free.by_sire_and_sex[s, x]).sum() for x in (FEMALE, MALE)]
                for s in range(len(self.pairing.sires))
            ]
        )
        sires = shares.sum(axis=1) if hatchling.sire is None else np.eye(len(shares))[hatchling.sire]
        female = float(shares[:, FEMALE].sum()) if hatchling.sex is None else float(hatchling.sex == FEMALE)
        return Posterior(self.pairing.expected, self.pairing.expected_sums, sires, female, None, True)

    def step_by_step(self, index: int) -> list[Marginals]:
        """One hatchling's genotypes after none of its own looks, after the first, the second … (siblings' looks always counted).

        Looks are taken in the order of ``observations``; comparisons of this one with siblings are left out of the steps.
        """
        hatchling, others = self.hatchlings[index], self._hypotheses_but(index)
        if self.contradictions[index]:
            return [self.pairing.expected_sums] * (len(hatchling.observations) + 1)
        before = self.pairing.children_under(others * self.pairing.per_survivor, *self._facts(hatchling))
        steps, after = [Marginals(before / before.sum())], before
        for count, look in enumerate(hatchling.observations, start=1):
            seen = hatchling.observations[:count]
            if any(earlier.trait == look.trait for earlier in seen[:-1]):
                after = before * likelihood_of(replace(hatchling, observations=seen), self.model).values
            else:
                after = after * likelihood_of(replace(hatchling, observations=(look,)), self.model).values
            steps.append(Marginals(after / after.sum()))
        return steps

    def next_hatchling(self) -> Marginals:
        """Genotypes of a hatchling of which nothing is seen yet, after all looks at its siblings."""
        return Marginals(self._children(self.hypotheses, Hatchling("")))
