"""A possible het in the browser: its marks, its breeding, its test; a visual hatches, and parents and siblings change."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.chromium import PHONE
from tests.journeys.browser import Journey


class PossibleHet(Journey):
    def after(self, page: Page) -> str:
        return page.locator(".steps dd b").last.inner_text()

    def test_from_a_mark_to_a_visual_that_proves_both_parents(self) -> None:
        page = self.member()
        self.visit(page, "/")
        page.get_by_role("link", name="Hets", exact=True).click()
        page.locator("[name=gene]").select_option("piebald")
        page.locator("tr", has_text="Marram").get_by_role("link").click()
        expect(page.get_by_role("heading", name="Marram")).to_contain_text("het Piebald?")
        self.assertIn("67", self.after(page))
        ringer = page.get_by_role("group", name="Ringer: partial")
        ringer.get_by_label("seen 1.8 times").check()
        page.get_by_role("button", name="Save the marks").click()
        expect(ringer.get_by_label("seen 1.8 times")).to_be_checked()
        self.assertIn("78", self.after(page))
        expect(page.locator(".steps dd b").first).to_contain_text("67")

        form = page.locator("form", has=page.locator("[name=visuals]"))
        form.locator("[name=hatchlings]").fill("4")
        form.locator("[name=visuals]").fill("0")
        form.get_by_role("button").click()
        expect(page.get_by_text("With a visual").first).to_contain_text("0 of 4 showed it")
        self.assertIn("18", self.after(page))

        self.call_a_visual(page)
        page.get_by_role("link", name="Hets", exact=True).click()
        page.locator("tr", has_text="Marram").get_by_role("link").click()
        expect(page.get_by_role("heading", name="Marram")).to_contain_text("het Piebald, certain")
        expect(page.locator(".told-list").first).to_contain_text(
            "Egg 3 of W-04 shows Piebald: it comes from both parents"
        )
        self.visit(page, "/clutches/W-04/")
        expect(page.locator("[data-recessive=Piebald]")).to_contain_text("2 in 3")

    def call_a_visual(self, page: Page) -> None:
        """Egg 3 shows white saddles and is called."""
        self.visit(page, "/clutches/W-04/3/proof/")
        page.get_by_label("Piebald").select_option("2")
        page.get_by_role("button", name="Save", exact=True).click()
        self.visit(page, "/clutches/W-04/3/")
        page.locator('.look[data-look="white_layout"] [data-level="saddles"]').click()
        expect(page.locator("#judgement")).not_to_have_attribute("aria-busy", "true")

    def test_a_test_is_ordered_and_reported_on_the_phone(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/hets/?gene=piebald")
        page.locator("tr", has_text="Marram").get_by_role("link").tap()
        page.get_by_role("link", name="Order the test (simulated)").tap()
        expect(page.get_by_label("Animal")).to_have_value("Marram")
        expect(page.get_by_label("Piebald")).to_be_checked()
        page.get_by_role("button", name="Order").tap()
        page.get_by_role("button", name="The shed is in").tap()
        page.get_by_role("button", name="Let the days pass (simulated)").tap()
        expect(page.locator(".told-list")).to_contain_text("Piebald: c")
        for path in ("/hets/", "/laboratory/", "/proving/", "/explain/", "/hets/marks/piebald/", "/scores/tuning/"):
            self.visit(page, path)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390, path)

    def test_the_square_follows_what_is_chosen(self) -> None:
        page = self.member()
        self.visit(page, "/explain/?dam=Marram&sire=Fathom&gene=piebald")
        expect(page.locator(".square-columns")).to_contain_text("2 in 3 carry it")
        page.locator("[name=dam_state]").select_option("visual")
        expect(page.locator(".square-columns")).to_contain_text("All others carry it: 100 % het.")

    def test_a_trait_on_the_desk(self) -> None:
        page = self.member()
        self.visit(page, "/proving/")
        page.get_by_role("link", name="Tidemark").click()
        expect(page.locator(".pedigree")).to_contain_text("Ramson")
        before = page.locator(".ways").inner_text()
        page.locator("[name=who]").fill("Marram")
        page.locator("[name=shows]").select_option("yes")
        page.get_by_role("button", name="Add").click()
        expect(page.locator(".pedigree")).to_contain_text("Marram")
        self.assertNotEqual(page.locator(".ways").inner_text(), before)
