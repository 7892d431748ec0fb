"""Labels on sheets by millimetres: what stands on them, how they fit, and the codes read back from the printed page."""

from __future__ import annotations

import io
import re
from functools import cache

import cv2
import numpy as np
import pypdfium2
from django.test import override_settings
from django.utils import timezone

from eyot_core.photo.card import find_cards

from eyot.homes.label_pages import LabelWords, label_pages, write_pdf
from eyot.homes.models import Issued, LabelSheet
from eyot.homes.sheets import USUAL, Sheet, add_sheet, sheets_of
from eyot.shared.refusal import Refused
from tests.web.test_homes import HomesCase

DPI = 300
WORDS = LabelWords(
    "26-W02-3", "Banana Pinstripe, 66 % possible het Clown", ("female", "Sallow × Culm"), "http://eyot.test/in/a/1/"
)


def pages(pdf: bytes) -> list[np.ndarray]:
    document = pypdfium2.PdfDocument(pdf)
    return [np.asarray(page.render(scale=DPI / 72).to_pil().convert("RGB")) for page in document]


def printed(sheet: Sheet, labels: list[LabelWords], start: int = 1) -> tuple[list[np.ndarray], list[str]]:
    made, file = label_pages(sheet, labels, start), io.BytesIO()
    write_pdf(made.html, file)
    return pages(file.getvalue()), made.too_long


@cache
def first_label(key: str) -> np.ndarray:
    """The first label of a usual sheet, printed once for all that look at it."""
    sheet = next(one for one in USUAL if one.key == key)
    (page,), _ = printed(sheet, [WORDS])
    return np.ascontiguousarray(at(page, sheet, 0))


def at(page: np.ndarray, sheet: Sheet, place: int) -> np.ndarray:
    """The picture of one label."""
    left, top = list(sheet.places())[place]
    edges = [round(value / 25.4 * DPI) for value in (top, top + sheet.height, left, left + sheet.width)]
    return page[edges[0] : edges[1], edges[2] : edges[3]]


class Sheets(HomesCase):
    def test_usual_sheets_lie_on_their_pages(self) -> None:
        for sheet in USUAL:
            places = list(sheet.places())
            self.assertEqual(len(places), sheet.count)
            self.assertLessEqual(places[-1][0] + sheet.width, sheet.page[0] + 0.01, sheet.name)
            self.assertLessEqual(places[-1][1] + sheet.height, sheet.page[1] + 0.01, sheet.name)

    def test_a_label_lies_where_its_measures_say_and_the_others_stay_blank(self) -> None:
        for sheet in USUAL:
            (page,), _ = printed(sheet, [WORDS], 2)
            self.assertLess(at(page, sheet, 1).min(), 80, sheet.name)
            blank = page.copy()
            at(blank, sheet, 1)[:] = 255
            self.assertEqual(blank.min(), 255, sheet.name)

    def test_what_does_not_go_on_one_page_goes_on_the_next(self) -> None:
        made, _ = printed(USUAL[0], [WORDS] * 3, 23)
        self.assertEqual(len(made), 2)
        self.assertEqual(at(made[1], USUAL[0], 1).min(), 255)

    def test_own_sheets_are_checked(self) -> None:
        good = {"page_width": 210, "page_height": 297, "columns": 2, "rows": 5, "width": 90, "height": 50}
        good |= {"left": 10, "top": 10, "across": 95, "down": 55}
        for wrong, words in (
            ({"columns": 3}, "beyond a page"),
            ({"across": 80}, "on one another"),
            ({"height": 5}, "at least"),
            ({"page_width": 900}, "at most"),
        ):
            with self.subTest(wrong=wrong), self.assertRaisesMessage(Refused, words):
                add_sheet(LabelSheet(collection=self.collection, name="Mine", **good | wrong))
        kept = add_sheet(LabelSheet(collection=self.collection, name="Mine", **good))
        self.assertIn(f"own-{kept.pk}", [sheet.key for sheet in sheets_of(self.collection)])
        with self.assertRaisesMessage(Refused, "already"):
            add_sheet(LabelSheet(collection=self.collection, name="Mine", **good))


