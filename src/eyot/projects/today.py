"""What projects add to what needs doing today."""

from __future__ import annotations

from datetime import date

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.projects.board import project_row
from eyot.projects.reckoning import standing_of
from eyot.season.today import Task


def tasks_of_projects(collection: Collection, today: date) -> list[Task]:
    """The pairings that are due, the animals that were lost, and the dams that two projects want this season."""
    tasks, naming = [], Naming(catalogue_of(collection))
    wanted: dict[str, dict[str, str]] = {}
    for project in collection.projects.filter(closed_on=None):
        standing = standing_of(project, today)
        row = project_row(standing)
        for one in standing.to_buy:
            tasks.append(Task(f"Find {one.name}", f"{project.name}: {row.words}", "Open", row.url))
        for hatchling, gene in standing.to_test:
            what = f"Have {hatchling.name} tested for {naming.gene(gene)}"
            tasks.append(Task(what, f"{project.name} held it back for that", "Open", row.url))
        for name, lost in standing.lost.items():
            if any(step["keep"]["id"] == name for step in standing.left):
                why = f"it was held back as {name}: pair its parents again, or put another in their place"
                tasks.append(Task(f"{project.name} has lost {lost.egg}", why, "Open", row.url, late=True))
        if standing.gone:
            why = f"{', '.join(standing.gone_names)}: put another in its place, or seek another plan"
            tasks.append(Task(f"{project.name} has lost an animal", why, "Open", row.url, late=True))
        for step in standing.due:
            dam, sire = (standing.stock[step[role]].name for role in ("dam", "sire"))
            wanted.setdefault(dam, {})[project.name] = row.url
            tasks.append(Task(f"Pair {dam} with {sire}", f"{project.name}: {row.words}", "Open", row.url))
    return [*tasks, *_wanted_twice(wanted)]


def _wanted_twice(wanted: dict[str, dict[str, str]]) -> list[Task]:
    """Of each dam the projects that want her, with their addresses."""
    return [
        Task(
            f"{dam} is wanted twice",
            f"{' and '.join(sorted(projects))} want her this season",
            "Open",
            projects[min(projects)],
            late=True,
        )
        for dam, projects in wanted.items()
        if len(projects) > 1
    ]
