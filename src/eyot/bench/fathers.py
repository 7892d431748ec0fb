"""Which egg is whose: the chances of each sire, and hatchlings that these parents hardly can have given."""

from __future__ import annotations

from dataclasses import dataclass

from eyot_core.identify.questions import Unlisted, unlisted_genes
from eyot_core.wording.chances import percent

from eyot.bench.judgement import SETTLED, ClutchJudgement, trait_words
from eyot.season.models import Clutch, Egg
from eyot.season.queries import sire_names

STRANGE_FROM = 200.0
"""A gene that one parent in some hundreds hides unnoticed is held as likely as not from about here on."""
MOST_GENES = 3


@dataclass(frozen=True)
class Fathers:
    """Sires by eggs. ``rows``: a sire's name, and for each egg its chance in words and whether it is settled."""

    numbers: list[int]
    rows: list[tuple[str, list[tuple[str, bool]]]]


def fathers_of(judgement: ClutchJudgement, clutch: Clutch) -> Fathers | None:
    """The chances of each sire for each hatchling that was looked at; ``None`` for a single sire or no looks."""
    names = sire_names(clutch)
    eggs = [egg for egg in judgement.eggs if judgement.looks[egg.pk]]
    if len(names) < 2 or not eggs:
        return None
    posteriors = [judgement.inference.posteriors[judgement.index(egg)] for egg in eggs]
    rows = []
    for sire, name in enumerate(names):
        chances = [float(posterior.sires[sire]) for posterior in posteriors]
        rows.append((name, [(percent(chance), chance >= SETTLED) for chance in chances]))
    return Fathers([egg.number for egg in eggs], rows)


@dataclass(frozen=True)
class Stranger:
    """A hatchling that hardly fits: what does not, and what could explain it, the most ordinary first."""

    number: int
    words: str
    causes: list[str]


def strangers_of(judgement: ClutchJudgement, clutch: Clutch, number: str = "") -> list[Stranger]:
    """Hatchlings whose looks these parents hardly can give: impossible, or far better explained by a gene that is not stated.

    ``number``: of one egg only, where given.
    """
    eggs = [egg for egg in judgement.eggs if judgement.looks[egg.pk] and number in ("", str(egg.number))]
    return [one for one in (_stranger_of(judgement, clutch, egg) for egg in eggs) if one]


def _stranger_of(judgement: ClutchJudgement, clutch: Clutch, egg: Egg) -> Stranger | None:
    """What does not fit in one hatchling, with what could explain it; ``None`` where its parents explain it."""
    index = judgement.index(egg)
    impossible = judgement.inference.contradictions[index]
    odd = [] if impossible else judgement.surprises(egg)
    genes = [row for row in unlisted_genes(judgement.inference, index) if row.factor >= STRANGE_FROM] if odd else []
    if not impossible and not genes:
        return None
    looks = " and ".join(str(trait_words(one.trait)["name"]) for one in odd)
    words = "Its looks, taken together, can't come of them." if impossible else f"What does not fit: {looks}."
    return Stranger(egg.number, words, _causes(judgement, clutch, genes))


def _causes(judgement: ClutchJudgement, clutch: Clutch, genes: list[Unlisted]) -> list[str]:
    naming, recessive = judgement.naming, judgement.model.catalogue.genes
    named = [f"{naming.copies(row.gene, row.copies)} ({row.factor:.0f} times likelier)" for row in genes[:MOST_GENES]]
    visible = [words for words, row in zip(named, genes, strict=False) if not recessive[row.gene].is_recessive]
    hidden = [words for words, row in zip(named, genes, strict=False) if recessive[row.gene].is_recessive]
    causes = ["A slip or odd light: look again at what does not fit, dry and in daylight."]
    if clutch.clutch_sires.all():
        causes.append(f"The record: eggs mixed up, or another sire than {clutch.sire_words} at the rounds.")
    else:
        causes.append("The sire, who is not known: what he gave is not reckoned with.")
    causes.append("A gene forgotten in a parent" + (f": {', '.join(visible)}." if visible else "."))
    causes.append("A recessive hidden in both parents" + (f": {', '.join(hidden)}." if hidden else "."))
    causes.append(f"A father of an earlier season: {clutch.own_dam.name} may have kept sperm.")
    causes.append("Chance variation or a paradox; last of all a new gene, which only breeding can show.")
    return causes
