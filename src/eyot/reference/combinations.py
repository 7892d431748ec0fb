"""A combination's page: its plate, what shows, what hides what and why, and the ladder from one gene to all of them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.identify.at_work import AtWork, rules_at_work
from eyot_core.identify.compare import Comparison
from eyot_core.wording.lookup import key_of
from eyot_core.wording.names import Naming

from eyot.reference.looks import LookLine, by_region, look_lines, words_of
from eyot.reference.subjects import Subject, subject_from, subject_of

CHANGES = 4
WELFARE_FROM_TWO = 2


@dataclass(frozen=True)
class Rung:
    """One step of the ladder: the gene that came, the combination so far, and what it changed."""

    gained: str
    subject: Subject
    changed: tuple[LookLine, ...]


@dataclass(frozen=True)
class Rule:
    """A rule at work, in words."""

    id: str
    claim: str
    standing: str
    does: str


@dataclass(frozen=True, eq=False)
class CombinationPage:
    """Everything that the page says. One object for one state of the catalogue, so that what is rendered of it can be kept."""

    subject: Subject
    regions: tuple[tuple[str, list[LookLine]], ...]
    rules: tuple[Rule, ...]
    rungs: tuple[Rung, ...]
    cautions: tuple[str, ...]
    without: tuple[Subject, ...]
    names: tuple[tuple[str, str, str], ...]


@lru_cache(maxsize=300)
def combination_page(catalogue: Catalogue, key: str, stage: str) -> CombinationPage:
    """The page of one combination at a stage; 404 where no animal can have it."""
    subject = subject_of(catalogue, key)
    shown = Comparison(catalogue, ({}, subject.genotype))
    return CombinationPage(
        subject=subject,
        regions=tuple(by_region(look_lines(shown, stage))),
        rules=tuple(_in_words(catalogue, rule) for rule in rules_at_work(catalogue, subject.genotype, stage)),
        rungs=tuple(_rungs(catalogue, subject, stage)),
        cautions=tuple(_cautions(catalogue, subject)),
        without=tuple(_without_one(catalogue, subject)),
        names=tuple((gene, Naming(catalogue).copies(gene, copies), str(copies)) for gene, copies in subject.genes),
    )


def _rungs(catalogue: Catalogue, subject: Subject, stage: str) -> list[Rung]:
    """From no gene to all, one gene more at each rung, in the order chosen."""
    rungs = []
    for count in range(1, len(subject.genes) + 1):
        below, here = (subject_from(catalogue, subject.genes[:n]) for n in (count - 1, count))
        changed = look_lines(Comparison(catalogue, (below.genotype, here.genotype)), stage)[:CHANGES]
        gene, copies = subject.genes[count - 1]
        rungs.append(Rung(Naming(catalogue).copies(gene, copies), here, tuple(changed)))
    return rungs


def _without_one(catalogue: Catalogue, subject: Subject) -> list[Subject]:
    """The combination with one gene less, each gene in turn: what it is most easily taken for."""
    if len(subject.genes) < 2:
        return []
    return [subject_from(catalogue, tuple(one for one in subject.genes if one != left)) for left in subject.genes]


def _in_words(catalogue: Catalogue, rule: AtWork) -> Rule:
    naming, words = Naming(catalogue), words_of(catalogue)

    def listed(traits: tuple[str, ...]) -> str:
        names = [words[trait]["name"].lower() for trait in traits]
        return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")

    parts = []
    if rule.covers:
        parts.append(f"covers {listed(rule.covers)}")
    if rule.weakens:
        parts.append("weakens the looks of " + ", ".join(naming.gene(gene) for gene in rule.weakens))
    if rule.adds:
        parts.append(f"changes {listed(rule.adds)}")
    return Rule(rule.id, rule.claim, rule.standing, "; ".join(parts))


def _cautions(catalogue: Catalogue, subject: Subject) -> list[str]:
    """Welfare of each gene in these copies, and pairs that must not come together."""
    carried, naming, cautions = dict(subject.genes), Naming(catalogue), []
    for gene, copies in subject.genes:
        note = naming.text(gene, "welfare")
        if note and (copies == WELFARE_FROM_TWO or naming.text(gene, "welfare_from") != str(WELFARE_FROM_TWO)):
            cautions.append(f"{naming.gene(gene)}: {note}")
        if catalogue.genes[gene].viability[copies] == 0:
            cautions.append(f"{naming.copies(gene, copies)}: no living animal is known")
    for row in catalogue.document.get("cautions", []):
        if row.get("when") and all(carried.get(gene, 0) >= copies for gene, copies in row["when"].items()):
            cautions.append(f"{row['title']}: {row['words']}")
    return cautions


def gene_words(catalogue: Catalogue) -> list[tuple[dict[str, Any], str]]:
    """The genes of a catalogue with their words and the key of what is drawn of each (a recessive in two copies), by name."""
    ordered = sorted(catalogue.document["genes"], key=lambda entry: str(entry.get("name", entry["id"])).lower())
    return [
        (entry, key_of([(entry["id"], 2 if catalogue.genes[entry["id"]].is_recessive else 1)])) for entry in ordered
    ]
