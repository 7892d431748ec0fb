"""The built-in catalogue: readable YAML, one file a gene family, joined into one document."""

from __future__ import annotations

import re
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
LOADER = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
STEP = re.compile(r"([^.\[\]]+)|\[(\d+)\]")


def catalogue_in(folder: Path) -> Catalogue:
    """The catalogue in the YAML files of a folder, joined in the order of their names.

    A mistake is an :class:`~eyot_core.errors.InputError` whose place names file, line and key.
    """
    files = {path.name: path.read_text(encoding="utf-8") for path in sorted(folder.glob("*.yaml"))}
    parts = {name: _lists_in(name, text) for name, text in files.items()}
    document: dict[str, Any] = {"format": FORMAT, **{section: [] for section in SECTIONS}}
    for part in parts.values():
        for section, entries in part.items():
            document[section] += entries
    try:
        for effect in document["effects"]:
            _scale(effect)
        return catalogue_from(Node(document))
    except InputError as error:
        raise InputError(error.message, _place_in_files(error.at, files, parts)) from None


def _lists_in(name: str, text: str) -> dict[str, list[Any]]:
    try:
        found = yaml.load(text, LOADER) or {}  # noqa: S506  a safe loader, the compiled one where there is one
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        line = f", line {mark.line + 1}" if mark else ""
        raise InputError(f"this is not YAML: {getattr(error, 'problem', error)}", f"{name}{line}") from None
    if not isinstance(found, dict):
        raise InputError(f"a catalogue file holds lists under {', '.join(SECTIONS)}", name)
    for section, entries in found.items():
        if section not in SECTIONS or not isinstance(entries, list):
            raise InputError(f"a catalogue file holds lists under {', '.join(SECTIONS)}", f"{name}: {section}")
    return found


def _scale(effect: Any) -> None:
    """From the reference's scale to natural-log units; what is no number is left for the reader to refuse."""
    push = effect.get("push") if isinstance(effect, dict) else None
    if isinstance(push, dict):
        numbers = {level: value for level, value in push.items() if isinstance(value, (int, float))}
        effect["push"] = push | {level: value * PUSH_SCALE for level, value in numbers.items()}


def _place_in_files(at: str, files: dict[str, str], parts: dict[str, dict[str, list[Any]]]) -> str:
    """From a place in the joined document (``effects[31].trait``) to file, line and key."""
    steps = [key or int(index) for key, index in STEP.findall(at)]
    if len(steps) < 2 or not isinstance(steps[1], int):
        return at
    section, number, rest = str(steps[0]), steps[1], steps[2:]
    for name, part in parts.items():
        own = len(part.get(section, []))
        if number < own:
            line = _line_of(yaml.compose(files[name], LOADER), [section, number, *rest])
            key = "".join(f".{step}" if isinstance(step, str) else f"[{step}]" for step in rest).lstrip(".")
            return f"{name}, line {line}: {key or f'{section}[{number}]'}"
        number -= own
    return at


def _line_of(node: Any, steps: list[str | int]) -> int:
    """The line of the deepest node that can be reached by these keys and positions; the first line is 1."""
    for step in steps:
        if isinstance(node, yaml.MappingNode):
            found = [value for key, value in node.value if key.value == step]
        else:
            found = node.value[step : step + 1] if isinstance(step, int) and isinstance(node.value, list) else []
        if not found:
            break
        node = found[0]
    return int(node.start_mark.line) + 1


@cache
def builtin_catalogue() -> Catalogue:
    """The built-in catalogue, read once."""
    return catalogue_in(DATA)


def builtin_document() -> dict[str, Any]:
    """The built-in catalogue in the JSON form of the contract."""
    return builtin_catalogue().document
