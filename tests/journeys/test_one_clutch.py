"""One clutch, end to end: from the login to a call that holds."""

from __future__ import annotations

import io
import re

from PIL import Image
from playwright.sync_api import Page, expect

from eyot.bench.models import Call, Look
from eyot.collection.models import Role
from eyot.photos.models import Photo
from tests.chromium import PHONE
from tests.journeys.browser import Journey, level_of


def settled(page: Page) -> None:
    """Waits until every answer has come back."""
    expect(page.locator("#judgement")).not_to_have_attribute("aria-busy", "true")


def answered(page: Page, look: str, level: str) -> None:
    """Chooses a level of a look and waits until the server has it."""
    page.locator(level_of(look, level)).click()
    expect(page.locator(level_of(look, level))).to_have_attribute("aria-pressed", "true")
    settled(page)


def thick(page: Page, name: str) -> str:
    """The figure behind a gene's line."""
    return page.locator(".gene-line", has_text=name).first.locator(".after").inner_text()


def a_picture() -> bytes:
    held = io.BytesIO()
    Image.new("RGB", (900, 600), (120, 90, 60)).save(held, "JPEG")
    return held.getvalue()


class OneClutch(Journey):
    with_worker = True

    def test_from_the_login_to_a_call_that_holds(self) -> None:
        page = self.context().new_page()
        page.goto(self.live_server_url)
        self.log_in(page)
        expect(page.get_by_role("heading", name="Season")).to_be_visible()
        page.get_by_role("list").get_by_role("link", name="W-04 Marram × Fathom").click()
        says = page.locator("[data-recessive=Piebald]")
        expect(says).to_contain_text("1 in 6")
        expect(says).to_contain_text("3 in 5")
        page.get_by_role("link", name="3 no idea yet").click()
        expect(page.get_by_role("heading", name="Egg 3")).to_be_visible()

        answered(page, "white_layout", "saddles")
        self.assertIn("99", thick(page, "Piebald"))
        answered(page, "lobe_shape", "broken")
        page.keyboard.press("n")
        expect(page.locator(".look.here")).to_have_class(re.compile("suggested"))
        answered(page, "white_share", "mid")
        self.assertEqual(Look.objects.filter(egg__clutch__code="W-04", egg__number=3).count(), 3)

        page.get_by_label("Add photos").set_input_files(
            {"name": "egg.jpg", "mimeType": "image/jpeg", "buffer": a_picture()}
        )
        expect(page.locator("#large-photo")).to_be_visible()
        self.assertEqual(Photo.objects.get().egg.number, 3)
        page.get_by_role("button", name="Zoom").click()
        expect(page.get_by_role("dialog", name="Photo, zoomed")).to_be_visible()
        page.keyboard.press("Escape")

        page.get_by_text("Make the call", exact=True).click()
        page.get_by_role("group", name="Leopard").get_by_label("likely").check()
        page.get_by_label("Why, in your words").fill("White saddles in the window.")
        page.get_by_role("button", name="Save this call").click()
        expect(page.locator(".last-call")).to_contain_text("Leopard")
        trail = page.locator(".trail li")
        expect(trail).to_have_count(4)
        expect(trail.first).to_contain_text("White saddles in the window.")
        expect(trail.first).to_contain_text("in the egg, keeper")
        self.assertIn("Piebald", Call.objects.get(egg__clutch__code="W-04").label)

        page.get_by_role("link", name="of W-04", exact=True).click()
        expect(page.locator(".parents")).to_contain_text("proven by egg 3")
        expect(says).to_contain_text("1 in 4")
        expect(says).to_contain_text("2 in 3")

    def test_the_place_is_kept_from_sibling_to_sibling(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-02/2/")
        page.keyboard.press("j")
        page.keyboard.press("j")
        here = page.locator(".look.here").get_attribute("data-look")
        page.evaluate("scrollTo(0, 150)")
        page.keyboard.press("]")
        expect(page.get_by_role("heading", name="Egg 3")).to_be_visible()
        expect(page.locator(f".look.here[data-look={here}]")).to_be_visible()
        self.assertEqual(page.evaluate("scrollY"), 150)
        page.keyboard.press("[")
        expect(page.get_by_role("heading", name="Egg 2")).to_be_visible()

    def test_a_level_is_chosen_by_its_number(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.keyboard.press("n")
        row = page.locator(".look.here")
        trait = row.get_attribute("data-look")
        page.keyboard.press("2")
        settled(page)
        expect(page.locator(f".look[data-look={trait}] .level").nth(1)).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("0")
        settled(page)
        expect(page.locator(level_of(trait or "", "unseen"))).to_have_attribute("aria-pressed", "true")

    def test_the_look_that_is_asked_beside_the_photo_is_answered_there(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        asked = page.locator("#next [data-ask]")
        trait = asked.first.get_attribute("data-ask") or ""
        level = asked.nth(1).get_attribute("data-answer") or ""
        asked.nth(1).click()
        settled(page)
        expect(page.locator(level_of(trait, level))).to_have_attribute("aria-pressed", "true")
        expect(page.locator(f"#next [data-ask={trait}]")).to_have_count(0)
        expect(page.locator("#next [data-ask]").first).to_be_visible()
        self.assertEqual(Look.objects.get(egg__clutch__code="W-04", egg__number=4).level, level)
        box = page.locator(".large").bounding_box()
        assert box
        self.assertGreater(box["width"], 560)

    def test_two_tabs_lose_nothing(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        other = page.context.new_page()
        self.visit(other, "/clutches/W-04/4/")
        answered(page, "lobe_attach", "floating")
        answered(other, "lobe_spots", "one")
        expect(other.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        page.reload()
        expect(page.locator(level_of("lobe_spots", "one"))).to_have_attribute("aria-pressed", "true")

    def test_answers_given_faster_than_they_come_back_all_stand(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        given = (("lobe_attach", "floating"), ("lobe_spots", "one"), ("lobe_shape", "broken"), ("head_stamp", "wiped"))
        places = [level_of(*one) for one in given]
        page.evaluate("places => places.forEach(place => document.querySelector(place).click())", places)
        settled(page)
        for name in given:
            expect(page.locator(level_of(*name))).to_have_attribute("aria-pressed", "true")
        self.assertEqual(Look.objects.filter(egg__clutch__code="W-04", egg__number=4).count(), 4)

    def test_an_answer_can_be_taken_back(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        before = thick(page, "Mojave")
        answered(page, "lobe_attach", "floating")
        self.assertNotEqual(thick(page, "Mojave"), before)
        page.get_by_role("button", name="take back").first.click()
        expect(page.locator(".trail")).to_contain_text("taken back")
        self.assertEqual(thick(page, "Mojave"), before)

    def test_a_reader_sees_the_answers_and_can_press_none(self) -> None:
        self.collection.memberships.filter(user__username="helper").update(role=Role.READER)
        before = Look.objects.count()
        page = self.member("helper")
        self.visit(page, "/clutches/W-04/4/")
        for button in (page.locator(level_of("lobe_attach", "floating")), page.locator("[data-ask]").first):
            expect(button).to_be_disabled()
            button.click(force=True)
        expect(page.locator("body")).to_have_attribute("data-unsent", "0")
        settled(page)
        self.assertEqual(Look.objects.count(), before)

    def test_keys_are_told_on_a_sheet(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name="Keys")).to_be_visible()


class OnThePhone(Journey):
    def test_a_look_and_a_call_by_touch(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/")
        page.get_by_role("link", name="W-04 Marram × Fathom").tap()
        page.get_by_role("link", name="On the bench").tap()
        expect(page.get_by_role("heading", name="Egg 1")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.get_by_role("button", name="All looks").tap()
        button = page.locator(level_of("lobe_attach", "floating"))
        size = button.bounding_box()
        assert size is not None
        self.assertGreaterEqual(min(size["width"], size["height"]), 56)
        button.tap()
        settled(page)
        expect(button).to_have_attribute("aria-pressed", "true")
        expect(page.locator(".standing")).to_be_visible()
        expect(page.locator("#call")).to_be_hidden()
        page.get_by_role("button", name="Call", exact=True).tap()
        expect(button).to_be_hidden()
        page.get_by_role("button", name="Save this call").tap()
        expect(page.locator(".last-call")).to_be_visible()
        self.assertEqual(Call.objects.filter(egg__clutch__code="W-04", egg__number=1).count(), 1)
