"""A project in the core's form: the animals as the record has them, the goal, the rules; plans found and followed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.errors import InputError
from eyot_core.generations.answer import deadly_of, own_of
from eyot_core.generations.genomes import Room, Wanted, cannot_be
from eyot_core.generations.plan import Follower, Outlook, Own, Rules, Step
from eyot_core.generations.search import Found, Search
from eyot_core.genetics.animals import Parent, parent_from
from eyot_core.genetics.inheritance import FEMALE, MALE, SEXES
from eyot_core.parsing import Node
from eyot_core.wording.names import Naming
from eyot_core.wording.statements import Statement

from eyot.animals.holdbacks import statements_of
from eyot.bench.judgement import ClutchJudgement
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene, Collection
from eyot.projects.models import HeldFor, Project
from eyot.season.models import Egg
from eyot.season.queries import clutch_of
from eyot.shared.refusal import Refused

Genes = list[dict[str, Any]]
Steps = list[dict[str, Any]]
MOST_SOUGHT = 120
"""Animals among which plans are sought: those that have something of the goal first."""


@dataclass(frozen=True)
class Stock:
    """An animal that a project may use: under which name the plan has it, and what is known of it. ``is_bought``: it is not here yet."""

    id: str
    name: str
    sex: str
    genes: tuple[dict[str, Any], ...]
    ready: int
    animal: Animal | None = None
    is_bought: bool = False


def goal_genes(goal: Mapping[str, Any]) -> dict[str, int]:
    """The genes of a goal with their copies."""
    return {one["gene"]: one["copies"] for one in goal["genes"]}


def check_goal(catalogue: Catalogue, genes: Mapping[str, int]) -> None:
    """:class:`Refused` for a goal that no animal can be."""
    if not genes:
        raise Refused("Say which genes it is to have. Nothing was changed.", field="line")
    if reason := cannot_be(catalogue, genes):
        raise Refused(f"No animal can be so: {reason}. Nothing was changed.", field="line")


def stock_of(collection: Collection, rules: Rules, today: date, only: Iterable[int] | None = None) -> list[Stock]:
    """The keeper's own animals, with the seasons from which they may be paired: by age, and a season later where one is too light.
    ``only``: primary keys of those that are asked for, where it is not all."""
    animals = collection.animals.filter(archived_on=None, elsewhere=False).exclude(sex="")
    if only is not None:
        animals = animals.filter(pk__in=list(only))
    rows = []
    for animal in animals.prefetch_related("genes", "weighings"):
        ready = _ready(animal, rules, today)
        rows.append(
            Stock(
                f"a{animal.pk}", animal.name, animal.sex, _entries(list(animal.genes.all()), animal.sex), ready, animal
            )
        )
    return rows


def _entries(genes: Sequence[CarriedGene], sex: str) -> tuple[dict[str, Any], ...]:
    entries = [gene.as_entry() for gene in genes]
    return tuple(entry if sex == "male" else {k: v for k, v in entry.items() if k != "on"} for entry in entries)


def _ready(animal: Animal, rules: Rules, today: date) -> int:
    sex = FEMALE if animal.sex == "female" else MALE
    age = today.year - animal.hatched_on.year if animal.hatched_on else rules.ready_after(sex)
    waits = max(0, rules.ready_after(sex) - age)
    least = animal.collection.dam_least_g if sex == FEMALE else animal.collection.sire_least_g
    last = max(animal.weighings.all(), key=lambda one: (one.on, one.pk), default=None)
    return max(waits, 1 if last and last.grams < least else 0)


def held_stock(project: Project, rules: Rules, season: int) -> dict[str, Stock]:
    """What was held back for steps, by their names: as the animal that it is by now, else as its call says. Those that died or live with
    somebody else are left out."""
    stock = {}
    for row in held_rows(project):
        egg = row.egg
        if is_lost(egg):
            continue
        hatched = (egg.out_on.year if egg.out_on else project.first_year + season) - project.first_year
        sex = egg.sex or (egg.kept_as.sex if egg.kept_as else "")
        after = rules.ready_after(FEMALE if sex == "female" else MALE)
        genes = (
            _entries(list(egg.kept_as.genes.all()), sex)
            if egg.kept_as
            else tuple(_entry(one, sex) for one in statements_of_hatchling(egg))
        )
        stock[row.step] = Stock(row.step, str(egg.kept_as or egg.code), sex, genes, max(0, hatched + after - season))
    return stock


def held_rows(project: Project) -> list[HeldFor]:
    """What was held back for a project's steps, with what became of it. Two queries."""
    return list(project.held.select_related("egg__clutch", "egg__kept_as").prefetch_related("egg__fates"))


