"""Finding genes, combinations and look-alikes by what people type: synonyms, trade names, and spelling that is nearly right."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from rapidfuzz import fuzz, process

from eyot_core.catalogue.model import Catalogue
from eyot_core.wording.names import Naming

WORTH_SHOWING = 62
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


class Lookup:
    """All names of one catalogue."""

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self.naming = Naming(catalogue)

    @cached_property
    def _names(self) -> list[tuple[str, Entry]]:
        names: list[tuple[str, Entry]] = []
        for entry in self.catalogue.document["genes"]:
            name = self.naming.gene(entry["id"])
            gene = Entry("gene", entry["id"], name)
            names += [(plain(one), gene) for one in (name, *entry.get("synonyms", []), entry.get("two_copies", name))]
        for entry in self.catalogue.document.get("names", []):
            genes = list(entry["genes"].items())
            written = " ".join(self.naming.copies(gene, copies) for gene, copies in genes)
            names.append((plain(entry["name"]), Entry("combination", key_of(genes), entry["name"], written)))
        for entry in self.catalogue.document.get("lookalikes", []):
            names.append((plain(entry["title"]), Entry("look-alike", entry["id"], entry["title"])))
        return names

    def find(self, text: str, limit: int = 10) -> list[Entry]:
        """The entries that come nearest to a text, best first, each once."""
        wanted = plain(text)
        if not wanted:
            return []
        names = [name for name, _ in self._names]
        hits = process.extract(wanted, names, scorer=fuzz.WRatio, score_cutoff=WORTH_SHOWING, limit=4 * limit)
        ranked = sorted(hits, key=lambda hit: (-hit[1], not hit[0].startswith(wanted), len(hit[0])))
        return list(dict.fromkeys(self._names[index][1] for _, _, index in ranked))[:limit]
