"""Files of every kind: what is taken in upright and true to colour, and what is refused with a reason."""

from __future__ import annotations

import io
import json
import tempfile
from datetime import datetime
from pathlib import Path
from unittest import TestCase

import numpy as np
from PIL import Image, ImageCms

from eyot_core.cli import run
from eyot_core.photo.picture import LEAST_SIDE, MOST_BYTES, NoPicture, Picture, picture_from

from tests.core.photographs import case


def saved(image: Image.Image, form: str, **how: object) -> bytes:
    file = io.BytesIO()
    image.save(file, format=form, **how)  # type: ignore[arg-type]
    return file.getvalue()


def taken(data: bytes) -> Picture | NoPicture:
    return picture_from(io.BytesIO(data), "one.jpg", len(data))


class Pictures(TestCase):
    plain = Image.new("RGB", (80, 60), (200, 120, 40))

    def colours(self, data: bytes) -> np.ndarray:
        found = taken(data)
        assert isinstance(found, Picture), found
        self.assertEqual(found.image.mode, "RGB")
        return np.asarray(found.image)

    def reason(self, data: bytes) -> str:
        found = taken(data)
        assert isinstance(found, NoPicture), found
        self.assertFalse(found)
        return found.message

    def test_a_turned_photo_is_upright(self) -> None:
        exif = Image.Exif()
        exif[274] = 6
        self.assertEqual(self.colours(saved(self.plain, "JPEG", exif=exif)).shape, (80, 60, 3))

    def test_sixteen_bits_are_scaled_not_clipped(self) -> None:
        grey = Image.fromarray(np.full((60, 80), 30000, dtype=np.uint16))
        self.assertAlmostEqual(float(self.colours(saved(grey, "PNG")).mean()), 30000 / 257, delta=1.5)

    def test_cmyk_and_transparency(self) -> None:
        cmyk = self.colours(saved(self.plain.convert("CMYK"), "JPEG"))
        self.assertTrue(np.allclose(cmyk.mean(axis=(0, 1)), (200, 120, 40), atol=4))
        clear = Image.new("RGBA", (80, 60), (0, 0, 0, 0))
        self.assertTrue((self.colours(saved(clear, "PNG")) == 198).all())

    def test_what_is_no_still_photo_says_why(self) -> None:
        second = Image.new("RGB", (80, 60), (0, 0, 250))
        moving = saved(self.plain, "WEBP", save_all=True, append_images=[second], lossless=True)
        self.assertIn("animated (2 pictures", self.reason(moving))
        self.assertIn("1 × 1 pixels", self.reason(saved(Image.new("RGB", (1, 1)), "PNG")))
        self.assertIn("broken", self.reason(saved(self.plain, "JPEG")[:300]))
        self.assertIn("not a JPEG", self.reason(b"once upon a time"))
        self.assertIn("not a JPEG", self.reason(saved(self.plain, "GIF")))

    def test_colours_are_those_of_the_space_that_a_photo_names(self) -> None:
        """A space whose red is the green of sRGB, and the other way round."""
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        turned = profile.replace(b"rXYZ", b"----", 1).replace(b"gXYZ", b"rXYZ", 1).replace(b"----", b"gXYZ", 1)
        self.assertNotEqual(turned, profile)
        for named, wanted in ((profile, (200, 120, 40)), (turned, (120, 200, 40)), (b"no profile", (200, 120, 40))):
            found = self.colours(saved(self.plain, "PNG", icc_profile=named))
            self.assertTrue(np.allclose(found.mean(axis=(0, 1)), wanted, atol=2), (found[0, 0], wanted))

    def test_the_moment_is_that_of_the_cameras_clock(self) -> None:
        for written, wanted in (
            ("2026:05:31 14:07:09", datetime(2026, 5, 31, 14, 7, 9)),  # noqa: DTZ001  cameras know no zone
            ("yesterday", None),
            (None, None),
        ):
            exif = Image.Exif()
            if written:
                exif.get_ifd(0x8769)[0x9003] = written
            found = taken(saved(self.plain, "JPEG", exif=exif))
            assert isinstance(found, Picture), found
            self.assertEqual(found.taken_at, wanted)

    def test_what_is_said_names_the_file_the_bound_and_the_way_out(self) -> None:
        most = MOST_BYTES // 1048576
        for size, wanted in (
            (MOST_BYTES, ""),
            (MOST_BYTES + 1048576, f"one.jpg has {most + 1} MB; at most {most} MB can be taken."),
        ):
            found = picture_from(io.BytesIO(saved(self.plain, "PNG")), "one.jpg", size)
            self.assertEqual(bool(found), not wanted)
            self.assertTrue(not wanted or str(getattr(found, "message", "")).startswith(wanted), found)
        small = self.reason(saved(Image.new("RGB", (LEAST_SIDE - 1, 90)), "PNG"))
        self.assertEqual(
            small, f"one.jpg has {LEAST_SIDE - 1} × 90 pixels; at least {LEAST_SIDE} a side are needed to see anything."
        )
        self.assertIsInstance(taken(saved(Image.new("RGB", (LEAST_SIDE, 90)), "PNG")), Picture)

    def test_a_bomb_is_not_opened(self) -> None:
        header = bytearray(saved(Image.new("1", (64, 64)), "PNG"))
        for width, wanted in (
            (9000, "one.jpg has 81 megapixels; at most"),
            (60000, "one.jpg has far too many megapixels"),
        ):
            header[16:24] = width.to_bytes(4, "big") * 2
            header[29:33] = __import__("zlib").crc32(bytes(header[12:29])).to_bytes(4, "big")
            self.assertIn(wanted, self.reason(bytes(header)))


