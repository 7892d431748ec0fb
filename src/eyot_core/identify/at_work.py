"""Which numbered rules of the catalogue are at work in one genotype, and what each of them does."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from eyot_core.catalogue.model import Catalogue, Condition
from eyot_core.identify.traits import Genotype

KINDS = ("effects", "dilutions", "masks")
LETTERS = ("I", "X")


@dataclass(frozen=True)
class AtWork:
    """A rule that speaks of this genotype: what it claims, how sure the field is, and whose looks it weakens or covers."""

    id: str
    claim: str
    standing: str
    adds: tuple[str, ...]
    weakens: tuple[str, ...]
    covers: tuple[str, ...]


def rules_at_work(catalogue: Catalogue, genotype: Genotype, stage: str) -> list[AtWork]:
    """The interactions and crosses that hold for a genotype at a stage, in the catalogue's order.

    ``adds``: looks that are pushed; ``weakens``: genes whose looks are diluted or hidden; ``covers``: looks that are damped or decided.
    """
    by_claim: dict[str, dict[str, dict[str, None]]] = {}
    for kind, entry, conditions in _interactions(catalogue):
        if stage not in entry.get("stages", [stage]):
            continue
        if all(one.holds_in(genotype.get(catalogue.locus_of(one), ())) for one in conditions):
            parts = by_claim.setdefault(entry["rule"], {"adds": {}, "weakens": {}, "covers": {}})
            _note(parts, kind, entry, catalogue, genotype)
    rules = {entry["id"]: entry for entry in catalogue.document.get("rules", [])}
    return [
        AtWork(
            rule,
            rules[rule]["claim"],
            rules[rule]["standing"],
            *(tuple(parts[key]) for key in ("adds", "weakens", "covers")),
        )
        for rule, parts in by_claim.items()
        if any(parts.values())
    ]


@lru_cache(maxsize=16)
def _interactions(catalogue: Catalogue) -> list[tuple[str, Mapping[str, Any], list[Condition]]]:
    """The written-out entries of interactions and crosses that have conditions, with these made ready."""
    return [
        (kind, entry, [Condition(frozenset(one["copies"]), one.get("gene"), one.get("locus")) for one in entry["when"]])
        for kind in KINDS
        for entry in catalogue.document.get(kind, [])
        if entry.get("rule", "")[:1] in LETTERS and entry["when"]
    ]


def _note(
    parts: dict[str, dict[str, None]], kind: str, entry: Mapping[str, Any], catalogue: Catalogue, genotype: Genotype
) -> None:
    if kind == "effects":
        parts["adds"][entry["trait"]] = None
    elif kind == "dilutions":
        gene = entry["gene"]
        if gene in genotype.get(catalogue.genes[gene].locus, ()):
            parts["weakens"][gene] = None
    else:
        parts["covers"] |= dict.fromkeys([*entry.get("damp", {}), *entry.get("show", {}), *entry.get("hide", [])])
