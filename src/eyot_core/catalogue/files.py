"""A catalogue as people write it: readable YAML, one file a gene family, joined into one document."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import yaml

from eyot_core.catalogue.model import Catalogue
from eyot_core.catalogue.read import FORMAT, catalogue_from
from eyot_core.catalogue.written import AS_THEY_STAND, Written, WrittenError, written_out
from eyot_core.errors import InputError
from eyot_core.parsing import Node

SECTIONS = (*AS_THEY_STAND, "genes", "groups", "rules")
LOADER = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
STEP = re.compile(r"([^.\[\]]+)|\[(\d+)\]")


def catalogue_in(folder: Path) -> Catalogue:
    """The catalogue in the YAML files of a folder, joined in the order of their names.

    A mistake is an :class:`~eyot_core.errors.InputError` whose place names file, line and key.
    """
    files = {path.name: path.read_text(encoding="utf-8") for path in sorted(folder.glob("*.yaml"))}
    parts = {name: _lists_in(name, text) for name, text in files.items()}
    try:
        written = written_out(parts, FORMAT)
    except WrittenError as error:
        raise InputError(error.message, _place(files, error.file, error.at)) from None
    try:
        return catalogue_from(Node(written.document))
    except InputError as error:
        raise InputError(error.message, _place_in_files(error.at, files, written)) from None


def _lists_in(name: str, text: str) -> dict[str, list[Any]]:
    try:
        lists = yaml.load(text, LOADER) or {}  # noqa: S506  a safe loader, the compiled one where there is one
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        line = f", line {mark.line + 1}" if mark else ""
        raise InputError(f"this is not YAML: {getattr(error, 'problem', error)}", f"{name}{line}") from None
    if not isinstance(lists, dict):
        raise InputError(f"a catalogue file holds lists under {', '.join(SECTIONS)}", name)
    for section, entries in lists.items():
        if section not in SECTIONS or not isinstance(entries, list):
            raise InputError(f"a catalogue file holds lists under {', '.join(SECTIONS)}", f"{name}: {section}")
    return lists


def _place_in_files(at: str, files: dict[str, str], written: Written) -> str:
    """From a place in the joined document (``effects[31].push.lighter``) to file, line and key."""
    steps = _steps(at)
    if len(steps) < 2 or not isinstance(steps[1], int) or steps[1] >= len(written.origins.get(str(steps[0]), [])):
        return at
    file, origin = written.origins[str(steps[0])][steps[1]]
    rest = [] if steps[2:] == ["trait"] else steps[2:]  # in the files the look is the key itself
    return _place(files, file, origin, rest)


def _steps(at: str) -> list[str | int]:
    return [key or int(index) for key, index in STEP.findall(at)]


def _place(files: dict[str, str], file: str, at: str, rest: list[str | int] | None = None) -> str:
    """File, line and key of a path in a file, followed as far as the file has it by the keys in ``rest``."""
    line, key = _line_of(yaml.compose(files[file], LOADER), [*_steps(at), *(rest or [])])
    return f"{file}, line {line}: {key}"


def _line_of(node: Any, steps: list[str | int]) -> tuple[int, str]:
    """The line of the deepest node that can be reached by these keys and positions, with the keys gone through.

    The first line is 1. A key that the node lacks is skipped (written out, an entry has keys of its own), but named where it is the last.
    """
    gone: list[str] = []
    for number, step in enumerate(steps):
        if isinstance(node, yaml.MappingNode):
            nodes = [value for key, value in node.value if key.value == step]
        else:
            nodes = node.value[step : step + 1] if isinstance(step, int) and isinstance(node.value, list) else []
        if isinstance(step, str) and (nodes or number == len(steps) - 1):
            gone.append(step)
        node = nodes[0] if nodes else node
    return int(node.start_mark.line) + 1, ".".join(gone[1:]) or gone[0]
