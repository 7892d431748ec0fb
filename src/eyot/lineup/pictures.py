"""Pictures of a line-up: the drawn strip in the window of a photo strip, and the whole line-up as one picture to save."""

from __future__ import annotations

import io
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from eyot_core.catalogue import Catalogue
from eyot_core.colour import to_srgb
from eyot_core.drawing.palette import aged
from eyot_core.drawing.skin import skin_colours
from eyot_core.identify.looks import telling_looks
from eyot_core.photo.strip import COLUMNS, ROWS, V_MOST

from eyot.lineup.rows import Axis, LineupRow
from eyot.photos import files
from eyot.reference.subjects import subject_of

SEED = 11
TABLE, INK = (198, 198, 198), (22, 22, 22)
LABEL, GAP, HEAD, RIGHT = 230, 14, 64, 300


@lru_cache(maxsize=128)
def drawn_window(catalogue: Catalogue, key: str, stage: str) -> bytes:
    """A combination's skin over |v| ≤ 0.40, nose left, at the size of a photo strip: PNG."""
    looks = telling_looks(catalogue, subject_of(catalogue, key).genotype, stage)
    u, v = (np.arange(COLUMNS) + 0.5) / COLUMNS, np.linspace(-V_MOST, V_MOST, ROWS)
    held = io.BytesIO()
    Image.fromarray(to_srgb(aged(skin_colours(looks, SEED, u, v), stage))).save(held, "PNG")
    return held.getvalue()


def one_picture(catalogue: Catalogue, rows: list[LineupRow], axis: Axis, title: str, stage: str) -> bytes:
    """The line-up as it stands, PNG: a title, a row for each strip or drawing with its name, its value on the axis."""
    height = HEAD + len(rows) * (ROWS + GAP) + GAP
    sheet = Image.new("RGB", (LABEL + COLUMNS + RIGHT, height), TABLE)
    pen, large, small = ImageDraw.Draw(sheet), ImageFont.load_default(26), ImageFont.load_default(17)
    pen.text((GAP, GAP), title, INK, large)
    pen.text((LABEL + COLUMNS + 40, GAP + 6), f"{axis.name} {axis.low:g} to {axis.high:g}", INK, small)
    for place, row in enumerate(rows):
        top = HEAD + place * (ROWS + GAP)
        _row(sheet, pen, row, top, axis, (large, small), _strip(catalogue, row, stage))
    held = io.BytesIO()
    sheet.save(held, "PNG")
    return held.getvalue()


def _strip(catalogue: Catalogue, row: LineupRow, stage: str) -> Image.Image | None:
    if row.is_drawing:
        return Image.open(io.BytesIO(drawn_window(catalogue, row.key, stage)))
    if row.photo is None or not row.photo.has_strip:
        return None
    with files.opened(row.photo.folder, f"{row.photo.strip}.png") as file:
        return Image.open(io.BytesIO(file.read()))


def _row(
    sheet: Image.Image,
    pen: ImageDraw.ImageDraw,
    row: LineupRow,
    top: int,
    axis: Axis,
    fonts: tuple[ImageFont.FreeTypeFont | ImageFont.ImageFont, ...],
    strip: Image.Image | None,
) -> None:
    pen.text((GAP, top + 8), row.title[:22], INK, fonts[0])
    notes = [row.words, *_notes(row)]
    for line, words in enumerate(filter(None, notes)):
        pen.text((GAP, top + 48 + 24 * line), words[:30], INK, fonts[1])
    if strip is None:
        pen.text((LABEL, top + ROWS // 2 - 10), "no strip yet", INK, fonts[1])
    else:
        sheet.paste(strip.convert("RGB"), (LABEL, top), strip.getchannel("A") if strip.mode == "RGBA" else None)
    left = LABEL + COLUMNS + 40
    if row.value is not None:
        middle = top + ROWS // 2
        pen.line([(left, middle), (left + 200, middle)], INK, 1)
        pen.line([(left + axis.x(row.value), middle - 16), (left + axis.x(row.value), middle + 16)], INK, 4)
        pen.text((left + axis.x(row.value) - 10, middle - 42), row.value_words, INK, fonts[1])
    elif row.missing and not row.is_drawing:
        pen.text((left, top + ROWS // 2 - 10), row.missing[:30], INK, fonts[1])


def _notes(row: LineupRow) -> list[str]:
    if row.photo is None:
        return []
    light = f"light: {row.photo.light}" if row.photo.light else "light not corrected"
    return [light, "simulated photo" if row.photo.simulated else ""]
