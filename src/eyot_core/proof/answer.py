"""The documents of ``bin/eyot core hets`` and ``bin/eyot core prove``: read, reckoned, answered."""

from __future__ import annotations

from dataclasses import fields, replace
from graphlib import CycleError, TopologicalSorter
from typing import Any

from eyot_core.genetics.inheritance import FEMALE, MALE, SEXES
from eyot_core.parsing import Node
from eyot_core.proof.carriers import (
    SHOWN_BY,
    TARGETS,
    Breeding,
    GeneTest,
    Marker,
    Standing,
    after_breeding,
    after_marker,
    after_test,
)
from eyot_core.proof.elimination import TooTangled
from eyot_core.proof.pedigree import Member
from eyot_core.proof.ways import SHOWN, UNSEEN, WAYS, Figures, Shower, ways_of

RESULTS = ("carrier", "clear")
SUM_SLACK = 1e-9
HETS_KEYS = ("markers", "breedings", "tests")
ANIMAL_KEYS = ("dam", "sire", "sex", "shows")
LEAST_RATIO = 1e-300


def hets_answer(node: Node) -> dict[str, Any]:
    """Chances of one animal being het, step by step: ``prior``, with markers, after breeding, after tests, and what is still needed."""
    node.object(["prior"], HETS_KEYS)
    standing = Standing.of(node.child("prior").chance())
    answer: dict[str, Any] = {"prior": standing.chance}
    for entry in node.children("markers"):
        standing = after_marker(standing, _marker(entry))
    answer["with_markers"] = standing.chance
    for entry in node.children("breedings"):
        breeding = _breeding(entry)
        try:
            standing = after_breeding(standing, breeding)
        except ValueError:
            why = "its prior is 0" if standing.chance == 0 else "its partner is normal"
            raise entry.child("visuals").wrong(f"a visual hatchling is impossible here: {why}") from None
    answer["after_breeding"] = standing.chance
    for entry in node.children("tests"):
        test = _test(entry)
        try:
            standing = after_test(standing, test)
        except ValueError:
            message = f"a certain test says {entry.child('result').value}, which the rest makes impossible"
            raise entry.child("result").wrong(message) from None
    answer["after_tests"] = standing.chance
    answer["still_needed"] = {
        partner: {f"{target:g}": standing.still_needed(partner, target) for target in TARGETS}
        for partner in ("visual", "het")
    }
    return answer


def _marker(entry: Node) -> Marker:
    entry.object(["seen", "ratio_seen", "ratio_unseen"], ["seen", "ratio_seen", "ratio_unseen"])
    ratios = {True: _ratio(entry.child("ratio_seen")), False: _ratio(entry.child("ratio_unseen"))}
    return Marker(ratios[entry.child("seen").boolean()])


def _ratio(node: Node) -> float:
    value = node.number()
    if value < LEAST_RATIO:
        raise node.wrong(f"{node.name} must be a number above 0, got {value:g}")
    return value


def _breeding(entry: Node) -> Breeding:
    keys = ["partner", "hatchlings", "visuals"]
    entry.object(keys, keys)
    hatchlings = entry.child("hatchlings").whole(0)
    visuals = entry.child("visuals").whole(0)
    if visuals > hatchlings:
        raise entry.child("visuals").wrong(f"visuals must be at most the hatchlings, {hatchlings}, got {visuals}")
    return Breeding(_het_chance(entry.child("partner")), hatchlings, visuals)


def _het_chance(partner: Node) -> float | None:
    if isinstance(partner.value, dict):
        return partner.object(["chance"], ["chance"]).child("chance").chance()
    named = partner.choice(SHOWN_BY, 'partner, where it is no {"chance": …},')
    return {"visual": None, "het": 1.0, "normal": 0.0}[named]


def _test(entry: Node) -> GeneTest:
    keys = ["result", "sensitivity", "specificity"]
    entry.object(keys, keys)
    carrier = entry.child("result").choice(RESULTS) == "carrier"
    return GeneTest(carrier, entry.child("sensitivity").number(0, 1), entry.child("specificity").number(0, 1))


