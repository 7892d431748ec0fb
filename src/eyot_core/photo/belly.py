"""Numbers from a belly strip: how much is marked and where, the ground's colour, a pale ring at the vent; and what looks they suggest.

The strip is that of :mod:`eyot_core.photo.strip` along the middle of the belly: v = 0 there. Counted over the trunk in the field of the
belly scales; marks are what is plainly darker than that field's own ground, so that no light need be known for them.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

import numpy as np
import scipy
from numpy.typing import NDArray

from eyot_core.colour import lab
from eyot_core.photo.measures import LIGHT_SD, UNLIT_SD, Measure, Measured, Missing, Value
from eyot_core.photo.strip import Strip
from eyot_core.photo.suggest import Suggestion

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

BELLY_MEASURES = (
    Measure(
        "belly_marked_share", "marked", "share of the belly", "what is darker than the belly's ground by 16 L* or more"
    ),
    Measure(
        "belly_edge_share",
        "marks at the edges",
        "share of the marks",
        "of the marks, those in the outer third of the belly",
    ),
    Measure(
        "belly_two_rows",
        "two rows",
        "share",
        "how much more is marked on two lines than in the middle and at the edges",
    ),
    Measure(
        "belly_ring_share", "pale ring", "share around", "the palest place from the vent on: how far round it is pale"
    ),
    Measure("belly_lab", "belly colour", "L* a* b*", "colour of the belly between its marks"),
)
TRUNK, VENT = (0.1, 0.84), (0.86, 0.97)
FIELD, AROUND = 0.115, 0.33
"""Half-widths in v: of the field that is surely belly, and of what is looked at for a ring."""
DARKER, SHIFT = 16.0, 6.0
MOST_ASIDE, ALIKE, ALONG = 0.09, 20.0, 25.0
"""How far the middle of the belly may lie beside the line, in v; how like the belly's ground its scales are, CIELAB; over how many columns
its middle is smoothed."""
TWO_ROWS, SCATTERED = 0.35, 0.2
"""From which measure of two rows on marks run in two rows, and up to which they lie scattered."""
CHECKERED, FLECKED = 0.26, (0.05, 0.23)
"""How much of the belly is marked: of what lies between, nothing is suggested."""
MIDDLE, ROWS, OUTER = 0.22, (0.28, 0.6), 0.66
PALE_BY, PALE_CHROMA = 9.0, 16.0
LEAST_SEEN = 0.5
FEW_MARKS = 0.015
NO_RING, RING = 0.1, 0.22


@dataclass(frozen=True)
class _Belly:
    """The belly scales over the trunk: colours (rows, columns, 3), what is seen of them, how far from their middle a place lies, -1 left
    to 1 right (rows, columns), and the ground's colour."""

    lab: Floats
    seen: Mask
    aside: Floats
    ground: Floats

    def marks(self, shift: float = 0.0) -> Mask:
        """What is marked, by a limit that is moved by so many L*."""
        return np.asarray((self.lab[..., 0] < self.ground[0] - DARKER + shift) & self.seen)


def belly_of(strip: Strip) -> Measured:
    """Every measure of a belly strip by its id; what can't be had says why."""
    colours = lab(strip.light)
    rows, columns = np.abs(strip.v) < FIELD + MOST_ASIDE, (strip.u > TRUNK[0]) & (strip.u < TRUNK[1])
    box = np.ix_(rows, columns)
    # What is burnt out is no mark, so that marks on a burnt belly are still told; its colour is not.
    seen, v = (strip.seen & ~strip.dark)[box], strip.v[rows]
    field = np.abs(v) < FIELD
    if seen[field].mean() < LEAST_SEEN:
        return {measure.id: Missing("the belly is not seen well enough") for measure in BELLY_MEASURES}
    ground = _ground(colours[box][field], seen[field])
    aside = (v[:, None] - _middle(colours[box], seen, v, ground)) / FIELD
    belly = _Belly(colours[box], seen & (np.abs(aside) < 1), aside, ground)
    sd = LIGHT_SD if strip.corrected else UNLIT_SD
    colour: Value | Missing = Value(tuple(map(float, ground)), tuple(map(float, np.ravel(sd))))
    if strip.counted[box][field].mean() < LEAST_SEEN:
        colour = Missing("the belly is burnt out")
    return {**_marks(belly), "belly_ring_share": _ring(strip, colours, ground), "belly_lab": colour}


def _ground(inside: Floats, seen: Mask) -> Floats:
    """The colour between the marks."""
    light = inside[seen & (inside[..., 0] >= np.percentile(inside[..., 0][seen], 60))]
    return np.asarray(np.median(light, axis=0))


def _middle(colours: Floats, seen: Mask, v: Floats, ground: Floats) -> Floats:
    """Where the middle of the belly lies, in v (columns,): a line along a body is never quite its middle, and flanks have another
    colour. Where they have not, it is the line."""
    like = np.exp(-((np.linalg.norm(colours - ground, axis=-1) / ALIKE) ** 2)) * seen
    weight, moment = (scipy.ndimage.gaussian_filter1d(one.sum(axis=0), ALONG) for one in (like, like * v[:, None]))
    return np.asarray(np.clip(moment / np.maximum(weight, 1e-6), -MOST_ASIDE, MOST_ASIDE))


