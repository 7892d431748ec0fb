"""A line of genes as breeders write it: "pastel enchi 66% het clown", "super pastel poss yb", "banana (male maker)".

The line is read from left to right. Words before a gene (het, possible, a percentage, proven) belong to that gene; what stands
in brackets or after a question mark belongs to the gene before it. Nothing is dropped in silence: what had to be taken one
way or the other is asked about, and words that mean nothing here are given back.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from eyot_core.catalogue.model import Catalogue
from eyot_core.wording.lookup import TWICE, Carried, Lookup, plain, words_of

FILLING = {"and", "with", "for", "the", "a", "an", "of", "combo", "ball", "python", "snake", "one", "copy", "single"}
NORMAL = {"normal", "wild", "type", "classic"}
POSSIBLE = {
    "poss",
    "possible",
    "possibly",
    "pos",
    "maybe",
    "might",
    "be",
    "perhaps",
    "probable",
    "prob",
    "or",
    "unproven",
}
POSSIBLE_HET = {"ph", "poshet", "posshet"}
HETS = {"het", "hets", "heterozygous", "carrier", "carries", "carrying"}
SEVERAL_HETS = {"dh": 2, "th": 3}
TWO = {"super", "homozygous", "homo", "double"}
VISUAL = {"visual", "vis"}
MAKERS = {"mm": "Y", "fm": "X"}
SEXES = {
    "male": "male",
    "female": "female",
    "m": "male",
    "f": "female",
    "1.0": "male",
    "0.1": "female",
    "♂": "male",
    "♀": "female",
}
KNOWN = {
    "proven": "bred",
    "bred": "bred",
    "proved": "bred",
    "tested": "tested",
    "dna": "tested",
    "declared": "declared",
    "seen": "seen",
}
TRADE = {33: "1/3", 34: "1/3", 66: "2/3", 67: "2/3"}
HALF = "1/2"


@dataclass(frozen=True)
class Statement:
    """One gene as the line states it.

    ``chance``: that the copies are there, a fraction as text. ``two_chance``: where one copy is there, the chance of the second,
    empty where it is not in doubt. ``on``: "X", "Y" or empty. ``known``: seen, bred, tested, declared or possible.
    """

    gene: str
    copies: int
    known: str
    chance: str = "1"
    two_chance: str = ""
    on: str = ""


@dataclass(frozen=True)
class Understood:
    """What a line was understood as.

    ``guessed``: (words, what they were taken for) where the spelling was not exact. ``unknown``: (word, names that come near).
    ``questions``: what had to be taken one way or the other. ``impossible``: why no animal can be so.
    """

    statements: tuple[Statement, ...]
    sex: str = ""
    name: str = ""
    guessed: tuple[tuple[str, str], ...] = ()
    unknown: tuple[tuple[str, tuple[str, ...]], ...] = ()
    questions: tuple[str, ...] = ()
    impossible: tuple[str, ...] = ()

    @property
    def genes(self) -> tuple[Carried, ...]:
        """The genes with their copies, as if all were certain, in the order written."""
        return tuple((one.gene, one.copies) for one in self.statements)


def understood(lookup: Lookup, text: str) -> Understood:
    """Reads a line. A name may stand first, before a colon.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> [(s.gene, s.copies, s.chance) for s in understood(Lookup(builtin_catalogue()), "66% het clown Enchi").statements]
    [('clown', 1, '2/3'), ('enchi', 1, '1')]
    """
    name, colon, rest = text.partition(":")
    reader = _Reader(lookup, words_of(rest if colon else text))
    reader.read()
    return replace(reader.found(), name=" ".join(name.split()) if colon else "")


@dataclass
class _Ahead:
    """Words that wait for the gene they belong to."""

    het: int = 0
    possible: bool = False
    chance: str = ""
    two: bool = False
    visual: bool = False
    known: str = ""


@dataclass
class _Reader:
    """One pass over the tokens."""

    lookup: Lookup
    tokens: Sequence[str]
    at: int = 0
    bracketed: bool = False
    ahead: _Ahead = field(default_factory=_Ahead)
    kept: dict[str, Statement] = field(default_factory=dict)
    last: str = ""
    sex: str = ""
    guessed: list[tuple[str, str]] = field(default_factory=list)
    unknown: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)
    questions: list[str] = field(default_factory=list)
    het_goes_on: _Ahead | None = None

    @property
    def catalogue(self) -> Catalogue:
        return self.lookup.catalogue

    def read(self) -> None:
        while self.at < len(self.tokens):
            if not (self._mark() or self._phrase() or self._modifier() or self._nearly()):
                self._not_understood()
        if self.ahead.known and self.last:
            self._change(known=self.ahead.known)

    def found(self) -> Understood:
        return Understood(
            tuple(self.kept.values()),
            sex=self.sex,
            guessed=tuple(self.guessed),
            unknown=tuple(self.unknown),
            questions=tuple(dict.fromkeys(self.questions)),
            impossible=tuple(_impossible(self.catalogue, self.lookup, self.kept, self.sex)),
        )

    def _take(self, count: int = 1) -> bool:
        self.at += count
        return True

    def _mark(self) -> bool:
        """Brackets, question marks, "x2", percentages, sexes and makers."""
        word, following = self.tokens[self.at], self.tokens[self.at + 1 : self.at + 2]
        if word in "():;,":
            self.bracketed = word == "(" or (self.bracketed and word not in "):;")
            return self._take()
        if word == "?":
            return self._doubted()
        if word in TWICE and self.last:
            self._change(copies=2)
            return self._take()
        if word.endswith(("%", "percent")) or "/" in word:
            return self._percentage(word)
        if following == ["maker"] and word in ("male", "female"):
            return self._maker("Y" if word == "male" else "X", 2)
        if word in MAKERS and self.last:
            return self._maker(MAKERS[word], 1)
        if word in SEXES:
            self.sex = SEXES[word]
            return self._take()
        return False

    def _doubted(self) -> bool:
        if self.last:
            one = self.kept[self.last]
            if one.copies == 2 and not self.catalogue.genes[self.last].is_recessive:
                self._change(copies=1, two_chance=HALF)
            elif one.chance == "1":
                self._change(chance=HALF, known="possible")
                self._ask_figure(self.last)
        return self._take()

    def _percentage(self, word: str) -> bool:
        chance = _fraction(word)
        if chance is None:
            return False
        self.ahead.chance, self.het_goes_on = chance, None
        return self._take()

    def _maker(self, on: str, length: int) -> bool:
        gene = self.last
        if gene and self.catalogue.loci[self.catalogue.genes[gene].locus].on_sex_chromosome:
            self._change(on=on)
        else:
            self.questions.append("“Maker” is said of banana and its alleles, after the gene; here it was left out.")
        return self._take(length)

    def _phrase(self) -> bool:
        """The longest phrase that names genes exactly."""
        words = self.tokens[self.at :]
        length, genes = self.lookup.longest_exact(words)
        if not genes:
            return False
        self._ask_if_several(words[:length], genes)
        return self._named(length, genes)

    def _ask_if_several(self, words: Sequence[str], genes: Sequence[Carried]) -> None:
        """A byname of one gene may as well be two genes: "cinnamon pastel"."""
        name = self._name(genes[0][0])
        if len(genes) > 1 or list(words) == words_of(name):
            return
        for at in range(1, len(words)):
            parts = [self.lookup.phrases.get(" ".join(part)) for part in (words[:at], words[at:])]
            if all(parts):
                self.questions.append(
                    f"“{' '.join(words)}” was taken as {name}; put a comma between if two genes are meant."
                )

    def _nearly(self) -> bool:
        length, genes, taken_for = self.lookup.nearest(self.tokens[self.at :])
        if not genes:
            return False
        self.guessed.append((" ".join(self.tokens[self.at : self.at + length]), taken_for))
        return self._named(length, genes)

    def _named(self, length: int, genes: Sequence[Carried]) -> bool:
        words = self.tokens[self.at : self.at + length]
        if words[0] == "het" != plain(self.lookup.naming.gene(genes[0][0])).split()[0]:
            self.ahead.het = max(self.ahead.het, 1)
        for gene, copies in genes:
            self._state(gene, copies, explicit=words[0] in VISUAL | TWO)
        self.ahead = _Ahead()
        self.last = genes[-1][0]
        return self._take(length)

    def _modifier(self) -> bool:
        word, following = self.tokens[self.at], self.tokens[self.at + 1 : self.at + 2]
        ahead = self.ahead
        if word in ("double", "triple") and following and following[0] in HETS:
            ahead.het = 2 if word == "double" else 3
            return self._take(2)
        if word in SEVERAL_HETS:
            ahead.het = SEVERAL_HETS[word]
        elif word in HETS or word in POSSIBLE_HET:
            ahead.het = max(ahead.het, 1)
            ahead.possible = ahead.possible or word in POSSIBLE_HET
        elif word in TWO:
            return self._super()
        elif word in VISUAL:
            ahead.visual = True
        elif word in KNOWN:
            if self.bracketed and self.last:
                self._change(known=KNOWN[word])
            else:
                ahead.known = KNOWN[word]
        elif word in POSSIBLE:
            ahead.possible, self.het_goes_on = True, None
        elif word not in FILLING | NORMAL:
            return False
        return self._take()

    def _super(self) -> bool:
        """ "Super" without its gene: after a gene it says that two copies are there, or may be."""
        one = self.kept.get(self.last)
        behind = self.bracketed or self.ahead.possible or self.at + 1 >= len(self.tokens)
        if one and behind and not self.catalogue.genes[one.gene].is_recessive:
            doubtful = self.ahead.possible or self.tokens[self.at + 1 : self.at + 2] == ["?"]
            self._change(**({"two_chance": self.ahead.chance or HALF} if doubtful else {"copies": 2}))
            self.ahead = _Ahead()
            if self.tokens[self.at + 1 : self.at + 2] == ["?"]:
                self.at += 1
        else:
            self.ahead.two = True
        return self._take()

    def _state(self, gene: str, copies: int, *, explicit: bool) -> None:
        statement = (self._recessive if self.catalogue.genes[gene].is_recessive else self._visible)(
            gene, copies, explicit
        )
        before = self.kept.get(gene)
        if before and before.copies == 1 and statement.copies == 1 and not self.catalogue.genes[gene].is_recessive:
            self.questions.append(
                f"{self._name(gene)} is named twice: taken as two copies. If one is meant, name it once."
            )
            statement = replace(statement, copies=2)
        elif before and before.copies > statement.copies:
            self.questions.append(f"{self._name(gene)} is named twice, in different copies: two were taken.")
            statement = before
        self.kept[gene] = statement

    def _visible(self, gene: str, copies: int, explicit: bool) -> Statement:
        ahead = self.ahead
        self.het_goes_on = None
        copies = 2 if ahead.two else copies
        if ahead.het:
            self.questions.append(
                f"“Het {self._name(gene)}”: {self._name(gene)} shows with one copy, so one copy that shows was taken."
            )
        doubtful = ahead.possible or ahead.chance not in ("", "1")
        known = ahead.known or ("possible" if doubtful and copies == 1 else "seen")
        if doubtful and copies == 2:
            return Statement(gene, 1, ahead.known or "seen", two_chance=ahead.chance or HALF)
        if doubtful and not ahead.chance:
            self._ask_figure(gene)
        return Statement(gene, copies, known, ahead.chance or (HALF if doubtful else "1"))

    def _recessive(self, gene: str, copies: int, explicit: bool) -> Statement:
        ahead, goes_on = self.ahead, self.het_goes_on
        named_het = bool(ahead.het) or (copies == 1)
        if not named_het and goes_on and not (explicit or ahead.visual or ahead.two or ahead.possible or ahead.chance):
            if goes_on.het < 1:
                self.questions.append(
                    f"{self._name(gene)} was taken as het too; write “visual {self._name(gene)}” if it shows."
                )
            ahead, named_het = goes_on, True
        doubtful = ahead.possible or ahead.chance not in ("", "1")
        if not named_het and not (doubtful and not (explicit or ahead.visual)):
            self.het_goes_on = None
            return Statement(
                gene,
                2,
                ahead.known or ("possible" if doubtful else "seen"),
                ahead.chance or (HALF if doubtful else "1"),
            )
        if not named_het:
            self.questions.append(
                f"{self._name(gene)} in doubt was taken as a possible het; write “visual” if it may show."
            )
        if doubtful and not ahead.chance:
            self._ask_figure(gene)
        self.het_goes_on = _Ahead(ahead.het - 1, ahead.possible, ahead.chance, known=ahead.known)
        return Statement(
            gene,
            1,
            ahead.known or ("possible" if doubtful else "declared"),
            ahead.chance or (HALF if doubtful else "1"),
        )

    def _ask_figure(self, gene: str) -> None:
        self.questions.append(f"How likely is {self._name(gene)}? Without a figure, 50 % was taken.")

    def _change(self, **values: object) -> None:
        self.kept[self.last] = replace(self.kept[self.last], **values)  # type: ignore[arg-type]

    def _name(self, gene: str) -> str:
        return self.lookup.naming.gene(gene)

    def _not_understood(self) -> None:
        word = self.tokens[self.at]
        self.unknown.append((word, tuple(hit.name for hit in self.lookup.find(word, 3))))
        self._take()


def _fraction(word: str) -> str | None:
    """A percentage or fraction as a fraction; the trade's 66 and 33 are thirds. ``None`` where it is no chance."""
    text = word.replace("%", "").replace("percent", "").replace(",", ".").strip()
    try:
        value = (
            Fraction(1, 2)
            if text == "50/50"
            else Fraction(text)
            if "/" in text
            else Fraction(TRADE.get(int(float(text)), Fraction(text) / 100))
        )
    except (ValueError, ZeroDivisionError):
        return None
    return str(value) if 0 < value <= 1 else None


