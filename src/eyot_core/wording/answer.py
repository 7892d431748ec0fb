"""The JSON forms of what is said in words: lines of genes, and looks as they are dictated."""

from __future__ import annotations

from typing import Any

from eyot_core.catalogue.model import Catalogue
from eyot_core.parsing import Node
from eyot_core.wording.dictation import hear_answer
from eyot_core.wording.line import line_answer
from eyot_core.wording.lookup import Lookup


def lines_answer(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The answer of ``line``: what each text is understood as; :class:`~eyot_core.errors.InputError` where it is wrong."""
    lookup = Lookup(catalogue)
    return {"lines": [line_answer(lookup, text) for text in texts_in(node)]}


def heard_answer(node: Node, catalogue: Catalogue) -> dict[str, Any]:
    """The answer of ``hear``: the looks of each text; :class:`~eyot_core.errors.InputError` where the document is wrong."""
    return {"heard": [hear_answer(catalogue, text) for text in texts_in(node)]}


def texts_in(node: Node) -> list[str]:
    """The texts of a document; each a string, which may be empty."""
    node.object(["texts"], ["texts", "catalogue"])
    texts = []
    for entry in node.child("texts").entries():
        if not isinstance(entry.value, str):
            raise entry.wrong(f"a text must be a string, got {type(entry.value).__name__}")
        texts.append(entry.value)
    return texts
