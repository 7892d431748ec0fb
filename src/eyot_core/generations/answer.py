"""The JSON form of ``bin/eyot core project``; see docs/formats/project.md."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from eyot_core.catalogue.model import Catalogue
from eyot_core.generations.genomes import Room, Wanted, can_be_told, cannot_be, least_copies
from eyot_core.generations.harm import deadly_doubles
from eyot_core.generations.plan import Follower, Outlook, Own, Rules, Step
from eyot_core.generations.search import Search
from eyot_core.genetics.animals import Parent, parent_from
from eyot_core.genetics.inheritance import FEMALE, MALE, SEXES
from eyot_core.parsing import Node, shown

RULES = ("eggs", "hatch", "clutches", "female_ready", "male_ready", "seasons", "generations", "places", "rest", "tests")
MOST_ANIMALS, MOST_SEASONS, MOST_STEPS = 2_000, 40, 12
READY = 1_000


def project_answer(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """Plans for a goal, or the outlook of the plan that is given; :class:`~eyot_core.errors.InputError` where the document is wrong."""
    node.object(["animals", "goal"], ["animals", "goal", "rules", "plan", "catalogue"])
    goal = _wanted(node.child("goal"), catalogue)
    rules = _rules(node.child("rules")) if node.has("rules") else Rules()
    entries = node.child("animals").entries()
    if len(entries) > MOST_ANIMALS:
        raise node.child("animals").wrong(f"at most {MOST_ANIMALS} animals are read, not {len(entries)}")
    steps = node.child("plan") if node.has("plan") and node.child("plan").value is not None else None
    stock = _stock(entries, catalogue)
    asked = _genes_of(steps, catalogue) if steps is not None else []
    deadly = deadly_of(catalogue, _pairs_of(steps, stock)) if steps is not None else []
    room = Room.about(catalogue, [*goal.genes, *asked, *deadly])
    animals = {name: own_of(name, parent, room, ready) for name, (parent, ready) in stock.items()}
    if steps is not None:
        plan = _plan(steps, room, animals, rules)
        return {"plans": [as_json(plan, Follower(room, rules, animals, plan, goal).outlook())]}
    _check_begun(node.child("goal"), goal, room, animals)
    found = Search(room, rules, list(animals.values()), goal).plans()
    return {"plans": [as_json(one.steps, one.outlook) for one in found]}


def _check_begun(node: Node, goal: Wanted, room: Room, animals: Mapping[str, Own]) -> None:
    """:class:`~eyot_core.errors.InputError` for a goal that is there already, and for one that no animal can begin."""
    for animal in animals.values():
        if all(room.has(genome, animal.sex, goal) for genome in animal.genomes):
            more = f", and {SEXES[animal.sex]}: ask for one of the other sex" if goal.is_pair else ""
            raise node.wrong(f"{shown(animal.id)} is what is wanted already{more}")
    for place, gene in enumerate(goal.genes):
        if not any(room.copies(genome, gene) for animal in animals.values() for genome in animal.genomes):
            raise (
                node.child("genes")
                .entries()[place]
                .wrong(f"no animal here can have {shown(gene)}: nobody can begin it")
            )


def as_json(steps: Sequence[Step], outlook: Outlook) -> dict[str, Any]:
    """A plan with its outlook."""
    told: dict[str, Any] = {
        "steps": [
            {
                "season": step.season,
                "dam": step.dam,
                "sire": step.sire,
                "keep": {"id": step.id, "genes": _genes_json(step)}
                | ({} if step.keep.sex is None else {"sex": SEXES[step.keep.sex]}),
            }
            for step in steps
        ],
        "by_season": [round(chance, 12) for chance in outlook.by_season],
        "median": outlook.median,
    }
    return told | ({"error": outlook.error} if outlook.error else {})


def _genes_json(step: Step) -> list[dict[str, Any]]:
    return [
        {"gene": gene, "copies": copies} | ({"by": "test"} if gene in step.tested else {})
        for gene, copies in step.keep.genes.items()
    ]


def _wanted(node: Node, catalogue: Catalogue) -> Wanted:
    node.object(["genes"], ["genes", "sex", "pair"])
    genes = _genes(node.child("genes"), catalogue)
    if not genes:
        raise node.child("genes").wrong("a goal has at least one gene")
    is_pair = node.child("pair").boolean() if node.has("pair") else False
    if is_pair and node.has("sex"):
        raise node.child("sex").wrong("a pair has one of either sex")
    return Wanted(genes, _sex(node.child("sex")) if node.has("sex") else None, is_pair)


def _genes(node: Node, catalogue: Catalogue) -> dict[str, int]:
    genes: dict[str, int] = {}
    for entry in node.entries():
        entry.object(["gene"], ["gene", "copies", "by"])
        gene = entry.child("gene").choice(catalogue.genes, "a gene")
        if gene in genes:
            raise entry.child("gene").wrong(f"the gene {shown(gene)} stands twice")
        genes[gene] = entry.child("copies").whole(1, 2) if entry.has("copies") else 1
    if reason := cannot_be(catalogue, genes):
        raise node.wrong(reason)
    return genes


def _sex(node: Node) -> int:
    return SEXES.index(node.choice(SEXES))


def _rules(node: Node) -> Rules:
    node.object([], RULES)
    usual = Rules()

    def whole(name: str, least: int, most: int) -> int:
        return node.child(name).whole(least, most) if node.has(name) else int(getattr(usual, name))

    return Rules(
        whole("eggs", 1, 40),
        node.child("hatch").number(0, 1) if node.has("hatch") else usual.hatch,
        whole("clutches", 1, 4),
        whole("female_ready", 1, MOST_SEASONS),
        whole("male_ready", 1, MOST_SEASONS),
        whole("seasons", 1, MOST_SEASONS),
        whole("generations", 1, 5),
        whole("places", 1, MOST_STEPS),
        whole("rest", 0, MOST_SEASONS),
        node.child("tests").boolean() if node.has("tests") else usual.tests,
    )


def _stock(entries: Sequence[Node], catalogue: Catalogue) -> dict[str, tuple[Parent, int]]:
    """The animals by their ids, with the season from which each may be paired."""
    stock: dict[str, tuple[Parent, int]] = {}
    for entry in entries:
        entry.object(["id", "sex"], ["id", "sex", "genes", "phase", "ready"])
        sex = _sex(entry.child("sex"))
        own = {key: value for key, value in entry.value.items() if key in ("genes", "phase")}
        parent = parent_from(_Inside(own, entry), catalogue, is_sire=sex == MALE)
        ready = entry.child("ready").whole(0, READY) if entry.has("ready") else 0
        name = entry.child("id").text()
        if name in stock:
            raise entry.child("id").wrong(f"{shown(name)} stands twice")
        stock[name] = (parent, ready)
    return stock


def own_of(name: str, parent: Parent, room: Room, ready: int = 0, *, is_bought: bool = False) -> Own:
    """An animal as plans take it."""
    sex = MALE if parent.is_sire else FEMALE
    return Own(name, sex, room.of_parent(parent), ready, parent.may_carry, is_bought)


def deadly_of(catalogue: Catalogue, parents: Sequence[Parent]) -> list[str]:
    """Genes that a plan has to count though nobody asked for them: their double would kill some of its young."""
    carried = frozenset(gene for parent in parents for gene in parent.may_carry)
    return sorted(carried & deadly_doubles(catalogue))


def _pairs_of(steps: Node, stock: Mapping[str, tuple[Parent, int]]) -> list[Parent]:
    named = [step.child(role).value for step in steps.entries() for role in ("dam", "sire")]
    return [stock[name][0] for name in named if isinstance(name, str) and name in stock]


class _Inside(Node):
    """A part of an object, told with the object's own place."""

    __slots__ = ()

    def __init__(self, value: Any, whole: Node) -> None:
        super().__init__(value, whole.at)


