"""The reference as it is used: a doubt on the bench, looked up, compared, pinned, and an own gene added."""

from __future__ import annotations

import re
from typing import Any

from django.contrib.auth import get_user_model
from django.utils import timezone
from PIL import Image
from playwright.sync_api import expect

from eyot_core.photo.picture import Picture

from eyot.photos.actions import keep_picture
from eyot.season.queries import clutch_of, egg_of
from tests.chromium import DESK, PHONE
from tests.journeys.browser import Journey

FIRST_PICTURES = 8
"""Of the drawings of a page so many are waited for: the others are drawn in the same way."""


class LookingUp(Journey):
    with_drawings = True
    with_worker = True

    def add_a_photo(self) -> None:
        """One plain picture of egg 2 of W-02, as if taken in the egg."""
        keeper: Any = get_user_model().objects.get(username="keeper")
        picture = Picture(Image.new("RGB", (320, 240), (150, 118, 70)), None)
        keep_picture(egg_of(clutch_of(self.collection, "W-02"), 2), keeper, picture, "egg", timezone.now())

    def test_from_the_bench_to_the_look_alike_and_back_with_a_pinned_photo(self) -> None:
        self.add_a_photo()
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/2/")
        page.get_by_role("link", name="What parts the first two").click()
        expect(page.get_by_role("heading", name="What separates them")).to_be_visible()
        page.go_back()
        page.locator(".candidate .name").first.click()
        expect(page.get_by_role("heading", name="Ladder")).to_be_visible()
        for picture in page.locator("main img").all()[:FIRST_PICTURES]:
            picture.scroll_into_view_if_needed()
            expect(picture).to_have_js_property("complete", True)
            self.assertGreater(picture.evaluate("image => image.naturalWidth"), 0)
        page.get_by_label("Genes, a combination or a name").fill("fire and vanila")
        page.get_by_role("button", name="Look it up").click()
        page.get_by_role("link", name="Fire and vanilla", exact=True).first.click()
        expect(page.get_by_role("heading", name="What separates them")).to_be_visible()
        expect(page.locator(".look-table tbody tr").first).to_contain_text("Lighter or darker")
        page.get_by_role("link", name="in the blue").click()
        expect(page.get_by_text("Wait: all looks in the blue")).to_be_visible()
        self.visit(page, "/clutches/W-02/2/")
        expect(page.locator("#large-photo")).to_be_visible()
        page.get_by_role("button", name="mark grey card").click()
        page.locator("#large-photo").click(position={"x": 200, "y": 150})
        expect(page.get_by_text("light corrected by grey card")).to_be_visible()
        expect(page.locator(".photos progress")).to_have_count(0)
        page.get_by_role("button", name="as taken").click()
        expect(page.locator(".photos progress")).to_have_count(0)
        page.get_by_role("button", name="mark grey card").click()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(page.get_by_text("light corrected by grey card")).to_be_visible()
        page.locator(".stage").first.click()
        expect(page.locator(".stage").first).to_have_attribute("aria-current", "true")
        page.get_by_role("link", name="Pin as reference").click()
        page.get_by_label("What it is, as on a label").fill("fire vanilla")
        page.get_by_label("How that is confirmed").select_option("tested")
        page.get_by_role("button", name="Pin it").click()
        expect(page).to_have_url(re.compile("combinations/fire.vanilla"))
        expect(page.get_by_text("W-02, egg 2")).to_be_visible()
        expect(page.get_by_text("in the egg, confirmed by a DNA test")).to_be_visible()
        expect(page.locator(".pins")).to_contain_text("grey card")

    def test_an_own_gene_with_a_look_from_the_list(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/reference/opinions/")
        page.get_by_label("Name", exact=True).fill("Silt")
        page.get_by_label("Look 1", exact=True).fill("shiny")
        page.get_by_role("button", name="Add the gene").click()
        expect(page.get_by_role("alert")).to_contain_text("“shiny” is no look")
        expect(page.get_by_label("Name", exact=True)).to_have_value("Silt")
        page.get_by_label("Look 1", exact=True).fill("Contrast: low")
        page.get_by_role("button", name="Add the gene").click()
        expect(page.get_by_text("Own gene Silt: incomplete dominant, 1 look")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
