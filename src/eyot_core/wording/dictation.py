"""What a keeper says aloud, as looks to confirm: "floating lobes, pale head, no freckles, brighter than egg 4".

Each clause is held against ``data/hearing.yaml``: the places of the body, what is seen there, strong and weak words, and what is
denied. A clause is understood only if every word of it has its part; what may mean two things is offered as both, and a phrase is
better not understood than wrong. Nothing is answered by it: what was heard is put before the keeper.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import yaml

from eyot_core.catalogue.model import Catalogue, Trait

DATA = Path(__file__).parent / "data" / "hearing.yaml"
CLAUSE = re.compile(r"([,.;:!?\n]|\band\b|\bwith\b|\bbut\b|\bplus\b|&)")
AND = ("and", "&", "with")
LISTS = (",", ";", ":", *AND, "but")
OR = re.compile(r"\bor\b")
AS_MUCH_AS = re.compile(r"\bas \w+ as\b")
LISTED = re.compile(r"[,;]|\bor\b")
RUN_ON = re.compile(r"\s(?=(?:no|without)\s)")
WORD = re.compile(r"[a-z0-9]+")
THAN = re.compile(r"\bthan\s+(?:the\s+|in\s+|on\s+)?(?:egg|hatchling|sibling|number|baby|no|nr)?\s*#?\s*(\w+)\s*$")
USUAL = re.compile(
    r"\bthan\s+(?:a\s+|the\s+|its\s+)?(?:normals?|usual|ordinary|most|average|expected|siblings?|others?|rest)\b.*$"
)
COUNTED = ("zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
NUMBERS = {word: str(number) for number, word in enumerate(COUNTED)}
MOST_MEANINGS = 3
UNSAID = ("none", "present")
"""Levels whose names say only whether the look is there."""
TELLING = 3
"""So many words of a level's description tell the look without its name."""
Look = tuple[str, str]
Words = tuple[str, ...]


@dataclass(frozen=True)
class Heard:
    """What a clause says: one look, or several of which one is meant. ``confidence``: sure, or likely where it was hedged."""

    looks: tuple[Look, ...]
    words: str
    confidence: str = "sure"

    @property
    def doubtful(self) -> bool:
        """May it mean more than one thing?"""
        return len(self.looks) > 1

    @property
    def is_unsure(self) -> bool:
        """Is it to count as likely: hedged, or one of several meanings?"""
        return self.doubtful or self.confidence == "likely"


@dataclass(frozen=True)
class HeardComparison:
    """A comparison with a sibling: ``answer`` more or less of a look than hatchling ``than``."""

    trait: str
    answer: str
    than: str
    words: str


@dataclass(frozen=True)
class Dictated:
    """What a text was heard as, in the order said, and the clauses that were not understood."""

    heard: tuple[Heard, ...]
    unheard: tuple[str, ...]
    beside: tuple[HeardComparison, ...] = ()


def dictated(catalogue: Catalogue, text: str) -> Dictated:
    """Looks to confirm from a text as spoken; of two on one look the later counts.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> [one.looks for one in dictated(builtin_catalogue(), "Floating lobes, pale head").heard]
    [(('lobe_attach', 'floating'),), (('head_lightness', 'lighter'),)]
    """
    ear, heard, beside, unheard = _ear(catalogue), dict[frozenset[str], Heard](), list[HeardComparison](), list[str]()
    for words, places in ear.in_their_places(_clauses(text)):
        if compared := ear.compared(words):
            beside.append(compared)
            continue
        parts = ear.parts(words, places)
        for part, looks in parts:
            key = frozenset(trait for trait, _ in looks)
            heard.pop(key, None)
            heard[key] = Heard(looks, part, "likely" if ear.is_hedged(words) else "sure")
        if not parts:
            unheard.append(words)
    return Dictated(tuple(heard.values()), tuple(unheard), tuple(beside))


