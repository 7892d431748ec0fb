"""An evening's photos of some hatchlings, as people take them: a card first, then the animal; sometimes a card beside it."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from eyot_core.drawing.camera import BLUE_PAPER, WHITE_PAPER, photographed

from tests.core.cards import Laid, photographed_cards
from tests.core.photographs import looks_of, windows_at_random

Pixels = NDArray[np.uint8]
POSES = ("loose", "coil", "belly", "head", "loose", "egg", "crossing")
DATE = 0x9003
EXIF_SUB = 0x8769
DRAWN = 2000
"""How wide an animal is drawn; larger photos are enlarged from it, with a camera's noise."""


@dataclass(frozen=True)
class Shot:
    """One file. ``of``: whose it is; ``is_card``: does it show a card alone."""

    name: str
    jpeg: bytes
    of: str
    is_card: bool


def evening(
    hatchlings: Sequence[str], each: int, begins: datetime, width: int = 640, step: float = 20.0
) -> Iterator[Shot]:
    """So many photos of each hatchling, one every ``step`` seconds: its card alone, then the animal, every fourth with a card beside it."""
    number = 0
    for place, code in enumerate(hatchlings):
        for turn in range(each):
            at = begins + timedelta(seconds=step * number)
            number += 1
            is_card = turn == 0
            pixels = card_alone(code, width) if is_card else animal(place, turn, width)
            if turn % 4 == 3 and POSES[turn % len(POSES)] != "head":
                pixels = beside(code, pixels)
            yield Shot(f"DSC_{number:04d}.jpg", as_file(pixels, at, number), code, is_card)


@cache
def _base(which: int, pose: str, width: int) -> Pixels:
    lamp = windows_at_random(np.random.default_rng([7, which]))
    paper = WHITE_PAPER if which % 2 else BLUE_PAPER
    size = {"width": min(width, DRAWN), "height": min(width, DRAWN) * 3 // 4}
    pixels = photographed(looks_of(which), which, pose, lamp=lamp, paper=paper, **size).pixels
    if width <= DRAWN:
        return pixels
    large = cv2.resize(pixels, (width, width * 3 // 4), interpolation=cv2.INTER_CUBIC)
    noise = np.random.default_rng([6, which]).normal(0, 1.2, large.shape)
    return np.clip(large + noise, 0, 255).astype(np.uint8)


def animal(place: int, turn: int, width: int) -> Pixels:
    """A photo of the animal of a hatchling: few are drawn, the others are those seen from another side, a little brighter or darker."""
    which = (3, 5, 7, 4, 0)[(place + turn) % 5]
    pixels = _base(which, POSES[turn % len(POSES)], width)
    random = np.random.default_rng([8, place, turn])
    turned = (pixels, pixels[::-1, ::-1])[int(random.integers(2))]
    return np.ascontiguousarray(np.clip(turned * random.uniform(0.93, 1.05), 0, 255).astype(np.uint8))


def card_alone(code: str, width: int) -> Pixels:
    """A photo of a card on a dark table."""
    random = np.random.default_rng(list(code.encode()))
    laid = Laid(
        number=code, width=width, height=width * 3 // 4, turned=float(random.uniform(0, 360)), middle=(0.5, 0.5)
    )
    return photographed_cards(replace(laid, mm_per_pixel=160.0 / width))


def beside(code: str, pixels: Pixels) -> Pixels:
    """A photo with a card in its upper left corner."""
    height, width = pixels.shape[:2]
    laid = Laid(number=code, width=width, height=height, middle=(0.13, 0.15), blur=0.3, noise=0.5)
    return photographed_cards(replace(laid, mm_per_pixel=320.0 / width), onto=pixels)


def as_file(pixels: Pixels, at: datetime, number: int) -> bytes:
    """As a camera writes it, with its clock; a speck in a corner tells two of the same apart."""
    marked = pixels.copy()
    marked[-3:, -3:] = number % 251
    held, exif = io.BytesIO(), Image.Exif()
    exif.get_ifd(EXIF_SUB)[DATE] = f"{at:%Y:%m:%d %H:%M:%S}"
    Image.fromarray(marked).save(held, "JPEG", quality=90, exif=exif)
    return held.getvalue()
