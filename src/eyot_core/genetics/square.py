"""The square of gametes: what each parent passes on, and what comes of each pair; for short explanations on one's own animals.

Source: Mendel's laws.
"""

from __future__ import annotations

from dataclasses import dataclass

STATES = {"normal": (0, "normal"), "het": (1, "het"), "visual": (2, "visual")}
KINDS = ("none", "het", "visual")


@dataclass(frozen=True)
class Cell:
    """One child: its copies, and what it is called."""

    copies: int
    words: str


@dataclass(frozen=True)
class Square:
    """``dam``, ``sire``: the two gametes of each, whether they carry the gene; ``cells``: children by dam's and sire's gamete."""

    dam: tuple[bool, bool]
    sire: tuple[bool, bool]
    cells: list[tuple[bool, list[Cell]]]

    @property
    def counts(self) -> tuple[int, int, int]:
        """How many of the four equally likely children have no copy, one, and two."""
        copies = [cell.copies for _, row in self.cells for cell in row]
        return copies.count(0), copies.count(1), copies.count(2)


def square(dam: int, sire: int) -> Square:
    """The square of one gene for parents with 0, 1 or 2 copies."""
    first, second = _gametes(dam), _gametes(sire)
    return Square(first, second, [(a, [_cell(int(a) + int(b)) for b in second]) for a in first])


def _gametes(copies: int) -> tuple[bool, bool]:
    return copies > 0, copies > 1


def _cell(copies: int) -> Cell:
    return Cell(copies, ("without it", "het: carries it", "visual: shows it")[copies])


@dataclass(frozen=True)
class Small:
    """A small square of a term: what each parent gives, and what comes of it. ``cells``: words and copies (0 to 2) by rows."""

    dam_gives: tuple[str, ...]
    sire_gives: tuple[str, ...]
    cells: tuple[tuple[tuple[str, int], ...], ...]

    @property
    def rows(self) -> list[tuple[str, tuple[tuple[str, int], ...]]]:
        """Each of the dam's gametes with its row."""
        return list(zip(self.dam_gives, self.cells, strict=True))


def allelic(first: str, second: str) -> Small:
    """A dam with one of each of two alleles, by a normal: every young has one or the other."""
    return Small((first, second), ("none",), (((f"{first} alone", 1),), ((f"{second} alone", 1),)))


def complementing() -> Small:
    """Visuals of two lines: the young have one of each and show neither."""
    return Small(("line A, a whole B",), ("a whole A, line B",), ((("double het, looks normal", 1),),))


def male_maker(gene: str) -> Small:
    """A sire with the gene on his Y: his sons get it, his daughters do not, but for a few."""
    return Small(
        ("X",),
        (f"Y with {gene}, to sons", "X without, to daughters"),
        (((f"sons show {gene}", 2), ("daughters don’t", 0)),),
    )
