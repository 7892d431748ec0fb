"""Where the eggs of a clutch are drawn: the box from above."""

from __future__ import annotations

from dataclasses import dataclass

from eyot.bench.siblings import Frame
from eyot.shared.scales import Scale

BED = (75, 62, 410, 250)
"""Where the eggs' middles may lie in the drawing of the box: left, top, width, height in its units."""
LABEL_BELOW = 62


@dataclass(frozen=True)
class BoxEgg:
    """An egg as it lies in the box."""

    frame: Frame
    x: int
    y: int
    label_y: int


def box_of(frames: list[Frame]) -> list[BoxEgg]:
    """Places of the eggs in drawing units; those that lie on others last, so that they are drawn above."""
    places = []
    left, top, width, height = BED
    across, down = Scale(0, 1, left, left + width), Scale(0, 1, top, top + height)
    for frame in sorted(frames, key=lambda frame: frame.egg.on_top):
        x, y = across(frame.egg.across), down(frame.egg.down)
        places.append(BoxEgg(frame, x, y, y + LABEL_BELOW))
    return places
