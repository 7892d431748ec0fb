"""From the form in which people write the catalogue to the form of the contract.

In the files a gene's looks stand in its sheet (``one`` and ``two`` copies), and what genes do to one another in numbered
rules with conditions such as ``piebald:2`` and groups such as ``bright``. Here both are written out to effects, dilutions
and masks, each with the rule that it came from and how sure the field is of it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import product
from typing import Any

from eyot_core.errors import InputError
from eyot_core.parsing import Node, shown

PUSH_SCALE = 2.0  # the files keep the reference's scale (1 usual, 2 strong, 3 near-certain); see docs/catalogue.md
STANDINGS = ("established", "reported", "disputed")
AS_THEY_STAND = (
    "loci",
    "linkage",
    "population",
    "traits",
    "names",
    "cautions",
    "disputes",
    "lookalikes",
    "lookalike_notes",
)
COPIES = {"0": [0], "1": [1], "2": [2], "0-1": [0, 1], "1+": [1, 2]}
RANK_STEP = 1e-3
SHIFT = "shift"
SHEET_KEYS = ("one", "two", "two_standing", "carriers")
RULE_KEYS = ("id", "claim", "standing", "name", "note")
PART_KEYS = ("when", "any", "stages", "push", "damp", "damp_all_but", "show", "rank", "dilute", "hide")

Condition = dict[str, Any]


@dataclass
class Written:
    """The joined document, with the place (file, path in it) from which each entry came."""

    document: dict[str, Any]
    origins: dict[str, list[tuple[str, str]]] = field(default_factory=dict)

    def add(self, section: str, entry: Any, file: str, at: str) -> None:
        """One more entry of a section."""
        self.document.setdefault(section, []).append(entry)
        self.origins.setdefault(section, []).append((file, at))


class Groups:
    """Names for several genes or several looks, and the alternatives that a condition stands for."""

    def __init__(self, parts: dict[str, dict[str, Any]]) -> None:
        every = {key: [entry for part in parts.values() for entry in part.get(key, [])] for key in ("genes", "groups")}
        self.genes = {entry["id"]: entry.get("locus") for entry in every["genes"] if _has_id(entry)}
        self.loci = {entry["id"] for part in parts.values() for entry in part.get("loci", []) if _has_id(entry)}
        traits = [entry for part in parts.values() for entry in part.get("traits", [])]
        self.traits = [entry["id"] for entry in traits if _has_id(entry)]
        self.of_genes = {group["id"]: group["genes"] for group in every["groups"] if "genes" in group}
        self.of_genes["every_gene"] = list(self.genes)
        self.of_traits = {group["id"]: group["traits"] for group in every["groups"] if "traits" in group}

    def genes_of(self, node: Node) -> list[str]:
        """The genes that a list of genes and groups stands for."""
        return [gene for entry in node.entries() for gene in self._genes(entry, entry.text())]

    def traits_of(self, node: Node) -> list[str]:
        """The looks that a list of looks and groups stands for."""
        return [trait for entry in node.entries() for trait in self.looks(entry, entry.text())]

    def looks(self, node: Node, name: str) -> list[str]:
        """The looks that one name stands for."""
        if name in self.of_traits:
            return list(self.of_traits[name])
        return [Node(name, node.at).choice(self.traits, "a look or a group of looks")]

    def _genes(self, node: Node, name: str) -> list[str]:
        if name in self.of_genes:
            return list(self.of_genes[name])
        return [Node(name, node.at).choice(self.genes, "a gene or a group of genes")]

    def alternatives(self, node: Node) -> list[Condition]:
        """The conditions that a text such as ``lesser|butter:1+`` or ``complex.blk:2`` stands for; any one of them is meant."""
        names, colon, copies = node.text().rpartition(":")
        if not colon or copies not in COPIES:
            raise node.wrong(f"a condition reads like piebald:2, with {', '.join(COPIES)}; got {shown(node.value)}")
        conditions: list[Condition] = []
        for name in names.split("|"):
            if name.startswith("complex."):
                locus = Node(name.removeprefix("complex."), node.at).choice(self.loci, "a locus")
                conditions.append({"locus": locus, "copies": COPIES[copies]})
            else:
                conditions += [{"gene": gene, "copies": COPIES[copies]} for gene in self._genes(node, name)]
        return conditions


def _has_id(entry: Any) -> bool:
    return isinstance(entry, dict) and isinstance(entry.get("id"), str)


def written_out(parts: dict[str, dict[str, Any]], format_name: str) -> Written:
    """The contract's document of the parts of a catalogue, by file name; :class:`WrittenError` with file and place."""
    written = Written({"format": format_name})
    for section in (*AS_THEY_STAND, "genes", "effects", "dilutions", "masks", "markers", "rules"):
        written.document[section], written.origins[section] = [], []
    groups = Groups(parts)
    base = _bases(parts)
    for file, part in parts.items():
        try:
            for section in AS_THEY_STAND:
                for node in Node(part).children(section):
                    written.add(section, node.value, file, node.at)
            for node in Node(part).children("genes"):
                _Sheet(written, file, node, base).write()
            for node in Node(part).children("rules"):
                _Rule(written, file, node, groups).write()
        except InputError as error:
            raise WrittenError(error.message, error.at, file) from None
    if not written.document["population"]:
        del written.document["population"]  # one load that changes nothing, where none is written
    return written


