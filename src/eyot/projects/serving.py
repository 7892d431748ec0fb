"""Which hatchling brings which project on, and by how much."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from eyot_core.generations.genomes import told_by_sight

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.projects.models import Project
from eyot.projects.reckoning import Standing, Stock, standing_of, statements_of_hatchling
from eyot.season.models import Clutch, Egg


@dataclass(frozen=True)
class Serves:
    """A hatchling as a step of a project: what becomes of its chance by the last season, and of its median."""

    project: Project
    step: str
    egg: Egg
    before: float
    after: float
    median_before: int | None
    median_after: int | None

    @property
    def sooner(self) -> str:
        """By how many seasons its median comes sooner; empty where it does not."""
        if self.median_before is None or self.median_after is None or self.median_after >= self.median_before:
            return ""
        seasons = self.median_before - self.median_after
        return f"{seasons} season{'' if seasons == 1 else 's'} sooner"


def fits(standing: Standing, clutch: Clutch) -> list[dict[str, object]]:
    """The steps that are left and whose pair laid a clutch."""
    names: dict[int | None, str] = {row.animal_id: row.name for row in standing.project.in_plan.all()}
    names |= {row.egg.kept_as_id: step for step, row in standing.held.items() if row.egg.kept_as_id}
    dam, sires = names.get(clutch.dam_id), {names.get(entry.sire_id) for entry in clutch.clutch_sires.all()}
    return [step for step in standing.left if step["dam"] == dam and step["sire"] in sires]


def serving(collection: Collection, clutch: Clutch, eggs: Sequence[Egg], today: date) -> list[Serves]:
    """What each of some hatchlings of a clutch would do for the projects that go on; those that do nothing are left out."""
    found = []
    for project in collection.projects.filter(closed_on=None):
        standing = standing_of(project, today)
        if standing.outlook is None:
            continue
        for step in fits(standing, clutch):
            found += _of_step(project, standing, step, eggs, today)
    return sorted(found, key=lambda one: one.before - one.after)


def _of_step(
    project: Project, standing: Standing, step: dict[str, object], eggs: Sequence[Egg], today: date
) -> list[Serves]:
    keep: dict[str, object] = step["keep"]  # type: ignore[assignment]
    wanted = {one["gene"]: one["copies"] for one in keep["genes"]}  # type: ignore[attr-defined]
    catalogue = catalogue_of(project.collection)
    assert standing.outlook
    found = []
    for egg in eggs:
        if keep.get("sex") and egg.sex != keep["sex"]:
            continue
        said = {one.gene: one for one in statements_of_hatchling(egg)}
        seen = {gene: copies for gene, copies in wanted.items() if told_by_sight(catalogue, gene, copies)}
        if any(
            gene not in said or said[gene].copies < copies or said[gene].chance != "1" for gene, copies in seen.items()
        ):
            continue
        entries = tuple({"gene": one.gene, "copies": one.copies, "chance": one.chance} for one in said.values())
        name = str(keep["id"])
        ready = int(project.rules.get("female_ready", 3) if egg.sex == "female" else project.rules.get("male_ready", 1))
        taken = standing_of(project, today, {name: Stock(name, egg.code, egg.sex or "female", entries, ready)})
        after = taken.outlook.by_season[-1] if taken.outlook else 1.0 if not taken.left else 0.0
        median = taken.outlook.median if taken.outlook else 0
        before = standing.outlook
        found.append(Serves(project, name, egg, before.by_season[-1], after, before.median, median))
    return found
