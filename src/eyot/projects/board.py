"""Outlooks in words and bars."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db.models import Count, Q
from django.urls import reverse

from eyot_core.generations.genomes import told_by_sight
from eyot_core.generations.plan import Outlook, Rules
from eyot_core.generations.search import Found
from eyot_core.wording.chances import percent
from eyot_core.wording.names import Naming

from eyot.collection.models import Collection
from eyot.projects.models import Project
from eyot.projects.reckoning import Standing, Steps, Stock, rules_from
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
    eggs: int
    stuck: str
    url: str = ""
    project: Project | None = None


def row_of_outlook(outlook: Outlook | None, first_year: int, rules: Rules, name: str = "") -> Row:
    """An outlook as it is shown."""
    if outlook is None:
        return Row(name, "", [], "", 0, "")
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
    clutches, eggs = outlook.paired * rules.clutches, round(outlook.paired * rules.young)
    return Row(name, words, bars, f"{clutches:.1f}", eggs, stuck)


def _percent(chance: float) -> str:
    """A chance in words; none where there is none yet."""
    return percent(chance) if chance > NONE else "0 %"


def plan_rows(plans: Sequence[Found], year: int, rules: Rules) -> list[Row]:
    """Plans that were found, beside one another; ``year``: of the season that they begin in."""
    return [row_of_outlook(plan.outlook, year, rules, f"Plan {number}") for number, plan in enumerate(plans, start=1)]


@dataclass(frozen=True)
class InWords:
    """A step in words: the year from which its pair is brought together, the pair, and what is held back of it and how that is told."""

    id: str
    year: int
    dam: str
    sire: str
    keep: str


def in_words(plan: Steps, called: Mapping[str, str], naming: Naming, first_year: int) -> list[InWords]:
    """A plan's steps in words. ``called``: what animals that are here are called."""
    rows = []
    for step in plan:
        keep = step["keep"]
        sex = {"male": "a male", "female": "a female"}.get(keep.get("sex", ""), "one")
        genes = ", ".join(_told(one, naming) for one in keep["genes"])
        dam, sire = (called.get(step[role], step[role]) for role in ("dam", "sire"))
        rows.append(InWords(keep["id"], first_year + step["season"], dam, sire, f"{sex}: {genes}"))
    return rows


def _told(one: Mapping[str, Any], naming: Naming) -> str:
    """A gene that is asked for, with how it is told."""
    if one["gene"] not in naming.catalogue.genes:
        return str(one["gene"])
    is_seen = told_by_sight(naming.catalogue, one["gene"], one["copies"])
    how = "by test" if one.get("by") == "test" else "seen" if is_seen else "certain"
    return f"{gene_words(one, naming)} ({how})"


def gene_words(one: Mapping[str, Any], naming: Naming) -> str:
    """A gene with its copies, as breeders say it: "het Clown", "2/3 het Clown", "Super Pastel"."""
    words = naming.copies(one["gene"], one["copies"] if isinstance(one["copies"], int) else 1)
    return f"{one['chance']} {words}" if one.get("chance") not in (None, "1", 1) else words


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


def project_row(standing: Standing) -> Row:
    """A project as it stands."""
    project = standing.project
    url = reverse("project", args=[project.pk])
    if standing.gone:
        return Row(
            project.name,
            f"{', '.join(standing.gone_names)} is not here any more",
            [],
            "",
            0,
            "",
            url,
            project,
        )
    if standing.outlook is None:
        return Row(project.name, "reached: every step has its animal", [], "", 0, "", url, project)
    row = row_of_outlook(standing.outlook, project.first_year + standing.season, rules_from(project.rules))
    return replace(row, name=project.name, url=url, project=project)


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
        "tests": "yes",
    }
