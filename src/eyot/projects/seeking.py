"""Plans sought: at once among few animals, else by a worker, whose progress is told."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot_core.generations.answer import as_json
from eyot_core.generations.harm import Harm
from eyot_core.generations.plan import Outlook
from eyot_core.generations.search import Found
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection
from eyot.projects.board import troubled
from eyot.projects.instead import less_close
from eyot.projects.kin import Family
from eyot.projects.market import market_for
from eyot.projects.models import Project, Seeking
from eyot.projects.reckoning import Reckoner, Steps, Stock, check_goal, goal_genes, rules_from, stock_of
from eyot.shared.jobs import is_under_way
from eyot.shared.refusal import Refused

JOB = "projects.seek"
AT_ONCE = 60
"""Animals among which plans are sought while a page is waited for."""
KEPT = 10
NEVER = 1e9
TELL = 0.05
CLOSE_KIN: int = Project._meta.get_field("kin_percent").default


def seek(
    collection: Collection,
    member: AbstractBaseUser,
    line: str,
    goal: Mapping[str, Any],
    rules: Mapping[str, Any],
    at: datetime,
    project: Project | None = None,
) -> Seeking:
    """Seeks plans for a goal, or has them sought; ``project``: for which they go on. :class:`Refused` for a goal that can't be, that is
    there, or that only pairings lead to which are not proposed."""
    catalogue = catalogue_of(collection)
    naming, genes = Naming(catalogue), {one["gene"]: one["copies"] for one in goal["genes"]}
    check_goal(catalogue, genes)
    if harmful := Harm.of(catalogue).in_goal(genes):
        names = ", ".join(naming.copies(gene, genes[gene]) for gene in harmful)
        raise Refused(
            f"{names}: of the pairings that lead there some young are known to die or to suffer. None is proposed. "
            "Nothing was sought.",
            field="line",
        )
    reckoner, stock = _reckoner(collection, goal, rules, timezone.localdate(at))
    if reached := reckoner.is_there():
        one = stock[reached]
        more = f", and {one.sex}: ask for one of the other sex" if goal.get("pair") else ""
        raise Refused(f"{one.name} is what you want already{more}. Nothing was sought.", field="line")
    row = Seeking.objects.create(
        collection=collection,
        line=line.strip()[:200],
        goal=dict(goal),
        rules=dict(rules),
        project=project,
        asked_by_id=member.pk,
        asked_at=at,
    )
    old = collection.seekings.order_by("-pk").values_list("pk", flat=True)[KEPT:]
    Seeking.objects.filter(pk__in=list(old)).delete()
    if sum(not one.is_bought for one in stock.values()) <= AT_ONCE:
        _seek(row, reckoner, stock, lambda share: None)
    else:
        _order(row)
    return row


def seek_once_more(row: Seeking) -> None:
    """Has sought what a worker failed at, by the same goal and rules. Nothing where one is at it, or its plans are there."""
    if row.plans is None and not is_under_way(JOB, number=row.pk):
        row.done = 0.0
        row.save(update_fields=["done"])
        _order(row)


def _order(row: Seeking) -> None:
    app.configure_task(JOB, queue="photos", priority=5).defer(number=row.pk)


def _reckoner(
    collection: Collection, goal: Mapping[str, Any], rules: Mapping[str, Any], today: date
) -> tuple[Reckoner, dict[str, Stock]]:
    """What is here, and what could be bought."""
    catalogue = catalogue_of(collection)
    own = stock_of(collection, rules_from(rules), today)
    missing = Reckoner.of(catalogue, goal, rules_from(rules), own).missing()
    stock = [*own, *market_for(catalogue, goal_genes(goal), missing)]
    return Reckoner.of(catalogue, goal, rules_from(rules), stock), {one.id: one for one in stock}


def sought(number: int) -> None:
    """Seeks what was ordered."""
    row = Seeking.objects.select_related("collection").filter(pk=number, plans__isnull=True).first()
    if row is None:
        return
    told = [0.0]

    def tell(share: float) -> None:
        if share >= told[0] + TELL:
            told[0] = share
            Seeking.objects.filter(pk=number).update(done=share)

    _seek(row, *_reckoner(row.collection, row.goal, row.rules, timezone.localdate()), tell)


def _seek(row: Seeking, reckoner: Reckoner, stock: Mapping[str, Stock], tell: Callable[[float], None]) -> None:
    family, plans = Family.of(row.collection), []
    limit = (row.project.kin_percent if row.project else CLOSE_KIN) / 100
    for found in reckoner.plans(tell):
        plan = _as_kept(found, stock)
        plans.append(plan)
        if other := less_close(reckoner, family, plan["steps"], limit):
            names = {"left": stock[other.left].name, "taken": stock[other.taken].name}
            plans.append(_as_kept(other.found, stock) | {"outcross": names})
    row.plans, row.done = _in_order(row, plans, stock, family, limit), 1.0
    row.save(update_fields=["plans", "done"])


def _as_kept(found: Found, stock: Mapping[str, Stock]) -> dict[str, Any]:
    steps = as_json(found.steps, found.outlook)["steps"]
    plan = {"steps": steps, "outlook": _kept(found.outlook)}
    bought = next((stock[name] for name in _paired(steps) if name in stock and stock[name].is_bought), None)
    if bought:
        plan["bought"] = {"id": bought.id, "sex": bought.sex, "genes": list(bought.genes)}
    return plan


def _paired(steps: Steps) -> list[str]:
    return [step[role] for step in steps for role in ("dam", "sire")]


def _in_order(
    row: Seeking, plans: list[dict[str, Any]], stock: Mapping[str, Stock], family: Family, limit: float
) -> list[dict[str, Any]]:
    """Plans from what is here stand first; of these the ones that do without animals that show a gene known for trouble, then those that do
    not breed closer than the limit; then the soonest. The same plan found twice stands once."""
    naming = Naming(catalogue_of(row.collection))

    def costs(plan: dict[str, Any]) -> tuple[bool, bool, bool, float]:
        is_close = family.kin(plan["steps"]).closest >= limit
        median = next((at for at, chance in enumerate(plan["outlook"]["by_season"]) if chance >= 0.5), NEVER)
        return "bought" in plan, bool(troubled(plan["steps"], stock, naming)), is_close, median

    once: dict[str, dict[str, Any]] = {}
    for plan in plans:
        once.setdefault(_paired_and_kept(plan["steps"]), plan)
    return sorted(once.values(), key=costs)


def _paired_and_kept(steps: Steps) -> str:
    return str([(step["dam"], step["sire"], step["keep"]) for step in steps])


def _kept(outlook: Outlook) -> dict[str, Any]:
    names = ("by_season", "error", "paired", "stuck")
    return {name: getattr(outlook, name) for name in names}
