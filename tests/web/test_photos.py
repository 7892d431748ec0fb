"""Photos: what is taken in, what is stripped, what is refused with a clear message, and who may see."""

from __future__ import annotations

import io
import struct
import tempfile
import zlib
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import override_settings
from django.utils import timezone
from PIL import Image
from pillow_heif import register_heif_opener

from eyot_core.photo.picture import MOST_BYTES, NoPicture, Picture, picture_from

from eyot.photos.models import Photo
from eyot.photos.uploads import BoundedUploadHandler
from tests.jobs import do_jobs, stored_in
from tests.web.season_data import SeasonCase

register_heif_opener()
ORIENTATION, MAKE, GPS, TAKEN = 0x0112, 0x010F, 0x8825, 0x9003


def picture(width: int = 60, height: int = 40) -> Image.Image:
    """Red on the left, blue on the right."""
    pixels = np.zeros((height, width, 3), dtype=np.uint8)
    pixels[:, : width // 2, 0] = 220
    pixels[:, width // 2 :, 2] = 220
    return Image.fromarray(pixels)


def encoded(kind: str = "JPEG", image: Image.Image | None = None, **options: Any) -> bytes:
    held = io.BytesIO()
    (image or picture()).save(held, kind, **options)
    return held.getvalue()


def camera_data() -> Image.Exif:
    exif = Image.Exif()
    exif[MAKE] = "Some Camera"
    exif[ORIENTATION] = 6
    exif.get_ifd(0x8769)[TAKEN] = "2026:06:10 21:15:00"
    exif.get_ifd(GPS)[1] = "N"
    return exif


def huge_png() -> bytes:
    """A valid head of a PNG of 9000 × 7000 pixels with hardly any data."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 9000, 7000, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


def read(data: bytes, name: str = "snake.jpg") -> Picture | NoPicture:
    return picture_from(io.BytesIO(data), name, len(data))


class Files(SeasonCase):
    def accepted(self, data: bytes) -> Image.Image:
        found = read(data)
        self.assertIsInstance(found, Picture, getattr(found, "message", ""))
        assert isinstance(found, Picture)
        return found.image

    def refused(self, data: bytes, name: str = "snake.jpg") -> str:
        found = read(data, name)
        self.assertFalse(found)
        assert isinstance(found, NoPicture)
        self.assertIn(name, found.message)
        return found.message

    def test_the_four_kinds_are_taken(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP", "HEIF"):
            with self.subTest(kind):
                self.assertEqual(self.accepted(encoded(kind)).size, (60, 40))

    def test_a_picture_is_turned_upright(self) -> None:
        image = self.accepted(encoded(exif=camera_data()))
        self.assertEqual(image.size, (40, 60))
        top, bottom = image.getpixel((20, 5)), image.getpixel((20, 55))
        self.assertGreater(top[0], 150)
        self.assertGreater(bottom[2], 150)

    def test_camera_and_place_are_stripped_and_the_hour_is_kept(self) -> None:
        found = read(encoded(exif=camera_data()))
        assert isinstance(found, Picture)
        self.assertEqual(dict(found.image.getexif()), {})
        self.assertEqual(found.image.info, {})
        self.assertEqual(f"{found.taken_at:%Y-%m-%d %H:%M}", "2026-06-10 21:15")

    def test_see_through_parts_become_grey(self) -> None:
        clear = Image.new("RGBA", (40, 40), (255, 0, 0, 0))
        self.assertEqual(self.accepted(encoded("PNG", clear)).getpixel((4, 4)), (198, 198, 198))

    def test_what_is_no_picture_is_named(self) -> None:
        self.assertIn("not a JPEG, PNG, WebP or HEIC", self.refused(b"%PDF-1.7 label", "label.pdf"))
        self.assertIn("not a JPEG", self.refused(b"", "empty.jpg"))
        self.assertIn("not a JPEG", self.refused(encoded("GIF"), "moving.gif"))

    def test_a_broken_file_is_named(self) -> None:
        self.assertIn("broken", self.refused(encoded(image=picture(400, 300))[:-600]))

    def test_sixty_megapixels_are_refused_without_being_read(self) -> None:
        self.assertIn("63 megapixels; at most 50", self.refused(huge_png()))

    def test_eighty_megabytes_are_refused(self) -> None:
        found = picture_from(io.BytesIO(b""), "big.jpg", 80 * 1024 * 1024)
        assert isinstance(found, NoPicture)
        self.assertIn("80 MB; at most 40 MB", found.message)


class Uploads(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.enterContext(override_settings(STORAGES=stored_in(self.folder.name)))

    def upload(self, *files: tuple[str, bytes]) -> str:
        """The page after an upload."""
        sent = [SimpleUploadedFile(name, data) for name, data in files]
        answer = self.client.post("/clutches/W-04/3/photos/?stage=egg", {"photos": sent}, follow=True)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def served(self, url: str) -> bytes:
        """A picture's bytes; reading them to the end also closes the file."""
        answer = self.client.get(url)
        self.assertEqual(answer.status_code, 200)
        return b"".join(answer.streaming_content)  # type: ignore[attr-defined]

    def test_several_at_once(self) -> None:
        self.upload(("a.jpg", encoded()), ("b.png", encoded("PNG")))
        self.assertEqual(Photo.objects.filter(egg=self.egg(3), stage="egg").count(), 2)

    def test_a_bad_one_does_not_cost_the_good_ones(self) -> None:
        page = self.upload(("a.jpg", encoded()), ("notes.txt", b"lobes float"))
        self.assertIn("notes.txt is not a JPEG", page)
        self.assertIn("The other pictures were added.", page)
        self.assertEqual(Photo.objects.filter(egg=self.egg(3)).count(), 1)
        self.assertNotIn("notes.txt", self.client.get("/clutches/W-04/3/").content.decode())

    def test_more_than_forty_are_told_and_forty_are_kept(self) -> None:
        page = self.upload(*((f"{number}.jpg", encoded()) for number in range(42)))
        self.assertIn("At most 40 pictures at once; the first 40 were taken.", page)
        self.assertEqual(Photo.objects.filter(egg=self.egg(3)).count(), 40)

    def test_none_at_all_is_told(self) -> None:
        self.assertIn("No picture came through", self.upload())

    def test_a_file_above_the_limit_is_refused(self) -> None:
        page = self.upload(("big.jpg", b"\xff\xd8" + b"\0" * (MOST_BYTES + 3 * 1024 * 1024)))
        self.assertIn("big.jpg has 43 MB; at most 40 MB", page)
        self.assertFalse(Photo.objects.exists())

    def test_what_comes_after_the_limit_is_counted_and_not_kept_on_disk(self) -> None:
        handler = BoundedUploadHandler()
        handler.new_file("photos", "big.jpg", "image/jpeg", None)
        piece = b"\0" * (1024 * 1024)
        for number in range(80):
            handler.receive_data_chunk(piece, number * len(piece))
        kept = Path(handler.file.temporary_file_path()).stat().st_size
        self.addCleanup(handler.file.close)
        self.assertLessEqual(kept, MOST_BYTES + handler.chunk_size)
        self.assertEqual(handler.received, 80 * len(piece))

    def test_what_is_served_has_no_camera_or_place_in_it(self) -> None:
        self.upload(("a.jpg", encoded(image=picture(900, 600), exif=camera_data())))
        do_jobs()
        photo = Photo.objects.get(egg=self.egg(3))
        for size in (photo.thumb, photo.page, photo.full):
            served = self.served(f"/photos/{photo.pk}/{size}.jpg")
            self.assertNotIn(b"Exif", served)
            self.assertNotIn(b"Some Camera", served)
            self.assertTrue(served.startswith(b"\xff\xd8"))
        self.assertEqual(f"{timezone.localtime(photo.taken_at):%d %b}", "10 Jun")
        self.assertEqual((photo.width, photo.height), (600, 900))

    def test_one_that_is_opened_by_itself_has_the_browsers_own_styles_and_no_script(self) -> None:
        """The browser makes a page for it, and fits it there to the window by a style in that page."""
        self.upload(("a.jpg", encoded()))
        do_jobs()
        answer = self.client.get(f"/photos/{Photo.objects.get(egg=self.egg(3)).pk}/full-1.jpg")
        self.assertTrue(b"".join(answer.streaming_content))  # type: ignore[attr-defined]
        policy = answer["Content-Security-Policy"].split("; ")
        self.assertIn("style-src 'self' 'unsafe-inline'", policy)
        self.assertIn("script-src 'self'", policy)

    def test_pictures_are_for_members_only(self) -> None:
        self.upload(("a.jpg", encoded()))
        do_jobs()
        url = f"/photos/{Photo.objects.get(egg=self.egg(3)).pk}/page-1.jpg"
        self.assertTrue(self.served(url))
        self.assertEqual(self.client.get(url.replace("page", "huge")).status_code, 404)
        self.log_in_the_neighbour()
        self.assertEqual(self.client.get(url).status_code, 404)
        self.client.logout()
        self.assertEqual(self.client.get(url).status_code, 302)

    def test_files_are_taken_away_if_the_row_cannot_be_written(self) -> None:
        self.upload(("a.jpg", encoded()))
        before = sorted(Path(self.folder.name).rglob("*.jpg"))
        self.assertEqual(len(before), 1)
        with patch.object(Photo, "save", side_effect=OperationalError("gone")), self.assertRaises(OperationalError):
            self.upload(("b.jpg", encoded()))
        self.assertEqual(sorted(Path(self.folder.name).rglob("*.jpg")), before)