def _genes_of(steps: Node, catalogue: Catalogue) -> list[str]:
    """The genes that a plan's keeps name and that the catalogue has."""
    named = []
    for step in steps.entries():
        step.object(["season", "dam", "sire", "keep"], ["season", "dam", "sire", "keep"])
        keep = step.child("keep").object(["id"], ["id", "genes", "sex"])
        named += list(_genes(keep.child("genes"), catalogue)) if keep.has("genes") else []
    return named


def _plan(node: Node, room: Room, animals: Mapping[str, Own], rules: Rules) -> list[Step]:
    entries = node.entries()
    if not 1 <= len(entries) <= MOST_STEPS:
        raise node.wrong(f"a plan has 1 to {MOST_STEPS} steps, not {len(entries)}")
    if len(entries) > rules.places:
        raise node.wrong(f"this plan holds {len(entries)} animals back; there are places for {rules.places}")
    steps: dict[str, Step] = {}
    sexes = _sexes_asked(entries)
    depth: dict[str, int] = {}
    for entry in entries:
        keep = entry.child("keep")
        name = keep.child("id").text()
        if name in animals or name in steps:
            raise keep.child("id").wrong(f"{shown(name)} stands twice")
        dam, sire = (_parent(entry.child(role), role, animals, steps) for role in ("dam", "sire"))
        genes = _genes(keep.child("genes"), room.catalogue) if keep.has("genes") else {}
        sex = _sex(keep.child("sex")) if keep.has("sex") else sexes.get(name)
        if name in sexes and sex != sexes[name]:
            raise keep.child("sex").wrong(
                f"{shown(name)} is paired as a {'dam' if sexes[name] == FEMALE else 'sire'} later"
            )
        _check_told(keep, genes, (dam, sire), room, animals, steps)
        depth[name] = 1 + max(depth.get(dam, 0), depth.get(sire, 0))
        if depth[name] > rules.generations:
            raise entry.wrong(f"this is generation {depth[name]}; the rules allow {rules.generations}")
        season = entry.child("season").whole(0, rules.seasons)
        tested = frozenset(one.child("gene").text() for one in keep.children("genes") if one.has("by"))
        steps[name] = Step(season, dam, sire, name, Wanted(genes, sex), tested)
    return list(steps.values())


