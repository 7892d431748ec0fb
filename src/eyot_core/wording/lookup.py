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
NEARLY = 84
WORTH_SHOWING = 62
TWICE = {"2", "x2", "*2", "(2)", "×2"}
FILLING = {"and", "with", "for", "the", "a", "+", ",", "&", "combo", "ball", "python", "normal", "wild", "type"}
WORD = re.compile(r"\(2\)|[*×]2|[^\s,+&]+")
Carried = tuple[str, int]


@dataclass(frozen=True)
class Entry:
    """Something that can be found. ``kind``: gene, combination or look-alike; ``id``: a gene, a key of genes, a note."""

    kind: str
    id: str
    name: str
    remark: str = ""


@dataclass(frozen=True)
class Read:
    """What a line of genes was understood as.

    ``genes``: (gene, copies) in the order typed. ``guessed``: (word, what it was taken for) where the spelling was not
    exact. ``unknown``: (word, names that come near).
    """

    genes: tuple[Carried, ...]
    guessed: tuple[tuple[str, str], ...] = ()
    unknown: tuple[tuple[str, tuple[str, ...]], ...] = ()


def key_of(genes: Sequence[Carried]) -> str:
    """The key of a combination: its genes, repeated for two copies, joined by dots; "normal" for none.

    >>> key_of([("pastel", 2), ("fire", 1)])
    'pastel.pastel.fire'
    """
    return ".".join(gene for gene, copies in genes for _ in range(copies)) or "normal"


def plain(text: str) -> str:
    """Lower case, hyphens and underscores as spaces."""
    return " ".join(re.sub(r"[-_’']", " ", text.lower()).split())


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
            found.setdefault(plain(entry["name"]), tuple(entry["genes"].items()))
        for entry in self.catalogue.document["genes"]:
            found |= self._phrases_of(
                entry["id"], [entry.get("name", entry["id"]), entry["id"], *entry.get("synonyms", [])]
            )
            if "two_copies" in entry:
                found[plain(entry["two_copies"])] = ((entry["id"], 2),)
        return found

    def _phrases_of(self, gene: str, names: Sequence[str]) -> dict[str, tuple[Carried, ...]]:
        recessive = self.catalogue.genes[gene].is_recessive
        found: dict[str, tuple[Carried, ...]] = {}
        for name in map(plain, names):
            found[name] = ((gene, 2 if recessive else 1),)
            found[f"super {name}"] = found[f"visual {name}"] = found[f"double {name}"] = ((gene, 2),)
            found[f"het {name}"] = ((gene, 1),)
        return found

    def read(self, text: str) -> Read:
        """Genes as breeders write them: names, synonyms and trade names in any order; recessives mean two copies unless "het"."""
        words = WORD.findall(plain(text))
        genes: dict[str, int] = {}
        guessed: list[tuple[str, str]] = []
        unknown: list[tuple[str, tuple[str, ...]]] = []
        at, last = 0, ""
        while at < len(words):
            if words[at] in TWICE and last:
                genes[last], at = 2, at + 1
                continue
            length, found, told = self._longest(words[at:])
            if found:
                genes |= {gene: max(copies, genes.get(gene, 0)) for gene, copies in found}
                last = found[-1][0]
                guessed += [(" ".join(words[at : at + length]), told)] if told else []
            elif words[at] not in FILLING:
                unknown.append((words[at], tuple(hit.name for hit in self.find(words[at], 3))))
            at += max(1, length)
        return Read(tuple(genes.items()), tuple(guessed), tuple(unknown))

    def _longest(self, words: Sequence[str]) -> tuple[int, tuple[Carried, ...], str]:
        """The longest phrase at the beginning, exact before nearly right; with its length and what a guess was taken for."""
        spans = range(min(LONGEST, len(words)), 0, -1)
        for length in spans:
            exact = self.phrases.get(" ".join(words[:length]))
            if exact:
                return length, exact, ""
        for length in spans:
            phrase = " ".join(words[:length])
            if len(phrase) > 3 and words[0] not in FILLING:
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
