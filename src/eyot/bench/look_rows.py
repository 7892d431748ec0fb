"""The looks as rows to answer: which are put before the keeper, with their levels, drawings and answers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from zlib import crc32

from eyot_core.drawing.glyphs import COLOURED, glyph

from eyot.bench.judgement import Judgement, plain, trait_words
from eyot.bench.models import Look


@dataclass(frozen=True)
class LevelChoice:
    """One answer that can be chosen."""

    id: str
    name: str
    title: str
    drawing: str
    number: int
    chosen: bool


@dataclass(frozen=True)
class LookRow:
    """One look with its answers. ``number``: its place among the answered looks, 0 if it is not answered; ``key``: of the reader's own
    answer."""

    trait: str
    name: str
    question: str
    levels: tuple[LevelChoice, ...]
    number: int
    answer: str
    others: tuple[str, ...]
    suggested: bool
    coloured: bool
    key: str = ""

    @property
    def state(self) -> str:
        """A short mark of everything in the row: two rows alike have it in common."""
        return f"{self.trait}.{crc32(repr(self).encode()):08x}"


def changed_rows(rows: Sequence[LookRow], shown: str) -> list[LookRow] | None:
    """The rows that differ from what a page shows, by the states it names; ``None`` if it has other rows, or another order."""
    states = shown.split()
    if [state.split(".")[0] for state in states] != [row.trait for row in rows]:
        return None
    return [row for row, state in zip(rows, states, strict=True) if row.state != state]


def asked(judgement: Judgement, counted: list[Look], stage: str, suggested: str) -> set[str]:
    """The looks to put before the keeper: those that tell siblings apart, those answered, the one worth most."""
    answered = {look.trait for look in counted if look.stage == stage}
    return {*judgement.worth_asking(stage), *answered, *filter(None, [suggested])}


def look_rows(
    judgement: Judgement,
    counted: list[Look],
    stage: str,
    reader_id: int,
    suggested: str,
    wanted: Callable[[str], bool],
) -> list[LookRow]:
    """The wanted looks, the most telling first; those that tell little in the order in which keepers look."""
    numbers = {look.pk: index + 1 for index, look in enumerate(counted)}
    by_trait: dict[str, list[Look]] = {}
    for look in counted:
        if look.stage == stage:
            by_trait.setdefault(look.trait, []).append(look)
    return [
        _look_row(trait, by_trait.get(trait, []), numbers, reader_id, suggested=trait == suggested)
        for trait in dict.fromkeys([*judgement.worth_asking(stage), *judgement.catalogue.traits])
        if wanted(trait)
    ]


def _look_row(trait: str, answers: list[Look], numbers: dict[int, int], reader_id: int, *, suggested: bool) -> LookRow:
    words = trait_words(trait)
    own = next((look for look in answers if look.seen_by_id == reader_id), None)
    levels = tuple(
        LevelChoice(
            id=level["id"],
            name=plain(level["id"]),
            title=": ".join(filter(None, (plain(level["id"]), level.get("words")))),
            drawing=glyph(trait, level["id"]),
            number=index + 1,
            chosen=own is not None and own.level == level["id"],
        )
        for index, level in enumerate(words["levels"])
    )
    return LookRow(
        trait=trait,
        name=words["name"],
        question=words["question"],
        levels=levels,
        number=numbers[own.pk] if own else 0,
        answer=f"{plain(own.level)}" + ("" if own.confidence == "sure" else f", {own.confidence}") if own else "",
        others=tuple(
            f"{look.seen_by.get_username()}: {plain(look.level)}" for look in answers if look.seen_by_id != reader_id
        ),
        suggested=suggested,
        coloured=trait in COLOURED,
        key=str(own.key) if own else "",
    )
