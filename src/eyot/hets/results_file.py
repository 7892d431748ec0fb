"""A laboratory's results as CSV."""

from __future__ import annotations

from django.core.exceptions import ValidationError

from eyot.hets.actions import Typed
from eyot.hets.forms import share_field
from eyot.hets.laboratory import SENSITIVITY, SPECIFICITY
from eyot.shared.csv_files import table_in
from eyot.shared.forms import DayField
from eyot.shared.refusal import Refused

COLUMNS = ("animal", "gene", "result", "date", "laboratory")
MOST_BYTES = 500_000
MOST_ROWS = 5_000
FIELDS = {
    "date": DayField(),
    "sensitivity": share_field(SENSITIVITY),
    "specificity": share_field(SPECIFICITY),
}


def results_in(data: bytes) -> list[Typed]:
    """Rows of animal, gene, result, date, laboratory, and if given sensitivity and specificity.

    :class:`Refused` where the file is none, a column is missing, or a cell can't be read.
    """
    table = table_in(data, most_bytes=MOST_BYTES, most_rows=MOST_ROWS)
    missing = [name for name in COLUMNS if name not in table.heading]
    if missing:
        raise Refused(
            f"The first row must name the columns {', '.join(COLUMNS)}; missing: {', '.join(missing)}. Nothing was changed."
        )
    return [_typed(number, dict(zip(table.heading, cells, strict=False))) for number, cells in table.body]


def _typed(number: int, row: dict[str, str]) -> Typed:
    values = {}
    for column, field in FIELDS.items():
        try:
            values[column] = field.clean(row.get(column, ""))
        except ValidationError as error:
            raise Refused(f"Row {number}, {column}: {error.messages[0]} Nothing was changed.") from None
    return Typed(
        row=number,
        animal=row.get("animal", ""),
        gene=row.get("gene", ""),
        result=row.get("result", "").lower(),
        on=values["date"],
        laboratory=row.get("laboratory", "") or "not named",
        sensitivity=values["sensitivity"],
        specificity=values["specificity"],
    )
