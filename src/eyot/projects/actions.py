"""Changes of projects; each is kept with who and when, and can be taken back."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from eyot.collection.history import recording
from eyot.collection.models import Collection
from eyot.projects.models import HeldFor, InPlan, Project
from eyot.projects.reckoning import Steps
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
    plan: Steps,
    at: datetime,
) -> Project:
    """A project with the plan that was chosen. :class:`Refused` where its name is taken."""
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
        plan=plan,
        first_year=at.year,
        made_by_id=member.pk,
        made_at=at,
    )
    own = {f"a{animal.pk}": animal for animal in collection.animals.all()}
    used = list(dict.fromkeys(step[role] for step in plan for role in ("dam", "sire") if step[role] in own))
    names = {key: f"A{number}" for number, key in enumerate(used, start=1)}
    project.plan = [
        {**step, "dam": names.get(step["dam"], step["dam"]), "sire": names.get(step["sire"], step["sire"])}
        for step in plan
    ]
    with recording(collection, member, at, f"project {name} begun", SUBJECT) as record:
        record.add(project)
        for key in used:
            record.add(InPlan(project=project, name=names[key], animal=own[key]))
    return project


def hold_for(project: Project, step: str, egg: Egg, member: AbstractBaseUser, at: datetime) -> HeldFor:
    """A hatchling is held back for a step. :class:`Refused` where that can't be."""
    known = next((one for one in project.plan if one["keep"]["id"] == step), None)
    if known is None:
        raise Refused(f"{project.name} has no such step. {NOTHING}")
    if project.held.filter(step=step).exists():
        raise Refused(f"{project.name} has its {step} already. {NOTHING}")
    if project.held.filter(egg=egg).exists():
        raise Refused(f"{egg} is held for {project.name} already. {NOTHING}")
    if egg.state == Egg.State.DEAD:
        raise Refused(f"{egg} died. {NOTHING}")
    sex = known["keep"].get("sex")
    if sex and egg.sex != sex:
        raise Refused(f"{step} has to be {sex}; {egg} is {egg.sex or 'not sexed'}. {NOTHING}")
    with recording(project.collection, member, at, f"{egg} held for {project.name}, as {step}", SUBJECT) as record:
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
