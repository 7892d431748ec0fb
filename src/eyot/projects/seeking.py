"""Plans sought: at once among few animals, else by a worker, whose progress is told."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot_core.generations.answer import as_json
from eyot_core.generations.plan import Outlook
from eyot_core.generations.search import Found
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.projects.board import troubled
from eyot.projects.kin import kin_of
from eyot.projects.models import Project, Seeking
from eyot.projects.reckoning import Reckoner, check_goal, rules_from, step_from, stock_of
from eyot.shared.refusal import Refused

JOB = "projects.seek"
AT_ONCE = 60
"""Animals among which plans are sought while a page is waited for."""
KEPT = 10
TELL = 0.05
CLOSE_KIN: int = Project._meta.get_field("kin_percent").default


def seek(
    collection: Collection,
    member: AbstractBaseUser,
    line: str,
    goal: Mapping[str, Any],
    rules: Mapping[str, Any],
    at: datetime,
) -> Seeking:
    """Seeks plans for a goal, or has them sought. :class:`Refused` for a goal that can't be, that is there, or that nobody can begin."""
    catalogue = catalogue_of(collection)
    check_goal(catalogue, {one["gene"]: one["copies"] for one in goal["genes"]})
    stock = stock_of(collection, rules_from(rules), timezone.localdate(at))
    reckoner = Reckoner.of(catalogue, goal, rules_from(rules), stock)
    if reached := reckoner.is_there():
        name = next(one.name for one in stock if one.id == reached)
        raise Refused(f"{name} is what you want already. Nothing was sought.", field="line")
    if missing := reckoner.missing():
        names = ", ".join(Naming(catalogue).gene(gene) for gene in missing)
        raise Refused(f"Nobody here can have {names}: no plan can begin. Nothing was sought.", field="line")
    row = Seeking.objects.create(
        collection=collection,
        line=line.strip()[:200],
        goal=dict(goal),
        rules=dict(rules),
        asked_by_id=member.pk,
        asked_at=at,
    )
    old = collection.seekings.order_by("-pk").values_list("pk", flat=True)[KEPT:]
    Seeking.objects.filter(pk__in=list(old)).delete()
    if len(stock) <= AT_ONCE:
        _seek(row, reckoner, lambda share: None)
    else:
        app.configure_task(JOB, queue="photos", priority=5).defer(number=row.pk)
    return row


def sought(number: int) -> None:
    """Seeks what was ordered."""
    row = Seeking.objects.select_related("collection").filter(pk=number, plans__isnull=True).first()
    if row is None:
        return
    rules = rules_from(row.rules)
    stock = stock_of(row.collection, rules, timezone.localdate())
    told = [0.0]

    def tell(share: float) -> None:
        if share >= told[0] + TELL:
            told[0] = share
            Seeking.objects.filter(pk=number).update(done=share)

    _seek(row, Reckoner.of(catalogue_of(row.collection), row.goal, rules, stock), tell)


def _seek(row: Seeking, reckoner: Reckoner, tell: Callable[[float], None]) -> None:
    plans = [
        {"steps": as_json(one.steps, one.outlook)["steps"], "outlook": _kept(one.outlook)}
        for one in reckoner.plans(tell)
    ]
    row.plans, row.done = _in_order(row, plans), 1.0
    row.save(update_fields=["plans", "done"])


def _in_order(row: Seeking, plans: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Plans that do without animals that show a gene known for trouble stand first, and of those the ones that do not breed closer than the
    usual limit; then the soonest."""
    naming = Naming(catalogue_of(row.collection))
    stock = {one.id: one for one in stock_of(row.collection, rules_from(row.rules), timezone.localdate())}

    def costs(plan: dict[str, Any]) -> tuple[bool, bool]:
        closest = max(kin_of(row.collection, plan["steps"]).inbreeding.values(), default=0.0)
        return bool(troubled(plan["steps"], stock, naming)), 100 * closest >= CLOSE_KIN

    return sorted(plans, key=costs)


def _kept(outlook: Outlook) -> dict[str, Any]:
    names = ("by_season", "error", "paired", "stuck")
    return {name: getattr(outlook, name) for name in names}


def found_in(row: Seeking) -> list[Found]:
    """The plans of a search that has ended."""
    return [
        Found(
            tuple(step_from(step) for step in plan["steps"]),
            Outlook(
                tuple(plan["outlook"]["by_season"]),
                plan["outlook"]["error"],
                plan["outlook"]["paired"],
                tuple(plan["outlook"]["stuck"]),
            ),
        )
        for plan in row.plans or []
    ]
