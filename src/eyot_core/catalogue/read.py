"""From a JSON-shaped document (``eyot-catalogue/1``) to a :class:`Catalogue`, with the exact place of any mistake."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import combinations
from typing import TypeVar

from eyot_core.catalogue.model import (
    INHERITANCES,
    STAGES,
    Catalogue,
    Condition,
    Dilution,
    Effect,
    Gene,
    GeneLoad,
    Level,
    Linkage,
    Locus,
    Mask,
    Trait,
    When,
)
from eyot_core.parsing import Node, shown

FORMAT = "eyot-catalogue/1"
SUM_TOLERANCE = 1e-9
Named = TypeVar("Named", Locus, Gene, Trait, Level)


def catalogue_from(node: Node) -> Catalogue:
    """The catalogue in a document; :class:`~eyot_core.errors.InputError` with the place of the first mistake."""
    node.object(["format"])
    node.child("format").choice([FORMAT])
    loci = _by_id(node.children("loci"), _locus)
    genes = _by_id(node.children("genes"), lambda entry: _gene(entry, loci))
    traits = _by_id(node.children("traits"), _trait)
    reader = _RuleReader(loci, genes, traits)
    masks = tuple(reader.mask(entry) for entry in node.children("masks"))
    _refuse_undecided(node.children("masks"), masks)
    return Catalogue(
        loci=loci,
        linkages=_linkages(node.children("linkage"), loci),
        genes=genes,
        traits=traits,
        effects=tuple(reader.effect(entry) for entry in node.children("effects")),
        dilutions=tuple(reader.dilution(entry) for entry in node.children("dilutions")),
        masks=masks,
        population=population_from(node.child("population")) if node.has("population") else (),
        document=node.value,
    )


def _by_id(entries: Iterable[Node], read: Callable[[Node], Named]) -> dict[str, Named]:
    by_id: dict[str, Named] = {}
    for entry in entries:
        value = read(entry)
        if value.id in by_id:
            raise entry.child("id").wrong(f"the id {shown(value.id)} stands twice")
        by_id[value.id] = value
    return by_id


def _locus(entry: Node) -> Locus:
    entry.object(["id"])
    on_sex = entry.has("location") and entry.child("location").choice(["autosomal", "sex"]) == "sex"
    recombination = entry.child("recombination").number(0, 1) if entry.has("recombination") else 0.0
    return Locus(entry.child("id").text(), on_sex, recombination)


def _linkages(entries: list[Node], loci: dict[str, Locus]) -> tuple[Linkage, ...]:
    linkages: list[Linkage] = []
    taken: set[str] = set()
    for entry in entries:
        entry.object(["loci", "recombination"])
        names = entry.child("loci").entries()
        if len(names) != 2:
            raise entry.child("loci").wrong(f"loci must name two loci, got {len(names)}")
        for name in names:
            locus = loci[name.choice(loci, "a linked locus")]
            if locus.on_sex_chromosome:
                raise name.wrong(f"linked loci must be autosomal; {shown(locus.id)} is on the sex chromosomes")
            if locus.id in taken:
                raise name.wrong(
                    f"the locus {shown(locus.id)} stands in two places of the linkage list; one is allowed"
                )
            taken.add(locus.id)
        linkages.append(Linkage((names[0].value, names[1].value), entry.child("recombination").number(0, 0.5)))
    return tuple(linkages)


def _gene(entry: Node, loci: dict[str, Locus]) -> Gene:
    entry.object(["id", "locus", "inheritance"])
    viability = [1.0, 1.0, 1.0]
    if entry.has("viability"):
        for key, value in entry.child("viability").items():
            if key not in ("1", "2"):
                raise value.wrong(f'viability is given for "1" or "2" copies, got {shown(key)}')
            viability[int(key)] = value.number(0, 1)
    return Gene(
        id=entry.child("id").text(),
        locus=entry.child("locus").choice(loci),
        inheritance=entry.child("inheritance").choice(INHERITANCES),
        viability=(viability[0], viability[1], viability[2]),
        frequency=entry.child("frequency").number(0, 1) if entry.has("frequency") else 0.01,
    )


def _level(entry: Node) -> Level:
    entry.object(["id"])
    name = entry.child("id").text()
    if name == "unseen":
        raise entry.child("id").wrong("'unseen' is an answer of its own and can't be a level")
    return Level(
        name,
        entry.child("base").number() if entry.has("base") else 0.0,
        entry.child("mistaken").number(0) if entry.has("mistaken") else 1.0,
    )


def population_from(node: Node) -> tuple[GeneLoad, ...]:
    """The levels of gene load in a document, checked; ``weight`` and ``times`` are numbers of 0 or more."""
    levels = []
    for entry in node.entries():
        entry.object(["weight", "times"], [])
        levels.append(GeneLoad(entry.child("weight").number(0), entry.child("times").number(0)))
    if not any(load.weight > 0 for load in levels):
        raise node.wrong("a population needs at least one level of gene load with a weight above 0")
    return tuple(levels)


def _trait(entry: Node) -> Trait:
    entry.object(["id", "levels", "clarity"])
    levels = _by_id(entry.child("levels").entries(), _level)
    if not levels:
        raise entry.child("levels").wrong("levels must hold at least one level")
    if not any(level.mistaken > 0 for level in levels.values()):
        raise entry.child("levels").wrong("mistaken must not be 0 for all levels: an eye that errs answers something")
    clarity = entry.child("clarity").object(STAGES, [])
    return Trait(
        id=entry.child("id").text(),
        levels=tuple(levels.values()),
        clarity={stage: clarity.child(stage).number(0, 1) for stage in STAGES},
        region=entry.child("region").text() if entry.has("region") else "",
        scale=_scale(entry.child("scale"), list(levels)) if entry.has("scale") else (),
        sureness={word: worth.number(0, 1) for word, worth in entry.child("sureness").items()}
        if entry.has("sureness")
        else {},
    )


def _scale(node: Node, levels: list[str]) -> tuple[int, ...]:
    places: list[int] = []
    for name in node.entries():
        place = levels.index(name.choice(levels, "a level of the scale"))
        if place in places:
            raise name.wrong(f"the level {shown(name.value)} stands twice on the scale")
        places.append(place)
    if len(places) < 2:
        raise node.wrong(f"a scale needs at least two levels in order, got {len(places)}")
    return tuple(places)


EVERY_STAGE = frozenset(STAGES)


class _RuleReader:
    """Reads effects, dilutions and masks against the loci, genes and traits that are known."""

    def __init__(self, loci: dict[str, Locus], genes: dict[str, Gene], traits: dict[str, Trait]) -> None:
        self.loci = loci
        self.genes = genes
        self.traits = traits
        self._read: dict[str, When] = {}

    def when(self, entry: Node) -> When:
        """The conditions of an entry; many entries have the same."""
        node = entry.child("when")
        written = repr(node.value)
        if written not in self._read:
            self._read[written] = tuple(self.condition(one) for one in node.entries())
        return self._read[written]

    def condition(self, node: Node) -> Condition:
        node.object(["copies"])
        if node.has("gene") == node.has("locus"):
            raise node.wrong("a condition names either a gene or a locus")
        numbers = node.child("copies").entries()
        if not numbers:
            raise node.child("copies").wrong("copies must hold at least one of 0, 1 and 2")
        copies = frozenset(number.whole(0, 2) for number in numbers)
        if node.has("gene"):
            return Condition(copies, gene=node.child("gene").choice(self.genes))
        return Condition(copies, locus=node.child("locus").choice(self.loci))

    def stages(self, entry: Node) -> frozenset[str]:
        if not entry.has("stages"):
            return EVERY_STAGE
        stages = entry.child("stages").entries()
        if not stages:
            raise entry.child("stages").wrong("stages, where given, must not be empty")
        return frozenset(stage.choice(STAGES, "a stage") for stage in stages)

    def trait(self, node: Node) -> str:
        return node.choice(self.traits, "a trait")

    def levels(self, node: Node, trait: str, least: float, most: float) -> dict[str, float]:
        known = self.traits[trait].level_index
        values = {}
        for key, value in node.items():
            if key not in known:
                raise value.wrong(f"{shown(key)} is not a level of {trait}; allowed: {', '.join(known)}")
            values[key] = value.number(least, most)
        return values

    def effect(self, entry: Node) -> Effect:
        entry.object(["when", "trait"])
        trait = self.trait(entry.child("trait"))
        if not entry.has("push") and not entry.has("shift"):
            raise entry.child("push").wrong("an effect needs a push, a shift or both; neither is there")
        push = self.levels(entry.child("push"), trait, -1e6, 1e6) if entry.has("push") else {}
        shift = 0.0
        if entry.has("shift"):
            if not self.traits[trait].scale:
                raise entry.child("shift").wrong(f"{trait} has no scale, so nothing can be shifted along it")
            shift = entry.child("shift").number(-1e6, 1e6)
        return Effect(self.when(entry), trait, push, self.stages(entry), shift)

    def dilution(self, entry: Node) -> Dilution:
        entry.object(["when", "gene", "times"])
        traits = frozenset(self.trait(node) for node in entry.children("traits")) if entry.has("traits") else None
        return Dilution(
            self.when(entry),
            entry.child("gene").choice(self.genes),
            traits,
            entry.child("times").number(0),
            self.stages(entry),
        )

    def mask(self, entry: Node) -> Mask:
        entry.object(["when"])
        show = {}
        for trait, node in entry.child("show").items() if entry.has("show") else ():
            Node(trait, node.at).choice(self.traits, "a trait")
            show[trait] = self.levels(node, trait, 0, 1)
            if abs(sum(show[trait].values()) - 1) > SUM_TOLERANCE:
                raise node.wrong(f"the chances shown must sum to 1, they sum to {sum(show[trait].values()):g}")
        hide = frozenset(self.trait(node) for node in entry.children("hide"))
        if both := hide & show.keys():
            raise entry.child("hide").wrong(f"one mask can't both show and hide {shown(sorted(both)[0])}")
        damp = {}
        for trait, node in entry.child("damp").items() if entry.has("damp") else ():
            Node(trait, node.at).choice(self.traits, "a trait")
            damp[trait] = node.number(0, 1)
        rank = entry.child("rank").number() if entry.has("rank") else 0.0
        return Mask(self.when(entry), rank, show, hide, damp, self.stages(entry))


def _refuse_undecided(entries: list[Node], masks: tuple[Mask, ...]) -> None:
    for (_, first), (place, second) in combinations(zip(entries, masks, strict=True), 2):
        if first.rank == second.rank and first.stages & second.stages and (both := first.decides & second.decides):
            raise place.child("rank").wrong(
                f"two masks of rank {second.rank:g} decide {shown(sorted(both)[0])} at a common stage; give one of them another rank"
            )