def _impossible(catalogue: Catalogue, lookup: Lookup, kept: dict[str, Statement], sex: str) -> list[str]:
    """Why no animal can be as stated: more than two alleles at one locus; two copies or a maker where the sex has no room."""
    held: dict[str, list[str]] = {}
    for one in kept.values():
        if one.chance == "1":
            held.setdefault(catalogue.genes[one.gene].locus, []).extend([lookup.naming.gene(one.gene)] * one.copies)
    found = [
        f"{' and '.join(dict.fromkeys(names))} sit at one locus, which has room for two copies; here are {len(names)}."
        for names in held.values()
        if len(names) > 2
    ]
    found += [
        f"A female has no Y: “male maker” is said of males ({lookup.naming.gene(one.gene)})."
        for one in kept.values()
        if one.on and sex == "female"
    ]
    return found


def written(statement: Statement, lookup: Lookup) -> str:
    """A statement in words that :func:`understood` reads as the same statement.

    >>> from eyot_core.catalogue import builtin_catalogue
    >>> written(Statement("clown", 1, "possible", "2/3"), Lookup(builtin_catalogue()))
    '66% het Clown'
    """
    gene = lookup.catalogue.genes.get(statement.gene)
    if gene is None:
        return statement.gene
    name = lookup.naming.gene(statement.gene)
    words = lookup.naming.copies(statement.gene, statement.copies)
    if gene.is_recessive:
        words = f"{'het' if statement.copies == 1 else 'visual'} {name}"
    if statement.chance != "1":
        words = f"{_as_percentage(statement.chance)} {words}"
    if statement.two_chance:
        words += (
            " (poss super)" if statement.two_chance == HALF else f" ({_as_percentage(statement.two_chance)} poss super)"
        )
    if statement.on:
        words += " (male maker)" if statement.on == "Y" else " (female maker)"
    return (
        words
        if statement.known == _usual(statement, recessive=gene.is_recessive)
        else f"{words} ({_known_word(statement.known)})"
    )


def _usual(statement: Statement, *, recessive: bool) -> str:
    if statement.chance != "1":
        return "possible"
    return "declared" if recessive and statement.copies == 1 else "seen"


def _known_word(known: str) -> str:
    return {"bred": "proven"}.get(known, known)


def _as_percentage(chance: str) -> str:
    value = Fraction(chance)
    trade = {Fraction(2, 3): "66%", Fraction(1, 3): "33%"}
    return trade.get(value) or (f"{int(value * 100)}%" if (value * 100).denominator == 1 else str(value))
