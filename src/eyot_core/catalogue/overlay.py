"""A collection's own genes, names and opinions: a small layer over the built-in catalogue.

Every opinion is laid over by itself. One that no longer fits (the catalogue was updated, or another opinion took its
gene) is left out and told with its reason; it stays in the layer and counts again when it fits.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

import numpy as np

from eyot_core.catalogue.model import INHERITANCES, STAGES, Catalogue, Trait
from eyot_core.catalogue.read import catalogue_from
from eyot_core.catalogue.written import PUSH_SCALE
from eyot_core.errors import InputError
from eyot_core.parsing import Node

FORMAT = "eyot-overlay/1"
ID = re.compile(r"[a-z][a-z0-9_]{0,39}")
MOST_PUSH = 5.0
LEAST_TIMES, MOST_TIMES = 0.25, 2.0
LEAST_RATIO = 0.001
SURENESSES = ("sure", "likely", "hint")
OWN = "keeper"
Document = dict[str, Any]


@dataclass(frozen=True)
class Overlaid:
    """A catalogue with a layer over it. ``left_out``: (place in the layer, reason) of what did not fit."""

    catalogue: Catalogue
    left_out: tuple[tuple[int, str], ...]


@dataclass(frozen=True)
class _Known:
    """What an opinion may name, with those laid over before it: genes and loci by their ids, and looks."""

    genes: frozenset[str]
    loci: frozenset[str]
    traits: Mapping[str, Trait]

    @staticmethod
    def of(document: Document, base: Catalogue) -> _Known:
        genes, loci = (frozenset(entry["id"] for entry in document[key]) for key in ("genes", "loci"))
        return _Known(genes, loci, base.traits)


def overlaid(base: Catalogue, layer: Node) -> Overlaid:
    """The catalogue under a layer; :class:`~eyot_core.errors.InputError` only where the document is no layer at all.

    The opinions are laid over in one pass and the whole is read once; only where it can't be read so, one after another.
    """
    layer.object(["format", "opinions"], ["format", "opinions"])
    layer.child("format").choice([FORMAT])
    opinions = layer.child("opinions").entries()
    document, left_out = deepcopy(base.document), []
    for number, override in enumerate(opinions):
        before = {key: list(value) if isinstance(value, list) else value for key, value in document.items()}
        try:
            _lay_over(document, _Known.of(document, base), override)
        except InputError as error:
            document = before
            left_out.append((number, f"{error.message} ({error.at})"))
    try:
        return Overlaid(catalogue_from(Node(document)) if opinions else base, tuple(left_out))
    except InputError:
        return _one_after_another(base, opinions)


def _one_after_another(base: Catalogue, opinions: Sequence[Node]) -> Overlaid:
    catalogue, left_out = base, []
    for number, override in enumerate(opinions):
        try:
            catalogue = with_override(catalogue, override)
        except InputError as error:
            left_out.append((number, f"{error.message} ({error.at})"))
    return Overlaid(catalogue, tuple(left_out))


def with_override(catalogue: Catalogue, override: Node) -> Catalogue:
    """The catalogue under one opinion; :class:`~eyot_core.errors.InputError` with its place where it can't be."""
    document = deepcopy(catalogue.document)
    _lay_over(document, _Known.of(document, catalogue), override)
    return catalogue_from(Node(document))


def _lay_over(document: Document, known: _Known, override: Node) -> None:
    override.object(["kind"])
    OVERRIDES[override.child("kind").choice(OVERRIDES)](document, known, override)


def _gene(document: Document, known: _Known, override: Node) -> None:
    """A gene that the built-in catalogue lacks: at a locus of its own, or an allele of a known one."""
    override.object(
        ["kind", "id", "name", "inheritance"],
        ["kind", "id", "name", "inheritance", "unproven", "locus", "one", "two", "note", "welfare", "synonyms"],
    )
    gene = override.child("id").text()
    if not ID.fullmatch(gene):
        raise override.child("id").wrong("an id is made of small letters, figures and _, and begins with a letter")
    if gene in known.genes:
        raise override.child("id").wrong(f"there is a gene {gene!r} already")
    locus = f"own_{gene}"
    if override.has("locus"):
        locus = override.child("locus").choice(known.loci, "a locus")
    else:
        document["loci"].append({"id": locus})
    inheritance = override.child("inheritance").choice(INHERITANCES)
    entry: Document = {
        "id": gene,
        "locus": locus,
        "inheritance": inheritance,
        "name": override.child("name").text(),
        "standing": OWN,
    }
    words = {key: override.child(key).text() for key in ("note", "welfare") if override.has(key)}
    if "welfare" in words:
        entry["welfare_from"] = 2 if inheritance == "recessive" else 1
    if override.has("synonyms"):
        entry["synonyms"] = [name.text() for name in override.child("synonyms").entries()]
    if override.has("unproven") and override.child("unproven").boolean():
        entry["unproven"] = True
    document["genes"].append(entry | words)
    _sheet(document, known, override, gene, recessive=inheritance == "recessive")