def is_lost(egg: Egg) -> bool:
    """Did a hatchling die, or does it live with somebody else?"""
    fate = max(egg.fates.all(), key=lambda row: (row.made_at, row.pk), default=None)
    away = egg.kept_as is not None and egg.kept_as.archived_on is not None
    return egg.state == Egg.State.DEAD or away or (fate is not None and fate.is_gone)


def sought_stock(project: Project) -> list[Stock]:
    """The animals of a plan that are still to be bought."""
    catalogue = catalogue_of(project.collection)
    sought = {row.name: row.sought or {} for row in project.in_plan.filter(animal=None)}
    return [bought_stock(catalogue, name, one) for name, one in sought.items()]


def bought_stock(catalogue: Catalogue, name: str, sought: Mapping[str, Any]) -> Stock:
    """An animal that is to be bought, as a plan has it."""
    words = wanted_words(catalogue, sought)
    return Stock(name, words, sought["sex"], tuple(sought["genes"]), 0, is_bought=True)


def wanted_words(catalogue: Catalogue, sought: Mapping[str, Any]) -> str:
    """An animal that is to be bought, in words, as "a male visual Clown"."""
    naming, words = Naming(catalogue), []
    for one in sought["genes"]:
        gene, copies = one["gene"], one["copies"]
        if gene in catalogue.genes and catalogue.genes[gene].is_recessive:
            words.append(f"{'visual' if copies == 2 else 'het'} {naming.gene(gene)}")
        else:
            words.append(naming.copies(gene, copies) if gene in catalogue.genes else gene)
    return f"a {sought['sex']} {' '.join(words)}"


def _entry(one: Statement, sex: str) -> dict[str, Any]:
    return CarriedGene.stating(Animal(sex=sex), one).as_entry()


def statements_of_hatchling(egg: Egg, judgement: ClutchJudgement | None = None) -> list[Statement]:
    """What its last call says of a hatchling's genes; nothing without one. ``judgement``: of its clutch, where it is at hand."""
    call = egg.calls.prefetch_related("genes").last()
    if call is None or egg.clutch.elsewhere:
        return []
    judgement = judgement or judged(clutch_of(egg.clutch.collection, egg.clutch.code))
    return statements_of(call, judgement, next(one for one in judgement.clutch.eggs.all() if one.pk == egg.pk))


