"""Photos of printed cards: the real sheet, drawn by a reader of PDF, laid under a pinhole camera."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import cv2
import numpy as np
import pypdfium2
from numpy.typing import NDArray

from eyot_core.colour import channels
from eyot_core.photo.card import HEIGHT, WIDTH, WINDOW
from eyot_core.photo.card_sheet import write_sheet

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float64]
DOTS = 10
"""Pixels of a millimetre in the printed card."""
MARGIN, GAP = 10.0, 3.0
LINEAR = ((np.arange(256) / 255.0) ** 2.2).astype(np.float32)
"""Light of each value of a picture."""
FOCAL = 1.3
"""Of the camera, in longer sides of the picture."""


@cache
def printed(number: str, *, grey: bool = False) -> Pixels:
    """The first card of a sheet as it is printed, (rows, columns)."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "card.pdf"
        write_sheet([number] if number else [], str(path), printed_grey=grey)
        page = pypdfium2.PdfDocument(path)[0]
        picture = page.render(scale=DOTS * 25.4 / 72, grayscale=True).to_numpy()
    start = round(MARGIN * DOTS)
    sheet = picture.reshape(picture.shape[0], picture.shape[1])
    return np.ascontiguousarray(sheet[start : start + round(HEIGHT * DOTS), start : start + round(WIDTH * DOTS)])


@dataclass(frozen=True)
class Laid:
    """How a card lies in a photo. ``turned``: degrees in its own plane; ``slant``, ``toward``: how far its plane is tilted, and in
    which direction; ``within``: reflectance of what lies in the window, None where it is not cut out; ``grey``: what a printed grey throws
    back of red, green and blue, of a card that carries one; ``shade``: share of light lost across it."""

    number: str = "26-W02-1"
    mm_per_pixel: float = 0.35
    turned: float = 0.0
    slant: float = 0.0
    toward: float = 0.0
    middle: tuple[float, float] = (0.3, 0.3)
    within: float | None = 0.18
    grey: tuple[float, float, float] | None = None
    shade: float = 0.0
    ground: tuple[float, float, float] = (0.25, 0.4, 0.5)
    cast: tuple[float, float, float] = (1.0, 1.0, 1.0)
    blur: float = 0.6
    noise: float = 2.0
    width: int = 1000
    height: int = 750


def homography(laid: Laid) -> Floats:
    """From millimetres on the card to pixels, (3, 3)."""
    turn, tilt, way = np.radians([laid.turned, laid.slant, laid.toward])
    spin = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    axis = np.array([np.cos(way), np.sin(way), 0])
    lean, _ = cv2.Rodrigues(axis * tilt)
    focal = FOCAL * max(laid.width, laid.height)
    away = focal * laid.mm_per_pixel
    to_middle = np.array([[1, 0, -WIDTH / 2], [0, 1, -HEIGHT / 2], [0, 0, 1]], dtype=np.float64)
    pose = (lean @ spin)[:, :2]
    out = np.array([[laid.width * laid.middle[0]], [laid.height * laid.middle[1]]])
    at = np.array([0.0, 0.0, away])
    seen = np.array([[focal, 0, out[0, 0]], [0, focal, out[1, 0]], [0, 0, 1]]) @ np.c_[pose, at]
    return np.asarray(seen @ to_middle)


def photographed_cards(*all_laid: Laid, seed: int = 0, onto: Pixels | None = None) -> Pixels:
    """A photo of some cards on even ground, or laid into a photo, sRGB; picture and light are those of the first."""
    first, random = all_laid[0], np.random.default_rng(seed)
    light = np.full((first.height, first.width, 3), first.ground, dtype=np.float32) if onto is None else LINEAR[onto]
    for laid in all_laid:
        card = LINEAR[printed(laid.number, grey=bool(laid.grey))] * np.float32(0.85)
        left, top, right, bottom = (round(value * DOTS) for value in WINDOW)
        if laid.grey:
            card = np.dstack([card] * 3)
            card[top:bottom, left:right] = laid.grey
        elif laid.within is not None:
            card[top + 3 : bottom - 2, left + 3 : right - 2] = laid.within
        scaled = homography(laid) @ np.diag([1 / DOTS, 1 / DOTS, 1.0])
        size = (first.width, first.height)
        shrink = max(1.0, DOTS * laid.mm_per_pixel)
        smooth = cv2.GaussianBlur(card, (0, 0), 0.45 * shrink)
        over = cv2.warpPerspective(smooth, scaled, size, flags=cv2.INTER_LINEAR)
        covers = cv2.warpPerspective(np.ones(card.shape[:2], dtype=np.float32), scaled, size, flags=cv2.INTER_LINEAR)
        light *= channels(1 - covers)
        light += over if laid.grey else channels(over)
    across = np.linspace(0, 1, first.width)[None, :, None]
    light *= (np.array(first.cast) * (1 - first.shade * (across > first.middle[0]))).astype(np.float32)
    shown = cv2.pow(np.clip(light, 0, 1), 1 / 2.2) * np.float32(255)
    shown = cv2.GaussianBlur(shown, (0, 0), first.blur)
    shown += np.float32(first.noise) * random.standard_normal(shown.shape, dtype=np.float32)
    _, coded = cv2.imencode(".jpg", np.clip(shown, 0, 255).astype(np.uint8)[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
    return np.ascontiguousarray(cv2.imdecode(coded, cv2.IMREAD_COLOR)[..., ::-1])


def at_random(number: int, **fixed: object) -> Laid:
    """A card that lies anyhow: turned, slanted up to 35°, under casts of up to 25 %."""
    random = np.random.default_rng([5, number])
    laid = Laid(
        number=f"26-W02-{number % 4 + 1}",
        mm_per_pixel=random.uniform(0.15, 0.42),
        turned=random.uniform(0, 360),
        slant=random.uniform(0, 35),
        toward=random.uniform(0, 360),
        middle=(random.uniform(0.35, 0.65), random.uniform(0.38, 0.62)),
        within=(0.18, 0.8)[number % 2],
        ground=tuple(random.uniform(0.15, 0.8, 3)),
        cast=tuple(random.uniform(0.75, 1.25, 3) * random.uniform(0.5, 0.9)),
        blur=random.uniform(0.4, 0.9),
        noise=random.uniform(1, 3),
    )
    return replace(laid, **fixed)  # type: ignore[arg-type]
