"""Opinions from a form, and in words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from eyot_core.catalogue import Catalogue
from eyot_core.wording.line import understood
from eyot_core.wording.names import Naming

from eyot.collection.actions import Unfit
from eyot.collection.catalogue import lookup
from eyot.reference.looks import words_of

STRENGTH_CHOICES = (
    ("0.5", "weak hint"),
    ("1", "usual"),
    ("2", "strong"),
    ("3", "near-certain"),
    ("-1", "against"),
    ("-2", "strongly against"),
)
INHERITANCE_CHOICES = (
    ("incomplete_dominant", "incomplete dominant"),
    ("dominant", "dominant"),
    ("recessive", "recessive"),
    ("unknown", "not known yet"),
)
UNKNOWN = "unknown"
FREE_ROWS = 6
MOST_ROWS = 60
LOOK_ROW = re.compile(r"look_(\d{1,2})")


def typed_rows(sent: Mapping[str, str]) -> list[tuple[int, str, str, str]]:
    """The rows of looks as they were typed, and free ones: number, look, copies, strength."""
    rows = range(1, min(MOST_ROWS, max(_rows(sent), default=0) + FREE_ROWS) + 1)
    return [(n, sent.get(f"look_{n}", ""), sent.get(f"copies_{n}", "1"), sent.get(f"push_{n}", "2")) for n in rows]


def _rows(sent: Mapping[str, str]) -> list[int]:
    """The numbers of the rows in which a look stands."""
    rows = (LOOK_ROW.fullmatch(key) for key, value in sent.items() if value.strip())
    return sorted(int(match[1]) for match in rows if match)


@lru_cache(maxsize=16)
def look_choices(catalogue: Catalogue) -> dict[str, tuple[str, str]]:
    """What can be chosen as a look ("Lobes at the belly: floating"), with its trait and level."""
    return {
        f"{words['name']}: {level['id'].replace('_', ' ')}": (trait, level["id"])
        for trait, words in words_of(catalogue).items()
        for level in words["levels"]
    }


def opinion_from(catalogue: Catalogue, sent: Mapping[str, str]) -> dict[str, Any]:
    """One opinion in the form of the core; :class:`Unfit` says what is missing and where."""
    kind = sent.get("kind", "")
    if kind == "gene":
        return _gene(catalogue, sent)
    if kind in ("name", "synonym"):
        return {"kind": kind, "gene": sent.get("gene", ""), "name": sent.get("name", "").strip()}
    if kind == "trade_name":
        return _trade_name(catalogue, sent)
    if kind == "switch":
        return {"kind": kind, "dispute": sent.get("dispute", "")}
    if kind == "weight":
        trait, level = _look(catalogue, sent.get("look", ""), "The look")
        copies, push = 2 if sent.get("copies") == "2" else 1, _push(sent.get("push", ""))
        gene = sent.get("gene", "")
        return {"kind": kind, "gene": gene, "copies": copies, "trait": trait, "level": level, "push": push}
    raise Unfit("Say what to add: a gene, a name, a switched point or a weight.")


def _trade_name(catalogue: Catalogue, sent: Mapping[str, str]) -> dict[str, Any]:
    read = understood(lookup(catalogue), sent.get("genes", ""))
    if read.unknown or read.questions or not read.genes:
        raise Unfit(f"“{sent.get('genes', '')}” is not a list of genes that means one thing. {read.left_open}".strip())
    return {"kind": "trade_name", "name": sent.get("name", "").strip(), "genes": dict(read.genes)}


def named_only(name: str) -> dict[str, Any]:
    """An own gene of which nothing is known but its name."""
    return {
        "kind": "gene",
        "id": id_from(name),
        "name": name[:1].upper() + name[1:],
        "inheritance": "incomplete_dominant",
        "unproven": True,
        "note": "how it is passed on is not known yet; it is reckoned as a gene that one copy of would show",
    }


def _gene(catalogue: Catalogue, sent: Mapping[str, str]) -> dict[str, Any]:
    name = sent.get("name", "").strip()
    if not name:
        raise Unfit("The gene needs a name.")
    gene: dict[str, Any] = {
        "kind": "gene",
        "id": id_from(name),
        "name": name,
        "inheritance": sent.get("inheritance", ""),
    }
    if gene["inheritance"] == UNKNOWN:
        gene |= {"inheritance": "incomplete_dominant", "unproven": True}
    if synonyms := [name.strip() for name in sent.get("synonyms", "").split(",") if name.strip()]:
        gene["synonyms"] = synonyms
    if welfare := sent.get("welfare", "").strip().rstrip("."):  # where it is told, its sentence is ended
        gene["welfare"] = welfare
    if sent.get("locus"):
        gene["locus"] = sent["locus"]
    if sent.get("note", "").strip():
        gene["note"] = sent["note"].strip()
    for row in _rows(sent):
        trait, level = _look(catalogue, sent[f"look_{row}"].strip(), f"Look {row}")
        copies = "two" if sent.get(f"copies_{row}") == "2" else "one"
        gene.setdefault(copies, {}).setdefault(trait, {})[level] = _push(sent.get(f"push_{row}", ""))
    return gene


def id_from(name: str) -> str:
    """An id from a name: small letters, figures and underscores."""
    plain = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")
    return plain if plain[:1].isalpha() else f"gene_{plain}"


def _look(catalogue: Catalogue, text: str, where: str) -> tuple[str, str]:
    choices = {name.lower(): look for name, look in look_choices(catalogue).items()}
    if text.strip().lower() not in choices:
        raise Unfit(
            f"{where}: “{text}” is no look with a level; choose one from the list, such as “Lobes at the belly: floating”."
        )
    return choices[text.strip().lower()]


def _push(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise Unfit(f"A strength is a number such as 2, not “{text}”.") from None


def override_words(catalogue: Catalogue, value: Mapping[str, Any]) -> str:
    """An opinion in words."""
    naming, kind = Naming(catalogue), value.get("kind")
    if kind == "gene":
        looks = sum(len(levels) for copies in ("one", "two") for levels in value.get(copies, {}).values())
        passed_on = "not known how it is passed on" if value.get("unproven") else value["inheritance"].replace("_", " ")
        return f"Own gene {value['name']}: {passed_on}, {looks} look{'' if looks == 1 else 's'}"
    if kind == "name":
        entries = {entry["id"]: entry for entry in catalogue.document["genes"]}
        before = entries.get(value["gene"], {}).get("built_in_name", value["gene"].replace("_", " "))
        return f"{before} is called {value['name']} here"
    if kind == "synonym":
        return f"{value['name']} is another name of {naming.gene(value['gene'])}"
    if kind == "trade_name":
        genes = ", ".join(naming.copies(gene, copies) for gene, copies in value["genes"].items())
        return f"{value['name']} is the name of {genes}"
    if kind == "switch":
        sides = {row["id"]: row.get("other_side", "") for row in catalogue.document.get("disputes", [])}
        return str(sides.get(value["dispute"], f"Disputed point {value['dispute']}"))
    if kind == "marker":
        mark = f"{words_of(catalogue)[value['trait']]['name'].lower()} {value['level'].replace('_', ' ')}"
        ratios = f"{value['ratio_seen']:.2g} times if seen, {value['ratio_unseen']:.2g} if not"
        return f"{naming.gene(value['gene'])}, mark of carriers: {mark} {ratios}"
    if kind == "trust":
        rests = f", after looks at {value['hatchlings']} proven animals" if "hatchlings" in value else ""
        return f"{words_of(catalogue)[value['trait']]['name']} counts {value['times']:g} times as strongly{rests}"
    if kind == "sureness":
        rests = f", after {value['answers']} answers on photos" if "answers" in value else ""
        return f"“{value['word']}” is worth {value['worth']:.0%}{rests}"
    if kind == "clarity":
        rests = f", after {value['answers']} answers on photos" if "answers" in value else ""
        name, stage = words_of(catalogue)[value["trait"]]["name"], value["stage"]
        return f"{name}, at the stage {stage}: read rightly {value['clarity']:.0%} of the time{rests}"
    look = f"{words_of(catalogue)[value['trait']]['name'].lower()} {value['level'].replace('_', ' ')}"
    return f"{naming.gene(value['gene'])}, {value['copies']} cop{'y' if value['copies'] == 1 else 'ies'}: {look} {value['push']:+g}"