@dataclass
class Reckoner:
    """A goal and rules with the animals that there are, in the core's form."""

    catalogue: Catalogue
    goal: Wanted
    rules: Rules
    room: Room
    animals: dict[str, Own]

    @classmethod
    def of(
        cls,
        catalogue: Catalogue,
        goal: Mapping[str, Any],
        rules: Rules,
        stock: Sequence[Stock],
        steps: Steps = (),  # type: ignore[assignment]
    ) -> Reckoner:
        """:class:`Refused` where an animal is entered as none can be."""
        genes = goal_genes(goal)
        sex = SEXES.index(goal["sex"]) if goal.get("sex") else None
        asked = [one["gene"] for step in steps for one in step["keep"]["genes"]]
        parents = {one.id: _parent(one, catalogue) for one in stock}
        paired = {step[role] for step in steps for role in ("dam", "sire")}
        deadly = deadly_of(catalogue, [parent for name, parent in parents.items() if name in paired])
        room = Room.about(catalogue, [*genes, *asked, *deadly])
        animals = {one.id: own_of(one.id, parents[one.id], room, one.ready, is_bought=one.is_bought) for one in stock}
        return cls(catalogue, Wanted(genes, sex, bool(goal.get("pair"))), rules, room, animals)

    def outlook(self, steps: Steps) -> Outlook:
        """What comes of steps."""
        return Follower(self.room, self.rules, self.animals, [step_from(one) for one in steps], self.goal).outlook()

    def plans(self, told: Callable[[float], None] = lambda share: None) -> list[Found]:
        """Plans, the soonest first; ``told`` hears what share of the search is done."""
        own = sorted((one for one in self.animals.values() if not one.is_bought), key=lambda one: -self.worth(one))
        some = own[:MOST_SOUGHT] + [one for one in self.animals.values() if one.is_bought]
        return Search(self.room, self.rules, some, self.goal, told).plans()

    def worth(self, one: Own) -> float:
        """How much of the goal an animal may have at most."""
        return max(
            sum(min(self.room.copies(genome, gene), copies) for gene, copies in self.goal.genes.items())
            for genome in one.genomes
        )

    def missing(self) -> list[str]:
        """Genes of the goal that no animal here can have."""
        return [
            gene
            for gene in self.goal.genes
            if not any(
                self.room.copies(genome, gene)
                for own in self.animals.values()
                if not own.is_bought
                for genome in own.genomes
            )
        ]

    def is_there(self) -> str:
        """The animal that is the goal already; empty where there is none."""
        for own in self.animals.values():
            if not own.is_bought and all(self.room.has(genome, own.sex, self.goal) for genome in own.genomes):
                return own.id
        return ""


def _parent(one: Stock, catalogue: Catalogue) -> Parent:
    known = [entry for entry in one.genes if entry["gene"] in catalogue.genes]
    try:
        return parent_from(Node({"genes": known}), catalogue, is_sire=one.sex == SEXES[MALE])
    except InputError as error:
        raise Refused(f"{one.name} is entered as no animal can be: {error.message}. Nothing was changed.") from None


def step_from(one: Mapping[str, Any]) -> Step:
    """A step from the core's form."""
    keep = one["keep"]
    sex = SEXES.index(keep["sex"]) if keep.get("sex") else None
    genes = {gene["gene"]: gene["copies"] for gene in keep["genes"]}
    tested = frozenset(gene["gene"] for gene in keep["genes"] if gene.get("by") == "test")
    return Step(one["season"], one["dam"], one["sire"], keep["id"], Wanted(genes, sex), tested)


def rules_from(values: Mapping[str, Any]) -> Rules:
    """The rules as they were kept."""
    return replace(Rules(), **values)


def names_in(project: Project) -> dict[str, str]:
    """Of own animals, as they are called while plans are sought, the names that a project's plan has for them."""
    return {f"a{row.animal_id}": row.name for row in project.in_plan.exclude(animal=None)}


def name_of(project: Project, name: str) -> str:
    """What an animal of a plan is called, be it here or not."""
    row = next((row for row in project.in_plan.select_related("animal") if row.name == name), None)
    return row.animal.name if row and row.animal else name


MOST = {"eggs": 40, "clutches": 4, "female_ready": 12, "male_ready": 12, "seasons": 15, "generations": 5, "places": 8}
"""The largest that each rule may be; the least is 1."""
MOST_REST = 5
RULE_WORDS = {"female_ready": "seasons until a female is paired", "male_ready": "seasons until a male is paired"}


def rules_in(values: Mapping[str, Any]) -> dict[str, Any]:
    """The rules as they were entered, to be kept; ``hatch`` is of a hundred eggs. :class:`Refused` for what can't be."""
    for name, most in MOST.items():
        if not 1 <= values[name] <= most:
            words = RULE_WORDS.get(name, name)
            raise Refused(
                f"{words.capitalize()}: from 1 to {most}, not {values[name]}. Nothing was sought.", field=name
            )
    if values["rest"] > MOST_REST:
        raise Refused(f"A dam rests for at most {MOST_REST} seasons. Nothing was sought.", field="rest")
    if not 0 < values["hatch"] <= 100:
        raise Refused("From 1 to 100 of 100 eggs hatch. Nothing was sought.", field="hatch")
    kept = {name: values[name] for name in (*MOST, "rest")}
    return kept | {"hatch": values["hatch"] / 100, "tests": values["tests"] != "no"}


