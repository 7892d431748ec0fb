"""Where the animals of a pedigree stand in its drawing: a row a generation, young below their parents."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

ACROSS, DOWN = 92.0, 96.0
MARGIN = 46.0


@dataclass(frozen=True)
class Plan:
    """``places``: middle of each animal; ``links``: paths from each pair of parents to their young; drawing units."""

    width: float
    height: float
    places: tuple[tuple[float, float], ...]
    links: tuple[str, ...]


def planned(parents: Sequence[tuple[int | None, int | None]]) -> Plan:
    """The places of animals by their parents' numbers (dam, sire; ``None`` where not drawn)."""
    rows: dict[int, list[int]] = {}
    mates = _mates(parents)
    generation = _generations(parents, mates)
    for number in range(len(parents)):
        rows.setdefault(generation[number], []).append(number)
    column: dict[int, float] = {}
    for row in sorted(rows):
        ordered = _in_order(rows[row], parents, mates, column)
        for place, number in enumerate(ordered):
            column[number] = float(place)
    widest = max((len(row) for row in rows.values()), default=1)
    offset = {number: (widest - len(row)) / 2 for row in rows.values() for number in row}
    places = tuple(
        (MARGIN + ACROSS * (column[number] + offset[number]), MARGIN + DOWN * generation[number])
        for number in range(len(parents))
    )
    links = tuple(_link(pair, children, places) for pair, children in _families(parents).items())
    return Plan(2 * MARGIN + ACROSS * (widest - 1), 2 * MARGIN + DOWN * (len(rows) - 1) + 12, places, links)


def _mates(parents: Sequence[tuple[int | None, int | None]]) -> dict[int, set[int]]:
    mates: dict[int, set[int]] = {}
    for dam, sire in parents:
        if dam is not None and sire is not None:
            mates.setdefault(dam, set()).add(sire)
            mates.setdefault(sire, set()).add(dam)
    return mates


def _generations(parents: Sequence[tuple[int | None, int | None]], mates: dict[int, set[int]]) -> dict[int, int]:
    """One more than the later parent's; an animal of unknown parents stands beside its mate."""
    generations: dict[int, int] = {}
    for number in range(len(parents)):
        _generation(number, parents, generations)
    beside = {
        number: max(generations[mate] for mate in mates[number]) for number in mates if parents[number] == (None, None)
    }
    return generations | beside


def _in_order(
    row: Sequence[int],
    parents: Sequence[tuple[int | None, int | None]],
    mates: dict[int, set[int]],
    column: dict[int, float],
) -> list[int]:
    """A row from left to right: siblings under their parents, those with a mate last; each mate of unknown parents beside its own."""
    founders = [number for number in row if parents[number] == (None, None)]
    born = [number for number in row if number not in founders]
    born.sort(key=lambda number: (_above(parents[number], column), bool(mates.get(number)), number))
    order: list[int] = []
    for number in (*born, *founders):
        if number not in order:
            order.append(number)
            order += [mate for mate in founders if mate in mates.get(number, ()) and mate not in order]
    return order


def _generation(number: int, parents: Sequence[tuple[int | None, int | None]], known: dict[int, int]) -> int:
    if number not in known:
        above = [_generation(parent, parents, known) for parent in parents[number] if parent is not None]
        known[number] = 1 + max(above) if above else 0
    return known[number]


def _above(pair: tuple[int | None, int | None], column: dict[int, float]) -> float:
    known = [column[parent] for parent in pair if parent is not None and parent in column]
    return sum(known) / len(known) if known else 0.0


def _families(parents: Sequence[tuple[int | None, int | None]]) -> dict[tuple[int | None, int | None], list[int]]:
    families: dict[tuple[int | None, int | None], list[int]] = {}
    for number, pair in enumerate(parents):
        if pair != (None, None):
            families.setdefault(pair, []).append(number)
    return families


def _link(pair: tuple[int | None, int | None], children: Sequence[int], places: Sequence[tuple[float, float]]) -> str:
    """From the parents down to a bar, and from the bar to each of the young."""
    known = [places[parent] for parent in pair if parent is not None]
    x, y = sum(place[0] for place in known) / len(known), max(place[1] for place in known)
    bar = min(places[child][1] for child in children) - 34
    path = [f"M{a:g} {b:g}H{x:g}" for a, b in known] + [f"M{x:g} {y:g}V{bar:g}"]
    path += [f"M{x:g} {bar:g}H{places[child][0]:g}V{places[child][1]:g}" for child in children]
    return "".join(path)
