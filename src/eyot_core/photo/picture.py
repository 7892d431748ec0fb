"""From a file to a clean picture: checked, turned upright, brought to sRGB, stripped of camera and place.

What is kept is drawn anew from the pixels, so nothing of the file's own data survives.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import warnings
from dataclasses import dataclass
from datetime import datetime
from typing import IO

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

register_heif_opener()

MOST_BYTES = 40 * 1024 * 1024
MOST_PIXELS = 50_000_000
QUALITY = 95
LEAST_SIDE, LONGEST_SIDE = 32, 20_000
START_OF_SCAN, MOST_SCANS = b"\xff\xda", 100
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
GREY = (198, 198, 198, 255)
TAKEN, SERIAL = 0x9003, 0xA431
MAKER, MODEL = 0x010F, 0x0110
EXIF_SUB = 0x8769


@dataclass(frozen=True)
class NoPicture:
    """Why a file can't be taken; falsy."""

    message: str

    def __bool__(self) -> bool:
        return False


@dataclass(frozen=True)
class Picture:
    """A checked picture: upright, sRGB, without any data beside its pixels. ``taken_at``: by the camera's clock, without zone;
    ``camera``: a number of the camera that took it, from what it says of itself; empty where it says nothing."""

    image: Image.Image
    taken_at: datetime | None
    camera: str = ""

    @property
    def width(self) -> int:
        """In pixels."""
        return self.image.width

    @property
    def height(self) -> int:
        """In pixels."""
        return self.image.height

    def opened(self) -> IO[bytes]:
        """As a JPEG that keeps what can be seen."""
        held = io.BytesIO()
        self.image.save(held, "JPEG", quality=QUALITY, subsampling=0)
        held.seek(0)
        return held


def picture_from(file: IO[bytes], name: str, size: int) -> Picture | NoPicture:
    """The picture in a file of so many bytes, or why there is none. Never raises for what a file may hold, but MemoryError
    where memory is bounded."""
    for trouble in (too_many_bytes(name, size), _unread(file, name)):
        if trouble is not None:
            return trouble
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(file, formats=FORMATS)
            if (trouble := _unfit(image, name)) is not None:
                return trouble
            taken_at, camera = _taken_at(image), _camera(image)
            image.load()
            clean = _clean(image)
    except UnidentifiedImageError:
        return NoPicture(f"{name} is not a JPEG, PNG, WebP or HEIC picture.")
    except Image.DecompressionBombError:
        return _too_large(name, "far too many")
    except MemoryError:
        raise
    except Exception as error:  # noqa: BLE001  decoders raise whatever they like on broken files
        return NoPicture(f"{name} is broken and can't be read ({type(error).__name__}). Copy it from the camera again.")
    return Picture(clean, taken_at, camera)


def too_many_bytes(name: str, size: int) -> NoPicture | None:
    """Why a file of so many bytes is not read at all, if it is not."""
    if size <= MOST_BYTES:
        return None
    return NoPicture(
        f"{name} has {size / 1048576:.0f} MB; at most {MOST_BYTES // 1048576} MB can be taken. Save it smaller and add it again."
    )


def _unread(file: IO[bytes], name: str) -> NoPicture | None:
    """What can be told from a file's first bytes and marks, before a decoder takes memory and time for it."""
    head = file.read(30)
    file.seek(0)
    if head[:4] == b"RIFF" and head[8:16] == b"WEBPVP8X":
        width, height = (int.from_bytes(head[at : at + 3], "little") + 1 for at in (24, 27))
        if width * height > MOST_PIXELS:
            return _too_large(name, f"{width * height / 1e6:.0f}")
    if head[:2] == b"\xff\xd8":
        scans = file.read().count(START_OF_SCAN)
        file.seek(0)
        if scans > MOST_SCANS:
            return NoPicture(
                f"{name} is put together of {scans} scans, which no camera does. Save it anew and add it again."
            )
    return None


def _unfit(image: Image.Image, name: str) -> NoPicture | None:
    if image.width * image.height > MOST_PIXELS:
        return _too_large(name, f"{image.width * image.height / 1e6:.0f}")
    if max(image.size) > LONGEST_SIDE:
        return NoPicture(
            f"{name} has {image.width:,} × {image.height:,} pixels; at most {LONGEST_SIDE:,} a side are taken. Crop it and add it again."
        )
    if min(image.size) < LEAST_SIDE:
        return NoPicture(
            f"{name} has {image.width} × {image.height} pixels; at least {LEAST_SIDE} a side are needed to see anything."
        )
    frames = getattr(image, "n_frames", 1)
    if frames > 1 and image.format in ("PNG", "WEBP"):
        return NoPicture(f"{name} is animated ({frames} pictures in one file). Add a still photo.")
    return None


def _too_large(name: str, megapixels: str) -> NoPicture:
    return NoPicture(
        f"{name} has {megapixels} megapixels; at most {MOST_PIXELS // 1_000_000} can be taken. Save it smaller and add it again."
    )


def _taken_at(image: Image.Image) -> datetime | None:
    try:
        return datetime.strptime(image.getexif().get_ifd(EXIF_SUB)[TAKEN], "%Y:%m:%d %H:%M:%S")  # noqa: DTZ007  cameras know no zone
    except (KeyError, ValueError, TypeError, OSError, SyntaxError):
        return None


def _camera(image: Image.Image) -> str:
    """A number made of maker, model and serial number: which photos are of one camera, not which camera it is."""
    try:
        exif = image.getexif()
        says = [str(exif.get(tag, "")) for tag in (MAKER, MODEL)] + [str(exif.get_ifd(EXIF_SUB).get(SERIAL, ""))]
    except (KeyError, ValueError, TypeError, OSError, SyntaxError):
        return ""
    return hashlib.sha256("\0".join(says).encode()).hexdigest()[:16] if any(says) else ""


def _clean(image: Image.Image) -> Image.Image:
    upright = _in_srgb(ImageOps.exif_transpose(image))
    if upright.mode in ("I", "I;16", "I;16B", "I;16L"):  # 16 bits of grey: Pillow would clip, not scale
        upright = Image.fromarray((np.asarray(upright).astype(np.uint32) >> 8).astype(np.uint8))
    if upright.mode in ("RGBA", "LA", "PA", "P"):
        upright = Image.alpha_composite(Image.new("RGBA", upright.size, GREY), upright.convert("RGBA"))
    clean = Image.new("RGB", upright.size)
    clean.paste(upright.convert("RGB"))
    return clean


def _in_srgb(image: Image.Image) -> Image.Image:
    """The picture brought from the colour space that it names to sRGB; as it is where it names none or a broken one."""
    profile = image.info.get("icc_profile")
    if profile and image.mode in ("RGB", "CMYK"):
        with contextlib.suppress(ImageCms.PyCMSError, OSError):
            named = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            return ImageCms.profileToProfile(image, named, ImageCms.createProfile("sRGB"), outputMode="RGB") or image
    return image