@dataclass(frozen=True)
class Standing:
    """How a project stands: the season that it is in, what was held back, the steps that are left, and what comes of them from now on.
    ``gone``: own animals that are not here any more, by the plan's names; ``lost``: what was held back and is not here any more."""

    project: Project
    season: int
    held: Mapping[str, HeldFor]
    stock: Mapping[str, Stock]
    left: Steps
    outlook: Outlook | None
    gone: list[str]
    lost: Mapping[str, HeldFor]

    @property
    def due(self) -> Steps:
        """The steps whose pairing is due: both are there and may be paired."""
        return [step for step in self.left if all(self._is_ready(name) for name in (step["dam"], step["sire"]))]

    def _is_ready(self, name: str) -> bool:
        one = self.stock.get(name)
        return one is not None and not one.is_bought and one.ready == 0

    @property
    def to_buy(self) -> list[Stock]:
        """The animals that the steps left need and that are still to be bought."""
        needed = {name for step in self.left for name in (step["dam"], step["sire"])}
        return [one for name, one in self.stock.items() if one.is_bought and name in needed]

    @property
    def called(self) -> dict[str, str]:
        """What the animals of the plan are called that are here or are to be bought."""
        return {name: one.name for name, one in self.stock.items()}

    @property
    def places(self) -> dict[str, str]:
        """The places of own animals in the steps that are left, with who has each."""
        to_come = {step["keep"]["id"] for step in self.project.plan}
        names = dict.fromkeys(step[role] for step in self.left for role in ("dam", "sire"))
        return {name: self.called.get(name, name_of(self.project, name)) for name in names if name not in to_come}

    @property
    def to_test(self) -> list[tuple[Stock, str]]:
        """Who was held back for what a test tells, and is not known to have it: with the gene."""
        return [
            (self.stock[name], gene["gene"])
            for step in self.project.plan
            for gene in step["keep"]["genes"]
            if gene.get("by") == "test" and (name := step["keep"]["id"]) in self.held
            if not any(
                one["gene"] == gene["gene"] and one.get("chance") in (None, "1") for one in self.stock[name].genes
            )
        ]

    @property
    def gone_names(self) -> list[str]:
        """What those that are not here any more are called."""
        return [name_of(self.project, name) for name in self.gone]


def standing_of(project: Project, today: date) -> Standing:
    """The project as the record has it today."""
    rules = rules_from(project.rules)
    season = max(0, today.year - project.first_year)
    rows = held_rows(project)
    held = {row.step: row for row in rows if not is_lost(row.egg)}
    lost = {row.step: row for row in rows if is_lost(row.egg)}
    kept = held_stock(project, rules, season)
    named = names_in(project)
    own = [
        replace(one, id=named[one.id])
        for one in stock_of(project.collection, rules, today, [int(name[1:]) for name in named])
    ]
    stock = {one.id: one for one in (*own, *sought_stock(project))} | kept
    left = [
        {**step, "season": max(0, step["season"] - season)} for step in project.plan if step["keep"]["id"] not in kept
    ]
    names = {name for step in left for name in (step["dam"], step["sire"])}
    to_come = {step["keep"]["id"] for step in left}
    gone = sorted(names - set(stock) - to_come)
    if gone or not left:
        return Standing(project, season, held, stock, left, None, gone, lost)
    standing = Standing(project, season, held, stock, left, None, [], lost)
    return replace(standing, outlook=outlook_with(standing, {}))


def outlook_with(standing: Standing, taken: Mapping[str, Stock]) -> Outlook | None:
    """What comes of the steps that are left if hatchlings are taken for some of them; None where none is left then."""
    left = [step for step in standing.left if step["keep"]["id"] not in taken]
    if not left:
        return None
    project = standing.project
    names = {name for step in left for name in (step["dam"], step["sire"])}
    used = [one for name, one in {**standing.stock, **taken}.items() if name in names]
    catalogue, rules = catalogue_of(project.collection), rules_from(project.rules)
    return Reckoner.of(catalogue, project.goal, rules, used, project.plan).outlook(left)
