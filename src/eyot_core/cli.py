"""The command line of the core: one JSON document in, one out (of drawings, if not asked otherwise, the SVG itself).

``strip``, ``measure``, ``find`` and ``card-in`` take a photo and the files of a line and a reference instead of a document, ``card`` the
numbers to print. Bad input: nothing on standard output, exit status 2, one line of JSON on standard error with ``error`` and ``at``.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable
from importlib import import_module
from typing import Any, BinaryIO, NoReturn, TextIO

from eyot_core.catalogue import Catalogue, builtin_catalogue, builtin_document, catalogue_from
from eyot_core.errors import InputError
from eyot_core.parsing import Node, parsed_json

ANSWERS = {
    "cross": "genetics.cross:cross_document",
    "identify": "identify.answer:identify",
    "compare": "identify.compare:compare_document",
    "line": "wording.answer:lines_answer",
    "hear": "wording.answer:heard_answer",
    "label": "wording.label:label_answer",
    "wish": "hatchery.wishes:wish_answer",
    "project": "generations.answer:project_answer",
    "plate": "drawing.answer:plate_answer",
    "strip-drawing": "drawing.answer:strip_drawing_answer",
}
"""What answers a command, from its document and its catalogue; imported when it is asked for, since some are slow to import."""
PROOFS = {"hets": "proof.answer:hets_answer", "prove": "proof.answer:prove_answer"}
"""What answers from its document alone."""
COMMANDS = (
    "cross",
    "identify",
    "catalogue",
    "compare",
    "line",
    "hear",
    "label",
    "wish",
    "project",
    *PROOFS,
    "plate",
    "strip-drawing",
)
PHOTO_COMMANDS = ("strip", "measure", "find", "card-in")
CARD = "card"


def run(arguments: list[str], source: BinaryIO, out: TextIO, err: TextIO) -> int:
    """Runs one command; the exit status: 0, or 2 where the input is wrong."""
    try:
        if arguments and arguments[0] in PHOTO_COMMANDS:
            print(json.dumps(_photo_answer(arguments), ensure_ascii=False), file=out)
            return 0
        if arguments and arguments[0] == CARD:
            print(json.dumps(_sheet(arguments[1:]), ensure_ascii=False), file=out)
            return 0
        if len(arguments) != 1 or arguments[0] not in COMMANDS:
            raise InputError(f"name one of the commands {', '.join((*COMMANDS, *PHOTO_COMMANDS, CARD))}")
        answer = builtin_document() if arguments[0] == "catalogue" else _answer(arguments[0], source.read())
    except InputError as error:
        print(json.dumps({"error": error.message, "at": error.at}, ensure_ascii=False), file=err)
        return 2
    print(answer if isinstance(answer, str) else json.dumps(answer, ensure_ascii=False), file=out)
    return 0


def _answer(command: str, text: bytes) -> dict[str, Any] | str:
    node = Node(parsed_json(text)).object()
    if command in PROOFS:
        return _imported(PROOFS[command])(node)
    return _imported(ANSWERS[command])(node, _catalogue_of(node))


def _imported(where: str) -> Callable[..., dict[str, Any] | str]:
    module, _, name = where.partition(":")
    return getattr(import_module(f"eyot_core.{module}"), name)  # type: ignore[no-any-return]


class _Arguments(argparse.ArgumentParser):
    """A parser whose errors are told as every error is."""

    def error(self, message: str) -> NoReturn:
        raise InputError(message)


def _sheet(arguments: list[str]) -> dict[str, Any]:
    from eyot_core.photo.card_sheet import write_sheet

    parser = _Arguments(prog=f"eyot core {CARD}", add_help=False, allow_abbrev=False)
    parser.add_argument("--out", required=True)
    parser.add_argument("--id", nargs="+", action="extend", default=[])
    parser.add_argument("--printed-grey", action="store_true")
    given = parser.parse_args(arguments)
    try:
        write_sheet(given.id, given.out, printed_grey=given.printed_grey)
    except OSError as error:
        raise InputError(f"{given.out} can't be written: {error.strerror or error}", "out") from error
    return {"out": given.out, "ids": given.id}


def _photo_answer(arguments: list[str]) -> dict[str, Any]:
    from eyot_core.photo.answer import (
        box_at,
        card_answer,
        find_answer,
        light_from,
        line_at,
        measure_answer,
        photo_at,
        strip_answer,
    )

    parser = _Arguments(prog=f"eyot core {arguments[0]}", add_help=False, allow_abbrev=False)
    parser.add_argument("photo")
    if arguments[0] in ("strip", "measure"):
        parser.add_argument("--line", required=True)
    if arguments[0] != "card-in":
        parser.add_argument("--reference")
    if arguments[0] == "strip":
        parser.add_argument("--out", required=True)
    given = parser.parse_args(arguments[1:])
    photo = photo_at(given.photo)
    if arguments[0] == "card-in":
        return card_answer(photo)
    if arguments[0] == "find":
        return find_answer(photo, box_at(given.reference) if given.reference else None)
    line = line_at(given.line, photo)
    light = light_from(given.reference, photo) if given.reference else None
    return (
        strip_answer(photo, line, light, given.out) if arguments[0] == "strip" else measure_answer(photo, line, light)
    )


def _catalogue_of(node: Node) -> Catalogue:
    return catalogue_from(node.child("catalogue")) if node.has("catalogue") else builtin_catalogue()


def main() -> None:
    """Entry point of ``bin/eyot core``. A reader that stops early (``| head``) is no error of ours."""
    try:
        status = run(sys.argv[1:], sys.stdin.buffer, sys.stdout, sys.stderr)
        sys.stdout.flush()
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        status = 1
    sys.exit(status)


if __name__ == "__main__":
    main()
