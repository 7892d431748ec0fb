"""Changes of projects; each is kept with who and when, and can be taken back."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from eyot.collection.history import recording
from eyot.collection.models import Animal, Collection
from eyot.projects.models import HeldFor, InPlan, Project
from eyot.projects.reckoning import Steps, held_rows, is_lost
from eyot.season.models import Egg
from eyot.shared.refusal import Refused

NOTHING = "Nothing was changed."
SUBJECT = "projects"


def begin(
    collection: Collection,
    member: AbstractBaseUser,
    name: str,
    goal: Mapping[str, Any],
    rules: Mapping[str, Any],
    plan: Mapping[str, Any],
    at: datetime,
) -> Project:
    """A project with the plan that was chosen: ``steps``, own animals as ``a12``, and who is ``bought`` for it. :class:`Refused` where its
    name is taken."""
    name = " ".join(name.split())[:80]
    if not name:
        raise Refused(f"Give the project a name. {NOTHING}", field="name")
    if collection.projects.filter(name=name).exists():
        raise Refused(f"There is a project {name} already. {NOTHING}", field="name")
    project = Project(
        collection=collection,
        name=name,
        goal=dict(goal),
        rules=dict(rules),
        first_year=at.year,
        made_by_id=member.pk,
        made_at=at,
    )
    project.plan, rows = _named(project, plan)
    with recording(collection, member, at, f"project {name} begun", SUBJECT) as record:
        record.add(project)
        for row in rows:
            record.add(row)
    return project


def _named(project: Project, plan: Mapping[str, Any]) -> tuple[Steps, list[InPlan]]:
    """The steps with the project's own names for animals, and who has which."""
    own = {f"a{animal.pk}": animal for animal in project.collection.animals.all()}
    bought = plan.get("bought")
    paired = dict.fromkeys(step[role] for step in plan["steps"] for role in ("dam", "sire"))
    rows: dict[str, InPlan] = {}
    for key in paired:
        name = f"A{len(rows) + 1}"
        if key in own:
            rows[key] = InPlan(project=project, name=name, animal=own[key])
        elif bought and key == bought["id"]:
            sought = {"sex": bought["sex"], "genes": bought["genes"]}
            rows[key] = InPlan(project=project, name=name, sought=sought)
    steps = [
        {**step} | {role: rows[step[role]].name if step[role] in rows else step[role] for role in ("dam", "sire")}
        for step in plan["steps"]
    ]
    return steps, list(rows.values())


def go_on_with(project: Project, member: AbstractBaseUser, plan: Mapping[str, Any], at: datetime) -> None:
    """Another plan in the place of a project's own, from this season on. What was held back for the old one stays what it is; who of them
    is an animal by now may be part of the new one."""
    steps, rows = _named(project, plan)
    with recording(project.collection, member, at, f"project {project.name}: another plan", SUBJECT) as record:
        for old in (*project.held.all(), *project.in_plan.all()):
            record.remove(old)
        record.change(project, plan=steps, first_year=at.year)
        for row in rows:
            record.add(row)


def put_in(project: Project, name: str, animal: Animal | None, member: AbstractBaseUser, at: datetime) -> None:
    """An own animal takes a place in a project's plan: of one that was to be bought, is gone, or shall do without. :class:`Refused` where
    it can't."""
    row = project.in_plan.filter(name=name).first()
    if row is None or animal is None:
        raise Refused(f"Say who takes whose place in {project.name}. {NOTHING}")
    asked = "female" if any(step["dam"] == name for step in project.plan) else "male"
    if animal.sex != asked:
        raise Refused(
            f"In this place {project.name} needs a {asked}; {animal} is {animal.sex or 'not sexed'}. {NOTHING}"
        )
    if animal.archived_on:
        raise Refused(f"{animal} is not here any more. {NOTHING}")
    if project.in_plan.filter(animal=animal).exists():
        raise Refused(f"{animal} is part of {project.name} already. {NOTHING}")
    with recording(project.collection, member, at, f"{animal} put into {project.name}, as {name}", SUBJECT) as record:
        record.change(row, animal=animal, sought=None)


def hold_for(project: Project, step: str, egg: Egg, member: AbstractBaseUser, at: datetime) -> HeldFor:
    """A hatchling is held back for a step. :class:`Refused` where that can't be."""
    known = next((one for one in project.plan if one["keep"]["id"] == step), None)
    if known is None:
        raise Refused(f"{project.name} has no such step. {NOTHING}")
    before = next((row for row in held_rows(project) if row.step == step), None)
    if before and not is_lost(before.egg):
        raise Refused(f"{project.name} has its {step} already. {NOTHING}")
    if project.held.filter(egg=egg).exists():
        raise Refused(f"{egg} is held for {project.name} already. {NOTHING}")
    if egg.state == Egg.State.DEAD:
        raise Refused(f"{egg} died. {NOTHING}")
    sex = known["keep"].get("sex")
    if sex and egg.sex != sex:
        raise Refused(f"{step} has to be {sex}; {egg} is {egg.sex or 'not sexed'}. {NOTHING}")
    with recording(project.collection, member, at, f"{egg} held for {project.name}, as {step}", SUBJECT) as record:
        if before:
            record.remove(before)
        return record.add(HeldFor(project=project, step=step, egg=egg))


def set_limit(project: Project, member: AbstractBaseUser, typed: str, at: datetime) -> None:
    """From how many per cent of inbreeding on a project warns."""
    percent = int(typed) if typed.isdecimal() and len(typed) < 4 else 0
    if not 1 <= percent <= 100:
        raise Refused(f"The limit of inbreeding lies from 1 to 100 %, not at “{typed[:20]}”. {NOTHING}")
    with recording(project.collection, member, at, f"project {project.name}: kin from {percent} %", SUBJECT) as record:
        record.change(project, kin_percent=percent)


def close(project: Project, member: AbstractBaseUser, at: datetime) -> None:
    """The project ends, or goes on again."""
    words = "goes on" if project.closed_on else "closed"
    with recording(project.collection, member, at, f"project {project.name} {words}", SUBJECT) as record:
        record.change(project, closed_on=None if project.closed_on else at.date())
