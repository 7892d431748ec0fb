"""Plans that were found, as they stand beside one another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from eyot_core.generations.plan import Outlook
from eyot_core.generations.search import Found
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.projects.board import InWords, Row, in_words, plan_rows, rests_on, troubled
from eyot.projects.kin import Family, Kin
from eyot.projects.models import Seeking
from eyot.projects.reckoning import bought_stock, rules_from, step_from, stock_of
from eyot.projects.tree import Tree, tree_of


@dataclass(frozen=True)
class Shown:
    """One plan: its outlook, its tree, its kin. ``doubts``: what it rests on; ``troubles``: whom it pairs that show a gene known for
    trouble; ``buys``: who is bought for it and what that saves; ``outcross``: whom it puts in whose place to breed less close."""

    row: Row
    tree: Tree
    kin: Kin
    doubts: list[str]
    troubles: list[str]
    steps: list[InWords]
    buys: str
    outcross: Mapping[str, str]


def found_plans(row: Seeking, today: date) -> list[Shown]:
    """The plans of a search that has ended."""
    catalogue, rules = catalogue_of(row.collection), rules_from(row.rules)
    naming, found = Naming(catalogue), found_in(row)
    there = {one.id: one for one in stock_of(row.collection, rules, today)}
    genes = [one["gene"] for one in row.goal["genes"]]
    own = [plan.outlook for plan, kept in zip(found, row.plans or [], strict=True) if "bought" not in kept]
    rows = []
    for kept, outlook, plan in zip(row.plans or [], plan_rows(found, row.asked_at.year, rules), found, strict=True):
        stock, buys = dict(there), ""
        if bought := kept.get("bought"):
            one = bought_stock(catalogue, bought["id"], bought)
            stock[one.id] = one
            buys = f"Buys {one.name}: {_saved(plan.outlook, own)}."
        family = Family.of(row.collection, called={name: one.name for name, one in stock.items()})
        steps = kept["steps"]
        rows.append(
            Shown(
                outlook,
                tree_of(steps, stock, catalogue, genes),
                family.kin(steps),
                rests_on(steps, stock, naming),
                troubled(steps, stock, naming),
                in_words(steps, family.names, naming, row.asked_at.year),
                buys,
                kept.get("outcross", {}),
            )
        )
    return rows


def _saved(bought: Outlook, own: list[Outlook]) -> str:
    """What buying saves against the soonest plan with what is here."""
    if not own:
        return "with what is here alone no plan begins"
    medians = [one.median for one in own if one.median is not None]
    if bought.median is None or not medians:
        chances = max(one.by_season[-1] for one in own), bought.by_season[-1]
        return f"{percent(chances[1])} by the last season in place of {percent(chances[0])}"
    seasons = min(medians) - bought.median
    if seasons < 1:
        return "likelier, though its middle season is the same"
    return f"{seasons} season{'' if seasons == 1 else 's'} sooner than with what is here"


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