def hear_answer(catalogue: Catalogue, text: str) -> dict[str, Any]:
    """One text in the JSON form of ``bin/eyot core hear``; ``compared`` with siblings is a key of our own."""
    dictation = dictated(catalogue, text)
    looks: list[dict[str, Any]] = []
    for one in dictation.heard:
        meanings = [{"trait": trait, "level": level} for trait, level in one.looks]
        looks.append({"either": meanings} if one.doubtful else {**meanings[0], "confidence": one.confidence})
    answer: dict[str, Any] = {"looks": looks, "not_understood": list(dictation.unheard)}
    compared = [{"trait": one.trait, "answer": one.answer, "than": one.than} for one in dictation.beside]
    return answer | ({"compared": compared} if compared else {})


def _clauses(text: str) -> list[tuple[str, str]]:
    """The clauses of a text, each with the mark or word before it."""
    even = re.sub(r"[’']", "", text.lower()).replace("-", " ")
    even = AS_MUCH_AS.sub("same", even)
    for phrase in vocabulary()["joined"]:
        even = even.replace(phrase, phrase.replace(" ", ""))
    even = USUAL.sub("", even) if even.count(" than ") == 1 else even
    parts = CLAUSE.split(even)
    marks = ["", *parts[1::2]]
    return [(" ".join(clause.split()), mark) for clause, mark in zip(parts[::2], marks, strict=True)]


@cache
def vocabulary() -> dict[str, Any]:
    """What ``data/hearing.yaml`` holds; all values are texts."""
    return dict(yaml.load(DATA.read_text(encoding="utf-8"), yaml.BaseLoader))  # noqa: S506  reads texts only


@dataclass(frozen=True)
class _Way:
    """One way of understanding a clause: words used for the place and for the level; ``level`` empty: the place alone."""

    trait: str
    level: str
    place: Words
    used: int
    weak: bool
    rest: Words

    @property
    def rank(self) -> tuple[int, int, bool]:
        """How well the words fit: many used, a long name of the place, a name that is the look's own."""
        return self.used, len(self.place), not self.weak


@dataclass(frozen=True)
class _Around:
    """Places that the clauses around one name. ``near``: what it is joined to; ``far``: what stood before a comma, which counts
    only if the clause says nothing by itself."""

    near: tuple[Words, ...]
    far: tuple[Words, ...]


