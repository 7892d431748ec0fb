"""What if: an animal bought or gone, one more clutch, a het tested first; each beside the plan as it stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from fractions import Fraction

from eyot_core.catalogue import Catalogue
from eyot_core.generations.plan import Outlook, Rules
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene
from eyot.projects.market import market_for
from eyot.projects.models import Project
from eyot.projects.reckoning import Reckoner, Standing, Stock, goal_genes, rules_from, stock_of
from eyot.shared.refusal import Refused

BOUGHT = "bought"


@dataclass(frozen=True)
class Case:
    """One case beside the plan: what is supposed, and what comes of it."""

    words: str
    outlook: Outlook | None
    note: str = ""


def one_more_clutch(standing: Standing) -> Case:
    """Every dam of the plan gives one clutch more a season."""
    rules = rules_from(standing.project.rules)
    return Case(
        "one more clutch of each dam a season", _same_plan(standing, replace(rules, clutches=rules.clutches + 1))
    )


def _same_plan(standing: Standing, rules: Rules) -> Outlook | None:
    if not standing.left or standing.gone:
        return None
    project = standing.project
    reckoner = Reckoner.of(
        catalogue_of(project.collection),
        project.goal,
        rules,
        list(standing.stock.values()),
        project.plan,
    )
    return reckoner.outlook(standing.left)


def bought(project: Project, line: str, sex: str, today: date) -> Case:
    """Another animal is there, as its line says. :class:`Refused` where nothing of it is understood."""
    catalogue = catalogue_of(project.collection)
    read = understood(Lookup(catalogue), line)
    if read.impossible or not read.statements:
        reason = " ".join(read.impossible) or f"No gene was understood in “{line[:80]}”."
        raise Refused(f"{reason} Nothing was changed.", field="line")
    entries = tuple(CarriedGene.stating(Animal(sex=sex), one).as_entry() for one in read.statements)
    more = Stock(BOUGHT, "the one that is bought", sex, entries, 0)
    return _best(project, catalogue, [*_own(project, today), more], f"with a {sex} {line.strip()[:60]} bought")


def worth_buying(project: Project, today: date) -> list[Case]:
    """What one animal bought would save: of those that could be bought each with which it comes sooner than with what is here."""
    catalogue, rules = catalogue_of(project.collection), rules_from(project.rules)
    own = _own(project, today)
    missing = Reckoner.of(catalogue, project.goal, rules, own).missing()
    market = {one.id: one for one in market_for(catalogue, goal_genes(project.goal), missing)}
    plans = Reckoner.of(catalogue, project.goal, rules, [*own, *market.values()]).plans()
    cases = [Case(f"with {market[plan.bought].name} bought", plan.outlook) for plan in plans if plan.bought]
    best = next((plan.outlook for plan in plans if not plan.bought), None)
    return cases or [Case("one animal bought", best, "none would bring it sooner than those that are here")]


def without(project: Project, animal: str, today: date) -> Case:
    """An animal is not there any more."""
    own = _own(project, today)
    name = next((one.name for one in own if one.id == animal), "an animal that is not here")
    return _best(project, catalogue_of(project.collection), [one for one in own if one.id != animal], f"without {name}")


def _own(project: Project, today: date) -> list[Stock]:
    return stock_of(project.collection, rules_from(project.rules), today)


def _best(project: Project, catalogue: Catalogue, stock: Sequence[Stock], words: str) -> Case:
    """The soonest plan with some animals."""
    reckoner = Reckoner.of(catalogue, project.goal, rules_from(project.rules), stock)
    if reckoner.missing():
        return Case(words, None, "then nobody can begin it")
    if reckoner.is_there():
        return Case(words, None, "then the goal is there already")
    plans = reckoner.plans()
    if not plans:
        return Case(words, None, "then no plan is found")
    uses = any(BOUGHT in (step.dam, step.sire) for step in plans[0].steps)
    return Case(words, plans[0].outlook, "" if uses or "bought" not in words else "the soonest plan does without it")


def uncertain_of(standing: Standing) -> list[tuple[Stock, str, Fraction]]:
    """What the plan's animals are not known to carry of the project's genes: whose, which gene, how likely."""
    goal = {one["gene"] for one in standing.project.goal["genes"]}
    names = {name for step in standing.left for name in (step["dam"], step["sire"])}
    return [
        (one, entry["gene"], Fraction(entry["chance"]))
        for name, one in standing.stock.items()
        if name in names
        for entry in one.genes
        if entry["gene"] in goal and entry.get("chance") not in (None, "1")
    ]


def tested(standing: Standing, animal: str, gene: str, today: date) -> list[Case]:
    """A possible gene tested before the plan begins: what comes of it if it is there, with what the test is worth, and of the soonest
    plan if it is not."""
    found = next((row for row in uncertain_of(standing) if row[0].id == animal and row[1] == gene), None)
    if found is None:
        raise Refused("That is not open in this plan. Nothing was changed.")
    one, gene, chance = found
    project, catalogue = standing.project, catalogue_of(standing.project.collection)
    name = Lookup(catalogue).naming.gene(gene)
    there = replace(one, genes=tuple(_settled(entry, gene) for entry in one.genes))
    absent = replace(one, genes=tuple(entry for entry in one.genes if entry["gene"] != gene))
    stock = {**standing.stock, one.id: there}
    reckoner = Reckoner.of(catalogue, project.goal, rules_from(project.rules), list(stock.values()), project.plan)
    others = [each for each in _own(project, today) if each.animal != one.animal]
    good = Case(f"{one.name} tested, and {name} is there ({chance})", reckoner.outlook(standing.left))
    bad = _best(project, catalogue, [*others, absent], f"{one.name} tested, and {name} is not there ({1 - chance})")
    return [replace(good, note=_worth(standing.outlook, good, bad, chance)), bad]


def _worth(now: Outlook | None, good: Case, bad: Case, chance: Fraction) -> str:
    """What a test is worth in seasons: by how much sooner the goal is as likely there as not, on average over both answers. Where it never
    is within the seasons looked ahead, it counts as one season after them."""
    if now is None:
        return ""
    last = len(now.by_season)

    def season(outlook: Outlook | None) -> float:
        return last if outlook is None or outlook.median is None else outlook.median

    tested_first = float(chance) * season(good.outlook) + float(1 - chance) * season(bad.outlook)
    saved = season(now) - tested_first
    return f"the test is worth about {saved:.1f} seasons" if saved > 0 else "the test saves no season"


def _settled(entry: Mapping[str, object], gene: str) -> dict[str, object]:
    return {key: value for key, value in entry.items() if key != "chance" or entry["gene"] != gene}