class WrittenError(InputError):
    """A mistake in one of the files; ``at`` is the path in that file."""

    def __init__(self, message: str, at: str, file: str) -> None:
        super().__init__(message, at)
        self.file = file


def _bases(parts: dict[str, dict[str, Any]]) -> dict[str, dict[str, float]]:
    traits = [entry for part in parts.values() for entry in part.get("traits", []) if _has_id(entry)]
    return {entry["id"]: {level["id"]: level.get("base", 0.0) for level in entry.get("levels", [])} for entry in traits}


def _effect_on(trait: str, node: Node) -> dict[str, Any]:
    """What stands under a look: a number is a shift along its scale; else pushes by level, with ``shift`` among them if both."""
    if not isinstance(node.value, dict):
        return {"trait": trait, "shift": node.number() * PUSH_SCALE}
    numbers = {level: value.number() * PUSH_SCALE for level, value in node.items()}
    shift = {"shift": numbers.pop(SHIFT)} if SHIFT in numbers else {}
    return {"trait": trait} | ({"push": numbers} if numbers else {}) | shift


@dataclass
class _Sheet:
    """The sheet of one gene: what one and two copies do, and what is said of carriers."""

    written: Written
    file: str
    node: Node
    base: dict[str, dict[str, float]]

    def write(self) -> None:
        entry = self.node.object().value
        kept = {key: value for key, value in entry.items() if key not in SHEET_KEYS}
        if self.node.has("carriers"):
            kept["carriers"] = (
                self.node.child("carriers").object([], ["words", "trust", "marks"]).value.get("words", "")
            )
        self.written.add("genes", kept, self.file, self.node.at)
        one, two = self._looks("one"), self._looks("two")
        for trait, node in one.items():
            self._effect(trait, node, [1] if trait in two else [1, 2], self._standing())
        for trait, node in two.items():
            self._effect(trait, node, [2], self._standing("two_standing"))
        if self.node.has("carriers") and self.node.child("carriers").has("marks"):
            self._markers(self.node.child("carriers"))

    def _looks(self, key: str) -> dict[str, Node]:
        return dict(self.node.child(key).items()) if self.node.has(key) else {}

    def _standing(self, key: str = "standing") -> str:
        key = key if self.node.has(key) else "standing"
        return self.node.child(key).choice(STANDINGS) if self.node.has(key) else ""

    def _effect(self, trait: str, node: Node, copies: list[int], standing: str) -> None:
        when = [{"gene": self.node.child("id").text(), "copies": copies}]
        entry = {"when": when, **_effect_on(trait, node), "standing": standing}
        self.written.add("effects", entry, self.file, node.at)

    def _markers(self, carriers: Node) -> None:
        """Marks of carriers, with the ratios that follow from their push and from how far keepers trust them.

        A share ``trust`` of carriers shows the mark as often as the push says, the others as often as normals.
        """
        trust = carriers.child("trust").number(0, 1)
        for trait, node in carriers.child("marks").items():
            for level, value in node.items():
                ratios = self._ratios(trait, level, value, trust)
                when = [{"gene": self.node.child("id").text(), "copies": [1]}]
                entry = {"when": when, "trait": trait, "level": level, "push": value.number(), "trust": trust, **ratios}
                self.written.add("markers", entry | {"standing": "disputed"}, self.file, value.at)

    def _ratios(self, trait: str, level: str, value: Node, trust: float) -> dict[str, float]:
        base = self.base.get(Node(trait, value.at).choice(self.base, "a look"), {})
        weight = math.exp(base[Node(level, value.at).choice(base, "a level")])
        rest = sum(math.exp(other) for other in base.values()) - weight
        plain = weight / (weight + rest)
        pushed = weight * math.exp(value.number() * PUSH_SCALE)
        carrier = trust * pushed / (pushed + rest) + (1 - trust) * plain
        return {"ratio_seen": round(carrier / plain, 3), "ratio_unseen": round((1 - carrier) / (1 - plain), 3)}


