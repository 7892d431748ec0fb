"""What a pairing can give, in words, figures and drawings asked for; worked out before the template."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from eyot_core.catalogue import Catalogue
from eyot_core.errors import InputError
from eyot_core.genetics.inheritance import SEXES
from eyot_core.genetics.pairing import Pairing, pairing_from
from eyot_core.hatchery.outcomes import count_of_outcomes, outcomes
from eyot_core.hatchery.wishes import Wish, Wished
from eyot_core.parsing import Node
from eyot_core.wording.chances import odds, percent
from eyot_core.wording.label import het_words
from eyot_core.wording.lookup import key_of
from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, Collection
from eyot.season.queries import parent_entry, unknown_sire

MOST_SHOWN = 12
MOST_OPENED = 512
SURE_OF_ONE = 0.9


@dataclass(frozen=True)
class OutcomeRow:
    """One outcome by what shows: its drawing's key, names, chances, and what it may carry unseen."""

    key: str
    label: str
    trade_name: str
    each: str
    at_least_one: str
    width: int
    carried: list[str]


@dataclass(frozen=True)
class Forecast:
    """What can come. ``count``: of kinds by what shows; ``trouble``: why nothing can be worked out."""

    rows: list[OutcomeRow]
    count: int
    rest: str = ""
    trouble: str = ""


def pairing_for(collection: Collection, dam: Animal | None, sires: Sequence[Animal | None]) -> Pairing:
    """The pairing made ready, once for the same statements; ``None`` is a normal; no sires: not known.

    :class:`~eyot_core.errors.InputError` where animals can't be as stated, or may be too many different ones.
    """
    entries = [parent_entry(sire) if sire else {"genes": []} for sire in sires]
    document = {
        "dam": parent_entry(dam) if dam else {"genes": []},
        "sires": entries or [unknown_sire(collection, dam) if dam else {"genes": []}],
    }
    pairing = _pairing(json.dumps(document, sort_keys=True), catalogue_of(collection))
    pairing.check_hypotheses()
    return pairing


@lru_cache(maxsize=64)
def _pairing(document: str, catalogue: Catalogue) -> Pairing:
    return pairing_from(Node(json.loads(document)), catalogue)


@dataclass(frozen=True)
class Sorted:
    """How the table of outcomes is asked for: its order, one gene, one sex, all kinds or the first dozen."""

    order: str = "likely"
    gene: str = ""
    sex: int | None = None
    is_open: bool = False


def forecast_of(
    pairing: Pairing, eggs: int, asked: Sorted = Sorted(), wanted: Mapping[str, int] | None = None
) -> Forecast:
    """What can come, as it is asked for, with the chance of at least one among ``eggs``."""
    naming = Naming(pairing.catalogue)
    if not pairing.can_hatch:
        return Forecast([], 0, trouble="By what is known of these genes, no animal of this pairing can reach hatching.")
    most = MOST_OPENED if asked.is_open else MOST_SHOWN
    kinds = outcomes(pairing, most, order=asked.order, gene=asked.gene, sex=asked.sex, wanted=wanted)
    rows = []
    for one in kinds:
        genes = [(gene, alleles.count(gene)) for alleles in one.genotype.values() for gene in dict.fromkeys(alleles)]
        rows.append(
            OutcomeRow(
                key_of(sorted(genes)),
                naming.label(one.genotype),
                naming.trade_name(one.genotype),
                odds(one.kind.chance),
                percent(one.kind.at_least_one(eggs), certain=True),
                max(2, round(one.kind.chance * 240)),
                [het_words(naming.gene(gene), chance) for gene, chance in one.carried],
            )
        )
    count, shown = count_of_outcomes(pairing), sum(one.kind.chance for one in kinds)
    narrowed = bool(asked.gene) or asked.sex is not None
    rest = (
        f"{len(kinds)} of {count} kinds stand here; they make up {percent(shown)} of all eggs."
        if count > len(kinds) or narrowed
        else ""
    )
    return Forecast(rows, count, rest)


@dataclass(frozen=True)
class WishTold:
    """A wish in one pairing: its chance in each egg, at least one among those planned, and how many eggs it would take."""

    words: str
    each: str
    at_least_one: str
    needed: str


def wish_of(pairing: Pairing, wish: Wish, eggs: int) -> WishTold:
    """How a pairing stands to a wish."""
    words, wished = wish_words(wish, Naming(pairing.catalogue)), Wished(pairing, wish)
    if wished.chance <= 0:
        return WishTold(words, "none", "", "These parents can't give it, as they are stated.")
    at_least_one = percent(wished.at_least_one(eggs), certain=True)
    return WishTold(words, odds(wished.chance), at_least_one, needed_words(wished))


def wish_words(wish: Wish, naming: Naming) -> str:
    """A wish as it was understood."""
    parts = [naming.label({gene: [gene] * copies for gene, copies in wish.genes})] if wish.genes else []
    parts += [f"{wish.at_least} genes or more"] if wish.at_least else []
    parts += [f"no {naming.gene(gene)}" for gene in wish.without]
    return ", ".join([*parts, *([SEXES[wish.sex]] if wish.sex is not None else [])])


def needed_words(wished: Wished) -> str:
    """How many eggs a wish would take, in a sentence."""
    needed = wished.needed(SURE_OF_ONE)
    if needed is None:
        return "Not to be counted on with any number of eggs: a parent may not carry what it takes."
    return f"{needed} hatchling{'s' if needed > 1 else ''} give one with 9 chances in 10."


def trouble_of(error: InputError) -> str:
    """What keeps a pairing from being worked out, in a sentence."""
    return f"{error.message[0].upper()}{error.message[1:]}."
