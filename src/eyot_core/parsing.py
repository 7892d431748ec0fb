"""Reading documents strictly: every value knows its place, so that every error can name it."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Iterator
from typing import Any

from eyot_core.errors import InputError

FRACTION = re.compile(r"(\d{1,12}(?:\.\d{1,18})?)(?:/(\d{1,12}))?")
"""How a chance may be written: bounded, since a number such as 1e-40000000 has forty million digits as a fraction."""
SHOWN = 40


def parsed_json(text: str | bytes) -> Any:
    """The JSON document in ``text``; an :class:`InputError` where it is no JSON, repeats a key or holds NaN or infinity."""
    try:
        return json.loads(text, object_pairs_hook=_object_without_repeats, parse_constant=_refuse_constant)
    except InputError:
        raise
    except RecursionError:
        raise InputError("the document is nested too deeply") from None
    except (ValueError, UnicodeDecodeError) as error:
        raise InputError(f"this is not a JSON document: {error}") from None


def _object_without_repeats(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    values: dict[str, Any] = {}
    for key, value in pairs:
        if key in values:
            raise InputError(f"the key {shown(key)} stands twice in one object")
        values[key] = value
    return values


def _refuse_constant(name: str) -> float:
    raise InputError(f"{name} is not a number that JSON allows")


def shown(value: object) -> str:
    """A short form of a value for a message.

    >>> shown("clown"), shown(3), shown({"a": 1})
    ("'clown'", '3', 'an object')
    """
    if isinstance(value, dict):
        return "an object"
    if isinstance(value, list):
        return "a list"
    if value is None or isinstance(value, bool):
        return {None: "null", True: "true", False: "false"}[value]
    text = repr(value)
    return text if len(text) <= SHOWN else text[: SHOWN - 1] + "…"


def allowed(choices: Iterable[object]) -> str:
    """The allowed values as a phrase; long lists are cut."""
    names = [str(choice) for choice in choices]
    return ", ".join(names[:12]) + (f" and {len(names) - 12} more" if len(names) > 12 else "")


class Node:
    """A value of a document together with its place (``dam.genes[2].copies``), which is put into words only where it is needed."""

    __slots__ = ("_at", "value")

    def __init__(self, value: Any, at: str | tuple[Node, str | int] = "") -> None:
        self.value = value
        self._at = at

    @property
    def at(self) -> str:
        """The place in words."""
        if isinstance(self._at, str):
            return self._at
        above, key = self._at
        if isinstance(key, int):
            return f"{above.at}[{key}]"
        return f"{above.at}.{key}" if above.at else key

    def wrong(self, message: str) -> InputError:
        """The error to raise for this value."""
        return InputError(message, self.at)

    @property
    def name(self) -> str:
        """The last part of the place, for messages."""
        return self.at.rsplit(".", 1)[-1] or "the document"

    def object(self, required: Iterable[str] = (), optional: Iterable[str] | None = None) -> Node:
        """This node, checked to be an object with the required keys and, if ``optional`` is given, no others."""
        if not isinstance(self.value, dict):
            raise self.wrong(f"{self.name} must be an object, got {shown(self.value)}")
        needed = list(required)
        if optional is not None:
            known = [*needed, *optional]
            for key in self.value:
                if key not in known:
                    raise self.child(key).wrong(f"the key {shown(key)} is not known here; allowed: {allowed(known)}")
        for key in needed:
            if key not in self.value:
                raise self.child(key).wrong(f"the key {shown(key)} is missing")
        return self

    def child(self, key: str) -> Node:
        """The value under ``key`` (``None`` if it is missing), with its place."""
        return Node(self.value.get(key), (self, str(key)))

    def has(self, key: str) -> bool:
        """Is the key there?"""
        return key in self.value

    def items(self) -> Iterator[tuple[str, Node]]:
        """The keys of an object with their nodes."""
        self.object()
        for key in self.value:
            yield key, self.child(key)

    def entries(self) -> list[Node]:
        """The nodes of a list."""
        if not isinstance(self.value, list):
            raise self.wrong(f"{self.name} must be a list, got {shown(self.value)}")
        return [Node(value, (self, index)) for index, value in enumerate(self.value)]

    def children(self, key: str) -> list[Node]:
        """The nodes of the list under ``key``; none if the key is left out."""
        return self.child(key).entries() if self.has(key) else []

    def text(self) -> str:
        """A string that is not empty."""
        if not isinstance(self.value, str) or not self.value:
            raise self.wrong(f"{self.name} must be a text that is not empty, got {shown(self.value)}")
        return self.value

    def choice(self, choices: Iterable[str], what: str | None = None) -> str:
        """One of a set of strings."""
        known = choices if isinstance(choices, (set, frozenset, dict, list, tuple)) else list(choices)
        if not isinstance(self.value, str) or self.value not in known:
            raise self.wrong(f"{what or self.name} must be one of {allowed(known)}, got {shown(self.value)}")
        return self.value

    def boolean(self) -> bool:
        """True or false."""
        if not isinstance(self.value, bool):
            raise self.wrong(f"{self.name} must be true or false, got {shown(self.value)}")
        return self.value

    def whole(self, least: int, most: int | None = None) -> int:
        """A whole number of at least ``least`` and at most ``most``."""
        ok = isinstance(self.value, int) and not isinstance(self.value, bool)
        if not ok or self.value < least or (most is not None and self.value > most):
            span = f"from {least} to {most}" if most is not None else f"of at least {least}"
            raise self.wrong(f"{self.name} must be a whole number {span}, got {shown(self.value)}")
        return int(self.value)

    def number(self, least: float = -math.inf, most: float = math.inf) -> float:
        """A finite number within bounds."""
        value = self.value
        if isinstance(value, (int, float)) and not isinstance(value, bool):
            number = float(value) if abs(value) < 1e300 else math.inf
            if math.isfinite(number) and least <= number <= most:
                return number
        span = "" if least == -math.inf else f" of at least {least:g}"
        span = f" from {least:g} to {most:g}" if most != math.inf else span
        raise self.wrong(f"{self.name} must be a number{span}, got {shown(value)}")

    def chance(self) -> float:
        """A probability, given as a number from 0 to 1 or as a fraction in a string ("2/3")."""
        if isinstance(self.value, str):
            fraction = FRACTION.fullmatch(self.value.strip())
            bottom = float(fraction[2] or 1) if fraction else 0.0
            if fraction is None or bottom == 0 or float(fraction[1]) / bottom > 1:
                raise self.wrong(
                    f'{self.name} must be a chance from 0 to 1 or a fraction such as "2/3", got {shown(self.value)}'
                )
            return float(fraction[1]) / bottom
        return self.number(0, 1)
