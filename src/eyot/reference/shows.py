"""What was searched for as a look: where it is looked for, and which genes show it; and animals named against one another."""

from __future__ import annotations

from dataclasses import dataclass

from eyot_core.catalogue import Catalogue
from eyot_core.identify.evidence import CONFIDENCE, answering
from eyot_core.identify.traits import chances_of_look
from eyot_core.wording.chances import percent
from eyot_core.wording.dictation import dictated
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup, key_of
from eyot_core.wording.statements import Understood

from eyot.bench.judgement import plain
from eyot.reference.looks import words_of
from eyot.reference.subjects import STAGE_WORDS

STAGE = "shed"
TELLS = 2.0
MOST = 12


@dataclass(frozen=True)
class ShownBy:
    """A gene that shows a look. ``share``: of animals with it that are seen so; ``after``: its chance after that answer, from one half."""

    gene: str
    name: str
    share: str
    after: str


@dataclass(frozen=True)
class NamedLook:
    """A look that was searched for: its name and question, the level, and what shows it, the surest sign first."""

    name: str
    question: str
    level: str
    best_seen: str
    shown_by: list[ShownBy]


def named_looks(lookup: Lookup, text: str) -> list[NamedLook]:
    """The looks that a search names, as a keeper says them: "green eyes", "ringer", "flames"."""
    catalogue = lookup.catalogue
    looks = dict.fromkeys(look for one in dictated(catalogue, text).heard for look in one.looks)
    return [_named_look(lookup, catalogue, trait, level) for trait, level in looks]


def _named_look(lookup: Lookup, catalogue: Catalogue, trait: str, level: str) -> NamedLook:
    words, look = words_of(catalogue)[trait], catalogue.traits[trait]
    channel = answering(look, look.clarity[STAGE] * CONFIDENCE["sure"])[:, look.level_index[level]]
    normal = chances_of_look(catalogue, trait, {}, (STAGE,))[0]
    rows = []
    for gene in catalogue.genes.values():
        copies = 2 if gene.is_recessive else 1
        own = chances_of_look(catalogue, trait, {gene.locus: [gene.id] * copies}, (STAGE,))[0]
        seen, else_seen = float(own @ channel), float(normal @ channel)
        if own[look.level_index[level]] > TELLS * normal[look.level_index[level]]:
            name = lookup.naming.copies(gene.id, copies)
            rows.append(
                (seen / (seen + else_seen), ShownBy(gene.id, name, percent(seen), percent(seen / (seen + else_seen))))
            )
    rows.sort(key=lambda row: -row[0])
    best = STAGE_WORDS[max(look.clarity, key=lambda stage: look.clarity[stage])]
    return NamedLook(words["name"], words["question"], plain(level), best, [row for _, row in rows[:MOST]])


def named_against(lookup: Lookup, read: Understood) -> list[tuple[str, str]]:
    """Animals that were named with "or" or "vs" between: words and the address key of the page that parts them."""
    names = []
    for question in read.questions:
        keys = [key_of(understood(lookup, choice).genes) for choice in question.choices]
        if 1 < len(set(keys)) <= 4 and "normal" not in keys:
            names.append((" or ".join(question.choices), "~".join(dict.fromkeys(keys))))
    return names