class _Ear:
    """The vocabulary under one catalogue: looks and levels that it lacks are left out."""

    def __init__(self, catalogue: Catalogue) -> None:
        words = vocabulary()
        self.traits = catalogue.traits
        self.entries: dict[str, Any] = {name: words["traits"].get(name, {}) for name in catalogue.traits}
        self.own = {entry["id"]: entry for entry in catalogue.document.get("traits", [])}
        self.filler = {_stem(word) for word in words["filler"]}
        self.hedges = [phrase.split() for phrase in (*words["likely"],)]
        self.dropped = [phrase.split() for phrase in (*words["sure"], *words["likely"])]
        self.kinds = {kind: {_stem(word) for word in words[kind]} for kind in ("more", "less", "not", "gone", "whole")}
        self.modifiers = set().union(*self.kinds.values())
        self.instead = {tuple(key.split()): value.split() for key, value in words["instead"].items()}
        self.comparing: dict[str, Any] = words["compared"]
        self.known = self._known_words(words["elsewhere"], catalogue)

    def _known_words(self, elsewhere: Sequence[str], catalogue: Catalogue) -> set[str]:
        """Words that say something: of looks, of genes, and of what is not a look."""
        phrases = [
            phrase for trait in self.traits for key in ("levels", "alone") for _, phrase in self._phrases(trait, key)
        ]
        places = [place for trait in self.traits for place, _ in self._places(trait)]
        genes = [_words(gene.replace("_", " ")) for gene in catalogue.genes]
        return {_stem(word) for word in elsewhere}.union(self.modifiers, *phrases, *places, *genes)

    def content(self, words: str) -> Words:
        """The words of a clause that must have a part in what is understood."""
        said = self._said(words)
        for phrase in self.dropped:
            said = _without_run(said, phrase)
        stems = tuple(_stem(word) for word in said)
        return tuple(word for word in stems if word not in self.filler)

    def _said(self, words: str) -> list[str]:
        said = [
            COUNTED[int(word)] if word.isdecimal() and int(word) < len(COUNTED) else word
            for word in WORD.findall(words)
        ]
        for phrase, value in self.instead.items():
            said = _replaced(said, phrase, value)
        return said

    def is_hedged(self, words: str) -> bool:
        """Does the keeper say that he is not sure?"""
        said = WORD.findall(words)
        return any(_without_run(said, phrase) != said for phrase in self.hedges)

    def compared(self, words: str) -> HeardComparison | None:
        """A comparison with a sibling, told by its number."""
        match = THAN.search(words)
        number = NUMBERS.get(match[1], match[1]) if match else ""
        if not match or not number.isdecimal():
            return None
        said = Counter(self.content(words[: match.start()]))
        best: tuple[int, HeardComparison] | None = None
        for trait, entry in self.comparing.items():
            places = [_words(name) for name in entry.get("place", [])] or [()]
            for answer in ("more", "less"):
                for place, name in ((place, _words(name)) for place in places for name in entry[answer]):
                    used = Counter((*place, *name))
                    left = said - used
                    if used <= said and set(left) <= self.kinds["whole"] and trait in self.traits:
                        comparison = HeardComparison(trait, answer, number, words)
                        best = max(
                            (best or (0, comparison)), (len(place) + len(name), comparison), key=lambda row: row[0]
                        )
        return best[1] if best else None

    def in_their_places(self, clauses: Sequence[tuple[str, str]]) -> Iterator[tuple[str, _Around]]:
        """The clauses that say something, each with the places that its neighbours name. A place alone is taken with what
        follows it: "head stamp: busy", "eye stripe, jagged"."""
        said = [(words, mark, content) for words, mark in self._joined(clauses) if (content := self.content(words))]
        named = [self._place_in(content) for _, _, content in said]
        topic: Words = ()
        last: Words = ()
        for at, (words, mark, content) in enumerate(said):
            has_topic = topic and mark == ":"
            if named[at] and not has_topic:
                topic, last = (), named[at]
            following = said[at + 1] if at + 1 < len(said) else ("", "", ())
            is_followed = following[1] == ":" or (following[2] and not named[at + 1])
            if self._is_place(content) and is_followed and self._at(content, following[0]):
                topic = content
                continue
            after = named[at + 1] if following[1] in AND else ()
            near = (topic or (last if mark in AND else ()), after) if has_topic or not named[at] else ()
            far = (last,) if mark in LISTS and not named[at] else ()
            yield words, _Around(tuple(filter(None, near)), tuple(filter(None, far)))

    def _joined(self, clauses: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
        """The clauses, with those taken as one that are understood as one: "white with yellow marks", "eye stripe, edge"."""
        looks: list[tuple[str, str]] = []
        for words, mark in clauses:
            joined = f"{looks[-1][0]} {words}" if looks else ""
            content = self.content(joined) if mark in ("with", ",") else ()
            if (mark == "with" and self._meaning(content)) or (mark == "," and self._is_place(content)):
                looks[-1] = (joined, looks[-1][1])
            else:
                looks.append((words, mark))
        return looks

    def _is_place(self, content: Words) -> bool:
        """Is this a place and nothing more?"""
        return bool(content) and sorted(self._place_in(content)) == sorted(content)

    def parts(self, words: str, around: _Around) -> list[tuple[str, tuple[Look, ...]]]:
        """What a clause means, by itself or at these places; said without a stop before "no" ("grey body no yellow") as two.
        Nothing unless all of it is understood."""
        for place in (*around.near, (), *around.far):
            if looks := self._at(place, words):
                return [(words, looks)]
        parts = [(part, self._meaning(self.content(part))) for part in RUN_ON.split(words)]
        return parts if len(parts) > 1 and all(looks for _, looks in parts) else []

    def _at(self, place: Words, words: str) -> tuple[Look, ...]:
        """What a clause means at a place; with "or" between, each of what it may be: "pink or bright red eyes"."""
        if looks := self._meaning((*place, *self.content(words))):
            return looks
        place = place or self._place_in(self.content(words))
        contents = [self.content(part) for part in OR.split(words)]
        meant = [self._meaning((*(() if self._place_in(content) else place), *content)) for content in contents]
        meanings = dict.fromkeys(look for looks in meant for look in looks)
        return tuple(meanings) if len(meant) > 1 and all(meant) and len(meanings) <= MOST_MEANINGS else ()

    def _meaning(self, said: Words) -> tuple[Look, ...]:
        ways = list(self._ways(said))
        if not ways:
            return ()
        top = max(way.rank for way in ways)
        looks: dict[Look, None] = {}
        for way in (one for one in ways if one.rank == top):
            looks |= dict.fromkeys(self._looks(way))
        return tuple(looks) if len(looks) <= MOST_MEANINGS else ()

    def _place_in(self, said: Words) -> Words:
        have = Counter(said)
        named = [place for trait in self.traits for place, _ in self._places(trait) if Counter(place) <= have]
        return max(named, key=len, default=())

    def _ways(self, said: Words) -> Iterator[_Way]:
        have = Counter(said)
        for trait in self.traits:
            for place, weak in self._places(trait):
                if Counter(place) <= have:
                    yield from self._at_place(trait, place, weak, have - Counter(place))
            for level, phrase in self._phrases(trait, "alone"):
                left = have - Counter(phrase)
                if Counter(phrase) <= have and self._is_over(trait, left, unknown=len(phrase) > 1):
                    yield _Way(trait, level, (), len(phrase), False, tuple(left))

    def _at_place(self, trait: str, place: Words, weak: bool, have: Counter[str]) -> Iterator[_Way]:
        entry = self.entries[trait]
        strict = entry.get("strict", {})
        only = [
            _words(word) for name, words in entry.get("only", {}).items() if _words(name) == place for word in words
        ]
        for level, phrase in self._phrases(trait, "levels"):
            kept_for_name = weak and phrase in [_words(word) for word in strict.get(level, [])]
            if kept_for_name or (only and phrase not in only) or not Counter(phrase) <= have:
                continue
            left = have - Counter(phrase)
            alike = set(left) & self._single_words(trait, level)  # "tall narrow lobes": both say one level
            rest = Counter({word: count for word, count in left.items() if word not in alike})
            if self._is_over(trait, rest, unknown=not set(phrase) <= self.modifiers):
                yield _Way(trait, level, place, len(place) + len(phrase) + len(alike), weak, tuple(rest))
        if not weak and self._is_over(trait, have) and not only:
            yield _Way(trait, "", place, len(place), weak, tuple(have))

    def _is_over(self, trait: str, left: Counter[str], *, unknown: bool = False) -> bool:
        """May these words be left: strong and weak words, denials, the whole animal, where the look usually lies? Where place and
        level are both said, one word more that says nothing of any look ("a ruby glow in the eyes")."""
        where = {_stem(word) for word in self.entries[trait].get("where", [])}
        over = set(left) - self.modifiers - where
        return not over or (unknown and len(over) == 1 and not over & self.known)

    def _looks(self, way: _Way) -> Iterator[Look]:
        entry = self.entries[way.trait]
        denied = bool(set(way.rest) & (self.kinds["not"] | self.kinds["gone"]))
        if way.level:
            level = entry.get("not", {}).get(way.level, "") if denied else self._stronger(entry, way.level, way.rest)
            if level:
                yield way.trait, level
        elif denied:
            if "absence" in entry and self._may(entry, "absence_places", way.place):
                yield way.trait, entry["absence"]
        elif "presence" in entry and self._may(entry, "presence_places", way.place):
            for level in [entry["presence"]] if isinstance(entry["presence"], str) else entry["presence"]:
                yield way.trait, self._stronger(entry, level, way.rest)

    @staticmethod
    def _may(entry: Mapping[str, Any], key: str, place: Words) -> bool:
        return key not in entry or place in [_words(name) for name in entry[key]]

    def _stronger(self, entry: Mapping[str, Any], level: str, rest: Words) -> str:
        for kind in ("less", "more"):
            if set(rest) & self.kinds[kind]:
                return str(entry.get(kind, {}).get(level, level))
        return level

    @lru_cache(maxsize=256)  # noqa: B019  one ear a catalogue, kept for good
    def _places(self, trait: str) -> tuple[tuple[Words, bool], ...]:
        """How the place of a look is named, each with whether it is a weak name: the look's own name and that of others."""
        entry = self.entries[trait]
        strong = [(_words(name), False) for name in entry.get("places", [])]
        strong.append((self.content(self.own.get(trait, {}).get("name", "").lower()), False))
        weak = [(_words(name), True) for name in entry.get("weak_places", [])]
        return tuple((name, is_weak) for name, is_weak in dict.fromkeys([*strong, *weak]) if name)

    @lru_cache(maxsize=512)  # noqa: B019
    def _single_words(self, trait: str, level: str) -> frozenset[str]:
        """The words that say a level by themselves."""
        return frozenset(
            phrase[0] for one, phrase in self._phrases(trait, "levels") if one == level and len(phrase) == 1
        )

    @lru_cache(maxsize=256)  # noqa: B019
    def _phrases(self, trait: str, key: str) -> tuple[tuple[str, Words], ...]:
        """What is said of a look's levels, by the vocabulary and then in the catalogue's own words."""
        known: Trait = self.traits[trait]
        listed = [(level, _words(name)) for level, names in self.entries[trait].get(key, {}).items() for name in names]
        own = (
            []
            if key == "strict"
            else [row for row in self._own_phrases(trait) if (len(row[1]) >= TELLING) or key == "levels"]
        )
        return tuple(row for row in dict.fromkeys((*listed, *own)) if row[1] and row[0] in known.level_index)

    def _own_phrases(self, trait: str) -> Iterator[tuple[str, Words]]:
        for level in self.own.get(trait, {}).get("levels", []):
            name = level["id"].replace("_", " ")
            if name not in UNSAID:
                for said in (name, level.get("name", ""), *LISTED.split(level.get("words", ""))):
                    yield level["id"], self.content(said.lower())


@lru_cache(maxsize=16)
def _ear(catalogue: Catalogue) -> _Ear:
    return _Ear(catalogue)


@lru_cache(maxsize=4096)
def _words(phrase: str) -> Words:
    filler = {_stem(word) for word in vocabulary()["filler"]}
    return tuple(word for word in map(_stem, WORD.findall(phrase)) if word not in filler)


def _replaced(said: Sequence[str], phrase: Words, value: Sequence[str]) -> list[str]:
    words: list[str] = []
    at = 0
    while at < len(said):
        if tuple(said[at : at + len(phrase)]) == phrase:
            words += value
            at += len(phrase)
        else:
            words.append(said[at])
            at += 1
    return words


def _without_run(said: Sequence[str], phrase: Sequence[str]) -> list[str]:
    return _replaced(said, tuple(phrase), ())


@lru_cache(maxsize=4096)
def _stem(word: str) -> str:
    """A word without its endings, and of words that mean one thing the one that stands for all."""
    same = _same()
    if word in same:
        return same[word]
    stem = str(_stemmer().stemWord(word))
    stem = stem[:-1] if stem.endswith("i") and len(stem) > 3 else stem
    stem = stem[:-3] if stem.endswith("ish") and len(stem) > 5 else stem
    return same.get(stem, stem)


@cache
def _stemmer() -> Any:
    import snowballstemmer  # brings the words of thirty languages, which only dictation needs

    return snowballstemmer.stemmer("english")


@cache
def _same() -> dict[str, str]:
    return {word: name for name, words in vocabulary()["same"].items() for word in words}
