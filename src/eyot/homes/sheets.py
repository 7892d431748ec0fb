"""Sheets of labels by their measures, in millimetres: usual ones, and the keeper's own."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from eyot.collection.models import Collection
from eyot.homes.models import LabelSheet
from eyot.shared.refusal import Refused

A4, LETTER = (210.0, 297.0), (215.9, 279.4)
LEAST_WIDTH, LEAST_HEIGHT, LARGEST = 35.0, 16.0, 420.0
SLACK = 0.5
"""By how much labels may run over the edge of a page: measures on packages are rounded."""


@dataclass(frozen=True)
class Sheet:
    """Where the labels lie on a page. ``across`` and ``down``: from one label's left and upper edge to the next one's."""

    key: str
    name: str
    page: tuple[float, float]
    columns: int
    rows: int
    width: float
    height: float
    left: float
    top: float
    across: float
    down: float

    @property
    def count(self) -> int:
        """How many labels a page holds."""
        return self.columns * self.rows

    def places(self) -> Iterator[tuple[float, float]]:
        """Left and upper edge of each label, row by row."""
        for row in range(self.rows):
            for column in range(self.columns):
                yield self.left + column * self.across, self.top + row * self.down


USUAL = (
    Sheet("a4-24", "A4, 24 labels of 70 × 37 mm", A4, 3, 8, 70, 37, 0, 0.5, 70, 37),
    Sheet("a4-21", "A4, 21 labels of 63.5 × 38.1 mm", A4, 3, 7, 63.5, 38.1, 7.2, 15.15, 66.04, 38.1),
    Sheet("a4-14", "A4, 14 labels of 99.1 × 38.1 mm", A4, 2, 7, 99.1, 38.1, 4.65, 15.15, 101.6, 38.1),
    Sheet("letter-30", "Letter, 30 labels of 66.7 × 25.4 mm", LETTER, 3, 10, 66.7, 25.4, 4.8, 12.7, 69.85, 25.4),
    Sheet("tub", "Tub cards: A4, 8 of 95 × 60 mm", A4, 2, 4, 95, 60, 8, 22, 99, 64),
    Sheet("rack", "Rack cards: A4, 4 of 95 × 130 mm", A4, 2, 2, 95, 130, 8, 16, 99, 134),
)


def sheets_of(collection: Collection) -> list[Sheet]:
    """The usual sheets, and the collection's own."""
    return [*USUAL, *(_own(row) for row in collection.label_sheets.all())]


def sheet_of(collection: Collection, key: str) -> Sheet:
    """One of them. :class:`Refused` where there is none of that key."""
    found = next((sheet for sheet in sheets_of(collection) if sheet.key == key), None)
    if found is None:
        raise Refused("That sheet is not here any more. Choose another.", field="sheet")
    return found


def _own(row: LabelSheet) -> Sheet:
    page = (row.page_width, row.page_height)
    place = (row.left, row.top, row.across, row.down)
    return Sheet(f"own-{row.pk}", row.name, page, row.columns, row.rows, row.width, row.height, *place)


def add_sheet(row: LabelSheet) -> LabelSheet:
    """Keeps a sheet by its own measures. :class:`Refused` where labels would not lie on the page, or on one another."""
    sheet = _own(row)
    if sheet.width < LEAST_WIDTH or sheet.height < LEAST_HEIGHT:
        raise Refused(
            f"A label is at least {LEAST_WIDTH:g} × {LEAST_HEIGHT:g} mm, not {sheet.width:g} × {sheet.height:g}: "
            "nothing could be read on a smaller one. Nothing was kept.",
            field="width",
        )
    if max(sheet.page) > LARGEST or not 1 <= sheet.count <= 200:
        raise Refused(
            f"A page has at most {LARGEST:g} mm on a side and 200 labels. Nothing was kept.", field="page_width"
        )
    if (sheet.columns > 1 and sheet.across < sheet.width) or (sheet.rows > 1 and sheet.down < sheet.height):
        raise Refused("These labels would lie on one another. Nothing was kept.", field="across")
    right = sheet.left + (sheet.columns - 1) * sheet.across + sheet.width
    bottom = sheet.top + (sheet.rows - 1) * sheet.down + sheet.height
    if right > sheet.page[0] + SLACK or bottom > sheet.page[1] + SLACK or min(sheet.left, sheet.top) < 0:
        raise Refused(
            f"The last label would end at {right:g} × {bottom:g} mm, beyond a page of {sheet.page[0]:g} × {sheet.page[1]:g}. "
            "Nothing was kept.",
            field="columns",
        )
    if LabelSheet.objects.filter(collection=row.collection, name=row.name).exists():
        raise Refused(f"You have a sheet called {row.name} already. Nothing was kept.", field="name")
    row.save()
    return row
