"""The files of photos in the store, a local folder or an S3-compatible service: the upright original, and what is made of it.

Made files carry their version in the name and are written before the row names them, so a reader never sees half a file.
"""

from __future__ import annotations

import contextlib
import io
from typing import IO

import numpy as np
from django.core.files.base import ContentFile, File
from django.core.files.storage import Storage, storages
from numpy.typing import NDArray
from PIL import Image

from eyot_core.photo.light import Light, in_light
from eyot_core.photo.sight import made_small

Pixels = NDArray[np.uint8]
SIZES = {"thumb": 360, "page": 1100, "full": 2600}
ORIGINAL, BRUSH = "original.jpg", "brush.png"
QUICKLY = 3
"""How hard a PNG is pressed: an eighth larger than by the usual 6, in a third of the time."""


def store() -> Storage:
    """Where photos lie."""
    return storages["photos"]


def keep_original(folder: str, file: IO[bytes]) -> None:
    """Keeps the upright picture in full, a JPEG; it is never changed afterwards."""
    store().save(f"{folder}/{ORIGINAL}", File(file))


def original(folder: str) -> Pixels:
    """The upright picture in full, sRGB (rows, columns, 3). Of the oldest photos no more than the largest size was kept."""
    name = ORIGINAL if store().exists(f"{folder}/{ORIGINAL}") else "full.jpg"
    with opened(folder, name) as file, Image.open(file) as image:
        return np.asarray(image.convert("RGB"))


def has_original(folder: str) -> bool:
    """Does the original lie in the store?"""
    return any(store().exists(f"{folder}/{name}") for name in (ORIGINAL, "full.jpg"))


def opened(folder: str, name: str) -> IO[bytes]:
    """A file for reading; FileNotFoundError where there is none."""
    if not store().exists(f"{folder}/{name}"):
        raise FileNotFoundError(name)
    return store().open(f"{folder}/{name}")  # type: ignore[return-value]


def write_sizes(folder: str, pixels: Pixels, light: Light | None, version: int) -> None:
    """Writes every size of a version of a photo, in its light where one is known."""
    largest = made_small(pixels, max(SIZES.values()))
    image = Image.fromarray(in_light(largest, light) if light else largest)
    for name, longest in sorted(SIZES.items(), key=lambda size: -size[1]):
        image.thumbnail((longest, longest), Image.Resampling.LANCZOS)
        _write(f"{folder}/{name}-{version}.jpg", _jpeg(image, 92 if name == "full" else 86))


def write_strip(folder: str, pixels: Pixels, version: int, name: str = "strip") -> None:
    """Writes a strip (with alpha) or a crop of a version; ``name``: or what is to be laid over it."""
    held = io.BytesIO()
    Image.fromarray(pixels).save(held, "PNG", compress_level=QUICKLY)
    _write(f"{folder}/{name}-{version}.png", held.getvalue())


def write_window(folder: str, place: str, pixels: Pixels, version: int) -> None:
    """Writes what a version of a photo shows at a place on the body."""
    _write(f"{folder}/{window_name(place)}-{version}.jpg", _jpeg(Image.fromarray(pixels), 88))


def window_name(place: str) -> str:
    """What the file of a place on the body is called, before its version."""
    return f"at_{place}"


def write_brush(folder: str, brushed: NDArray[np.int8]) -> None:
    """Keeps the keeper's corrections of an outline: 1 animal, −1 ground, 0 untouched; (rows, columns)."""
    held = io.BytesIO()
    Image.fromarray((brushed.astype(np.int16) * 127 + 128).astype(np.uint8)).save(held, "PNG")
    _write(f"{folder}/{BRUSH}", held.getvalue())


def brush(folder: str) -> NDArray[np.int8] | None:
    """The keeper's corrections of an outline, or None."""
    with contextlib.suppress(FileNotFoundError), opened(folder, BRUSH) as file, Image.open(file) as image:
        return np.sign(np.asarray(image.convert("L")).astype(np.int16) - 128).astype(np.int8)
    return None


def forget_versions(folder: str, names: tuple[str, ...], below: int) -> None:
    """Takes away what earlier versions left."""
    for file in store().listdir(folder)[1]:
        name, _, rest = file.partition("-")
        if name in names and rest.split(".")[0].isdigit() and int(rest.split(".")[0]) < below:
            store().delete(f"{folder}/{file}")


def files_in(folder: str) -> list[str]:
    """The names of all files of a photo; none where there is no folder."""
    try:
        return list(store().listdir(folder)[1])
    except FileNotFoundError:
        return []


def forget(folder: str) -> None:
    """Takes away every file of a photo."""
    for file in files_in(folder):
        store().delete(f"{folder}/{file}")


def _jpeg(image: Image.Image, quality: int) -> bytes:
    held = io.BytesIO()
    image.save(held, "JPEG", quality=quality, subsampling=2)
    return held.getvalue()


def _write(name: str, data: bytes) -> None:
    store().save(name, ContentFile(data))
