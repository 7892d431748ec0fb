"""What is typed or sent on carriers, as values."""

from __future__ import annotations

import csv
import io

from eyot.hets.actions import Typed
from eyot.hets.laboratory import SENSITIVITY, SPECIFICITY
from eyot.season.reading import day_from
from eyot.shared.refusal import Refused

COLUMNS = ("animal", "gene", "result", "date", "laboratory")
MOST_BYTES = 500_000


def share_from(text: str, field: str, default: float) -> float:
    """A share from 0 to 1; the default for an empty text."""
    wanted = text.strip().replace(",", ".")
    try:
        value = float(wanted) if wanted else default
    except ValueError:
        raise Refused(f"{field}: “{text}” is not a number such as 0.99. Nothing was changed.") from None
    if not 0 <= value <= 1:
        raise Refused(f"{field}: a share lies between 0 and 1, not at {text}. Nothing was changed.")
    return value


def results_in(data: bytes) -> list[Typed]:
    """A laboratory's CSV: animal, gene, result, date, laboratory, and if given sensitivity and specificity.

    :class:`Refused` where the file is none, or a column is missing.
    """
    if len(data) > MOST_BYTES:
        raise Refused("The file is larger than half a megabyte. Nothing was changed.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused(
            "The file is not text in UTF-8. Save it as CSV (UTF-8) and send it again. Nothing was changed."
        ) from None
    first = text.splitlines()[0] if text.strip() else ""
    separator = ";" if first.count(";") > first.count(",") else ","
    rows = list(csv.DictReader(io.StringIO(text), delimiter=separator))
    names = [name.strip().lower() for name in first.split(separator)]
    missing = [name for name in COLUMNS if name not in names]
    if missing:
        raise Refused(
            f"The first row must name the columns {', '.join(COLUMNS)}; missing: {', '.join(missing)}. Nothing was changed."
        )
    return [
        _typed(number, {(key or "").strip().lower(): str(value or "").strip() for key, value in row.items()})
        for number, row in enumerate(rows, start=2)
    ]


def _typed(number: int, row: dict[str, str]) -> Typed:
    where = f"row {number}"
    return Typed(
        row=number,
        animal=row["animal"],
        gene=row["gene"],
        result=row["result"].lower(),
        on=day_from(row["date"], f"{where}, date"),
        laboratory=row["laboratory"] or "not named",
        sensitivity=share_from(row.get("sensitivity", ""), f"{where}, sensitivity", SENSITIVITY),
        specificity=share_from(row.get("specificity", ""), f"{where}, specificity", SPECIFICITY),
    )
