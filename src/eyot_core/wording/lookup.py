"""Finding genes, combinations and look-alikes by what people type: synonyms, trade names, and spelling that is nearly right."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from rapidfuzz import fuzz, process

from eyot_core.catalogue.model import Catalogue
from eyot_core.wording.names import Naming

LONGEST = 5
NEARLY = 83
WORTH_SHOWING = 62
TWICE = {"2", "x2", "*2", "(2)", "×2"}
TOKEN = re.compile(
    r"\(2\)|[*×]2\b|x2\b|\d+(?:[.,]\d+)?\s*%|100\s?percent|\d+/\d+|[01][.][01]|♂|♀|[():?;,]|[^\s,+&/()?:;%]+"
)
Carried = tuple[str, int]


@dataclass(frozen=True)
class Entry:
    """Something that can be found. ``kind``: gene, combination or look-alike; ``id``: a gene, a key of genes, a note."""

    kind: str
    id: str
    name: str
    remark: str = ""


def key_of(genes: Sequence[Carried]) -> str:
    """The key of a combination: its genes, repeated for two copies, joined by dots; "normal" for none.

    >>> key_of([("pastel", 2), ("fire", 1)])
    'pastel.pastel.fire'
    """
    return ".".join(gene for gene, copies in genes for _ in range(copies)) or "normal"


def plain(text: str) -> str:
    """Lower case, hyphens and underscores as spaces."""
    return " ".join(re.sub(r"[-_’']", " ", text.lower()).split())


def words_of(text: str) -> list[str]:
    """The words of a line in plain form; figures, brackets, commas and marks stand by themselves.

    >>> words_of("66 % het Clown, yb?")
    ['66 %', 'het', 'clown', ',', 'yb', '?']
    """
    return TOKEN.findall(plain(text))


class Lookup:
    """All names of one catalogue."""

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self.naming = Naming(catalogue)

    @cached_property
    def phrases(self) -> dict[str, tuple[Carried, ...]]:
        """Every phrase that stands for genes, in plain form."""
        found: dict[str, tuple[Carried, ...]] = {}
        for entry in self.catalogue.document.get("names", []):
            found.setdefault(_phrase(entry["name"]), tuple(entry["genes"].items()))
        for entry in self.catalogue.document["genes"]:
            former = [entry["built_in_name"]] if "built_in_name" in entry else []
            names = [entry.get("name", entry["id"]), entry["id"], *entry.get("synonyms", []), *former]
            found |= self._phrases_of(entry["id"], names)
            if "two_copies" in entry:
                found[_phrase(entry["two_copies"])] = ((entry["id"], 2),)
        return found

    def _phrases_of(self, gene: str, names: Sequence[str]) -> dict[str, tuple[Carried, ...]]:
        recessive = self.catalogue.genes[gene].is_recessive
        found: dict[str, tuple[Carried, ...]] = {}
        for name in map(_phrase, names):
            found[name] = ((gene, 2 if recessive else 1),)
            found[f"super {name}"] = found[f"visual {name}"] = found[f"double {name}"] = ((gene, 2),)
            found[f"het {name}"] = ((gene, 1),)
        return found

    def longest_exact(self, words: Sequence[str]) -> tuple[int, tuple[Carried, ...]]:
        """The longest phrase at the beginning that is written exactly, with its length in words; (0, ()) if none is."""
        for length in range(min(LONGEST, len(words)), 0, -1):
            exact = self.phrases.get(" ".join(words[:length]))
            if exact:
                return length, exact
        return 0, ()

    def nearest(self, words: Sequence[str]) -> tuple[int, tuple[Carried, ...], str]:
        """The longest phrase at the beginning that is nearly written, with its length and what it was taken for."""
        together = words.index(",") if "," in words else len(words)
        for length in range(min(LONGEST, together), 0, -1):
            phrase = " ".join(words[:length])
            if len(phrase) > 3:
                near = process.extractOne(phrase, self.phrases.keys(), scorer=fuzz.ratio, score_cutoff=NEARLY)
                if near:
                    return length, self.phrases[near[0]], near[0]
        return 0, (), ""

    @cached_property
    def _names(self) -> list[tuple[str, Entry]]:
        found: list[tuple[str, Entry]] = []
        for entry in self.catalogue.document["genes"]:
            name = self.naming.gene(entry["id"])
            gene = Entry("gene", entry["id"], name)
            found += [(plain(one), gene) for one in (name, *entry.get("synonyms", []), entry.get("two_copies", name))]
        for entry in self.catalogue.document.get("names", []):
            genes = list(entry["genes"].items())
            told = " ".join(self.naming.copies(gene, copies) for gene, copies in genes)
            found.append((plain(entry["name"]), Entry("combination", key_of(genes), entry["name"], told)))
        for entry in self.catalogue.document.get("lookalikes", []):
            found.append((plain(entry["title"]), Entry("look-alike", entry["id"], entry["title"])))
        return found

    def find(self, text: str, limit: int = 10) -> list[Entry]:
        """The entries that come nearest to a text, best first, each once."""
        wanted = plain(text)
        if not wanted:
            return []
        names = [name for name, _ in self._names]
        hits = process.extract(wanted, names, scorer=fuzz.WRatio, score_cutoff=WORTH_SHOWING, limit=4 * limit)
        ranked = sorted(hits, key=lambda hit: (-hit[1], not hit[0].startswith(wanted), len(hit[0])))
        return list(dict.fromkeys(self._names[index][1] for _, _, index in ranked))[:limit]


def _phrase(name: str) -> str:
    return " ".join(words_of(name))
