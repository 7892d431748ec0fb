"""From the closing sheet to labels and a page for buyers; a reservation by phone; a rack fed by thumb; a paper read elsewhere."""

from __future__ import annotations

import json
from pathlib import Path

import pypdfium2
from playwright.sync_api import Page, expect

from eyot.collection.actions import found_collection
from eyot.collection.models import Animal
from eyot.homes.models import BuyersPage, Fate, Reservation
from eyot.season.models import Egg, EggEvent
from tests.chromium import DESK, PHONE
from tests.demo_rows import PASSWORD
from tests.journeys.browser import Journey, offences


class Homes(Journey):
    def setUp(self) -> None:
        super().setUp()
        self.actions = 0

    def press(self, page: Page, words: str, role: str = "button") -> None:
        self.actions += 1
        page.get_by_role(role, name=words, exact=True).first.click()  # type: ignore[arg-type]

    def tick(self, page: Page, *names: str) -> None:
        for name in names:
            self.actions += 1
            page.get_by_label(name, exact=True).check()

    def test_from_the_closing_sheet_to_labels_and_a_page_on_which_somebody_asks(self) -> None:
        Fate.objects.all().delete()
        BuyersPage.objects.all().delete()
        page = self.member(**DESK)
        self.visit(page, "/clutches/V-06/closing/")
        self.press(page, "What becomes of them", "link")
        page.wait_for_url("**/homes/**")
        self.tick(page, "25-V06-1", "25-V06-2", "25-V06-7")
        self.actions += 1
        page.locator("[name=state]").last.select_option("listed")
        self.press(page, "Save")
        expect(page.get_by_text("Kept for 3 hatchlings")).to_be_visible()
        self.assertEqual(offences(page, (PHONE, "dark"), (DESK, "light")), [])
        self.tick(page, "25-V06-1", "25-V06-2")
        self.press(page, "Print labels")
        page.wait_for_url("**/labels/**")
        with page.expect_download() as download:
            self.press(page, "Print as PDF")
        text = pypdfium2.PdfDocument(Path(download.value.path()).read_bytes())[0].get_textpage().get_text_bounded()
        self.assertIn("25-V06-1", text)
        self.assertIn("25-V06-2", text)
        self.press(page, "Homes", "link")
        self.press(page, "The list", "link")
        self.tick(page, "25-V06-2")
        self.actions += 1
        page.get_by_label("Title").fill("Two of the Cress")
        self.press(page, "Make the page")
        link = page.get_by_label("Link to Two of the Cress").input_value()
        self.assertLess(self.actions, 16)
        self.assertEqual(offences(page, (PHONE, "light"), (DESK, "dark")), [])
        self.somebody_asks(link)
        self.visit(page, "/")
        expect(page.get_by_text("Lark asks for 25-V06-2")).to_be_visible()

    def somebody_asks(self, link: str) -> None:
        """By phone, from the link alone."""
        phone = self.context(**PHONE).new_page()
        phone.goto(link)
        expect(phone.get_by_text("25-V06-2")).to_be_visible()
        expect(phone.get_by_text("25-V06-1")).to_have_count(0)
        phone.get_by_role("link", name="Leopard").tap()
        phone.get_by_label("Your name").fill("Lark")
        phone.get_by_role("button", name="Send").tap()
        expect(phone.get_by_role("alert").first).to_contain_text("how you can be answered")
        phone.get_by_label("How can you be answered?").fill("01 234")
        phone.get_by_role("button", name="Send").tap()
        expect(phone.get_by_text("Nothing is reserved until then")).to_be_visible()
        self.assertEqual(offences(phone, (PHONE, "light")), [])
        self.assertEqual(Reservation.objects.get(name="Lark").answer_to, "01 234")

    def test_a_rack_is_fed_by_thumb(self) -> None:
        egg = Egg.objects.get(clutch__code="W-02", number=1)
        phone = self.member(**PHONE)
        self.visit(phone, "/homes/rack/")
        self.assertEqual(offences(phone, (PHONE, "dark")), [])
        phone.get_by_role("button", name="All took it").tap()
        tub = phone.locator(".tub", has_text="26-W02-1")
        tub.get_by_text("refused", exact=True).tap()
        other = phone.locator(".tub", has_text="26-W02-2")
        other.get_by_text("took it", exact=True).tap()  # taken back
        phone.get_by_label("Offered").fill("rat pup")
        phone.get_by_role("button", name="Save").tap()
        expect(phone.get_by_text("1 refused")).to_be_visible()
        kinds = egg.events.filter(value="rat pup").order_by("-pk").values_list("kind", flat=True)
        self.assertEqual(kinds[0], EggEvent.Kind.REFUSED)
        last = Egg.objects.get(clutch__code="W-02", number=2).events.filter(kind=EggEvent.Kind.MEAL).count()
        self.assertEqual(last, 1)

    def test_a_paper_goes_from_one_collection_to_another(self) -> None:
        found_collection("stranger", PASSWORD, "Far Bank")
        page = self.member(**DESK)
        self.visit(page, "/clutches/V-05/1/home/")
        self.assertEqual(offences(page, (PHONE, "dark"), (DESK, "light")), [])
        with page.expect_download() as download:
            page.get_by_role("button", name="As file").click()
        paper = Path(download.value.path())
        self.assertEqual(json.loads(paper.read_text())["animal"]["id"], "25-V05-1")
        guest = self.member("stranger", **DESK)
        self.visit(guest, "/papers/")
        guest.get_by_label("A paper’s file").set_input_files(
            {"name": "a.paper.json", "mimeType": "application/json", "buffer": paper.read_bytes()}
        )
        guest.get_by_role("button", name="Read it").click()
        expect(guest.get_by_text("Everything here is declared by Withy Bed")).to_be_visible()
        self.assertEqual(offences(guest, (PHONE, "light"), (DESK, "dark")), [])
        guest.get_by_label("Its name here").fill("Burnet")
        guest.get_by_role("button", name="Take the animal over").click()
        expect(guest.get_by_role("heading", name="Burnet")).to_be_visible()
        genes = Animal.objects.get(name="Burnet").genes
        self.assertEqual(set(genes.values_list("known", flat=True)), {"declared"})
