"""The sheet of cards to print, as PDF: see :mod:`eyot_core.photo.card`. All measures in millimetres."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from typing import IO

from PIL import ImageFile

from eyot_core.errors import InputError
from eyot_core.photo.card import (
    CODE,
    CORNERS,
    CUT_OUT,
    HEIGHT,
    MARKER,
    ON_LABELS,
    PRINTED,
    SCALE_LINE,
    SMALL_ONES,
    WIDTH,
    WINDOW,
    code_rows,
    marker_rows,
)

LETTERS, MOST_WIDE = 6.0, 48.0
"""Height of the letters, and how wide they may run."""
WIDE = 0.62
"""Width of one letter, in its height."""
PAGE = """@page { size: A4; margin: 10mm }
body { margin: 0; font: 9pt/1.35 "DejaVu Sans", sans-serif; color: #000 }
.cards { font-size: 0 } .cards svg { width: 86mm; height: 54mm; margin: 0 3mm 3mm 0 }
.page { page-break-after: always } .page:last-child { page-break-after: auto } p { margin: 0 0 1mm; width: 172mm }"""
A_PAGE = 8
PRINT = "Print at 100 %, not fitted to the page: the line on each card must measure 50 mm by a ruler. Glue the sheet to stiff, dull card."
LAY = "Lay the card flat beside the animal, as near as its body, with nothing over its corners."
CUT = "Cut the window out and lay it over a grey card, or over white paper where there is none: printed grey is not neutral."
SET = "Printed grey is not neutral: set it by one photo of a card on white paper, in Eyot under Cards; anew for another printer or paper."
GREY = "#7b7b7b"
"""What is printed in place of the window: about 0.2 of the light, whatever the printer makes of it."""


def sheet_html(ids: Sequence[str], *, printed_grey: bool = False) -> str:
    """The sheet as a page; without numbers eight cards that name nobody. ``printed_grey``: grey is printed in place of a window to cut
    out. InputError for a number that is too long."""
    cards = [card_svg(one, printed_grey=printed_grey) for one in ids or [""] * A_PAGE]
    how = "".join(f"<p>{escape(words)}</p>" for words in (PRINT, SET if printed_grey else CUT, LAY))
    pages = [cards[start : start + A_PAGE] for start in range(0, len(cards), A_PAGE)]
    body = "".join(f'<div class="page"><div class="cards">{"".join(page)}</div>{how}</div>' for page in pages)
    return (
        f'<!DOCTYPE html><html lang="en"><meta charset="utf-8"><title>Cards</title><style>{PAGE}</style>{body}</html>'
    )


def card_svg(number: str, *, printed_grey: bool = False) -> str:
    """One card as SVG; ``number``: of a hatchling or a clutch, or empty."""
    markers = zip(PRINTED if printed_grey else CUT_OUT, CORNERS, strict=True)
    parts = [
        f'<rect x="0.1" y="0.1" width="{WIDTH - 0.2}" height="{HEIGHT - 0.2}" fill="#fff" stroke="#999" stroke-width="0.2"/>',
        *(_modules(marker_rows(one), *place, MARKER) for one, place in markers),
        _printed_window() if printed_grey else _window(),
        _scale(),
    ]
    if number:
        size = min(LETTERS, MOST_WIDE / (WIDE * len(number)))
        parts += [_modules(code_rows(number), *CODE), _text(number, WIDTH / 2, 39, size, is_bold=True)]
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {HEIGHT:g}">{"".join(parts)}</svg>'


def small_card_svg(number: str) -> str:
    """The card that stands on a label: half as large, without a window; it tells whose photo it is, and the scale. Its ``svg`` is drawn
    43 mm wide."""
    frame = f'<rect width="{WIDTH:g}" height="{HEIGHT:g}" fill="#fff"/>'
    markers = "".join(
        _modules(marker_rows(one), *place, MARKER) for one, place in zip(SMALL_ONES, CORNERS, strict=True)
    )
    size = min(LETTERS, MOST_WIDE / (WIDE * len(number)))
    code = _modules(code_rows(number), *CODE) + _text(number, WIDTH / 2, 39, size, is_bold=True)
    box = f'viewBox="0 0 {WIDTH:g} {HEIGHT:g}" width="{WIDTH * ON_LABELS:g}mm" height="{HEIGHT * ON_LABELS:g}mm"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {box}>{frame}{markers}{code}</svg>'


def _modules(rows: Sequence[Sequence[bool]], left: float, top: float, side: float) -> str:
    """Black squares, each row's runs as one, so that no light shows between them."""
    step, path = side / len(rows), ""
    for y, row in enumerate(rows):
        start = None
        for x, dark in enumerate([*row, False]):
            if dark and start is None:
                start = x
            elif not dark and start is not None:
                wide = (x - start) * step
                path += f"M{left + start * step:.3f} {top + y * step:.3f}h{wide:.3f}v{step + 0.01:.3f}h{-wide:.3f}z"
                start = None
    return f'<path d="{path}"/>'


def _text(words: str, x: float, y: float, size: float, *, is_bold: bool = False) -> str:
    family = (
        'font-family="DejaVu Sans Mono, monospace" font-weight="bold"'
        if is_bold
        else 'font-family="DejaVu Sans, sans-serif"'
    )
    return f'<text x="{x:g}" y="{y:g}" text-anchor="middle" {family} font-size="{size:.2f}">{escape(words)}</text>'


def _window() -> str:
    left, top, right, bottom = WINDOW
    dashes = 'fill="none" stroke="#000" stroke-width="0.25" stroke-dasharray="1 0.6"'
    frame = f'<rect x="{left}" y="{top}" width="{right - left}" height="{bottom - top}" {dashes}/>'
    return frame + _text("cut out", (left + right) / 2, top + 1.9, 1.6)


def _printed_window() -> str:
    left, top, right, bottom = WINDOW
    return f'<rect x="{left}" y="{top}" width="{right - left}" height="{bottom - top}" fill="{GREY}"/>'


def _scale() -> str:
    left, right, height = SCALE_LINE
    steps = range(0, round(right - left) + 1, 5)
    ticks = "".join(f"M{left + at:g} {height}v{-3 if at % 10 == 0 else -1.6}" for at in steps)
    words = "".join(_text(text, left + at, height + 3.2, 2.6) for at, text in ((0, "0"), (25, "25"), (45, "50 mm")))
    return f'<path d="M{left} {height}H{right}{ticks}" fill="none" stroke="#000" stroke-width="0.25"/>{words}'


def write_sheet(ids: Sequence[str], out: str | IO[bytes], *, printed_grey: bool = False) -> None:
    """Writes the sheet as a PDF, into a file or to a path. OSError where that can't be written."""
    printer()(string=sheet_html(ids, printed_grey=printed_grey)).write_pdf(out)


def printer() -> type:
    """WeasyPrint's page. When it is imported, it lets Pillow take half a picture for a whole one, in the whole process: not here."""
    before = ImageFile.LOAD_TRUNCATED_IMAGES
    try:
        from weasyprint import HTML  # type: ignore[import-untyped]  # slow to import
    except OSError as error:
        raise InputError(f"this machine can't print: the library Pango is missing ({error})", "out") from error
    ImageFile.LOAD_TRUNCATED_IMAGES = before
    return HTML  # type: ignore[no-any-return]
