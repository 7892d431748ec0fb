"""The proving desk: who shows a new trait, how it may be inherited, and which pairing would tell most."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eyot_core.drawing.pedigree_plan import Plan, planned
from eyot_core.genetics.inheritance import FEMALE, MALE, SEXES
from eyot_core.proof.elimination import TooTangled
from eyot_core.proof.next_pairing import NORMAL, test_pairings
from eyot_core.proof.pedigree import Member
from eyot_core.proof.ways import Figures, Shower, Way, Ways, ways_of
from eyot_core.wording.chances import percent

from eyot.collection.models import Animal
from eyot.hets.kinship import sires_of
from eyot.hets.models import NewTrait, Showing
from eyot.season.models import ClutchSire, Egg

WAY_WORDS = {
    "none": ("not inherited", "chance, age or how it was kept"),
    "dominant": ("dominant", "one copy shows it, two look the same"),
    "incomplete_dominant": ("incomplete dominant", "one copy shows it, two show it strongly"),
    "recessive": ("recessive", "only two copies show it"),
    "sex_linked": ("sex-linked", "sits on X or Y; sons and daughters differ"),
}
HATCHLINGS = (4, 8, 12)
MOST_PAIRS = 40
MOST_SUMMED = 1_000
"""Animals times dams: for each dam the whole pedigree is summed some sixteen times."""
ENTERS_FROM = 0.95
"""Chance of one inherited way from which a gene may enter the catalogue."""


@dataclass(frozen=True)
class Node:
    """One animal in the drawn pedigree. ``shape``: female, male or unknown; ``copies``: its likeliest copies, in words."""

    key: str
    name: str
    x: float
    y: float
    shape: str
    shows: str
    is_proband: bool
    copies: str


@dataclass(frozen=True)
class WayRow:
    """One way of inheritance with its chance; ``bar`` out of 200."""

    name: str
    words: str
    chance: str
    bar: int
    possible: bool


@dataclass(frozen=True)
class PairRow:
    """One test pairing with what its hatchlings are expected to tell, in bits."""

    dam: str
    sire: str
    bits: tuple[str, ...]


@dataclass(frozen=True)
class Desk:
    """Everything of one trait's page. ``trouble``: why nothing is reckoned, empty if it is; ``dams``: how many were looked at for
    the pairings, and how many there are."""

    nodes: list[Node]
    plan: Plan
    ways: list[WayRow]
    pairs: list[PairRow]
    dams: tuple[int, int]
    trouble: str
    leading: Way | None

    @property
    def may_enter(self) -> bool:
        """Is one inherited way certain enough for the catalogue?"""
        return self.leading is not None and self.leading.name != "none" and self.leading.posterior >= ENTERS_FROM


@dataclass
class Family:
    """The animals and hatchlings of a trait with all their forebears in the record, by key ("animal:3", "egg:7").

    ``parents``: the dam, and the sires of which one is its own, with weights.
    """

    rows: dict[str, Animal | Egg]
    shows: dict[str, str]
    parents: dict[str, tuple[str | None, tuple[tuple[str, float], ...]]]


def family_of(trait: NewTrait) -> Family:
    """Who belongs to a trait's pedigree: four queries."""
    animals = {row.pk: row for row in trait.collection.animals.all()}
    showings = list(trait.showings.select_related("egg__clutch"))
    clutches = [row.egg.clutch_id for row in showings if row.egg]
    sires = sires_of(ClutchSire.objects.filter(clutch__in=clutches))
    family = Family({}, {}, {})
    waiting: list[Animal | Egg] = []
    for row in showings:
        one = animals[row.animal_id] if row.animal_id else row.egg
        assert one is not None
        family.shows[key_of(one)] = row.shows
        waiting.append(one)
    while waiting:
        one = waiting.pop()
        if key_of(one) not in family.rows:
            family.rows[key_of(one)] = one
            dam, fathers = _parents(one, sires)
            family.parents[key_of(one)] = (
                key_of(animals[dam]) if dam else None,
                tuple((key_of(animals[sire]), weight) for sire, weight in fathers),
            )
            waiting += [animals[number] for number in (dam, *(sire for sire, _ in fathers)) if number]
    return family


def _parents(
    one: Animal | Egg, sires: Mapping[int, tuple[tuple[int, float], ...]]
) -> tuple[int | None, tuple[tuple[int, float], ...]]:
    if isinstance(one, Egg):
        return one.clutch.dam_id, sires.get(one.clutch_id, ())
    return one.dam_id, ((one.sire_id, 1.0),) if one.sire_id else ()


def key_of(one: Animal | Egg) -> str:
    """An animal's or a hatchling's key in a pedigree."""
    return f"{one._meta.model_name}:{one.pk}"