def _marks(belly: _Belly) -> Measured:
    marks, outward = belly.marks(), np.abs(belly.aside)
    share = float(marks.sum() / belly.seen.sum())
    by_limit = abs(float(belly.marks(SHIFT).sum() - belly.marks(-SHIFT).sum())) / 2 / float(belly.seen.sum())
    measured: Measured = {"belly_marked_share": Value(share, max(by_limit, 0.005))}
    if share < FEW_MARKS:
        few = Missing("hardly anything is marked")
        return measured | {"belly_edge_share": few, "belly_two_rows": few}
    count = max(4, int(scipy.ndimage.label(marks)[1]))
    outer = float(marks[outward > OUTER].sum() / marks.sum())
    middle, edge, *rows = (
        float(marks[where & belly.seen].sum() / max(1, (where & belly.seen).sum()))
        for where in (
            outward < MIDDLE,
            outward > OUTER,
            *((side * belly.aside > ROWS[0]) & (side * belly.aside < ROWS[1]) for side in (-1, 1)),
        )
    )
    two = (min(rows) - max(middle, edge)) / max(min(rows), FEW_MARKS)
    spread = float(np.sqrt(max(outer * (1 - outer), 0.05) / count))
    return measured | {"belly_edge_share": Value(outer, spread), "belly_two_rows": Value(max(-1.0, two), 2 * spread)}


def _ring(strip: Strip, colours: Floats, ground: Floats) -> Value | Missing:
    """How far round the palest place behind the vent is pale, beyond what the belly itself is."""
    rows = np.abs(strip.v) < AROUND
    pale = (colours[..., 0] > ground[0] - PALE_BY) & (np.hypot(colours[..., 1], colours[..., 2]) < PALE_CHROMA)
    seen = strip.seen & ~strip.dark
    behind, trunk = (np.ix_(rows, (strip.u > low) & (strip.u < high)) for low, high in (VENT, TRUNK))
    if seen[behind].mean() < LEAST_SEEN:
        return Missing("the vent is not seen")
    by_column = scipy.ndimage.gaussian_filter1d(np.where(seen[behind], pale[behind], False).mean(axis=0), 4.0)
    usual = float(np.where(seen[trunk], pale[trunk], False).mean())
    around = (float(by_column.max()) - usual) / max(1 - usual, 0.1)
    return Value(float(np.clip(around, 0, 1)), 0.08)


def belly_suggestions(measured: Measured) -> list[Suggestion]:
    """The answers to looks at the belly that measures suggest; none where they lie between."""
    return [one for one in (_of_marks(measured), _of_colour(measured), _of_ring(measured)) if one]


def _number(measured: Measured, name: str) -> tuple[float, float] | None:
    value = measured.get(name)
    if not isinstance(value, Value) or not isinstance(value.value, float) or not isinstance(value.sd, float):
        return None
    return value.value, value.sd


def _of_marks(measured: Measured) -> Suggestion | None:
    marked = _number(measured, "belly_marked_share")
    if marked is None:
        return None
    share, sd = marked
    if share < FEW_MARKS:
        return Suggestion("belly_marks", "none", "belly_marked_share", share, sd, clear=share + sd < 0.03)
    edges, rows = _number(measured, "belly_edge_share"), _number(measured, "belly_two_rows")
    if edges is None or rows is None:
        return None
    if rows[0] > TWO_ROWS:
        return Suggestion("belly_marks", "tracks", "belly_two_rows", *rows, clear=rows[0] - rows[1] > 0.3)
    if edges[0] > 0.7:
        return Suggestion("belly_marks", "normal", "belly_edge_share", *edges, clear=edges[0] - edges[1] > 0.6)
    if edges[0] > 0.5 or rows[0] > SCATTERED:
        return None
    level = "checkered" if share > CHECKERED else "flecked" if FLECKED[0] < share < FLECKED[1] else ""
    middle = (CHECKERED + FLECKED[1]) / 2
    return (
        Suggestion("belly_marks", level, "belly_marked_share", share, sd, clear=abs(share - middle) > 3 * sd)
        if level
        else None
    )


def _of_colour(measured: Measured) -> Suggestion | None:
    value = measured.get("belly_lab")
    if not isinstance(value, Value) or not isinstance(value.value, tuple) or not isinstance(value.sd, tuple):
        return None
    lightness, chroma = value.value[0], hypot(*value.value[1:])
    spread = hypot(*value.sd[1:])
    if lightness < 60:
        return Suggestion(
            "belly_color", "dark", "belly_lab", lightness, value.sd[0], clear=lightness + value.sd[0] < 55
        )
    if chroma > 26:
        return Suggestion("belly_color", "yellow", "belly_lab", chroma, spread, clear=chroma - spread > 22)
    if lightness > 66 and chroma < 18:
        # A glassy belly without any pigment looks the same in a photo.
        return Suggestion("belly_color", "white", "belly_lab", chroma, spread, clear=False)
    return None


def _of_ring(measured: Measured) -> Suggestion | None:
    ring = _number(measured, "belly_ring_share")
    if ring is None:
        return None
    if ring[0] < NO_RING:
        return Suggestion("ringer", "none", "belly_ring_share", *ring, clear=ring[0] + ring[1] < RING)
    # Whether it closes over the back is not to be seen from below.
    return Suggestion("ringer", "partial", "belly_ring_share", *ring, clear=False) if ring[0] > RING else None