class Codes(HomesCase):
    def test_the_code_leads_to_the_animal_on_every_sheet(self) -> None:
        for sheet in USUAL:
            picture = first_label(sheet.key)
            right = picture[:, picture.shape[1] // 2 :]
            grey = cv2.cvtColor(np.ascontiguousarray(right), cv2.COLOR_RGB2GRAY)
            _, texts, _, _ = cv2.QRCodeDetector().detectAndDecodeMulti(grey)
            self.assertIn(WORDS.link, texts, sheet.name)

    def test_tub_and_rack_cards_carry_the_card_that_the_inbox_reads_with_its_scale(self) -> None:
        for sheet in USUAL:
            cards = find_cards(first_label(sheet.key)).cards
            if sheet.key in ("tub", "rack"):
                self.assertEqual([card.id for card in cards], [WORDS.number])
                self.assertAlmostEqual(cards[0].mm_per_pixel, 25.4 / DPI, delta=0.002)
                self.assertEqual((cards[0].kind, cards[0].uncut), (None, False))
            else:
                self.assertEqual(cards, [])


class Fitting(HomesCase):
    def test_letters_shrink_until_all_fits_and_what_never_fits_is_told(self) -> None:
        sizes = []
        for words in (
            "Fire",
            "Fire Enchi Pinstripe Vanilla, likely Banana, 66 % possible het Clown, possible Leopard " * 2,
        ):
            made = label_pages(USUAL[0], [LabelWords("26-W02-3", words, ("female",), "http://a.test/")])
            sizes.append(float(re.findall(r"font-size:([\d.]+)pt", made.html)[-1]))
            self.assertEqual(made.too_long, [])
        self.assertGreater(sizes[0], sizes[1])
        endless = label_pages(USUAL[0], [LabelWords("26-W02-3", "Pastel " * 120, (), "http://a.test/")])
        self.assertEqual(endless.too_long, ["26-W02-3"])

    def test_what_fits_is_not_cut_off(self) -> None:
        long = LabelWords(
            "26-W02-3",
            "Fire Enchi Pinstripe Vanilla, likely Banana, possible Leopard",
            ("female, hatched 8 Nov", "Sallow × Culm"),
            "http://a.test/",
        )
        file = io.BytesIO()
        write_pdf(label_pages(USUAL[3], [long]).html, file)
        text = pypdfium2.PdfDocument(file.getvalue())[0].get_textpage().get_text_bounded()
        for line in (long.number, "possible Leopard", "Culm"):
            self.assertIn(line, text)

    def test_names_in_other_scripts_are_counted_as_wide_as_they_are(self) -> None:
        plain, wide = (
            float(
                re.findall(
                    r"font-size:([\d.]+)pt",
                    label_pages(USUAL[3], [LabelWords("1", "Fire", (name,) * 2, "http://a.test/")]).html,
                )[-1]
            )
            for name in ("Ондатра × Выхухоль, давно", "麝鼠 × 水鼩鼱 長者長者長者長者長者長者長者長者")
        )
        self.assertGreater(plain, wide)


class Printing(HomesCase):
    def ticked(self, *numbers: int) -> list[str]:
        return [str(self.egg(number, "V-05").pk) for number in numbers]

    def test_labels_are_printed_and_kept_as_issued(self) -> None:
        said = {"egg": self.ticked(1, 6), "sheet": "tub", "start": "1", "priced": "yes"}
        answer = self.client.post("/homes/labels/print/", said)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        text = " ".join(pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_bounded().split())
        for words in ("25-V05-1", "25-V05-6", "possible Mojave", "€320", "Fescue × Culm"):
            self.assertIn(words, text)
        self.assertEqual(Issued.objects.filter(kind="label", at__lte=timezone.now()).count(), 2)

    def test_codes_lead_to_the_address_that_phones_use(self) -> None:
        said = {"egg": self.ticked(1), "sheet": "rack", "start": "1"}
        with override_settings(PHONE_ADDRESSES=["https://192.0.2.7:8000/"]):
            answer = self.client.post("/homes/labels/print/", said)
        grey = cv2.cvtColor(pages(answer.content)[0], cv2.COLOR_RGB2GRAY)
        _, texts, _, _ = cv2.QRCodeDetector().detectAndDecodeMulti(grey)
        self.assertIn("https://192.0.2.7:8000/in/withy-bed/clutches/V-05/1/", texts)
        self.assertContains(self.client.get("/homes/labels/", HTTP_HOST="localhost"), "this computer only")

    def test_what_can_not_be_printed_is_told(self) -> None:
        for said, words in (
            ({"sheet": "tub", "start": "1"}, "Tick who"),
            ({"egg": self.ticked(1), "sheet": "tub", "start": "99"}, "begin at one from 1 to 8"),
            ({"egg": self.ticked(1), "sheet": "gone", "start": "1"}, "not here any more"),
        ):
            self.assertContains(self.client.post("/homes/labels/print/", said), words, status_code=422)
        self.assertEqual(Issued.objects.filter(kind="label").count(), 0)

    def test_welfare_and_what_is_not_sound_stand_on_the_label(self) -> None:
        answer = self.client.post(
            "/homes/labels/print/", {"egg": [str(self.egg(8, "V-06").pk)], "sheet": "rack", "start": "1"}
        )
        text = pypdfium2.PdfDocument(answer.content)[0].get_textpage().get_text_bounded()
        self.assertIn("small kink", text)
