"""CSV files, read and written in one way: encodings, separators, limits, and cells that a spreadsheet would run.

Such cells are written with an apostrophe before them, and read without it.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from eyot.shared.refusal import Refused

RUN_BY_SPREADSHEETS = ("=", "+", "-", "@", "\t", "\r")
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab"}


@dataclass(frozen=True)
class Table:
    """A file as it was read. ``rows``: each with its number as a spreadsheet counts, the first row being 1; empty ones left out."""

    rows: list[tuple[int, list[str]]]
    text: str
    encoding: str
    separator: str

    @property
    def separator_name(self) -> str:
        """The separator in words."""
        return SEPARATORS[self.separator]

    @property
    def heading(self) -> list[str]:
        """The cells of the first row, in small letters; empty where it is empty."""
        return [cell.lower() for number, cells in self.rows[:1] if number == 1 for cell in cells]

    @property
    def body(self) -> list[tuple[int, list[str]]]:
        """The rows below the first."""
        return [row for row in self.rows if row[0] > 1]


def table_in(data: bytes, *, most_bytes: int, most_rows: int) -> Table:
    """Reads a file; cells come without space at their ends. :class:`Refused` where it is too large or no table."""
    if len(data) > most_bytes:
        size = f"{len(data) / 1e6:.1f} MB; at most {most_bytes / 1e6:g} MB"
        raise Refused(f"The file has {size} are read at once. Nothing was changed.")
    text, encoding = _decoded(data)
    separator = max(SEPARATORS, key=text.split("\n", 1)[0].count)
    rows = []
    try:
        for number, cells in enumerate(csv.reader(io.StringIO(text, newline=""), delimiter=separator), 1):
            if number > most_rows:
                raise Refused(
                    f"The file is too long: at most {most_rows:,} rows are read at once. Nothing was changed."
                )
            if any(cell.strip() for cell in cells):
                rows.append((number, [_unsafe(cell.strip()) for cell in cells]))
    except csv.Error as error:
        raise Refused(f"The file is no table: {error}, after {len(rows)} rows. Nothing was changed.") from None
    return Table(rows, text, encoding, separator)


def _decoded(data: bytes) -> tuple[str, str]:
    """Text and the encoding taken: what the file declares, else UTF-8 where it fits, else Windows Latin."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace"), "UTF-16"
    try:
        return data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace"), "Windows Latin"


def csv_of(columns: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table as text for spreadsheets."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows([_safe(cell) for cell in row] for row in rows)
    return out.getvalue()


def _safe(cell: str) -> str:
    return f"'{cell}" if cell.startswith(RUN_BY_SPREADSHEETS) else cell


def _unsafe(cell: str) -> str:
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(RUN_BY_SPREADSHEETS) else cell