@dataclass
class _Rule:
    """One numbered rule: its claim, and one or more parts with conditions and what they do."""

    written: Written
    file: str
    node: Node
    groups: Groups

    def write(self) -> None:
        self.node.object(["id", "claim", "standing"], [*RULE_KEYS, *PART_KEYS, "parts"])
        self.id, self.standing = self.node.child("id").text(), self.node.child("standing").choice(STANDINGS)
        words = {key: self.node.child(key).text() for key in RULE_KEYS if self.node.has(key)}
        self.written.add("rules", words, self.file, self.node.at)
        for part in self.node.children("parts") if self.node.has("parts") else [self.node]:
            if part is not self.node:
                part.object([], PART_KEYS)
            for number, when in enumerate(self._whens(part)):
                self._part(part, when, number)

    def _whens(self, part: Node) -> Iterator[list[Condition]]:
        """Every combination of the alternatives in ``when``, with each of ``any``; no gene stands twice in one."""
        needed = [self.groups.alternatives(node) for node in part.children("when")]
        if part.has("any"):
            needed.append([condition for node in part.children("any") for condition in self.groups.alternatives(node)])
        for chosen in product(*needed):
            named = [condition.get("gene") or condition.get("locus") for condition in chosen]
            if len(set(named)) == len(named):
                yield list(chosen)

    def _add(self, section: str, entry: dict[str, Any], node: Node, part: Node) -> None:
        stages = {"stages": part.child("stages").value} if part.has("stages") else {}
        self.written.add(section, entry | stages | {"rule": self.id, "standing": self.standing}, self.file, node.at)

    def _part(self, part: Node, when: list[Condition], number: int) -> None:
        for trait, node in part.child("push").items() if part.has("push") else ():
            self._add("effects", {"when": when, **_effect_on(trait, node)}, node, part)
        if any(part.has(key) for key in ("damp", "damp_all_but", "show")):
            self._add("masks", self._mask(part, when, number), part, part)
        for node in part.children("dilute"):
            node.object(["genes", "times"], ["traits"])
            traits = {"traits": self.groups.traits_of(node.child("traits"))} if node.has("traits") else {}
            self._dilute(part, when, node.child("genes"), {"times": node.child("times").number(0)} | traits)
        if part.has("hide"):
            self._dilute(part, when, part.child("hide"), {"times": 0.0})

    def _dilute(self, part: Node, when: list[Condition], genes: Node, how: dict[str, Any]) -> None:
        company = when[-1].get("gene") if part.has("any") else None  # no gene is company to itself
        for gene in self.groups.genes_of(genes):
            if gene != company:
                self._add("dilutions", {"when": when, "gene": gene, **how}, genes, part)

    def _mask(self, part: Node, when: list[Condition], number: int) -> dict[str, Any]:
        damp: dict[str, float] = {}
        if part.has("damp_all_but"):
            spared = part.child("damp_all_but").object(["traits", "times"], [])
            kept = set(self.groups.traits_of(spared.child("traits")))
            damp = {trait: spared.child("times").number(0, 1) for trait in self.groups.traits if trait not in kept}
        for name, node in part.child("damp").items() if part.has("damp") else ():
            damp |= {trait: node.number(0, 1) for trait in self.groups.looks(node, name)}
        mask: dict[str, Any] = {"when": when, "damp": damp} if damp else {"when": when}
        if part.has("show"):
            rank = part.child("rank").number() if part.has("rank") else 0.0
            mask |= {"rank": round(rank + number * RANK_STEP, 6), "show": part.child("show").value}
        return mask