def _sheet(document: Document, known: _Known, override: Node, gene: str, *, recessive: bool) -> None:
    one = dict(override.child("one").items()) if override.has("one") else {}
    two = dict(override.child("two").items()) if override.has("two") else {}
    if recessive and one:
        raise override.child("one").wrong("one copy of a recessive gene shows nothing; give what two copies show")
    for looks, copies in ((one, 1), (two, 2)):
        for trait, node in looks.items():
            applies = [1, 2] if copies == 1 and trait not in two else [copies]
            document["effects"].append(_effect(known, gene, applies, trait, node))


def _effect(known: _Known, gene: str, copies: list[int], trait: str, node: Node) -> Document:
    """What an opinion gives to levels of a look; on a scale as a shift, so that a stronger sign never argues against the gene."""
    look = known.traits[Node(trait, node.at).choice(known.traits, "a look")]
    push: dict[str, float] = {}
    shift = 0.0
    for level, value in node.items():
        name = Node(level, value.at).choice(look.level_index, f"a level of {trait}")
        number = value.number(-MOST_PUSH, MOST_PUSH) * PUSH_SCALE
        if direction := _direction(look, name):
            shift += direction * number
        else:
            push[name] = number
    effect: Document = {"when": [{"gene": gene, "copies": copies}], "trait": trait, "standing": OWN}
    return effect | ({"push": push} if push or not shift else {}) | ({"shift": shift} if shift else {})


def _direction(look: Trait, level: str) -> int:
    """Where a level lies on the look's scale from what normal animals show: −1 before it, 1 beyond it, 0 there or off the scale."""
    place = look.level_index[level]
    if place not in look.scale:
        return 0
    wild = max(look.scale, key=lambda one: look.levels[one].base)
    return int(np.sign(look.scale.index(place) - look.scale.index(wild)))


def _name(document: Document, known: _Known, override: Node) -> None:
    """A gene under another name."""
    override.object(["kind", "gene", "name"], ["kind", "gene", "name"])
    entry = _entry(document, override.child("gene").choice(known.genes, "a gene"))
    entry |= {"built_in_name": entry.get("name", entry["id"]), "name": override.child("name").text()}


def _synonym(document: Document, known: _Known, override: Node) -> None:
    """One more name by which a gene is understood; its own name stays."""
    override.object(["kind", "gene", "name"], ["kind", "gene", "name"])
    entry = _entry(document, override.child("gene").choice(known.genes, "a gene"))
    entry["synonyms"] = [*entry.get("synonyms", []), override.child("name").text()]


def _trade_name(document: Document, known: _Known, override: Node) -> None:
    """A name of the keeper's own for a combination: ``genes`` with their copies."""
    override.object(["kind", "name", "genes"], ["kind", "name", "genes"])
    genes = {}
    for gene, copies in override.child("genes").items():
        genes[Node(gene, copies.at).choice(known.genes, "a gene")] = copies.whole(1, 2)
    if not genes:
        raise override.child("genes").wrong("a trade name stands for at least one gene")
    document.setdefault("names", []).append({"name": override.child("name").text(), "genes": genes, "standing": OWN})


def _weight(document: Document, known: _Known, override: Node) -> None:
    """More or less weight to one level of one look in one or two copies of a gene."""
    keys = ["kind", "gene", "copies", "trait", "level", "push"]
    override.object(keys, keys)
    gene, copies = override.child("gene").choice(known.genes, "a gene"), override.child("copies").whole(1, 2)
    trait = override.child("trait").choice(known.traits, "a look")
    push = Node({override.child("level").text(): override.child("push").value}, override.child("push").at)
    document["effects"].append(_effect(known, gene, [copies], trait, push) | {"rule": OWN})


def _trust(document: Document, known: _Known, override: Node) -> None:
    """A look tells more or less than the catalogue says, of every gene alike: all pushes and shifts on it are multiplied.

    ``hatchlings``: how many proven animals the factor rests on.
    """
    override.object(["kind", "trait", "times"], ["kind", "trait", "times", "hatchlings"])
    if override.has("hatchlings"):
        override.child("hatchlings").whole(1, 10**6)
    trait = override.child("trait").choice(known.traits, "a look")
    _multiply_pushes(document, trait, override.child("times").number(LEAST_TIMES, MOST_TIMES))


def _clarity(document: Document, known: _Known, override: Node) -> None:
    """How far an eye relies on a look at a stage, as it was measured; ``answers``: on how many it rests."""
    needed = ["kind", "trait", "stage", "clarity"]
    override.object(needed, [*needed, "answers"])
    if override.has("answers"):
        override.child("answers").whole(1, 10**6)
    trait, stage = override.child("trait").choice(known.traits, "a look"), override.child("stage").choice(STAGES)
    entry = next(one for one in document["traits"] if one["id"] == trait)
    entry["clarity"] = {**entry["clarity"], stage: override.child("clarity").number(0, 1)}


