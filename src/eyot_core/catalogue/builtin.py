"""The built-in catalogue: readable YAML, one file a gene family, joined into one document."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import yaml

from eyot_core.catalogue.model import Catalogue
from eyot_core.catalogue.read import FORMAT, catalogue_from
from eyot_core.errors import InputError
from eyot_core.reading import Node

DATA = Path(__file__).parent / "data"
PUSH_SCALE = 2.0  # the files keep the reference's scale (1 usual, 2 strong, 3 near-certain); see docs/catalogue.md
SECTIONS = ("loci", "linkage", "genes", "traits", "effects", "dilutions", "masks", "markers", "names")


def joined_document(folder: Path) -> dict[str, Any]:
    """The YAML files of a folder as one catalogue document, in the order of their names."""
    document: dict[str, Any] = {"format": FORMAT, **{section: [] for section in SECTIONS}}
    for path in sorted(folder.glob("*.yaml")):
        try:
            found = yaml.safe_load(path.read_text(encoding="utf-8")) or {}
        except yaml.YAMLError as error:
            mark = getattr(error, "problem_mark", None)
            line = f":{mark.line + 1}" if mark else ""
            raise InputError(f"this is not YAML: {getattr(error, 'problem', error)}", f"{path.name}{line}") from None
        for section, entries in found.items():
            if section not in SECTIONS or not isinstance(entries, list):
                raise InputError(f"a catalogue file holds lists under {', '.join(SECTIONS)}", f"{path.name}: {section}")
            document[section].extend(entries)
    for effect in document["effects"]:
        effect["push"] = {level: push * PUSH_SCALE for level, push in effect["push"].items()}
    return document


@cache
def builtin_catalogue() -> Catalogue:
    """The built-in catalogue, read once."""
    return catalogue_from(Node(joined_document(DATA)))


def builtin_document() -> dict[str, Any]:
    """The built-in catalogue in the JSON form of the contract."""
    return builtin_catalogue().document
