"""The words of a line of genes: what each phrase is, longest first, from the catalogue's names and ``data/line.yaml``."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache, cached_property
from pathlib import Path
from types import MappingProxyType
from typing import Any

import yaml
from rapidfuzz.distance import DamerauLevenshtein

from eyot_core.wording.lookup import Carried, Lookup

DATA = Path(__file__).parent / "data" / "line.yaml"
LONGEST = 6
LEAST_LETTERS, MANY_LETTERS = 5, 8
TOKEN = re.compile(
    r"[$€£]\s?\d[\d.,]*|\d[\d.,]*\s?[$€£]"
    r"|\(2\)|[*×]2\b|\bx2\b|\d+(?:[.,]\d+)?\s*(?:%|percent\b)|\d+/\d+|\b[01]\.[01]\b|\bt\+|[♂♀]"
    r"|[():;,?/+&|\[\]]|[^\s,+&/()?:;%|\[\]]+"
)
PERCENT = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:%|percent)|(\d+/\d+)")
OF_NO_GENE = re.compile(r"[$€£].*|\d.*[$€£]|\d[\d.,]*(?:g|gr|kg|gm|grams?|yo|yrs?|mo)?|(?:19|20)?\d\ds?|#\S+")
SIGNS = '.!"“”'
TRADE_FIGURES = {"25", "33", "34", "50", "66", "67", "75", "100"}
MARKS = {
    **dict.fromkeys((",", ";", "|"), "comma"),
    **dict.fromkeys(("(", "["), "open"),
    **dict.fromkeys((")", "]"), "close"),
    ":": "colon",
    "?": "doubt",
    "/": "slash",
    "(2)": "twice",
}


@dataclass(frozen=True)
class Alternative:
    """Genes that a name may stand for."""

    genes: tuple[Carried, ...]


@dataclass(frozen=True)
class Item:
    """A phrase of a line. ``kind``: gene, group, name, nothing, unknown, percent, a mark, or a kind of modifier.

    ``value``: of a gene its alternatives (more than one where the name has several meanings), of a group its entry, of others
    what the phrase says. ``start``, ``end``: where it stands in the line, in characters.
    """

    kind: str
    words: str
    value: Any = None
    start: int = 0
    end: int = 0


@cache
def vocabulary() -> dict[str, Any]:
    """What ``data/line.yaml`` holds."""
    return dict(yaml.safe_load(DATA.read_text(encoding="utf-8")))


@dataclass(frozen=True)
class Token:
    """A word, figure or mark in plain form, with its place in the text."""

    text: str
    start: int
    end: int


def tokens_of(text: str) -> list[Token]:
    """The tokens of a line, in plain form; figures, brackets and marks stand by themselves.

    >>> [token.text for token in tokens_of("66 % het Clown (T+ albino)/yb?")]
    ['66 %', 'het', 'clown', '(', 't+', 'albino', ')', '/', 'yb', '?']
    """
    even = "".join(
        " " if letter in "-_’'" else letter.lower() if len(letter.lower()) == 1 else letter for letter in text
    )
    tokens = []
    for match in TOKEN.finditer(even):
        word = " ".join(match[0].split()).strip(SIGNS)
        if word:
            tokens.append(Token(word, match.start(), match.end()))
    return tokens


class LineWords:
    """All phrases that can stand in a line under one catalogue."""

    def __init__(self, lookup: Lookup) -> None:
        self.lookup = lookup

    @cached_property
    def phrases(self) -> dict[str, Item]:
        """Every phrase in plain form with what it is; of two kinds of one phrase genes come first, then modifiers."""
        words, phrases = vocabulary(), {}
        for kind, phrase, value in self._plain_phrases(words):
            phrases[phrase] = Item(kind, phrase, value)
        for entry in words["groups"]:
            for phrase in map(_phrase, entry["words"]):
                phrases[phrase] = Item("group", phrase, entry)
            if "some" in entry:
                phrases[_phrase(entry["some"])] = Item("some", entry["some"], entry)
        for phrase, alternatives in self._names().items():
            phrases[phrase] = Item("gene", phrase, alternatives)
        for short, written in words["short"].items():
            genes = self._genes_in(written, phrases)
            if genes:
                phrases[_phrase(short)] = Item("gene", _phrase(short), (Alternative(genes),))
        return phrases

    def _plain_phrases(self, words: dict[str, Any]) -> Iterator[tuple[str, str, Any]]:
        for kind, key in (("name", "names"), ("nothing", "nothing"), ("normal", "normal")):
            yield from ((kind, _phrase(word), None) for word in words[key])
        lists = (
            "het",
            "hets",
            "possible",
            "super",
            "twice",
            "once",
            "maybe_twice",
            "visual",
            "absent",
            "either",
            "and",
        )
        for kind in (*lists, "possible_het"):
            yield from ((kind, _phrase(word), None) for word in words[kind])
        mappings = (("several_hets", "several_hets"), ("known", "known"), ("sex", "sexes"), ("maker", "makers"))
        for kind, key in mappings:
            yield from ((kind, _phrase(word), value) for word, value in words[key].items())

    def _names(self) -> dict[str, tuple[Alternative, ...]]:
        """Names of genes and combinations; a name of several combinations has several meanings."""
        names: dict[str, list[Alternative]] = {}
        for entry in self.lookup.catalogue.document.get("names", []):
            one = Alternative(tuple(entry["genes"].items()))
            for phrase in {_phrase(entry["name"]), _phrase(entry["name"]).replace(" ", "")}:
                names.setdefault(phrase, []).append(one)
        asked = {_phrase(word) for entry in vocabulary()["groups"] for word in entry["words"]}
        combos = {phrase: tuple(meanings) for phrase, meanings in names.items() if phrase not in asked}
        genes = self._genes()
        return {**combos, **genes, **self._spaced(combos)}

    @staticmethod
    def _spaced(combos: dict[str, tuple[Alternative, ...]]) -> dict[str, tuple[Alternative, ...]]:
        """Names that begin with "super" are written apart too."""
        return {
            f"super {name[5:]}": meanings
            for name, meanings in combos.items()
            if name.startswith("super") and name[5:6] != " "
        }

    def _genes(self) -> dict[str, tuple[Alternative, ...]]:
        genes: dict[str, tuple[Alternative, ...]] = {}
        own: dict[str, str] = {}
        for entry in self.lookup.catalogue.document["genes"]:
            former = [entry["built_in_name"]] if "built_in_name" in entry else []
            main = _phrase(entry.get("name", entry["id"]))
            own[main] = entry["id"]
            copies = 2 if self.lookup.catalogue.genes[entry["id"]].is_recessive else 1
            for name in (main, entry["id"], *entry.get("synonyms", []), *former):
                genes.setdefault(_phrase(name), (Alternative(((entry["id"], copies),)),))
            if "two_copies" in entry and not _phrase(entry["two_copies"]).startswith("super "):
                genes[_phrase(entry["two_copies"])] = (Alternative(((entry["id"], 2),)),)
        for phrase, (one,) in list(genes.items()):
            if phrase not in own and (both := self._two_genes(phrase, own)):
                genes[phrase] = (
                    one,
                    Alternative((one.genes[0], *(pair for pair in both if pair[0] != one.genes[0][0]))),
                )
        return genes

    @staticmethod
    def _two_genes(phrase: str, own: dict[str, str]) -> tuple[Carried, ...]:
        """A byname of one gene that may as well be two genes: "cinnamon pastel"."""
        words = phrase.split()
        for at in range(1, len(words)):
            parts = [own.get(" ".join(part)) for part in (words[:at], words[at:])]
            if all(parts):
                return tuple((str(part), 1) for part in parts)
        return ()

    def _genes_in(self, written: str, phrases: dict[str, Item]) -> tuple[Carried, ...]:
        """The genes of a short form that is written out: genes one after another, ``super`` before one of two copies."""
        genes: list[Carried] = []
        tokens, at, two = [token.text for token in tokens_of(written)], 0, False
        while at < len(tokens):
            length, item = _longest(phrases, tokens[at:])
            if item is None:
                return ()
            if item.kind == "gene":
                genes += [(gene, 2 if two else copies) for gene, copies in item.value[0].genes]
            two = item.kind == "super"
            at += length
        return tuple(genes)

    @cached_property
    def _closed_up(self) -> dict[str, Item]:
        """Genes by their names without spaces, for what is written apart or together: "black head", "yellowbelly"."""
        genes = ((phrase.replace(" ", ""), item) for phrase, item in self.phrases.items() if item.kind == "gene")
        return {name: item for name, item in genes if len(name) > LEAST_LETTERS}

    def items(self, text: str) -> tuple[list[Item], list[tuple[str, str]]]:
        """The phrases of a line in their order, and (word, what it was taken for) where the spelling was nearly right."""
        tokens, guessed = tokens_of(text), dict[int, tuple[str, str]]()
        words = [token.text for token in tokens]
        for at, word in enumerate(words):
            if near := self._nearly(word):
                guessed[at] = (word, near)
                words[at] = near
        items, at = [], 0
        while at < len(tokens):
            length, item = _longest(self.phrases, words[at:], self._closed_up)
            if item is None:
                item = _single(tokens[at].text)
                guessed.pop(at, None)
            start, end = tokens[at].start, tokens[at + length - 1].end
            if item.kind in ("unknown", "name"):
                item = replace(item, words=text[start:end].strip(SIGNS))
            items.append(replace(item, start=start, end=end))
            at += length
        return items, [*guessed.values()]

    @cached_property
    def _spelling(self) -> tuple[set[str], list[str]]:
        """All words that stand in some phrase, and those of genes that are long enough to be told from others."""
        every = {word for phrase in self.phrases for word in phrase.split()}
        genes = {word for phrase, item in self.phrases.items() if item.kind == "gene" for word in phrase.split()}
        return every, sorted(word for word in genes if len(word) >= LEAST_LETTERS)

    def _nearly(self, token: str) -> str:
        """The one word that a token nearly is: a letter off, of long words two; empty where none is or several are."""
        every, genes = self._spelling
        if token in every or len(token) < LEAST_LETTERS or not token.isalpha():
            return ""
        for off in (1, 2) if len(token) >= MANY_LETTERS else (1,):
            near = [word for word in genes if word[0] == token[0] and DamerauLevenshtein.distance(word, token) <= off]
            if near:
                return near[0] if len(near) == 1 else ""
        return ""


def _longest(
    phrases: dict[str, Item], tokens: Sequence[str], closed_up: Mapping[str, Item] = MappingProxyType({})
) -> tuple[int, Item | None]:
    for length in range(min(LONGEST, len(tokens)), 0, -1):
        words = [token for token in tokens[:length] if token not in ("(", ")")]
        if length > len(words) and (tokens[0] == "(" or tokens[length - 1] != ")" or "(" not in tokens[:length]):
            continue  # brackets within a name: "axanthic (line B)"
        if item := phrases.get(" ".join(words)) or closed_up.get("".join(words)):
            return length, item
    return 1, None


def _single(token: str) -> Item:
    if token in MARKS:
        return Item(MARKS[token], token)
    if percent := PERCENT.fullmatch(token):
        return Item("percent", token, percent[1] or percent[2])
    if token in TRADE_FIGURES:
        return Item("figure", token, token)
    return Item("nothing" if OF_NO_GENE.fullmatch(token) else "unknown", token)


def _phrase(name: str) -> str:
    return " ".join(token.text for token in tokens_of(str(name)))
