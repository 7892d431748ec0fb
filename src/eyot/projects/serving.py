"""Which hatchling brings which project on, and by how much."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from eyot_core.generations.genomes import told_by_sight
from eyot_core.wording.chances import percent

from eyot.bench.judgement import ClutchJudgement
from eyot.bench.siblings import judged
from eyot.collection.models import Collection
from eyot.projects.models import Project
from eyot.projects.reckoning import Standing, Stock, outlook_with, rules_from, standing_of, statements_of_hatchling
from eyot.season.models import Clutch, Egg

ALIKE = 0.005
"""Chances nearer than this are told as the same."""


@dataclass(frozen=True)
class Serves:
    """A hatchling as a step of a project: what becomes of its chance by the last season, and of its median. ``siblings``: what the others
    of its clutch that fit would do for the same step, the most first."""

    project: Project
    step: str
    egg: Egg
    before: float
    after: float
    median_before: int | None
    median_after: int | None
    siblings: tuple[Serves, ...] = ()

    @property
    def sooner(self) -> str:
        """By how many seasons its median comes sooner; empty where it does not."""
        if self.median_before is None or self.median_after is None or self.median_after >= self.median_before:
            return ""
        seasons = self.median_before - self.median_after
        return f"{seasons} season{'' if seasons == 1 else 's'} sooner"

    @property
    def against_siblings(self) -> str:
        """How it stands against its siblings, in words."""
        if not self.siblings:
            return "none of its siblings fits"
        best = self.siblings[0]
        code, chance = best.egg.code, percent(best.after)
        if best.after > self.after + ALIKE:
            return f"{code} would bring it to {chance}"
        if best.after > self.after - ALIKE:
            return f"{code} would do as much"
        return f"the best of its siblings, {code}, would bring it to {chance}"


def fits(standing: Standing, clutch: Clutch) -> list[dict[str, object]]:
    """The steps that are left and whose pair laid a clutch."""
    names: dict[int | None, str] = {row.animal_id: row.name for row in standing.project.in_plan.all()}
    names |= {row.egg.kept_as_id: step for step, row in standing.held.items() if row.egg.kept_as_id}
    dam, sires = names.get(clutch.dam_id), {names.get(entry.sire_id) for entry in clutch.clutch_sires.all()}
    return [step for step in standing.left if step["dam"] == dam and step["sire"] in sires]


def serving(collection: Collection, clutch: Clutch, eggs: Sequence[Egg], today: date) -> list[Serves]:
    """What each of a clutch's hatchlings would do for the projects that go on, the most first; those that do nothing are left out."""
    found: list[Serves] = []
    judgement = None
    for project in collection.projects.filter(closed_on=None):
        standing = standing_of(project, today)
        steps = fits(standing, clutch) if standing.outlook else []
        for step in steps:
            judgement = judgement or judged(clutch)
            found += _of_step(standing, step, eggs, judgement)
    return sorted(found, key=lambda one: one.before - one.after)


def _of_step(
    standing: Standing, step: Mapping[str, Any], eggs: Sequence[Egg], judgement: ClutchJudgement
) -> list[Serves]:
    project, before = standing.project, standing.outlook
    assert before
    rows = []
    for egg in eggs:
        taken = _as_step(project, step, egg, judgement)
        if taken:
            outlook = outlook_with(standing, {taken.id: taken})
            after = outlook.by_season[-1] if outlook else 1.0
            median = outlook.median if outlook else 0
            rows.append(Serves(project, taken.id, egg, before.by_season[-1], after, before.median, median))
    rows.sort(key=lambda one: -one.after)
    return [replace(row, siblings=tuple(one for one in rows if one.egg != row.egg)) for row in rows]


def _as_step(project: Project, step: Mapping[str, Any], egg: Egg, judgement: ClutchJudgement) -> Stock | None:
    """A hatchling as what a step holds back; None where its call does not say that it is that."""
    keep = step["keep"]
    if keep.get("sex") and egg.sex != keep["sex"]:
        return None
    said = {one.gene: one for one in statements_of_hatchling(egg, judgement)}
    seen = [one for one in keep["genes"] if told_by_sight(judgement.catalogue, one["gene"], one["copies"])]
    for one in seen:
        gene = said.get(one["gene"])
        if gene is None or gene.copies < one["copies"] or gene.chance != "1":
            return None
    entries = tuple({"gene": one.gene, "copies": one.copies, "chance": one.chance} for one in said.values())
    rules = rules_from(project.rules)
    ready = rules.female_ready if egg.sex == "female" else rules.male_ready
    return Stock(keep["id"], egg.code, egg.sex or "female", entries, ready)
