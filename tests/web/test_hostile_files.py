"""Files that are made to hurt: they are refused in words, and what they do, they do to a process that is there for it."""

from __future__ import annotations

import io
import os
import resource
import tempfile
import zlib
from pathlib import Path
from struct import pack
from typing import Any
from unittest.mock import patch
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from PIL import Image

from eyot_core.photo.picture import LONGEST_SIDE, MOST_SCANS

from eyot.photos import decoding
from eyot.photos.models import Photo
from tests.jobs import stored_in
from tests.web.season_data import SeasonCase
from tests.web.test_photos import encoded, huge_png


def many_scans(count: int = 1500) -> bytes:
    """A progressive JPEG whose last scan comes again and again."""
    held = io.BytesIO()
    Image.new("RGB", (1024, 1024), (120, 90, 60)).save(held, "JPEG", progressive=True)
    data = held.getvalue()
    last = data.rindex(b"\xff\xda")
    return data[:-2] + data[last:-2] * count + data[-2:]


def small_file_of_a_large_webp() -> bytes:
    """The head of a WebP of 16,384 × 16,384 pixels, animated, and nothing behind it."""
    side = (16383).to_bytes(3, "little")
    head = b"VP8X" + pack("<I", 10) + bytes([2, 0, 0, 0]) + side + side
    return b"RIFF" + pack("<I", 4 + len(head)) + b"WEBP" + head


def long_png(width: int = 40, height: int = 1_250_000) -> bytes:
    """A PNG of so many pixels in one long line."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return pack(">I", len(data)) + kind + data + pack(">I", zlib.crc32(kind + data))

    head = chunk(b"IHDR", pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0))
    rows = zlib.compress(b"\0" * ((width + 1) * height), 1)
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


HOSTILE = {
    "scans.jpg": (many_scans, "is put together of"),
    "large.webp": (small_file_of_a_large_webp, "megapixels; at most"),
    "long.png": (long_png, f"at most {LONGEST_SIDE:,} a side"),
    "huge.png": (huge_png, "megapixels; at most"),
    "none.jpg": (lambda: b"\xff\xd8\xff\xda" * 50, "is broken"),
    "empty.heic": (lambda: b"\0\0\0\x18ftypheic" + b"\0" * 40, "empty.heic"),
    "text.png": (lambda: b"lobes float", "is not a JPEG, PNG, WebP or HEIC picture"),
}


class Hostile(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(folder.name)))

    def send(self, name: str, data: bytes) -> Any:
        sent = {"photo": SimpleUploadedFile(name, data), "key": str(uuid4())}
        return self.client.post("/clutches/W-04/3/cut/photo/", sent)

    def test_each_is_refused_in_words_and_takes_no_memory_of_the_pages_process(self) -> None:
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        for name, (made, words) in HOSTILE.items():
            with self.subTest(name):
                self.assertContains(self.send(name, made()), words, status_code=422)
        self.assertLess(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before, 200_000, "kilobytes")
        self.assertFalse(Photo.everything.exists())
        self.assertEqual(self.send("good.jpg", encoded()).status_code, 204)

    def test_few_scans_are_what_cameras_make(self) -> None:
        held = io.BytesIO()
        Image.new("RGB", (400, 300), (120, 90, 60)).save(held, "JPEG", progressive=True)
        self.assertLess(held.getvalue().count(b"\xff\xda"), MOST_SCANS / 5)
        self.assertEqual(self.send("progressive.jpg", held.getvalue()).status_code, 204)

    def test_one_that_takes_too_long_is_given_up_and_the_next_is_read(self) -> None:
        self.send("good.jpg", encoded())
        first = decoding._decoder
        assert first
        with patch.object(decoding, "MOST_CPU_SECONDS", -1.0), patch.object(decoding, "LOOKS_EVERY", 0.0):
            held = io.BytesIO()
            Image.effect_noise((3000, 2000), 90).save(held, "PNG")
            self.assertContains(self.send("slow.png", held.getvalue()), "takes longer to read", status_code=422)
        self.assertIsNotNone(first.poll(), "its process was ended")
        self.assertEqual(self.send("good.jpg", encoded()).status_code, 204)

    def test_one_over_which_the_decoder_dies_is_refused_and_the_next_is_read(self) -> None:
        self.send("good.jpg", encoded())
        assert decoding._decoder
        os.kill(decoding._decoder.pid, 9)
        decoding._decoder.wait()
        self.assertEqual(self.send("next.jpg", encoded()).status_code, 204)
        with patch.object(decoding, "_running", return_value=decoding._decoder):
            os.kill(decoding._decoder.pid, 9)
            decoding._decoder.wait()
            self.assertContains(self.send("dies.jpg", encoded()), "be read", status_code=422)
        self.assertEqual(self.send("good.jpg", encoded()).status_code, 204)

    def test_what_lay_beside_the_pixels_does_not_come_with_them(self) -> None:
        with Path(__file__).open("rb") as file, decoding.taken_in(file, "notes.py", 10) as none:
            self.assertFalse(none)
        data = encoded()
        with decoding.taken_in(io.BytesIO(data), "egg.jpg", len(data)) as picture:
            assert isinstance(picture, decoding.TakenIn)
            self.assertEqual((picture.width, picture.height), (60, 40))
            path = picture.path
            self.assertTrue(path.exists())
        self.assertFalse(path.exists())
