"""Who could take an animal's place in a plan: where it is gone, does not bring what was hoped, or breeds too close."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from eyot_core.generations.exchange import Exchange, Exchanging
from eyot_core.generations.plan import Outlook, Own

from eyot.collection.catalogue import catalogue_of
from eyot.projects.kin import Family
from eyot.projects.models import Project
from eyot.projects.reckoning import Reckoner, Standing, Steps, Stock, names_in, rules_from, step_from, stock_of

MOST_TRIED, SHOWN = 24, 4


@dataclass(frozen=True)
class Instead:
    """``taken`` in an animal's place: what comes of the steps that are left, and how close they breed then."""

    taken: Stock
    outlook: Outlook
    closest: float


def exchanges(reckoner: Reckoner, steps: Steps, left: str, candidates: Sequence[Own], only: str = "") -> list[Exchange]:
    """The candidates that lead to the goal in an animal's place; ``only``: in that step alone."""
    paired = {step[role] for step in steps for role in ("dam", "sire")}
    there = [own for name, own in reckoner.animals.items() if name in paired]
    exchanging = Exchanging(reckoner.room, reckoner.rules, reckoner.goal, [step_from(one) for one in steps], there)
    return exchanging.of(left, [own for own in candidates if own.id not in paired][:MOST_TRIED], only)


def alike(reckoner: Reckoner, name: str) -> list[Own]:
    """Animals of the same sex that may have as much of the goal as one has."""
    one, room = reckoner.animals[name], reckoner.room

    def most(own: Own, gene: str) -> int:
        return max(room.copies(genome, gene) for genome in own.genomes)

    return [
        other
        for other in reckoner.animals.values()
        if other.sex == one.sex
        and other.id != name
        and not other.is_bought
        and all(most(other, gene) >= min(most(one, gene), copies) for gene, copies in reckoner.goal.genes.items())
    ]


def less_close(reckoner: Reckoner, family: Family, steps: Steps, limit: float) -> Exchange | None:
    """The soonest exchange of one animal in one step with which a plan breeds less close than a limit; None where it does already, or none
    is found."""
    if family.kin(steps).closest < limit:
        return None
    found: list[Exchange] = []
    for step in steps:
        only = step["keep"]["id"]
        for name in (step["dam"], step["sire"]):
            if name in reckoner.animals:
                candidates = [
                    one for one in alike(reckoner, name) if family.kin(_put(steps, name, one.id, only)).closest < limit
                ]
                found += exchanges(reckoner, steps, name, candidates, only)[:1]
    return min(found, key=lambda one: _soon(one.found.outlook), default=None)


def _soon(outlook: Outlook) -> tuple[float, float]:
    return (float("inf") if outlook.median is None else outlook.median, -sum(outlook.by_season))


def _put(steps: Steps, left: str, taken: str, only: str = "") -> Steps:
    """As :func:`eyot_core.generations.exchange.put`, in the form in which steps are kept."""
    return [
        step | {role: taken for role in ("dam", "sire") if step[role] == left}
        if only in ("", step["keep"]["id"])
        else step
        for step in steps
    ]


def instead_of(standing: Standing, name: str, today: date) -> list[Instead]:
    """Own animals that could take a place in what is left of a project's plan, be the one who has it here or not; the soonest first."""
    project: Project = standing.project
    rules = rules_from(project.rules)
    named = names_in(project)
    others = [one for one in stock_of(project.collection, rules, today) if one.id not in named]
    by_id = {one.id: one for one in others}
    stock = [*standing.stock.values(), *others]
    steps = [step for step in project.plan if step["keep"]["id"] not in standing.held]
    reckoner = Reckoner.of(catalogue_of(project.collection), project.goal, rules, stock, steps)
    family = Family.of(project.collection, named)
    candidates = [reckoner.animals[one] for one in by_id]
    candidates.sort(key=lambda own: -reckoner.worth(own))
    return [
        Instead(by_id[one.taken], one.found.outlook, family.kin(_put(project.plan, name, one.taken)).closest)
        for one in exchanges(reckoner, standing.left, name, candidates)[:SHOWN]
    ]