def _sexes_asked(entries: Sequence[Node]) -> dict[str, int]:
    """Which sex each animal must have to be what later steps take it for."""
    asked: dict[str, int] = {}
    for entry in entries:
        for role, sex in (("dam", FEMALE), ("sire", MALE)):
            name = entry.child(role).value
            if isinstance(name, str):
                if asked.get(name, sex) != sex:
                    raise entry.child(role).wrong(f"{shown(name)} can't be a dam and a sire")
                asked[name] = sex
    return asked


def _parent(node: Node, role: str, animals: Mapping[str, Own], steps: Mapping[str, Step]) -> str:
    name = node.text()
    if name in animals:
        if animals[name].sex != (FEMALE if role == "dam" else MALE):
            raise node.wrong(f"{shown(name)} is {SEXES[animals[name].sex]} and can't be the {role}")
    elif name not in steps:
        raise node.wrong(f"{shown(name)} is no animal that is there or held back by an earlier step")
    return name


def _check_told(
    keep: Node,
    genes: Mapping[str, int],
    parents: Sequence[str],
    room: Room,
    animals: Mapping[str, Own],
    steps: Mapping[str, Step],
) -> None:
    """:class:`~eyot_core.errors.InputError` where a hatchling that is asked for can't be told from its siblings."""
    for entry in keep.children("genes"):
        gene = entry.child("gene").text()
        copies = genes[gene]
        if entry.has("by"):
            entry.child("by").choice(["test"])
            continue
        least = [_least(name, gene, room, animals, steps) for name in parents]
        if not can_be_told(room.catalogue, gene, copies, least):
            raise entry.wrong(
                f"a hatchling with {copies} of {gene} can't be told from its siblings by sight, and not all of them have it; "
                'say {"by": "test"} where a test tells'
            )


def _least(name: str, gene: str, room: Room, animals: Mapping[str, Own], steps: Mapping[str, Step]) -> int:
    """So many copies of a gene a parent has for certain."""
    return least_copies(animals[name].genomes, room, gene) if name in animals else steps[name].keep.genes.get(gene, 0)