def prove_answer(node: Node) -> dict[str, Any]:
    """Chances of each way of inheritance over a pedigree, and of each animal's copies."""
    figures = [one.name for one in fields(Figures)]
    node.object(["animals", "proband"], ["animals", "proband", *figures])
    entries = node.child("animals").entries()
    animals, places = _animals(entries)
    proband = node.child("proband")
    if proband.text() not in places:
        raise proband.wrong(f"the proband {proband.value!r} is not among the animals")
    given = _figures(node)
    try:
        ways = ways_of(animals, places[proband.text()], given)
    except TooTangled as error:
        raise node.child("animals").wrong(f"this pedigree is too tangled to reckon exactly: {error}") from None
    except ValueError as error:
        raise node.child("animals").wrong(str(error)) from None
    return {
        "models": [
            {"model": way.name, "posterior": way.posterior, "log_likelihood": way.log_likelihood}
            for way in sorted(ways.ways, key=lambda way: -way.posterior)
        ],
        "animals": [
            {"id": name, "copies": _copies(ways.copies[place]) if ways.copies else None}
            for name, place in places.items()
        ],
    }


def _copies(chances: Any) -> dict[str, float]:
    return {str(copies): float(chance) for copies, chance in enumerate(chances)}


def _figures(node: Node) -> Figures:
    given: dict[str, Any] = {
        one.name: node.child(one.name).number(0, 1)
        for one in fields(Figures)
        if one.name != "prior" and node.has(one.name)
    }
    if not node.has("prior"):
        return replace(Figures(), **given)
    prior = node.child("prior").object([], WAYS)
    chances = {way: place.chance() for way, place in prior.items()}
    if abs(sum(chances.values()) - 1) > SUM_SLACK:
        raise prior.wrong(f"the chances of the prior must sum to 1, got {sum(chances.values()):g}")
    return replace(Figures(), **given, prior=chances)


def _animals(entries: list[Node]) -> tuple[list[Shower], dict[str, int]]:
    places: dict[str, int] = {}
    for place, entry in enumerate(entries):
        entry.object(["id"], ["id", *ANIMAL_KEYS])
        name = entry.child("id").text()
        if name in places:
            raise entry.child("id").wrong(f"the id {name!r} stands twice")
        places[name] = place
    members = [Member(_parent(entry, "dam", places), _parent(entry, "sire", places)) for entry in entries]
    sexes = [_sex(entry) for entry in entries]
    _check_roles(entries, members, sexes)
    _check_no_own_ancestor(entries, members)
    shows = [entry.child("shows").choice([*SHOWN, UNSEEN]) if entry.has("shows") else UNSEEN for entry in entries]
    return [Shower(*row) for row in zip(members, sexes, shows, strict=True)], places


def _parent(entry: Node, role: str, places: dict[str, int]) -> int | None:
    node = entry.child(role)
    if node.value is None:
        return None
    if node.text() not in places:
        raise node.wrong(f"the {role} {node.value!r} is not among the animals; null for one that is not listed")
    return places[node.text()]


def _sex(entry: Node) -> int | None:
    node = entry.child("sex")
    return None if node.value is None else SEXES.index(node.choice(SEXES))


def _check_roles(entries: list[Node], members: list[Member], sexes: list[int | None]) -> None:
    """Every dam is female and every sire male; where a sex is not known, the role says it."""
    for entry, member in zip(entries, members, strict=True):
        for role, place, sex in (("dam", member.dam, FEMALE), ("sire", member.sire, MALE)):
            if place is None:
                continue
            if sexes[place] not in (None, sex):
                other = entries[place].child("sex").value or f"a {'sire' if sex == FEMALE else 'dam'} elsewhere"
                raise entry.child(role).wrong(
                    f"the {role} {entry.child(role).value!r} is {other}; a {role} must be {SEXES[sex]}"
                )
            sexes[place] = sex


def _check_no_own_ancestor(entries: list[Node], members: list[Member]) -> None:
    parents = {place: member.parents for place, member in enumerate(members)}
    try:
        TopologicalSorter(parents).prepare()
    except CycleError as error:
        place = min(error.args[1])
        raise entries[place].wrong(f"{entries[place].child('id').value!r} is its own ancestor") from None
