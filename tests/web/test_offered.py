"""The list, and pages for buyers by a link: what they show, and that nothing else can be reached from them."""

from __future__ import annotations

import csv
import io
import tempfile
from datetime import timedelta
from unittest.mock import patch

import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from django.utils import timezone
from PIL import Image

from eyot.homes import list_pages
from eyot.homes.buyers import MOST_WAITING, make_page
from eyot.homes.models import BuyersPage, Fate, ListPrint, Reservation
from eyot.homes.standing import all_kept
from eyot.photos.actions import add_photo
from eyot.photos.models import Photo
from eyot.shared.refusal import Refused
from tests.jobs import do_jobs, fail_jobs, stored_in
from tests.web.test_homes import HomesCase
from tests.web.test_rights import OF_A_GUEST, OF_A_PERSON, addresses


class OfferedCase(HomesCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = BuyersPage.objects.get(collection=self.collection)
        self.link = f"/offer/{self.page.token}/"
        self.outside = Client()
        self.one = self.egg(1, "V-05")


class TheList(OfferedCase):
    def test_it_shows_what_is_listed_with_its_price(self) -> None:
        page = self.client.get("/homes/list/")
        for words in ("25-V05-1", "€320", "25-V09-2", "ready to go"):
            self.assertContains(page, words)
        for gone in ("25-V05-2<", "25-V05-3<"):
            self.assertNotContains(page, gone)
        self.assertContains(self.client.get("/homes/list/?state=reserved"), "keeper at Weir House")

    def test_as_a_table_no_cell_is_run_by_a_spreadsheet(self) -> None:
        row = next(row for row in all_kept(self.collection) if row.egg.pk == self.one.pk)
        own = row.own_label
        assert own
        own.text = "=Pinstripe"
        own.save()
        answer = self.client.post("/homes/list/csv/")
        rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
        found = next(one for one in rows if one["id"] == "25-V05-1")
        self.assertEqual(
            (found["label"], found["price"], found["currency"], found["ready"]), ("'=Pinstripe", "320", "EUR", "ready")
        )

    def test_a_worker_writes_it_as_pdf_part_by_part(self) -> None:
        with patch.object(list_pages, "PART", 2):
            answer = self.client.post("/homes/list/print/", {"title": "Our list"})
            number = int(answer["Location"].rstrip("/").rsplit("/", 1)[1])
            self.assertContains(self.client.get(f"/homes/list/{number}/"), "0 of 6 are written")
            self.assertEqual(self.client.get(f"/homes/list/{number}.pdf").status_code, 404)
            do_jobs()
        self.assertContains(self.client.get(f"/homes/list/{number}/"), "Open the PDF")
        document = pypdfium2.PdfDocument(self.client.get(f"/homes/list/{number}.pdf").content)
        text = " ".join(page.get_textpage().get_text_bounded() for page in document)
        for words in ("Our list", "25-V05-1", "€320", "25-V09-4"):
            self.assertIn(words, text)

    def test_where_a_worker_failed_the_page_says_so_and_asks_no_more(self) -> None:
        page = self.client.post("/homes/list/print/", {"title": "Our list"})["Location"]
        self.assertContains(self.client.get(page), "hx-trigger")
        fail_jobs()
        self.assertContains(self.client.get(page), "<b>A worker failed</b> at this list after 0 of 6")
        self.assertNotContains(self.client.get(page), "hx-trigger")
        self.client.post("/homes/list/print/", {"title": "Our list"})
        do_jobs()
        self.assertEqual([one.pdf is None for one in ListPrint.objects.order_by("pk")], [True, False])

    def test_only_the_last_lists_are_kept_and_an_empty_one_is_refused(self) -> None:
        for _ in range(7):
            self.client.post("/homes/list/print/", {})
        self.assertEqual(ListPrint.objects.filter(collection=self.collection).count(), list_pages.KEPT)
        answer = self.client.post("/homes/list/print/?gene=clown", {})
        self.assertContains(answer, "Nobody is on this list", status_code=422)


class ForBuyers(OfferedCase):
    def test_it_shows_those_that_were_ticked_and_no_names(self) -> None:
        page = self.outside.get(self.link)
        for words in ("25-V05-1", "25-V09-2", "€320"):
            self.assertContains(page, words)
        one = self.outside.get(f"{self.link}{self.one.pk}/")
        self.assertContains(one, "meals taken")
        for text in (page, one):
            for words in ("Alder Row", "Weir House", "Fescue", "Culm", "keeper<", "Somebody at the ferry", "25-V05-6"):
                self.assertNotContains(text, words)

    def test_what_is_sold_vanishes_and_what_is_reserved_says_so(self) -> None:
        self.decide(1, Fate.State.RESERVED, "V-05", who="keeper at the mill")
        page = self.outside.get(self.link)
        self.assertContains(page, "reserved")
        self.assertNotContains(page, "at the mill")
        self.decide(1, Fate.State.SOLD, "V-05")
        self.assertNotContains(self.outside.get(self.link), "25-V05-1")
        self.assertEqual(self.outside.get(f"{self.link}{self.one.pk}/").status_code, 404)

    def test_withdrawn_expired_and_guessed_links_show_nothing(self) -> None:
        self.assertContains(self.outside.get("/offer/guessed/"), "has ended", status_code=404)
        self.client.post(f"/homes/pages/{self.page.pk}/withdraw/")
        for path in ("", f"{self.one.pk}/"):
            self.assertContains(self.outside.get(self.link + path), "has ended", status_code=404)
        BuyersPage.objects.update(withdrawn_at=None, expires_at=timezone.now() - timedelta(seconds=1))
        self.assertContains(self.outside.get(self.link), "has ended", status_code=404)

    def test_nobody_elses_hatchling_or_photo_can_be_reached(self) -> None:
        others = [
            row.egg.pk
            for row in all_kept(self.collection)
            if row.egg.pk not in self.page.offered.values_list("egg", flat=True)
        ]
        others.append(self.neighbours.eggs.get().pk)
        for number in others:
            self.assertEqual(self.outside.get(f"{self.link}{number}/").status_code, 404)
            self.assertEqual(
                self.outside.post(f"{self.link}{number}/ask/", {"name": "a", "answer_to": "b"}).status_code, 404
            )
        missing = "/photos/00000000-0000-0000-0000-000000000000/thumb-1.jpg"
        self.assertEqual(self.outside.get(self.link.rstrip("/") + missing).status_code, 404)

    def test_with_the_link_one_is_nobody_at_every_other_address(self) -> None:
        self.outside.get(self.link)
        self.outside.get(f"{self.link}{self.one.pk}/")
        self.assertNotIn("sessionid", self.outside.cookies)
        others = [(name, path) for name, path in addresses() if name not in OF_A_GUEST | OF_A_PERSON]
        self.assertGreater(len(others), 150)
        for name, path in others:
            answer = self.outside.get(f"/in/withy-bed{path}")
            self.assertEqual((answer.status_code, "/login/" in answer.get("Location", "")), (302, True), name)

    def test_only_what_is_listed_can_be_put_on_a_page(self) -> None:
        rows = {(row.egg.clutch.code, row.egg.number): row for row in all_kept(self.collection)}
        for chosen, title, days, words in (
            ([], "A", 3, "Tick who"),
            ([rows["V-05", 3]], "A", 3, "not listed"),
            ([rows["V-05", 1]], " ", 3, "title"),
            ([rows["V-05", 1]], "A", 0, "1 to 90"),
        ):
            with self.assertRaisesMessage(Refused, words):
                make_page(self.collection, self.keeper, chosen, title, "", days, self.now)


class Photos(OfferedCase):
    def test_photos_are_shown_without_the_place_where_they_were_taken(self) -> None:
        exif = Image.Exif()
        exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
        file = io.BytesIO()
        Image.new("RGB", (900, 700), (120, 90, 60)).save(file, "JPEG", exif=exif)
        self.assertTrue(Image.open(io.BytesIO(file.getvalue())).getexif().get_ifd(0x8825))
        with tempfile.TemporaryDirectory() as folder, override_settings(STORAGES=stored_in(folder)):
            upload = SimpleUploadedFile("a.jpg", file.getvalue(), "image/jpeg")
            added = [add_photo(egg, self.keeper, upload, "shed", self.now) for egg in (self.one, self.egg(2, "V-05"))]
            do_jobs()
            own, other = (Photo.objects.get(pk=one.pk) for one in added if isinstance(one, Photo))
            self.assertContains(self.outside.get(self.link), f"photos/{own.pk}/{own.thumb}.jpg")
            answer = self.outside.get(f"{self.link}photos/{own.pk}/{own.page}.jpg")
            shown = Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]
            self.assertEqual((shown.size, dict(shown.getexif())), ((900, 700), {}))
            for path in (f"{own.pk}/{own.full}", f"{other.pk}/{other.page}"):
                self.assertEqual(self.outside.get(f"{self.link}photos/{path}.jpg").status_code, 404)


