"""Outlooks in words and bars."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db.models import Count, Q
from django.urls import reverse

from eyot_core.generations.plan import Outlook, Rules
from eyot_core.generations.search import Found
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.models import Collection
from eyot.projects.models import Project
from eyot.projects.reckoning import Stock, standing_of
from eyot.season.models import Egg

BAR = 60
FEWEST_EGGS = 12
SEASONS = 8
NONE = 1e-12


@dataclass(frozen=True)
class Bar:
    """The chance by the end of one season: the year, its height, and the words."""

    year: str
    height: int
    words: str
    is_median: bool

    @property
    def down(self) -> int:
        """How far below the foot its top stands: a negative number."""
        return -self.height


@dataclass(frozen=True)
class Row:
    """A plan's outlook: a bar a season, and in words. ``url``: of its project, if it is one."""

    name: str
    words: str
    bars: list[Bar]
    paired: str
    stuck: str
    url: str = ""
    project: Project | None = None


def row_of_outlook(outlook: Outlook | None, first_year: int, name: str = "") -> Row:
    """An outlook as it is shown."""
    if outlook is None:
        return Row(name, "", [], "", "")
    bars = [
        Bar(str(first_year + season), round(BAR * chance), _percent(chance), season == outlook.median)
        for season, chance in enumerate(outlook.by_season)
    ]
    last = first_year + len(bars) - 1
    by_last = percent(outlook.by_season[-1])
    words = (
        f"as likely there as not by {first_year + outlook.median}; {by_last} by {last}"
        if outlook.median is not None
        else f"{by_last} by {last}"
    )
    waits = max(outlook.stuck, default=0.0)
    stuck = f"step {outlook.stuck.index(waits) + 1}" if waits > 0.005 else ""
    return Row(name, words, bars, f"{outlook.paired:.1f}", stuck)


def _percent(chance: float) -> str:
    """A chance in words; none where there is none yet."""
    return percent(chance) if chance > NONE else "0 %"


def plan_rows(plans: Sequence[Found], year: int) -> list[Row]:
    """Plans that were found, beside one another; ``year``: of the season that they begin in."""
    return [row_of_outlook(plan.outlook, year, f"Plan {number}") for number, plan in enumerate(plans, start=1)]


def rests_on(plan: Sequence[Mapping[str, Any]], stock: Mapping[str, Stock], naming: Naming) -> list[str]:
    """What a plan's own animals are not known to carry, of the genes that it is about: with the chance."""
    names = {step[role] for step in plan for role in ("dam", "sire")}
    about = {one["gene"] for step in plan for one in step["keep"]["genes"]}
    return [
        f"{stock[name].name} ({entry['chance']} {naming.gene(entry['gene'])}), which may be none"
        for name in sorted(names & set(stock))
        for entry in stock[name].genes
        if entry["gene"] in about and entry.get("chance") not in (None, "1")
    ]


def troubled(plan: Sequence[Mapping[str, Any]], stock: Mapping[str, Stock], naming: Naming) -> list[str]:
    """Own animals of a plan that show a gene known for trouble which is not wanted anyhow: whose, and which gene."""
    wanted = {one["gene"] for step in plan for one in step["keep"]["genes"]}
    names = {step[role] for step in plan for role in ("dam", "sire")} & set(stock)
    found = []
    for name in sorted(names):
        genes = [
            entry for entry in stock[name].genes if isinstance(entry["copies"], int) and entry["gene"] not in wanted
        ]
        told = welfare_of_goal({"genes": genes}, naming)
        found += [f"{stock[name].name} ({gene})" for gene, _ in told]
    return found


def welfare_of_goal(goal: Mapping[str, Any], naming: Naming) -> list[tuple[str, str]]:
    """The genes of a goal that are known for trouble in animals that show them: name, and what is known."""
    told = []
    for one in goal["genes"]:
        known = one["gene"] in naming.catalogue.genes
        note = naming.text(one["gene"], "welfare") if known else ""
        if note and (one["copies"] > 1 or naming.text(one["gene"], "welfare_from") != "2"):
            told.append((naming.gene(one["gene"]), note))
    return told


def project_row(project: Project, today: date) -> Row:
    """A project as it stands."""
    url = reverse("project", args=[project.pk])
    standing = standing_of(project, today)
    if standing.gone:
        return Row(
            project.name,
            f"{', '.join(standing.gone)} is not here any more: seek another plan",
            [],
            "",
            "",
            url,
            project,
        )
    if standing.outlook is None:
        return Row(project.name, "reached: every step has its animal", [], "", "", url, project)
    row = row_of_outlook(standing.outlook, project.first_year + standing.season)
    return Row(project.name, row.words, row.bars, row.paired, row.stuck, url, project)


def usual_rules(collection: Collection) -> dict[str, Any]:
    """The rules as the keeper's own record has them, else as is usual."""
    usual = Rules()
    eggs = Egg.objects.filter(clutch__collection=collection, clutch__elsewhere=False)
    counts = list(eggs.values("clutch").annotate(count=Count("pk")).values_list("count", flat=True))
    ended = eggs.filter(Q(out_on__isnull=False) | Q(state__in=[Egg.State.SLUG, Egg.State.DEAD]))
    hatched = ended.filter(out_on__isnull=False).count()
    own_share = round(100 * hatched / ended.count()) if ended.count() >= FEWEST_EGGS else round(100 * usual.hatch)
    own_eggs = round(sum(counts) / len(counts)) if sum(counts) >= FEWEST_EGGS else usual.eggs
    return {
        "eggs": own_eggs,
        "hatch": own_share,
        "clutches": usual.clutches,
        "female_ready": usual.female_ready,
        "male_ready": usual.male_ready,
        "rest": usual.rest,
        "seasons": SEASONS,
        "generations": usual.generations,
        "places": usual.places,
    }
