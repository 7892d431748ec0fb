"""The command line of the core: one JSON document in, one out (of drawings, if not asked otherwise, the SVG itself).

``strip`` and ``measure`` take a photo and the files of a line and a reference instead of a document. Bad input: nothing on
standard output, exit status 2, one line of JSON on standard error with ``error`` and ``at``.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from typing import Any, BinaryIO, NoReturn, TextIO

from eyot_core.catalogue import Catalogue, builtin_catalogue, builtin_document, catalogue_from
from eyot_core.drawing.answer import DRAWINGS, drawing_answer
from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_answer
from eyot_core.genetics.pairing import pairing_from
from eyot_core.hatchery.wishes import wish_answer
from eyot_core.identify.answer import DOCUMENT_KEYS, identify
from eyot_core.identify.compare import compare_document
from eyot_core.proof.answer import hets_answer, prove_answer
from eyot_core.reading import Node, parsed_json
from eyot_core.wording.answer import heard_answer, lines_answer
from eyot_core.wording.label import label_answer

WORDS = {"line": lines_answer, "hear": heard_answer, "label": label_answer, "wish": wish_answer}
PROOFS = {"hets": hets_answer, "prove": prove_answer}
COMMANDS = ("cross", "identify", "catalogue", "compare", *WORDS, *PROOFS, *DRAWINGS)
PHOTO_COMMANDS = ("strip", "measure")


def run(arguments: list[str], source: BinaryIO, out: TextIO, err: TextIO) -> int:
    """Runs one command; the exit status: 0, or 2 where the input is wrong."""
    try:
        if arguments and arguments[0] in PHOTO_COMMANDS:
            print(json.dumps(_photo_answer(arguments), ensure_ascii=False), file=out)
            return 0
        if len(arguments) != 1 or arguments[0] not in COMMANDS:
            raise InputError(f"name one of the commands {', '.join(COMMANDS + PHOTO_COMMANDS)}")
        answer = builtin_document() if arguments[0] == "catalogue" else _answer(arguments[0], source.read())
    except InputError as error:
        print(json.dumps({"error": error.message, "at": error.at}, ensure_ascii=False), file=err)
        return 2
    print(answer if isinstance(answer, str) else json.dumps(answer, ensure_ascii=False), file=out)
    return 0


def _answer(command: str, text: bytes) -> dict[str, Any] | str:
    node = Node(parsed_json(text)).object()
    if command in PROOFS:
        return PROOFS[command](node)
    catalogue = _catalogue_of(node)
    if command == "identify":
        return identify(node, catalogue)
    if command in DRAWINGS:
        return drawing_answer(command, node, catalogue)
    if command in WORDS:
        return WORDS[command](node, catalogue)
    if command == "compare":
        return compare_document(node, catalogue)
    node.object(["dam", "sires"], DOCUMENT_KEYS)
    return cross_answer(pairing_from(node, catalogue))


class _Arguments(argparse.ArgumentParser):
    """A parser whose errors are told as every error is."""

    def error(self, message: str) -> NoReturn:
        raise InputError(message)


def _photo_answer(arguments: list[str]) -> dict[str, Any]:
    from eyot_core.photo.answer import light_from, line_at, measure_answer, photo_at, strip_answer

    parser = _Arguments(prog=f"eyot core {arguments[0]}", add_help=False, allow_abbrev=False)
    parser.add_argument("photo")
    parser.add_argument("--line", required=True)
    parser.add_argument("--reference")
    if arguments[0] == "strip":
        parser.add_argument("--out", required=True)
    given = parser.parse_args(arguments[1:])
    photo = photo_at(given.photo)
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
