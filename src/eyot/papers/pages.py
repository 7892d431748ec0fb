"""A paper's document in the words in which it is printed and shown."""

from __future__ import annotations

from datetime import date
from typing import Any

from eyot_core.catalogue import Catalogue

from eyot.bench.judgement import plain, trait_words
from eyot.papers.document import Document
from eyot.season.models import Stage
from eyot.shared.units import long_day

GROUPS = (
    ("proven", "proven"),
    ("seen", "sure, by eye"),
    ("parents", "by its parents"),
    ("likely", "likely, by eye"),
    ("possible", "possible"),
)
SHORT = 6


def printed_paper(document: Document, catalogue: Catalogue) -> dict[str, Any]:
    """What a page shows of a paper: its genes by how they are known, its looks in words, the last weights and meals."""
    meals = document["meals"]
    taken = [meal for meal in meals if meal["taken"]]
    return {
        "document": document,
        "hatched": _day(document["animal"]["hatched"]) if document["animal"]["hatched"] else "not told",
        "issued": _day(document["issued"]),
        "called": _day(document["call"]["on"]),
        "stage": _stage(document["call"]["stage"]),
        "groups": [
            (words, [gene for gene in document["genes"] if gene["known"] == known])
            for known, words in GROUPS
            if any(gene["known"] == known for gene in document["genes"])
        ],
        "looks": [look for one in document["looks"] if (look := _look(one, catalogue))],
        "weights": [f"{_day(one['on'])}: {one['grams']:g} g" for one in document["weights"][-SHORT:]],
        "sheds": [_day(one) for one in document["sheds"][-SHORT:]],
        "meals": len(taken),
        "refusals": len(meals) - len(taken),
        "last_meal": _day(max(meal["on"] for meal in taken)) if taken else "",
    }


def _day(text: str) -> str:
    return long_day(date.fromisoformat(text))


def _stage(stage: str) -> str:
    return Stage(stage).label if stage in Stage.values else stage


def _look(one: Document, catalogue: Catalogue) -> dict[str, str] | None:
    """A look in words; none where this catalogue does not have it."""
    trait = catalogue.traits.get(one["trait"])
    if trait is None or one["level"] not in trait.level_index:
        return None
    name, level = str(trait_words(one["trait"])["name"]), plain(one["level"])
    return {"name": name, "level": level, "sure": one["sure"], "stage": _stage(one["stage"])}
