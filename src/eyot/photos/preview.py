"""The quick strip that follows the hand while a line is drawn."""

from __future__ import annotations

import numpy as np
from PIL import Image

from eyot_core.photo.frame import framed, is_framed
from eyot_core.photo.spine import BadLine, line_from
from eyot_core.photo.strip import preview_of

from eyot.photos import files
from eyot.photos.models import Photo


def quick_strip(photo: Photo, points: list[list[float]], start: float, end: float) -> files.Pixels | BadLine:
    """A strip while the line is drawn, or the reason why there is none; from the size of a page, which is in its light already."""
    try:
        with files.opened(photo.folder, f"{photo.page}.jpg") as file, Image.open(file) as image:
            pixels = np.asarray(image.convert("RGB"))
    except FileNotFoundError:
        return BadLine("the photo is still being prepared")
    factor = pixels.shape[1] / photo.width
    if is_framed(photo.kind, len(points)):
        ends = np.array(points).reshape(-1, 2) * factor
        return framed(pixels, ends, photo.kind) if len(ends) > 1 else BadLine("mark two places")
    line = line_from(np.array(points).reshape(-1, 2), photo.width, photo.height, start, end)
    return line if isinstance(line, BadLine) else preview_of(pixels, line.scaled(factor))
