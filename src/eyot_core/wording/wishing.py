"""A wish as a keeper types it: "banana daughter, four or more genes, no enchi"."""

from __future__ import annotations

import re

from eyot_core.genetics.inheritance import SEXES
from eyot_core.hatchery.wishes import Wish
from eyot_core.wording.line import understood
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import Understood

COUNTED = ("zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
NUMBER = r"(\d{1,2}|" + "|".join(COUNTED) + ")"
AT_LEAST = re.compile(
    rf"\b(?:at least|minimum|min)\s+{NUMBER}\b(?:\s+genes?)?|\b{NUMBER}\s+or more\b(?:\s+genes?)?|\b{NUMBER}\s*\+\s*(?:genes?)?"
    rf"|\b{NUMBER}[\s-]+genes?\b",
    re.I,
)
DAUGHTERS = re.compile(r"\b(daughters?|sons?)\b", re.I)


def wish_in(lookup: Lookup, text: str) -> tuple[Wish, Understood]:
    """What a line wishes, and what it was understood as. Genes that are in doubt in the line are not wished.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> wish_in(Lookup(builtin_catalogue()), "banana daughter, 4 or more genes, no enchi")[0]
    Wish(genes=(('banana', 1),), without=('enchi',), sex=0, at_least=4)
    >>> wish_in(Lookup(builtin_catalogue()), "three genes, female")[0].at_least
    3
    """
    counted = AT_LEAST.search(text)
    number = next(filter(None, counted.groups())).lower() if counted else "0"
    rest = AT_LEAST.sub(" ", text)
    rest = DAUGHTERS.sub(lambda match: "female" if match[1].lower().startswith("d") else "male", rest)
    read = understood(lookup, rest)
    wish = Wish(
        genes=tuple((one.gene, one.copies) for one in read.statements if one.chance == "1"),
        without=read.absent,
        sex=SEXES.index(read.sex) if read.sex else None,
        at_least=COUNTED.index(number) if number in COUNTED else int(number),
    )
    return wish, read
