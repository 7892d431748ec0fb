"""Labels, tub cards and rack cards as PDF: each with its words as large as they fit, a code that leads to the animal's page, and,
where there is room, the small card that the inbox of photos reads."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import IO

from django.utils.html import escape
from PIL import ImageFont

from eyot_core.photo.card_sheet import printer, small_card_svg

from eyot.homes.sheets import Sheet
from eyot.shared.codes import svg_of

MARGIN, GAP = 2.0, 1.5
SMALLEST, STEP = 5.0, 0.25
"""Of letters, in points."""
LARGEST = ((100.0, 15.0), (50.0, 11.0), (0.0, 9.0))
"""Height of a label in millimetres, and how large its letters are at most."""
POINT = 0.3528
"""A point in millimetres."""
LINE = 1.22
HEAD = 1.2
"""How much larger the number is than the rest."""
CODE_SHARE, LARGEST_CODE = 0.62, 24.0
SMALL_CARD = (43.0, 27.0)
SIZE = 100
STYLE = """body{margin:0;font-family:"DejaVu Sans",sans-serif;color:#000;line-height:1.22}
.page{position:relative;page-break-after:always}.page:last-child{page-break-after:auto}
.label{position:absolute;overflow:hidden}.words{position:absolute;overflow:hidden}.words p{margin:0}
.id{font-weight:bold;font-size:1.2em}.said{font-weight:bold}.label svg{position:absolute}.mark{font-weight:bold}"""


@dataclass(frozen=True)
class LabelWords:
    """What stands on one label. ``link``: where its code leads; ``details``: lines below the wording; ``mark``: of welfare."""

    number: str
    wording: str
    details: tuple[str, ...]
    link: str
    mark: str = ""

    @property
    def lines(self) -> list[tuple[str, float]]:
        """The lines with how large each is beside the plain text."""
        marked = [(self.mark, 1.0)] if self.mark else []
        return [(self.number, HEAD), (self.wording, 1.0), *marked, *((line, 1.0) for line in self.details)]


@dataclass
class Printed:
    """Pages of labels as HTML, and what did not fit, by its number."""

    html: str
    too_long: list[str] = field(default_factory=list)


def label_pages(sheet: Sheet, labels: Sequence[LabelWords], start: int = 1) -> Printed:
    """The pages of a sheet, beginning at its ``start``-th label."""
    places = list(sheet.places())
    pages: list[list[str]] = [[]]
    too_long = []
    at = start - 1
    for label in labels:
        if at == len(places):
            pages.append([])
            at = 0
        left, top = places[at]
        html, fits = _label(sheet, label, left, top)
        pages[-1].append(html)
        if not fits:
            too_long.append(label.number)
        at += 1
    size = f"width:{sheet.page[0]}mm;height:{sheet.page[1]}mm"
    body = "".join(f'<div class="page" style="{size}">{"".join(page)}</div>' for page in pages)
    style = f"@page{{size:{sheet.page[0]}mm {sheet.page[1]}mm;margin:0}}{STYLE}"
    head = f'<!DOCTYPE html><html lang="en"><meta charset="utf-8"><title>Labels</title><style>{style}</style>'
    return Printed(f"{head}{body}</html>", too_long)


def _label(sheet: Sheet, label: LabelWords, left: float, top: float) -> tuple[str, bool]:
    """One label at its place, and whether its words fit."""
    width, height = sheet.width - 2 * MARGIN, sheet.height - 2 * MARGIN
    has_card = width >= SMALL_CARD[0] + 38 and height >= SMALL_CARD[1] + 22
    code = min(height * (1.0 if height < 24 else CODE_SHARE), LARGEST_CODE, width * 0.4)
    beside = SMALL_CARD[0] if has_card else code
    room = width - beside - GAP
    size, fits = _largest(label, room, height, next(most for least, most in LARGEST if sheet.height >= least))
    words = "".join(
        f"<p{_class(label, index)}>{escape(text)}</p>" for index, (text, _) in enumerate(label.lines) if text
    )
    parts = [
        f'<div class="words" style="{_box(MARGIN, MARGIN, room, height)};font-size:{size}pt">{words}</div>',
        _placed(svg_of(label.link), sheet.width - MARGIN - code, MARGIN, code, code),
    ]
    if has_card:
        card = small_card_svg(label.number)
        x, y = sheet.width - MARGIN - SMALL_CARD[0], sheet.height - MARGIN - SMALL_CARD[1]
        parts.append(_placed(card, x, y, *SMALL_CARD))
    return f'<div class="label" style="{_box(left, top, sheet.width, sheet.height)}">{"".join(parts)}</div>', fits


def _class(label: LabelWords, index: int) -> str:
    if index == 0:
        return ' class="id"'
    if index == 1:
        return ' class="said"'
    return ' class="mark"' if label.mark and index == 2 else ""


def _placed(svg: str, left: float, top: float, width: float, height: float) -> str:
    return svg.replace("<svg ", f'<svg style="{_box(left, top, width, height)}" ', 1)


def _box(left: float, top: float, width: float, height: float) -> str:
    return f"left:{left:.2f}mm;top:{top:.2f}mm;width:{width:.2f}mm;height:{height:.2f}mm"


def _largest(label: LabelWords, width: float, height: float, most: float) -> tuple[float, bool]:
    """The largest letters at which all lines fit, in points; the smallest where they don't, and whether they do."""
    size = most
    while size > SMALLEST and not _fits(label.lines, size, width, height):
        size -= STEP
    return size, _fits(label.lines, size, width, height)


def _fits(lines: Iterable[tuple[str, float]], size: float, width: float, height: float) -> bool:
    used = 0.0
    for text, scale in lines:
        letter = size * scale * POINT
        wrapped = _wrapped(text, width / letter)
        if wrapped is None:
            return False
        used += wrapped * letter * LINE
    return used <= height


def _wrapped(text: str, width: float) -> int | None:
    """In how many lines a text runs, with a width in heights of its letters; None where a single word is wider."""
    lines, used, blank = 1, 0.0, _wide(" ")
    for word in text.split():
        wide = _wide(word)
        if wide > width:
            return None
        if used and used + blank + wide > width:
            lines, used = lines + 1, wide
        else:
            used += (blank if used else 0) + wide
    return lines if text.strip() else 0


def _wide(text: str) -> float:
    """How wide a text runs, in heights of its letters; of scripts that our font lacks, as wide as they are at most."""
    plain = "".join(letter for letter in text if unicodedata.east_asian_width(letter) not in "WF")
    return float(_font().getlength(plain)) * 1.04 / SIZE + (len(text) - len(plain))


@cache
def _font() -> ImageFont.FreeTypeFont:
    return ImageFont.truetype("DejaVuSans-Bold.ttf", SIZE)


def write_pdf(html: str, out: IO[bytes]) -> None:
    """Writes pages as a PDF into a file."""
    printer()(string=html).write_pdf(out)