def showers_of(family: Family) -> tuple[list[str], list[Shower]]:
    """The family in the form of the core: animals before hatchlings, each in the order in which they were entered.

    A dam counts as female and a sire as male, whatever was entered.
    """
    keys = sorted(family.rows, key=lambda key: (family.rows[key]._meta.model_name, family.rows[key].pk))
    place = {key: number for number, key in enumerate(keys)}
    dams = {dam for dam, _ in family.parents.values()}
    sires = {sire for _, fathers in family.parents.values() for sire, _ in fathers}
    showers = []
    for key in keys:
        dam, fathers = family.parents[key]
        sex = FEMALE if key in dams else MALE if key in sires else _sex(family.rows[key])
        known = [(place[sire], weight) for sire, weight in fathers]
        member = Member(
            place[dam] if dam else None,
            known[0][0] if len(known) == 1 else None,
            tuple(known) if len(known) > 1 else (),
        )
        showers.append(Shower(member, sex, family.shows.get(key, "unseen")))
    return keys, showers


def _sex(one: Animal | Egg) -> int | None:
    is_sure = one.sex_sure if isinstance(one, Egg) else True
    return SEXES.index(one.sex) if one.sex and is_sure else None


def desk_of(trait: NewTrait) -> Desk:
    """A trait's page: who shows it, the ways, and the pairings that would tell most."""
    family = family_of(trait)
    keys, showers = showers_of(family)
    plan = planned([(row.member.dam, row.member.sire) for row in showers])
    proband = _proband(trait)
    if proband is None:
        nodes = _nodes(family, keys, showers, plan, "", None)
        return Desk(
            nodes, plan, [], [], (0, 0), "Say who shows it: the first that was noticed, and its relatives.", None
        )
    try:
        ways = ways_of(showers, keys.index(proband), Figures())
        pairs, dams = _pairs(family, keys, showers, keys.index(proband))
    except TooTangled as reason:
        nodes, trouble = (
            _nodes(family, keys, showers, plan, proband, None),
            f"This pedigree can't be reckoned exactly: {reason}.",
        )
        return Desk(nodes, plan, [], [], (0, 0), trouble, None)
    leading = max(ways.ways, key=lambda way: way.posterior)
    return Desk(
        _nodes(family, keys, showers, plan, proband, ways),
        plan,
        [_way_row(way) for way in ways.ways],
        pairs,
        dams,
        "",
        leading,
    )


def _proband(trait: NewTrait) -> str | None:
    row: Showing | None = trait.proband
    return key_of(row.animal or row.egg) if row else None  # type: ignore[arg-type]


def _way_row(way: Way) -> WayRow:
    name, words = WAY_WORDS[way.name]
    return WayRow(name, words, percent(way.posterior), round(way.posterior * 200), way.log_likelihood is not None)


def _nodes(
    family: Family, keys: list[str], showers: list[Shower], plan: Plan, proband: str, ways: Ways | None
) -> list[Node]:
    return [
        Node(
            key,
            _name(family.rows[key]),
            *plan.places[number],
            SEXES[sex] if (sex := showers[number].sex) is not None else "unknown",
            showers[number].shows,
            key == proband,
            _copies_words(ways.copies[number].tolist()) if ways and ways.copies else "",
        )
        for number, key in enumerate(keys)
    ]


def _name(one: Animal | Egg) -> str:
    return one.name if isinstance(one, Animal) else f"{one.clutch.code} {one.number}"


def _copies_words(chances: list[float]) -> str:
    """The likeliest number of copies, if the trait is inherited."""
    best = max(range(3), key=lambda copies: chances[copies])
    return f"{('none', 'one copy', 'two copies')[best]} {percent(chances[best])}"


def _pairs(
    family: Family, keys: list[str], showers: list[Shower], proband: int
) -> tuple[list[PairRow], tuple[int, int]]:
    """The pairings among the animals that are here, and of each with an unrelated normal: of as many dams as the size of the
    pedigree leaves time for. With them how many dams were looked at, of how many."""
    alive = [n for n, key in enumerate(keys) if isinstance(row := family.rows[key], Animal) and row.is_here]
    dams = [*(n for n in alive if showers[n].sex == FEMALE), NORMAL]
    sires = [*(n for n in alive if showers[n].sex == MALE), NORMAL]
    looked_at = dams[: max(1, MOST_SUMMED // len(showers))]
    choices = [(dam, sire) for dam in looked_at for sire in sires if (dam, sire) != (NORMAL, NORMAL)][:MOST_PAIRS]
    pairings = test_pairings(showers, proband, Figures(), choices, HATCHLINGS) if choices else []
    return [
        PairRow(
            _partner(family, keys, one.dam), _partner(family, keys, one.sire), tuple(f"{bits:.2f}" for bits in one.bits)
        )
        for one in pairings[:6]
    ], (len({dam for dam, _ in choices} - {NORMAL}), len(dams) - 1)


def _partner(family: Family, keys: list[str], number: int) -> str:
    return "an unrelated normal" if number == NORMAL else _name(family.rows[keys[number]])
