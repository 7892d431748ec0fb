"""The axis of a line-up."""

from __future__ import annotations

from django import template

from eyot.lineup.rows import Axis, LineupRow

register = template.Library()


@register.simple_tag
def place(axis: Axis, row: LineupRow) -> int:
    """Where a row's value stands on the axis; 0 where it has none."""
    return axis.x(row.value) if row.value is not None else 0


@register.simple_tag
def spread(axis: Axis, row: LineupRow) -> dict[str, int]:
    """Where a row's value less and more its standard deviation stand: ``x`` and ``width``."""
    if row.value is None:
        return {"x": 0, "width": 0}
    low, high = axis.x(row.value - row.sd), axis.x(row.value + row.sd)
    return {"x": low, "width": high - low}