def _sureness(document: Document, known: _Known, override: Node) -> None:
    """What a word for how sure an eye was is worth, as it was measured; ``answers``: on how many it rests."""
    needed = ["kind", "word", "worth"]
    override.object(needed, [*needed, "answers"])
    if override.has("answers"):
        override.child("answers").whole(1, 10**6)
    word, worth = override.child("word").choice(SURENESSES), override.child("worth").number(0, 1)
    for entry in document["traits"]:
        entry["sureness"] = {**entry.get("sureness", {}), word: worth}


def _marker(document: Document, known: _Known, override: Node) -> None:
    """A mark of carriers with ratios of the keeper's own; ``carriers``, ``others``: how many proven animals they rest on."""
    needed = ["kind", "gene", "trait", "level", "ratio_seen", "ratio_unseen"]
    override.object(needed, [*needed, "carriers", "others"])
    for count in (key for key in ("carriers", "others") if override.has(key)):
        override.child(count).whole(1, 10**6)
    wanted = tuple(override.child(key).text() for key in ("gene", "trait", "level"))
    for row in document["markers"]:
        if (row["when"][0]["gene"], row["trait"], row["level"]) == wanted:
            row |= {
                key: override.child(key).number(LEAST_RATIO, 1 / LEAST_RATIO) for key in ("ratio_seen", "ratio_unseen")
            }
            row["standing"] = OWN
            return
    raise override.child("level").wrong(f"{' '.join(wanted)} is no mark of carriers that the catalogue names")


def _multiply_pushes(document: Document, trait: str, times: float) -> None:
    for effect in document["effects"]:
        if effect["trait"] == trait:
            if "push" in effect:
                effect["push"] = {level: push * times for level, push in effect["push"].items()}
            if "shift" in effect:
                effect["shift"] *= times


def trusting_all_looks(catalogue: Catalogue, times: float) -> Catalogue:
    """The catalogue with every look told ``times`` as strongly, for comparing what proven animals fit best."""
    document = deepcopy(catalogue.document)
    for trait in catalogue.traits:
        _multiply_pushes(document, trait, times)
    return catalogue_from(Node(document))


def _switch(document: Document, known: _Known, override: Node) -> None:
    """The other side of a disputed point."""
    override.object(["kind", "dispute"], ["kind", "dispute"])
    disputes = {entry["id"]: entry for entry in document.get("disputes", []) if "switch" in entry}
    dispute = disputes[override.child("dispute").choice(disputes, "a disputed point that can be switched")]
    SWITCHES[dispute["switch"]["kind"]](document, known, dispute["switch"])
    dispute["switched"] = True


def _join(document: Document, known: _Known, switch: Document) -> None:
    """Genes become alleles of a complex; what counts alleles of the complex goes on counting the old ones."""
    for gene in switch["genes"]:
        _entry(document, gene)["locus"] = switch["locus"]
        for rule in [*document["effects"], *document["dilutions"], *document["masks"]]:
            if any(one.get("locus") == switch["locus"] for one in rule["when"]):
                rule["when"] = [*rule["when"], {"gene": gene, "copies": [0]}]


def _separate(document: Document, known: _Known, switch: Document) -> None:
    """Alleles go to loci of their own."""
    for gene in switch["genes"]:
        document["loci"].append({"id": f"own_{gene}"})
        _entry(document, gene)["locus"] = f"own_{gene}"


def _same(document: Document, known: _Known, switch: Document) -> None:
    """Two alleles are one: the second shows just what the first shows."""
    first, second = switch["genes"]
    own = [rule for rule in document["effects"] if _is_own(rule, first)]
    kept = [rule for rule in document["effects"] if not _is_own(rule, second)]
    document["effects"] = kept + [rule | {"when": [rule["when"][0] | {"gene": second}]} for rule in own]
    names = "/".join(str(_entry(document, gene).get("name", gene)) for gene in (first, second))
    for gene in (first, second):
        _entry(document, gene)["note"] = f"held to be one gene here: {names}"


def _is_own(rule: Document, gene: str) -> bool:
    return len(rule["when"]) == 1 and rule["when"][0].get("gene") == gene


def _shows(document: Document, known: _Known, switch: Document) -> None:
    """One copy of a recessive shows: its carriers' marks become its looks."""
    for gene in switch["genes"]:
        _entry(document, gene)["inheritance"] = "incomplete_dominant"
        for marker in [row for row in document["markers"] if row["when"][0]["gene"] == gene]:
            pushed = Node({marker["level"]: marker["push"]})
            effect = _effect(known, gene, [1], marker["trait"], pushed)
            document["effects"].append(effect | {"when": marker["when"], "standing": "disputed"})
            document["markers"].remove(marker)


def _entry(document: Document, gene: str) -> Document:
    return next(entry for entry in document["genes"] if entry["id"] == gene)


OVERRIDES: dict[str, Callable[[Document, _Known, Node], None]] = {
    "gene": _gene,
    "name": _name,
    "synonym": _synonym,
    "trade_name": _trade_name,
    "weight": _weight,
    "trust": _trust,
    "clarity": _clarity,
    "sureness": _sureness,
    "marker": _marker,
    "switch": _switch,
}
SWITCHES: dict[str, Callable[[Document, _Known, Document], None]] = {
    "join": _join,
    "separate": _separate,
    "same": _same,
    "shows": _shows,
}