class CommandLine(TestCase):
    """``strip`` and ``measure`` as a shell calls them."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        one = case(0, width=700)
        Image.fromarray(one.taken.pixels).save(cls.folder / "photo.png")
        Image.fromarray(np.zeros_like(one.taken.pixels)).save(cls.folder / "black.png")
        cls.write("line.json", {"points": one.line.points.round(2).tolist()})
        cls.box = list(one.taken.card or ())
        cls.write("card.json", {"kind": "grey", "box": cls.box, "reflectance": 0.18})

    @classmethod
    def write(cls, name: str, document: object) -> str:
        (cls.folder / name).write_text(json.dumps(document))
        return str(cls.folder / name)

    def printed(self, *arguments: str) -> tuple[int, dict[str, object]]:
        out, err = io.StringIO(), io.StringIO()
        status = run([*arguments], io.BytesIO(), out, err)
        self.assertEqual(bool(out.getvalue()), status == 0)
        return status, json.loads(out.getvalue() or err.getvalue())

    def path(self, name: str) -> str:
        return str(self.folder / name)

    def test_measures_come_with_their_uncertainty(self) -> None:
        status, found = self.printed(
            "measure", self.path("photo.png"), "--line", self.path("line.json"), "--reference", self.path("card.json")
        )
        self.assertEqual(status, 0)
        for name in ("white_share", "dark_share", "lightness", "contrast", "lobes_per_length"):
            self.assertEqual(set(found[name]), {"value", "sd"})  # type: ignore[call-overload]
        self.assertEqual([len(found["mean_lab"][key]) for key in ("value", "sd")], [3, 3])  # type: ignore[index]

    def test_the_strip_is_written_with_its_outline(self) -> None:
        out = self.path("strip.png")
        status, found = self.printed("strip", self.path("photo.png"), "--line", self.path("line.json"), "--out", out)
        self.assertEqual((status, found["light"]), (0, None))
        with Image.open(out) as image:
            self.assertEqual(image.size, (found["width"], found["height"]))
            self.assertEqual(image.mode, "RGBA")
        self.assertEqual(found["v"], [-0.4, 0.4])
        self.assertEqual((found["from"], found["to"]), (0.0, 1.0))
        self.assertGreater(len(found["outline"]), 100)  # type: ignore[arg-type]

    def test_what_is_wrong_is_told_with_its_place(self) -> None:
        photo, line = self.path("photo.png"), self.path("line.json")
        two, far = (
            self.write("two.json", {"points": [[1, 2], [3, 4]]}),
            self.write("far.json", {"points": [[9999, 1]] * 5}),
        )
        odd = self.write("odd.json", {"points": [[1, 2, 3], [4, 5], [6, 7], [8, 9]]})
        paper = self.write("paper.json", {"kind": "green", "box": [0, 0, 9, 9]})
        turned = self.write("turned.json", {"kind": "grey", "box": [9, 9, 2, 2]})
        flat, three = (
            self.write(f"{len(box)}{box[3:]}.json", {"kind": "grey", "box": box}) for box in ([9, 9, 20, 9], [1, 2, 3])
        )
        bright = self.write("bright.json", {"kind": "grey", "box": self.box, "reflectance": 1.2})
        more = self.write("more.json", {"kind": "grey", "box": self.box, "shade": 1})
        places = json.loads((self.folder / "line.json").read_text())["points"]
        past, backward = (
            self.write(f"from{start}.json", {"points": places, "from": start, "to": end})
            for start, end in ((0, 1.5), (0.6, 0.4))
        )
        for arguments, at in (
            (("measure", self.path("none.png"), "--line", line), "photo"),
            (("measure", photo, "--line", self.path("none.json")), "line"),
            (("measure", photo, "--line", two), "points"),
            (("measure", photo, "--line", far), "points[0]"),
            (("measure", photo, "--line", odd), "points[0]"),
            (("measure", photo, "--line", line, "--reference", paper), "kind"),
            (("measure", photo, "--line", line, "--reference", turned), "box"),
            (("measure", photo, "--line", line, "--reference", flat), "box"),
            (("measure", photo, "--line", line, "--reference", three), "box"),
            (("measure", photo, "--line", line, "--reference", bright), "reflectance"),
            (("measure", photo, "--line", line, "--reference", more), "shade"),
            (("measure", photo, "--line", past), "to"),
            (("measure", photo, "--line", backward), "points"),
            (("measure", self.path("black.png"), "--line", line), "points"),
            (("measure", self.path("black.png"), "--line", line, "--reference", self.path("card.json")), "box"),
            (("measure", photo), ""),
            (("strip", photo, "--line", line, "--out", self.path("no/such/folder.png")), "out"),
        ):
            with self.subTest(arguments[2:], at=at):
                status, error = self.printed(*arguments)
                self.assertEqual((status, error["at"]), (2, at), error)
                self.assertRegex(str(error["error"]), r"^\S.{8}")
