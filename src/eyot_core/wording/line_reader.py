"""The grammar of a line of genes: which modifier belongs to which gene, and what has to be asked.

One pass over the phrases. Modifiers wait for the gene that follows them; where none follows before the next comma, bracket or
end, they belong to the gene before. A "het" or "possible" that may go on over a list is followed as far as the words carry it.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction

from eyot_core.parsing import FRACTION
from eyot_core.wording.line_words import Alternative, Item
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import as_percentage

TRADE = {33: "1/3", 34: "1/3", 66: "2/3", 67: "2/3"}
ENDLESS = 99
MODIFIERS = {
    *(
        "het",
        "hets",
        "several_hets",
        "possible_het",
        "possible",
        "super",
        "twice",
        "once",
        "maybe_twice",
        "visual",
        "known",
    ),
    *("absent", "percent", "figure", "maker"),
}
COPIES = {"super", "twice", "maybe_twice", "once"}
BEHIND = {"(2)", "x2", "*2", "×2"}
SILENT = {"nothing", "normal"}


@dataclass
class Said:
    """What modifiers say of a gene."""

    het: bool = False
    possible: bool = False
    chance: str = ""
    two: bool = False
    maybe_two: bool = False
    visual: bool = False
    once: bool = False
    absent: bool = False
    known: str = ""
    on: str = ""
    goes_on: int = 0
    spans: list[tuple[int, int]] = field(default_factory=list)

    @property
    def is_said(self) -> bool:
        """Is anything said at all?"""
        return self != Said(spans=self.spans)

    @property
    def doubtful(self) -> bool:
        """Is it in doubt whether the gene is there at all?"""
        return self.possible or self.chance not in ("", "1")

    @property
    def prefix(self) -> str:
        """The modifiers as they stand before a name in a choice."""
        parts = [as_percentage(self.chance)] if self.chance not in ("", "1") else ["poss"] if self.possible else []
        return " ".join([*parts, *(["het"] if self.het else []), ""])


@dataclass
class Named:
    """A gene, a combination or a group as it stands in the line."""

    item: Item
    said: Said
    asked: str = ""

    @property
    def meanings(self) -> tuple[Alternative, ...]:
        return self.item.value if self.item.kind == "gene" else ()

    @property
    def span(self) -> tuple[int, int]:
        """Where it stands in the line, with what is said of it."""
        every = [*self.said.spans, (self.item.start, self.item.end)]
        return min(start for start, _ in every), max(end for _, end in every)


class Reader:
    """One pass over the phrases: which are named, and what is said of each."""

    def __init__(self, lookup: Lookup, items: list[Item]) -> None:
        self.lookup, self.items = lookup, items
        self.at = 0
        self.named: list[Named] = []
        self.either: list[list[Named]] = []
        self.slashed: list[list[Named]] = []  # of these the ones that are joined by slashes only
        self.ahead = Said()
        self.last: Named | None = None  # in this clause
        self.chain: tuple[Said, int] | None = None  # a het that may go on, and over how many
        self.run: list[Named] = []  # genes that one "possible" may cover
        self.run_and = self.joined_by_or = False
        self.joined_by = ""
        self.sex = ""
        self.unknown: list[str] = []
        self.absent: list[str] = []
        self.notes: list[str] = []

    def read(self) -> None:
        """To the end of the line."""
        while self.at < len(self.items):
            item = self.items[self.at]
            self._take(item)
            self.at += 1
        self._clause_ends()
        self._run_ends()
        if self.ahead.spans:
            self.unknown.append(self._left_over())

    def _left_over(self) -> str:
        """Modifiers that stand without a gene."""
        starts = {start for start, _ in self.ahead.spans}
        return " ".join(item.words for item in self.items if item.start in starts)

    def _take(self, item: Item) -> None:
        if item.kind in ("gene", "group", "some"):
            self._name(item)
        elif item.kind in MODIFIERS:
            self._modify(item)
        else:
            self._mark(item)

    def _mark(self, item: Item) -> None:
        if item.kind in ("open", "close"):
            if self._brackets_genes(item):
                self._clause_ends()
        elif item.kind in ("comma", "colon"):
            if not self._copies_follow():
                self._clause_ends()
        elif item.kind in ("either", "slash"):
            self._or(item)
        elif item.kind == "and":
            self._and()
        elif item.kind == "doubt":
            self._doubt()
        elif item.kind == "sex":
            self._clause_ends(keep=True)
            self.sex = str(item.value)
        elif item.kind in ("unknown", "name"):
            self._unknown(item)

    def _unknown(self, item: Item) -> None:
        """A word that may be a gene: what stands before it is said of it. Whether a het goes on behind it has to be asked."""
        said, self.ahead = self.ahead, Said()
        if said.het:
            self.chain = (said, max(0, said.goes_on - 1))
        self.joined_by_or = False
        self.unknown.append(item.words)

    def _copies_follow(self) -> bool:
        """Does what follows this comma tell no more than copies of the gene before it: "Enchi, possible super"?"""
        inside = self.items[self.at + 1 :]
        end = next(
            (at for at, one in enumerate(inside) if one.kind in ("comma", "colon", "open", "close", "sex")), len(inside)
        )
        said = [one.kind for one in inside[:end] if one.kind not in SILENT]
        return (
            self.last is not None
            and COPIES & {*said} != set()
            and {*said} <= COPIES | {"possible", "percent", "figure", "doubt", "or"}
        )

    def _brackets_genes(self, item: Item) -> bool:
        """Does this bracket hold anything named? If not, what is in it is said of the gene before it."""
        if item.kind == "open":
            inside = self.items[self.at + 1 :]
            end = next((at for at, one in enumerate(inside) if one.kind == "close"), len(inside))
            inside = inside[:end]
        else:
            before = self.items[: self.at]
            start = max((at for at, one in enumerate(before) if one.kind == "open"), default=-1)
            inside = before[start + 1 :]
        return any(one.kind in ("gene", "group", "some", "unknown", "name") for one in inside)

    def _following(self) -> Item | None:
        """The next phrase that is not silent."""
        return next((item for item in self.items[self.at + 1 :] if item.kind not in SILENT), None)

    def _modify(self, item: Item) -> None:
        following = self._following()
        if item.kind == "figure" and not self._is_percentage(following):
            return
        if (
            item.kind in ("twice", "super", "maybe_twice", "once")
            and self.last
            and (item.words in BEHIND or not self._leads(following))
        ):
            self._post(item)
            return
        if (
            item.kind == "known"
            and self.last
            and (following is None or following.kind in ("comma", "close", "open", "sex"))
        ):
            self.last.said.known = str(item.value)
            return
        if item.kind == "maker":
            self._maker(item, following)
            return
        _say(self.ahead, item)

    def _is_percentage(self, following: Item | None) -> bool:
        near = {"het", "hets", "possible", "possible_het", "several_hets"}
        said = (
            self.ahead.het
            or self.ahead.possible
            or bool(self.last and self.last.said.het and not self.last.said.chance)
        )
        return (following is not None and following.kind in near) or said

    @staticmethod
    def _leads(following: Item | None) -> bool:
        return following is not None and following.kind in ("gene", "group", "some")

    def _post(self, item: Item) -> None:
        """A number of copies behind its gene."""
        assert self.last is not None
        doubtful = self.ahead.doubtful or self.joined_by_or or item.kind == "maybe_twice"
        following = self._following()
        if following is not None and following.kind == "doubt":
            doubtful, self.at = True, self.items.index(following, self.at)
        if item.kind == "once":
            self.last.said.once = True
        elif doubtful:
            self.last.said.maybe_two = True
            self.last.said.chance = self.ahead.chance if self.ahead.chance else self.last.said.chance
        else:
            self.last.said.two = True
        self.ahead, self.joined_by_or = Said(), False

    def _maker(self, item: Item, following: Item | None) -> None:
        for named in (self.last,):
            if named is not None and self._is_sex_linked(named.item):
                named.said.on = str(item.value)
                return
        if following is not None and following.kind == "gene" and self._is_sex_linked(following):
            self.ahead.on = str(item.value)
        else:
            self.notes.append("“Maker” is said of banana and its alleles; here it was left out.")

    def _is_sex_linked(self, item: Item) -> bool:
        catalogue = self.lookup.catalogue
        return item.kind == "gene" and any(
            catalogue.loci[catalogue.genes[gene].locus].on_sex_chromosome for gene, _ in item.value[0].genes
        )

    def _name(self, item: Item) -> None:
        said, self.ahead = self.ahead, Said()
        named = Named(item, said)
        if said.absent:
            self.absent += [gene for one in named.meanings[:1] for gene, _ in one.genes]
            return
        if said.het and said.two:
            named.asked = "het or super"
        own = said.het or said.visual or said.two or said.doubtful or said.once
        recessive = self._is_recessive(item)
        if recessive and not own and self.chain:
            self._goes_on(named)
        elif recessive and said.het:
            self.chain = (said, max(0, said.goes_on - 1))
        elif self.chain_counts and recessive:
            self._count()
        elif not recessive:
            self.chain = None
        self._follow_possible(named, own)
        if self.joined_by_or:
            self._join(named)
        else:
            self.named.append(named)
        self.last = named

    @property
    def chain_counts(self) -> bool:
        return bool(self.chain and self.chain[1] > 0)

    def _count(self) -> None:
        if self.chain:
            self.chain = (self.chain[0], self.chain[1] - 1)

    def _goes_on(self, named: Named) -> None:
        """A recessive gene without words of its own, after a het."""
        assert self.chain is not None
        said, left = self.chain
        if left > 0:
            named.said = replace(said, spans=[])
            self._count()
        else:
            named.asked = "het or visual"

    def _is_recessive(self, item: Item) -> bool:
        genes = self.lookup.catalogue.genes
        if item.kind in ("group", "some"):
            return any(gene in genes and genes[gene].is_recessive for gene in item.value.get("genes", []))
        return any(genes[gene].is_recessive for gene, _ in item.value[0].genes)

    def _follow_possible(self, named: Named, own: bool) -> None:
        if self.run and not own:
            self.run.append(named)
        else:
            self._run_ends()
            self.run = [named] if named.said.possible and not named.said.chance and not named.said.het else []

    def _run_ends(self) -> None:
        """ "Possible a, b and c" is said of all three; "possible a, b" of the first."""
        if self.run_and and len(self.run) > 1:
            for one in self.run[1:]:
                one.said.possible = True
        self.run, self.run_and = [], False

    def _and(self) -> None:
        self._clause_ends(keep=True)
        self.run_and = bool(self.run)

    def _or(self, item: Item) -> None:
        counts = (self.chain_counts or bool(self.ahead.goes_on)) and item.kind == "slash"
        following = self._following()
        if self._or_unknown(item, following):
            return
        if counts or self.last is None or following is None:
            return
        if item.words == "either":
            return
        if following.kind in ("super", "possible", "twice", "visual", "het", "gene", "group"):
            self._clause_ends(keep=True)
            self.joined_by_or, self.joined_by = True, item.kind

    def _or_unknown(self, item: Item, following: Item | None) -> bool:
        """Is one side not known here ("burn or pastel")? Then the other is possible."""
        before = next((one for one in reversed(self.items[: self.at]) if one.kind not in SILENT), None)
        if self.last is not None and following is not None and following.kind in ("unknown", "name"):
            self._clause_ends(keep=True)
            self.last.said.possible = True
            return True
        if before is not None and before.kind in ("unknown", "name") and self._leads(following):
            self.ahead.possible = True
            self.ahead.spans.append((item.start, item.end))
            return True
        return False

    def _join(self, named: Named) -> None:
        before = self.named.pop() if self.named else None
        open_group = next((group for group in self.either if before is None or group[-1] is self.last), None)
        if open_group is not None and self.last in open_group:
            if before is not None:
                self.named.append(before)
            open_group.append(named)
            if self.joined_by != "slash":
                self.slashed = [group for group in self.slashed if group is not open_group]
        elif before is not None:
            self.either.append([before, named])
            if self.joined_by == "slash":
                self.slashed.append(self.either[-1])
        self.joined_by_or = False

    def _doubt(self) -> None:
        if self.last is None:
            return
        self._clause_ends(keep=True)
        said = self.last.said
        if said.two or (
            self.last.meanings and self._copies_of(self.last) == 2 and not self._is_recessive(self.last.item)
        ):
            said.two, said.maybe_two = False, True
        else:
            said.possible = True

    @staticmethod
    def _copies_of(named: Named) -> int:
        return max(copies for _, copies in named.meanings[0].genes)

    def _clause_ends(self, *, keep: bool = False) -> None:
        """Modifiers that no gene followed belong to the gene before; a plural "hets" waits for what comes."""
        said = self.ahead
        if self.last is not None and said != Said():
            _add(self.last.said, said)
            self.ahead = Said()
        elif said.het and said.goes_on:
            pass  # "hets: clown, pied"
        elif said.spans and not keep and not (said.het or said.possible):
            self.unknown.append(self._left_over())
            self.ahead = Said()
        if not keep:
            self.last = None


def _say(said: Said, item: Item) -> None:
    """Adds one modifier to what is said."""
    said.spans.append((item.start, item.end))
    if item.kind in ("het", "hets", "possible_het", "several_hets"):
        said.het = True
        said.goes_on = ENDLESS if item.kind == "hets" else int(item.value or 0)
        said.possible = said.possible or item.kind == "possible_het"
    elif item.kind in ("percent", "figure"):
        said.chance = fraction_of(str(item.value)) or said.chance
    elif item.kind == "super" or item.kind == "twice":
        said.two = True
    elif item.kind == "maybe_twice":
        said.maybe_two = True
    elif item.kind == "known":
        said.known = str(item.value)
    elif item.kind in ("possible", "visual", "once", "absent"):
        setattr(said, item.kind, True)


def _add(said: Said, more: Said) -> None:
    """What stood behind a gene is said of it too."""
    doubtful_super = more.two and more.doubtful
    said.het |= more.het
    said.visual |= more.visual
    said.once |= more.once
    said.spans += more.spans
    said.known = more.known or said.known
    said.maybe_two |= more.maybe_two or doubtful_super
    said.two |= more.two and not doubtful_super
    said.chance = more.chance or said.chance
    if not doubtful_super:
        said.possible |= more.possible


def fraction_of(figure: str) -> str:
    """A percentage or fraction as a fraction; the trade's 66 and 33 are thirds. Empty where it is no chance."""
    text = figure.replace(",", ".")
    if not FRACTION.fullmatch(text):
        return ""
    try:
        if "/" in text:
            value = Fraction(1, 2) if text == "50/50" else Fraction(text)
        else:
            value = Fraction(TRADE.get(int(float(text)), Fraction(text) / 100))
    except (ValueError, ZeroDivisionError):
        return ""
    return str(value) if 0 < value <= 1 else ""
