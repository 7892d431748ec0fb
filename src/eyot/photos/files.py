"""From an uploaded file to clean pictures: checked, turned upright, stripped of camera and place, made into sizes.

What is stored is drawn anew from the pixels, so nothing of the file's own data survives; colours are brought to sRGB.
"""

from __future__ import annotations

import contextlib
import io
import shutil
import warnings
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from eyot_core.photo.light import in_light

register_heif_opener()

MOST_BYTES = 40 * 1024 * 1024
MOST_PIXELS = 50_000_000
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
SIZES = {"thumb": 360, "page": 1100, "full": 2600}
TAKEN = 36867
EXIF_SUB = 0x8769


@dataclass(frozen=True)
class NoPicture:
    """Why a file can't be taken; falsy."""

    message: str

    def __bool__(self) -> bool:
        return False


@dataclass(frozen=True)
class Picture:
    """A checked picture: upright, sRGB, without any data beside its pixels. ``taken_at``: by the camera's clock, without zone."""

    image: Image.Image
    taken_at: datetime | None


def picture_from(file: IO[bytes], name: str, size: int) -> Picture | NoPicture:
    """The picture in a file, or why there is none. Never raises for what a file may hold."""
    if size > MOST_BYTES:
        return NoPicture(
            f"{name} has {size / 1048576:.0f} MB; at most {MOST_BYTES // 1048576} MB can be taken. Save it smaller and add it again."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(file, formats=FORMATS)
            if image.width * image.height > MOST_PIXELS:
                megapixels = image.width * image.height / 1e6
                return NoPicture(
                    f"{name} has {megapixels:.0f} megapixels; at most {MOST_PIXELS // 1_000_000} can be taken. "
                    "Save it smaller and add it again."
                )
            taken_at = _taken_at(image)
            image.draft("RGB", (SIZES["full"], SIZES["full"]))
            image.load()
    except UnidentifiedImageError:
        return NoPicture(f"{name} is not a JPEG, PNG, WebP or HEIC picture.")
    except Exception as error:  # noqa: BLE001  decoders raise whatever they like on broken files
        return NoPicture(f"{name} is broken and can't be read ({type(error).__name__}). Copy it from the camera again.")
    return Picture(_clean(image), taken_at)


def _taken_at(image: Image.Image) -> datetime | None:
    try:
        return datetime.strptime(image.getexif().get_ifd(EXIF_SUB)[TAKEN], "%Y:%m:%d %H:%M:%S")  # noqa: DTZ007  cameras know no zone
    except (KeyError, ValueError, TypeError, OSError, SyntaxError):
        return None


def _clean(image: Image.Image) -> Image.Image:
    upright = ImageOps.exif_transpose(image)
    profile = upright.info.get("icc_profile")
    if profile and upright.mode == "RGB":
        with contextlib.suppress(ImageCms.PyCMSError, OSError):
            upright = (
                ImageCms.profileToProfile(
                    upright, ImageCms.ImageCmsProfile(io.BytesIO(profile)), ImageCms.createProfile("sRGB")
                )
                or upright
            )
    if upright.mode in ("RGBA", "LA", "PA", "P"):
        ground = Image.new("RGBA", upright.size, (198, 198, 198, 255))
        upright = Image.alpha_composite(ground, upright.convert("RGBA"))
    clean = Image.new("RGB", upright.size)
    clean.paste(upright.convert("RGB"))
    return clean


def lit(folder: Path, gains: tuple[float, float, float]) -> None:
    """Writes every size once more in a corrected light, beside the originals, which stay."""
    for name in SIZES:
        pixels = np.asarray(Image.open(folder / f"{name}.jpg").convert("RGB"))
        Image.fromarray(in_light(pixels, gains)).save(folder / f"{name}-lit.new.jpg", quality=92, progressive=True)
    for name in SIZES:
        (folder / f"{name}-lit.new.jpg").replace(folder / f"{name}-lit.jpg")


def store(picture: Picture, folder: Path) -> None:
    """Writes the sizes into ``folder``, all or none."""
    unfinished = folder.with_name(folder.name + ".new")
    shutil.rmtree(unfinished, ignore_errors=True)
    unfinished.mkdir(parents=True)
    for name, longest in SIZES.items():
        image = picture.image.copy()
        image.thumbnail((longest, longest), Image.Resampling.LANCZOS)
        image.save(unfinished / f"{name}.jpg", quality=92 if name == "full" else 86, progressive=True, optimize=True)
    unfinished.rename(folder)
