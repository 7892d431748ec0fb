"""Cards: printed, laid under a camera, and found again with light, scale, slant and whose photo it is."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import cv2
import numpy as np
import pypdfium2
from PIL import Image, ImageFile

from eyot_core.cli import run
from eyot_core.drawing.camera import HATCHLING_MM, photographed
from eyot_core.drawing.laid_card import LaidCard
from eyot_core.errors import InputError
from eyot_core.photo.card import HEIGHT, WIDTH, Card, code_rows, find_cards
from eyot_core.photo.card_flat import WINDOW_IN_SHARES, card_alone, card_flat
from eyot_core.photo.card_sheet import sheet_html, write_sheet
from eyot_core.photo.light import Light, NoLight, light_in
from eyot_core.photo.printed_grey import PrintedGrey, light_by_print, printed_grey_in
from eyot_core.photo.sight import Sight

from tests.core.cards import Laid, at_random, homography, photographed_cards
from tests.core.photographs import looks_of

FLAT, SLANTED = 0.03, 0.06


def true_corners(laid: Laid) -> np.ndarray:
    places = np.array([(0, 0), (WIDTH, 0), (WIDTH, HEIGHT), (0, HEIGHT)], dtype=np.float64)
    seen = np.c_[places, np.ones(4)] @ homography(laid).T
    return seen[:, :2] / seen[:, 2:]


class Laying(TestCase):
    def test_a_card_that_lies_anyhow_tells_scale_slant_and_whose_photo_it_is(self) -> None:
        seen, read, scales, slants = 0, 0, [], []
        count = 24
        for number in range(count):
            laid = at_random(number)
            cards = find_cards(photographed_cards(laid, seed=number)).cards
            if len(cards) != 1:
                continue
            seen += 1
            read += cards[0].id == laid.number
            self.assertIn(cards[0].id, (laid.number, None), "never another's")
            off = np.abs(cards[0].corners - true_corners(laid)).max() * laid.mm_per_pixel
            self.assertLess(off, 1.5, f"corners, in millimetres, of {laid}")
            scales.append(abs(cards[0].mm_per_pixel / laid.mm_per_pixel - 1))
            slants.append(abs(cards[0].slant - laid.slant))
        self.assertEqual((seen, read), (count, count))
        self.assertLess(max(scales), SLANTED)
        self.assertLess(np.median(slants), 3)

    def test_flat_the_scale_is_exact_to_three_in_a_hundred(self) -> None:
        for number in range(5):
            laid = at_random(number, slant=0.0)
            (card,) = find_cards(photographed_cards(laid)).cards
            self.assertLess(abs(card.mm_per_pixel / laid.mm_per_pixel - 1), FLAT)

    def test_what_lies_in_the_window_is_a_reference_inside_it(self) -> None:
        for within, kind in ((0.18, "grey"), (0.8, "white")):
            laid = Laid(within=within, slant=20, turned=30, cast=(0.8, 0.7, 0.6))
            (card,) = find_cards(photographed_cards(laid)).cards
            assert card.window is not None
            self.assertEqual(card.kind, kind)
            left, top, right, bottom = card.window
            self.assertGreater(min(right - left, bottom - top), 10)
            light = np.array(Image.fromarray(photographed_cards(laid)).crop(card.window)) / 255.0
            self.assertLess(float((light**2.2).std(axis=(0, 1)).max()), 0.02, "nothing of the frame in it")

    def test_a_window_that_lies_half_in_shade_or_is_burnt_out_is_no_reference(self) -> None:
        laid = Laid(middle=(0.35, 0.5), mm_per_pixel=0.2)
        half_lit = shade_across(photographed_cards(laid), laid)
        burnt = photographed_cards(Laid(cast=(1.6, 1.6, 1.6), within=0.85))
        for photo in (half_lit, burnt):
            self.assertEqual([card.kind for card in find_cards(photo).cards], [None])

    def test_partly_shaded_or_with_a_corner_hidden_it_is_found(self) -> None:
        laid = Laid(shade=0.7, turned=20, slant=15, mm_per_pixel=0.25)
        photo = photographed_cards(laid)
        self.assertEqual([card.id for card in find_cards(photo).cards], [laid.number])
        corner = true_corners(laid)[2].round().astype(int)
        cv2.circle(photo, (int(corner[0]), int(corner[1])), 45, (40, 90, 60), -1)
        (card,) = find_cards(photo).cards
        self.assertEqual(card.id, laid.number)
        self.assertLess(abs(card.mm_per_pixel / laid.mm_per_pixel - 1), FLAT)

    def test_the_photo_of_a_good_camera_is_read_in_its_own_pixels(self) -> None:
        laid = Laid(width=4000, height=3000, mm_per_pixel=0.1, turned=200, slant=10, blur=1.2)
        (card,) = find_cards(photographed_cards(laid)).cards
        self.assertLess(np.abs(card.corners - true_corners(laid)).max(), 12)
        self.assertEqual(card.id, laid.number)


class NotCutOut(TestCase):
    """A card on a screen, or fresh from the printer: its window still says that it is to be cut out."""

    def test_it_is_told(self) -> None:
        for number in range(12):
            laid = at_random(number, within=None)
            found = find_cards(photographed_cards(laid, seed=number))
            [card] = found.cards
            self.assertEqual((card.id, card.uncut), (laid.number, True))
            self.assertIn("screen", found.why)

    def test_no_card_that_is_cut_out_is_taken_for_one(self) -> None:
        for number in range(24):
            [card] = find_cards(photographed_cards(at_random(number, shade=0.4 * (number % 3)), seed=number)).cards
            self.assertFalse(card.uncut, number)

    def test_the_command_says_so(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            Image.fromarray(photographed_cards(Laid(within=None))).save(f"{folder}/photo.jpg")
            out = io.StringIO()
            self.assertEqual(run(["card-in", f"{folder}/photo.jpg"], io.StringIO(), out, io.StringIO()), 0)
            [card] = json.loads(out.getvalue())["cards"]
        self.assertTrue(card["uncut"])
        self.assertEqual(
            card["reference"]["kind"], "white", "what lies there looks so; whether it is paper is not known"
        )


class LaidBesideASimulatedAnimal(TestCase):
    def test_it_lies_where_the_animal_does_not_and_is_read_with_its_scale(self) -> None:
        beside = LaidCard(card_flat("26-W02-3"), WIDTH, WINDOW_IN_SHARES)
        for number in (3, 5, 7):
            plain, taken = (
                photographed(looks_of(number), number, "loose", width=800, height=600, beside=one)
                for one in (None, beside)
            )
            [card] = find_cards(taken.pixels).cards
            self.assertEqual((card.id, card.kind, card.uncut), ("26-W02-3", "grey", False))
            left, top, right, bottom = card.box
            self.assertFalse(taken.body[top:bottom, left:right].any())
            self.assertTrue((taken.line == plain.line).all(), "the animal lies as it did")
            long = float(np.hypot(*np.diff(taken.line, axis=0).T).sum())
            self.assertLess(
                abs(card.mm_per_pixel * long / HATCHLING_MM - 1), 0.05, "a line through eleven points is a little short"
            )
            x0, y0, x1, y1 = taken.card or (0, 0, 0, 0)
            self.assertTrue(left < x0 < x1 < right and top < y0 < y1 < bottom)

    def test_alone_it_is_read_too(self) -> None:
        [card] = find_cards(card_alone("26-W02-4")).cards
        self.assertEqual((card.id, card.kind), ("26-W02-4", "grey"))


class PrintedGreys(TestCase):
    """What a printer made of grey is set by one photo on white paper, and counts for others."""

    REDDISH = (0.24, 0.2, 0.17)
    WHITE = (0.8, 0.8, 0.8)

    def seen(self, **how: object) -> tuple[Sight, list[Card]]:
        laid = Laid(**{"grey": self.REDDISH, "ground": self.WHITE, "cast": (0.7, 0.6, 0.5), "turned": 15} | how)  # type: ignore[arg-type]
        photo = photographed_cards(laid)
        cards = find_cards(photo).cards
        return Sight.of(photo, [card.box for card in cards]), cards

    def set(self, **how: object) -> PrintedGrey:
        known = printed_grey_in(*self.seen(**how))
        assert isinstance(known, PrintedGrey), known
        return known

    def test_whatever_the_light_the_same_is_set(self) -> None:
        for cast in ((0.7, 0.6, 0.5), (0.6, 0.75, 0.9), (0.9, 0.85, 0.6)):
            known = self.set(cast=cast, slant=15)
            for seen, true in zip(known.grey, self.REDDISH, strict=True):
                self.assertLess(abs(seen / true - 1), 0.06, (cast, known))

    def test_by_it_the_light_of_another_photo_is_right_and_by_grey_as_such_it_is_not(self) -> None:
        known = self.set()
        cast = (0.5, 0.75, 0.9)
        sight, [card] = self.seen(ground=(0.15, 0.3, 0.4), cast=cast, turned=200, slant=20)
        light = light_by_print(sight.photo, card, known)
        assert isinstance(light, Light), light
        left = np.array(light.gains) * cast
        self.assertLess(np.ptp(left) / left.mean(), 0.06)
        assert card.window is not None
        plain = light_in(sight.photo, card.window, "grey card", 0.2)
        assert isinstance(plain, Light)
        self.assertGreater(np.ptp(np.array(plain.gains) * cast), 0.2)

    def test_what_was_not_set_or_is_another_print_gives_no_light(self) -> None:
        sight, [card] = self.seen(grey=(0.2, 0.2, 0.3))
        for known, reason in ((None, "not set"), (self.set(), "not the one that was set")):
            light = light_by_print(sight.photo, card, known)
            assert isinstance(light, NoLight)
            self.assertIn(reason, light.reason)

    def test_it_is_set_on_even_white_paper_by_one_card_only(self) -> None:
        blue = printed_grey_in(*self.seen(ground=(0.3, 0.45, 0.6)))
        burnt = printed_grey_in(*self.seen(cast=(1.3, 1.3, 1.3)))
        other = printed_grey_in(*self.seen(grey=None))
        told = [answer.reason for answer in (blue, burnt, other) if isinstance(answer, NoLight)]
        self.assertEqual(len(told), 3)
        for words, reason in zip(told, ("no white paper", "burnt out", "no card with printed grey"), strict=True):
            self.assertIn(reason, words)

    def test_a_hidden_corner_changes_nothing_and_no_window_is_to_be_cut(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            out = io.StringIO()
            given = ["card", "--out", f"{folder}/card.pdf", "--id", "26-W02-1", "--printed-grey"]
            self.assertEqual(run(given, io.StringIO(), out, io.StringIO()), 0)
            page = pypdfium2.PdfDocument(f"{folder}/card.pdf")[0]
            self.assertNotIn("cut out", page.get_textpage().get_text_range())
        photo = photographed_cards(Laid(grey=self.REDDISH, mm_per_pixel=0.25))
        corner = true_corners(Laid(mm_per_pixel=0.25))[2].round().astype(int)
        cv2.circle(photo, (int(corner[0]), int(corner[1])), 45, (40, 90, 60), -1)
        [card] = find_cards(photo).cards
        self.assertEqual((card.id, card.kind, card.uncut), ("26-W02-1", "printed", False))


def shade_across(photo: np.ndarray, laid: Laid) -> np.ndarray:
    """A sharp shadow through the middle of the window."""
    window = (homography(laid) @ np.array([58.5, 17.0, 1.0])).reshape(3)
    dark = photo.copy()
    dark[:, round(float(window[0] / window[2])) :] //= 2
    return dark


class Bad(TestCase):
    def test_two_cards_are_both_told_the_nearer_first(self) -> None:
        one = Laid(number="26-W02-1", middle=(0.28, 0.3), mm_per_pixel=0.3, turned=10)
        two = Laid(number="26-W02-2", middle=(0.7, 0.7), mm_per_pixel=0.35, turned=190)
        cards = find_cards(photographed_cards(one, two)).cards
        self.assertEqual([card.id for card in cards], ["26-W02-1", "26-W02-2"])

    def test_half_a_card_is_told_and_not_used(self) -> None:
        found = find_cards(photographed_cards(Laid(middle=(0.0, 0.4), mm_per_pixel=0.2)))
        self.assertEqual(found.cards, [])
        self.assertRegex(found.why, "part of a card is seen, 2 of its 4 corners")

    def test_a_mirror_image_is_told_and_not_used(self) -> None:
        found = find_cards(np.ascontiguousarray(photographed_cards(Laid())[:, ::-1]))
        self.assertEqual(found.cards, [])
        self.assertIn("in a mirror", found.why)

    def test_without_a_card_that_is_said(self) -> None:
        random = np.random.default_rng(0)
        found = find_cards(random.integers(0, 255, (400, 600, 3), dtype=np.uint8))
        self.assertEqual((found.cards, found.why), ([], "no card is seen"))

    def test_a_card_without_a_number_tells_scale_and_light_and_nobody(self) -> None:
        found = find_cards(photographed_cards(Laid(number="", turned=15)))
        self.assertEqual([(card.id, card.kind) for card in found.cards], [("", "grey")])
        self.assertEqual(found.why, "")

    def test_a_code_that_can_not_be_read_is_told_and_the_rest_is_used(self) -> None:
        laid = Laid(mm_per_pixel=0.25)
        photo = photographed_cards(laid)
        middle = homography(laid) @ np.array([31.5, 16.0, 1.0])
        x, y = (middle[:2] / middle[2]).round().astype(int)
        photo[y - 30 : y + 30 : 4, x - 35 : x + 35] = 0
        photo[y - 20 : y + 20, x - 25 : x + 25] = 255
        found = find_cards(photo)
        self.assertEqual([card.id for card in found.cards], [None])
        self.assertIn("code can't be read", found.why)


class Sheets(TestCase):
    def told(self, *arguments: str) -> tuple[int, dict[str, object]]:
        out, err = io.StringIO(), io.StringIO()
        status = run(list(arguments), io.BytesIO(), out, err)
        return status, json.loads(out.getvalue() or err.getvalue())

    def test_the_commands_print_a_card_and_read_it_again(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            sheet, photo = f"{folder}/card.pdf", f"{folder}/photo.png"
            self.assertEqual(self.told("card", "--out", sheet, "--id", "26-W02-1", "26-W02-2")[0], 0)
            page = pypdfium2.PdfDocument(sheet)[0]
            self.assertEqual([round(side / 72 * 25.4) for side in page.get_size()], [210, 297])
            seen = page.render(scale=200 / 72).to_pil().convert("RGB")
            seen.point(lambda value: value * 0.9).save(photo)
            status, answer = self.told("card-in", photo)
        self.assertEqual(status, 0)
        cards = answer["cards"]
        assert isinstance(cards, list)
        self.assertEqual({card["id"] for card in cards}, {"26-W02-1", "26-W02-2"})
        for card in cards:
            self.assertAlmostEqual(card["mm_per_pixel"], 25.4 / 200, 2)
            self.assertLess(card["slant"], 4)
            self.assertEqual(np.array(card["corners"]).shape, (4, 2))
            self.assertEqual(card["reference"]["kind"], "white", "nothing is cut out yet: paper")

    def test_as_many_cards_as_numbers_on_as_many_pages_as_it_takes(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "cards.pdf"
            self.told("card", "--out", str(path), "--id", *[f"26-W01-{number}" for number in range(1, 12)])
            self.assertEqual(len(pypdfium2.PdfDocument(path)), 2)
        self.assertEqual(sheet_html([]).count("<svg"), 8)

    def test_after_printing_half_a_picture_is_still_no_picture(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.told("card", "--out", f"{folder}/card.pdf")
        self.assertFalse(ImageFile.LOAD_TRUNCATED_IMAGES)

    def test_what_can_not_be_printed_is_told(self) -> None:
        status, answer = self.told("card", "--out", "/nowhere/card.pdf")
        self.assertEqual((status, answer["at"]), (2, "out"))
        with tempfile.TemporaryDirectory() as folder:
            status, answer = self.told("card", "--out", f"{folder}/card.pdf", "--id", "x" * 80)
            self.assertEqual((status, answer["at"], list(Path(folder).iterdir())), (2, "id", []))
        self.assertEqual(self.told("card")[0], 2)

    def test_on_a_machine_that_can_not_print_that_is_said(self) -> None:
        missing = patch("builtins.__import__", side_effect=OSError("cannot load library 'libpango-1.0-0'"))
        with (
            tempfile.TemporaryDirectory() as folder,
            missing,
            self.assertRaisesRegex(InputError, "can't print: .* Pango"),
        ):
            write_sheet([], f"{folder}/card.pdf")

    def test_a_number_is_written_so_that_it_stands_in_html(self) -> None:
        self.assertIn("&lt;b&gt;", sheet_html(["<b>"]))

    def test_the_smallest_code_that_holds_a_number_is_taken(self) -> None:
        self.assertEqual([len(code_rows(text)) for text in ("26-W02-1", "26-W02-1 OF WITHY BED 2")], [21, 25])
        with self.assertRaises(InputError):
            code_rows("x" * 43)
