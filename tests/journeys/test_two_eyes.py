"""Two people, blind: each guesses without the other, then both see both."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.chromium import PHONE
from tests.journeys.browser import Journey, level_of


class TwoEyes(Journey):
    def look_blind(self, page: Page, level: str, guess: str, *, is_phone: bool = False) -> None:
        self.visit(page, "/clutches/W-04/4/")
        if is_phone:
            page.get_by_role("button", name="Trail").tap()
        page.get_by_role("button", name="Look blind first from now on").click()
        expect(page.get_by_role("heading", name="First guess")).to_be_visible()
        expect(page.locator("#candidates")).not_to_contain_text("parents")
        if is_phone:
            page.get_by_role("button", name="All looks").tap()
        page.locator(level_of("lobe_attach", level)).click()
        expect(page.locator(level_of("lobe_attach", level))).to_have_attribute("aria-pressed", "true")
        expect(page.locator("body")).not_to_contain_text("after looking")
        page.get_by_label("I hold it to be").fill(guess)
        page.get_by_role("button", name="Save the guess, and show").click()
        if is_phone:
            page.get_by_role("button", name="Genes").tap()
        expect(page.get_by_role("heading", name="Genes")).to_be_visible()

    def test_each_guesses_alone_then_both_lie_side_by_side(self) -> None:
        keeper, helper = self.member(), self.member("helper", **PHONE)
        self.look_blind(keeper, "floating", "mojave leopard")
        self.look_blind(helper, "attached", "mojave", is_phone=True)
        keeper.reload()
        keeper.get_by_role("link", name="who saw what").click()
        expect(keeper.locator("main")).to_contain_text("0 of 1")
        expect(keeper.locator("main")).to_contain_text("Leopard: guessed by keeper, not by helper.")