class Asking(OfferedCase):
    def ask(self, **said: str) -> object:
        return self.outside.post(
            f"{self.link}{self.one.pk}/ask/", {"name": "Nobody", "answer_to": "a bottle", "text": ""} | said
        )

    def test_a_reservation_arrives_under_today_and_is_dealt_with(self) -> None:
        Reservation.objects.all().delete()
        self.assertContains(self.ask(text="Still there?"), "Nothing is reserved until then")  # type: ignore[arg-type]
        asked = Reservation.objects.get(egg=self.one)
        self.assertContains(self.client.get("/homes/today/"), "Nobody asks for 25-V05-1")
        self.assertContains(self.client.get("/clutches/V-05/1/home/"), "Still there?")
        self.client.post(f"/homes/asked/{asked.pk}/settle/")
        self.assertNotContains(self.client.get("/homes/today/"), "Nobody asks for")

    def test_a_name_and_a_way_to_answer_are_needed_and_what_was_typed_stays(self) -> None:
        answer = self.ask(name="", text="Is it tame?")
        self.assertContains(answer, "Write your name", status_code=422)  # type: ignore[arg-type]
        self.assertContains(answer, "Is it tame?", status_code=422)  # type: ignore[arg-type]

    def test_many_at_once_are_slowed(self) -> None:
        Reservation.objects.all().delete()
        for _ in range(MOST_WAITING):
            self.ask()
        self.assertContains(self.ask(), "try again later", status_code=422)  # type: ignore[arg-type]
        self.assertEqual(Reservation.objects.filter(egg=self.one).count(), MOST_WAITING)
