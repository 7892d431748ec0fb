"""The command line of the core: one JSON document in, one out (of drawings, if not asked otherwise, the SVG itself).

Bad input: nothing on standard output, exit status 2, one line of JSON on standard error with ``error`` and ``at``.
"""

from __future__ import annotations

import json
import os
import sys
from typing import Any, BinaryIO, TextIO

from eyot_core.catalogue import Catalogue, builtin_catalogue, builtin_document, catalogue_from
from eyot_core.drawing.answer import DRAWINGS, drawing_answer
from eyot_core.errors import InputError
from eyot_core.genetics.cross import cross_answer
from eyot_core.genetics.pairing import pairing_from
from eyot_core.identify.answer import DOCUMENT_KEYS, identify
from eyot_core.identify.compare import compare_document
from eyot_core.reading import Node, parsed_json

COMMANDS = ("cross", "identify", "catalogue", "compare", *DRAWINGS)


def run(arguments: list[str], source: BinaryIO, out: TextIO, err: TextIO) -> int:
    """Runs one command; the exit status: 0, or 2 where the input is wrong."""
    try:
        if len(arguments) != 1 or arguments[0] not in COMMANDS:
            raise InputError(f"name one of the commands {', '.join(COMMANDS)}")
        answer = builtin_document() if arguments[0] == "catalogue" else _answer(arguments[0], source.read())
    except InputError as error:
        print(json.dumps({"error": error.message, "at": error.at}, ensure_ascii=False), file=err)
        return 2
    print(answer if isinstance(answer, str) else json.dumps(answer, ensure_ascii=False), file=out)
    return 0


def _answer(command: str, text: bytes) -> dict[str, Any] | str:
    node = Node(parsed_json(text)).object()
    catalogue = _catalogue_of(node)
    if command == "identify":
        return identify(node, catalogue)
    if command in DRAWINGS:
        return drawing_answer(command, node, catalogue)
    if command == "compare":
        return compare_document(node, catalogue)
    node.object(["dam", "sires"], DOCUMENT_KEYS)
    return cross_answer(pairing_from(node, catalogue))


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
