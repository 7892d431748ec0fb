"""From the phrases of a line of genes to what it states of an animal, and what has to be asked.

:mod:`eyot_core.wording.line_reader` says which words belong to which gene; here that becomes statements. What may mean two things is
asked; what another part of the line answers is not.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import replace
from fractions import Fraction

from eyot_core.wording.line_reader import Named, Reader, Said
from eyot_core.wording.line_words import LineWords
from eyot_core.wording.lookup import Lookup
from eyot_core.wording.statements import HALF, Question, Statement, Understood, as_percentage

QUOTED = re.compile(r"[\"“”„]([^\"“”„]+)[\"“”]")
UNREADABLE = {"unknown", "name", "group", "some"}
CALLED = re.compile(r"\b(?:named|called)\s+(\w+)", re.IGNORECASE)


def read_line(lookup: Lookup, text: str) -> Understood:
    """Reads a line; see :func:`eyot_core.wording.line.understood`."""
    words = _words_under(lookup)
    name, rest = _name_and_rest(words, text)
    items, guessed = words.items(rest)
    reader = Reader(lookup, items)
    reader.read()
    return replace(_Meaning(lookup, reader, rest).understood(), name=name, guessed=tuple(guessed))


def _words_under(lookup: Lookup) -> LineWords:
    """The phrases of one lookup, made once."""
    if "_line_words" not in lookup.__dict__:
        lookup.__dict__["_line_words"] = LineWords(lookup)
    return lookup.__dict__["_line_words"]  # type: ignore[no-any-return]


def _name_and_rest(words: LineWords, text: str) -> tuple[str, str]:
    """The animal's name and the line with blanks in its place. A name stands before a colon, unless all words there have a
    meaning here ("hets: clown, pied"); before a dash, if none has; in quotation marks; or after "named"."""
    name, colon, rest = text.partition(":")
    if colon and name.strip():
        items, guessed = words.items(name)
        if guessed or any(item.kind in ("unknown", "gene", "group", "name") for item in items):
            return " ".join(name.split()), " " * (len(name) + 1) + rest
    for pattern in (QUOTED, CALLED):
        if match := pattern.search(text):
            return match[1].strip(), text[: match.start()] + " " * len(match[0]) + text[match.end() :]
    name, dash, rest = text.partition(" - ")
    if dash and name.strip() and all(item.kind == "unknown" for item in words.items(name)[0]):
        return " ".join(name.split()), " " * (len(name) + 3) + rest
    return "", text


class _Meaning:
    """From what is named to statements and questions."""

    def __init__(self, lookup: Lookup, reader: Reader, text: str) -> None:
        self.lookup, self.reader, self.text = lookup, reader, text
        self.kept: dict[str, Statement] = {}
        self.questions: list[Question] = []
        self.pairs: list[tuple[Question, list[Counter[str]]]] = []  # questions whose choices are pairs of alleles
        self.notes = list(reader.notes)

    def understood(self) -> Understood:
        """All of it."""
        for named in self.reader.named:
            self._state(named)
        for group in self.reader.either:
            if not self._is_pair(group) and not self._is_known(group):
                self._ask_which(group)
        answered = [question for question, pairs in self.pairs if self._held_of(pairs) in pairs]
        self.questions = [question for question in self.questions if question not in answered]
        return Understood(
            tuple(self.kept.values()),
            sex=self.reader.sex,
            unknown=tuple((word, self._near(word)) for word in self.reader.unknown),
            questions=tuple(dict.fromkeys(self.questions)),
            notes=tuple(dict.fromkeys(self.notes)),
            impossible=tuple(_impossible(self.lookup, self.kept, self.reader.sex)),
            absent=tuple(self.reader.absent),
        )

    def _is_pair(self, group: list[Named]) -> bool:
        """Do genes parted by slashes name both alleles, as "mojave/mojave" and "BEL (mojave/lesser)" do? They are kept then."""
        alleles = self._alleles_of(group) if group in self.reader.slashed else None
        if not alleles or alleles.total() != 2:
            return False
        if len(alleles) > 1 and not any(alleles in pairs for _, pairs in self.pairs):
            return False
        for gene, copies in alleles.items():
            self._keep(self._statement(gene, copies, group[0]), group[0])
        return True

    def _is_known(self, group: list[Named]) -> bool:
        """Does the rest of the line say already that all of them are there?"""
        held, alleles = self._certain, self._alleles_of(group)
        return bool(alleles) and all(
            held.get(gene, 0) >= (2 if self._is_recessive(gene) else 1) for gene in alleles or ()
        )

    @staticmethod
    def _alleles_of(group: list[Named]) -> Counter[str] | None:
        """How often each gene is named; None where more than names of genes stands there."""
        if any(one.asked or one.said.is_said or one.item.kind != "gene" or len(one.meanings) > 1 for one in group):
            return None
        named = [pair for one in group for pair in one.meanings[0].genes]
        one_gene = len({gene for gene, _ in named}) == 1
        return Counter(gene for gene, _ in named) if one_gene or all(copies == 1 for _, copies in named) else None

    @property
    def _certain(self) -> dict[str, int]:
        return {one.gene: one.copies for one in self.kept.values() if one.chance == "1" and one.known != "possible"}

    def _held_of(self, pairs: list[Counter[str]]) -> Counter[str]:
        """What of some pairs of alleles the animal has for certain."""
        return Counter({gene: self._certain[gene] for gene in set().union(*pairs) if gene in self._certain})

    def _near(self, word: str) -> tuple[str, ...]:
        return tuple(hit.name for hit in self.lookup.find(word, 3))

    def _gene(self, gene: str) -> str:
        return self.lookup.naming.gene(gene)

    def _is_recessive(self, gene: str) -> bool:
        return self.lookup.catalogue.genes[gene].is_recessive

    def _state(self, named: Named) -> None:
        if named.item.kind == "some":
            self._some(named)
        elif named.item.kind == "group":
            self._group(named)
        elif len(named.meanings) > 1:
            self._several_meanings(named)
        elif named.asked:
            self._one_or_two(named)
        else:
            for gene, copies in named.meanings[0].genes:
                self._keep(self._statement(gene, copies, named), named)

    def _one_or_two(self, named: Named) -> None:
        (gene, _), *_ = named.meanings[0].genes
        name = self._gene(gene)
        if self._is_recessive(gene):
            self._ask(named, f"Is {name} carried too, or does it show?", [f"het {name}", f"visual {name}"])
        else:
            self._ask(named, f"{name}: one copy or two?", [name, self.lookup.naming.copies(gene, 2)])

    def _ask(self, named: Named, question: str, choices: list[str]) -> None:
        self._ask_at(named.span, question, choices)

    def _ask_at(self, span: tuple[int, int], question: str, choices: list[str]) -> None:
        words = " ".join(self.text[slice(*span)].split())
        self.questions.append(Question(words, question, tuple(dict.fromkeys(choices)), *span))

    def _group(self, named: Named) -> None:
        """A word that several kinds are called by: which is meant has to be asked, of those that the catalogue knows."""
        entry, prefix = named.item.value, named.said.prefix
        known = self.lookup.catalogue.genes
        genes = [gene for gene in entry.get("genes", []) if gene in known]
        readable = [choice for choice in entry.get("of", []) if self._is_readable(choice)]
        for gene, copies in entry.get("always", {}).items():
            if gene in known:
                self._keep(self._statement(gene, copies, named), named)
        if not genes and not readable:
            self.reader.unknown.append(self._as_written(named))
            return
        choices = [f"{prefix}{self._gene(gene)}" for gene in genes] + readable
        if not prefix:
            choices = [f"visual {choice}" if choice in map(self._gene, genes) else choice for choice in choices]
        if "some" in entry and genes:
            choices.append(f"{prefix}{entry['some']}")
        self._ask(named, entry["question"], choices)
        self._keep_pairs(readable)

    def _as_written(self, named: Named) -> str:
        return " ".join(self.text[named.item.start : named.item.end].split())

    def _is_readable(self, choice: str) -> bool:
        """Are all words of a choice known, and known as one thing? Not where the catalogue lacks its gene."""
        return all(item.kind not in UNREADABLE for item in _words_under(self.lookup).items(choice)[0])

    def _keep_pairs(self, choices: list[str]) -> None:
        """Of what the question before may be answered by, the pairs of alleles."""
        read = [read_line(self.lookup, choice).statements for choice in choices]
        told = [Counter({one.gene: one.copies for one in row}) for row in read]
        pairs = [alleles for alleles in told if self._is_of_one_locus(alleles)]
        if any(len(alleles) == 2 for alleles in pairs):
            self.pairs.append((self.questions[-1], pairs))

    def _is_of_one_locus(self, alleles: Counter[str]) -> bool:
        return alleles.total() == 2 and len({self.lookup.catalogue.genes[gene].locus for gene in alleles}) == 1

    def _some(self, named: Named) -> None:
        """One of a group, not known which: each with its share."""
        genes = [gene for gene in named.item.value["genes"] if gene in self.lookup.catalogue.genes]
        if not genes:
            self.reader.unknown.append(self._as_written(named))
            return
        share = Fraction(named.said.chance or (HALF if named.said.possible else "1")) / len(genes)
        for gene in genes:
            copies = 1 if named.said.het or not self._is_recessive(gene) else 2
            self._keep(Statement(gene, copies, "possible", str(share)), named)

    def _several_meanings(self, named: Named) -> None:
        """What all meanings have is certain; the rest is asked."""
        meanings = [dict(one.genes) for one in named.meanings]
        common = {
            gene: min(one[gene] for one in meanings) for gene in meanings[0] if all(gene in one for one in meanings)
        }
        for gene, copies in common.items():
            self._keep(self._statement(gene, copies, named), named)
        choices = [self._as_words(one, named.said) for one in meanings]
        self._ask(named, f"“{named.item.words}” is said of several. Which is meant?", list(dict.fromkeys(choices)))

    def _as_words(self, genes: dict[str, int], said: Said) -> str:
        return ", ".join(f"{said.prefix}{self._copies(gene, copies, said)}" for gene, copies in genes.items())

    def _copies(self, gene: str, copies: int, said: Said) -> str:
        if self._is_recessive(gene):
            return self._gene(gene) if said.het else f"visual {self._gene(gene)}"
        return self.lookup.naming.copies(gene, copies)

    def _ask_which(self, group: list[Named]) -> None:
        choices: list[str] = []
        for one in group:
            lead = one.said.prefix or group[0].said.prefix
            if one.item.kind != "gene":
                choices.append(f"{lead}{one.item.words}")
            else:
                said = replace(one.said, het=one.said.het or group[0].said.het)
                twice = 2 if one.said.two else 1
                choices.append(
                    f"{lead}"
                    + ", ".join(self._copies(gene, max(copies, twice), said) for gene, copies in one.meanings[0].genes)
                )
        span = (group[0].span[0], max(one.span[1] for one in group))
        self._ask_at(span, "Which of them is it?", choices)

    def _statement(self, gene: str, copies: int, named: Named) -> Statement:
        said = named.said
        made = self._recessive(gene, named) if self._is_recessive(gene) else self._visible(gene, copies, said)
        on_sex = self.lookup.catalogue.loci[self.lookup.catalogue.genes[gene].locus].on_sex_chromosome
        return replace(made, on=said.on) if said.on and on_sex else made

    def _visible(self, gene: str, copies: int, said: Said) -> Statement:
        name = self._gene(gene)
        if said.het:
            self.notes.append(f"“Het {name}”: {name} shows with one copy, so one copy that shows was taken.")
        copies = 2 if said.two else copies
        if said.maybe_two or (said.doubtful and copies == 2):
            chance = said.chance if said.chance not in ("", "1") else HALF
            return Statement(gene, 1, said.known or "seen", two_chance=chance)
        if said.doubtful and not said.chance:
            self._say_half(name)
        known = said.known or ("possible" if said.doubtful else "seen")
        return Statement(gene, copies, known, said.chance or (HALF if said.possible else "1"))

    def _recessive(self, gene: str, named: Named) -> Statement:
        said, name = named.said, self._gene(gene)
        chance = said.chance or (HALF if said.possible else "1")
        if said.doubtful and not said.chance:
            self._say_half(name)
        visual = said.visual or said.two
        if (said.het or said.once) and not visual:
            return Statement(gene, 1, said.known or ("possible" if said.doubtful else "declared"), chance)
        if not said.doubtful or visual:
            return Statement(gene, 2, said.known or ("possible" if said.doubtful else "seen"), chance)
        figure = as_percentage(chance)
        self._ask(
            named, f"Is {name} possibly carried, or may it show?", [f"{figure} het {name}", f"{figure} visual {name}"]
        )
        return Statement(gene, 1, said.known or "possible", chance)

    def _say_half(self, name: str) -> None:
        self.notes.append(f"Of {name} no figure was given: 50 % was taken.")

    def _keep(self, statement: Statement, named: Named) -> None:
        gene, name = statement.gene, self._gene(statement.gene)
        before = self.kept.get(gene)
        if before is None:
            self.kept[gene] = statement
            return
        if (
            not self._is_recessive(gene)
            and (before.copies, statement.copies) == (1, 1)
            and "1" == before.chance == statement.chance
        ):
            self._ask(named, f"{name} is named twice. One copy or two?", [name, self.lookup.naming.copies(gene, 2)])
            return
        surer = max((before, statement), key=lambda one: (one.chance == "1", one.copies))
        if before != statement:
            self.notes.append(f"{name} is named twice, in different ways: the surer was taken.")
        self.kept[gene] = surer


def _impossible(lookup: Lookup, kept: dict[str, Statement], sex: str) -> list[str]:
    """Why no animal can be as stated: more than two alleles at one locus; two copies or a maker where the sex has no room."""
    held: dict[str, list[str]] = {}
    for one in kept.values():
        if one.chance == "1":
            held.setdefault(lookup.catalogue.genes[one.gene].locus, []).extend(
                [lookup.naming.gene(one.gene)] * one.copies
            )
    impossible = [
        f"{' and '.join(dict.fromkeys(names))} sit at one locus, which has room for two copies; here are {len(names)}."
        for names in held.values()
        if len(names) > 2
    ]
    impossible += [
        f"A female has no Y: “male maker” is said of males ({lookup.naming.gene(one.gene)})."
        for one in kept.values()
        if one.on and sex == "female"
    ]
    return impossible
