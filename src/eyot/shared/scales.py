"""From values to places in a drawing: the one scale of all plots that are drawn by hand."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

Value = float | date
"""What a scale measures: a number, a day, or a moment (which is a day, too)."""


@dataclass(frozen=True)
class Scale:
    """A straight line from ``low`` to ``start`` and from ``high`` to ``end``, in drawing units; both values of one kind.

    ``bounded``: what lies outside is drawn at the end, not beyond it. Where both values are the same, everything is at the start.
    """

    low: Value
    high: Value
    start: float
    end: float
    bounded: bool = False

    def __call__(self, value: Value) -> int:
        """Where a value stands, in whole units."""
        low, high = _number(self.low), _number(self.high)
        share = (_number(value) - low) / (high - low) if high != low else 0.0
        return round(self.start + (min(1.0, max(0.0, share)) if self.bounded else share) * (self.end - self.start))


def _number(value: Value) -> float:
    if isinstance(value, datetime):
        return value.timestamp()
    return float(value.toordinal()) if isinstance(value, date) else float(value)


def path_through(places: list[tuple[int, int]]) -> str:
    """A line through places, as SVG writes it."""
    return "M" + "L".join(f"{x} {y}" for x, y in places)
