"""Said aloud, heard, pressed: with keys only."""

from __future__ import annotations

from playwright.sync_api import expect

from eyot.bench.models import Look, SiblingComparison
from tests.journeys.browser import Journey, level_of


class Dictation(Journey):
    def test_what_was_said_counts_once_it_is_pressed(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.keyboard.press("d")
        page.keyboard.type("floating lobes")
        expect(page.locator("#heard")).to_contain_text("floating")
        self.assertFalse(Look.objects.filter(egg__clutch__code="W-04", egg__number=4).exists())
        page.keyboard.press("Tab")
        with page.expect_response(lambda answer: answer.url.endswith("/looks/")):
            page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        expect(page.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        looks = Look.objects.filter(egg__clutch__code="W-04", egg__number=4)
        self.assertEqual([(look.trait, look.level) for look in looks], [("lobe_attach", "floating")])

    def test_six_looks_in_one_breath(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.keyboard.press("d")
        expect(page.locator("#spoken")).to_be_focused()
        page.locator("#spoken").fill(
            "lobes float and are orange, really pale head, no flames, ringer, brighter than egg 2, wibble"
        )
        heard = page.locator("#heard")
        expect(heard).to_contain_text("Not understood: “wibble”")
        expect(heard).to_contain_text("“ringer” may mean")
        expect(heard.locator("[data-accept]")).to_have_count(6)
        with page.expect_response(lambda answer: answer.url.endswith("/looks/")):
            heard.locator("[data-trait=flank_flames][data-level=none]").click()
        expect(page.locator(level_of("flank_flames", "none"))).to_have_attribute("aria-pressed", "true")
        heard.locator("[data-beside]").click()
        expect(page.locator(".beside-form")).to_contain_text("counts: ")
        looks = Look.objects.filter(egg__clutch__code="W-04", egg__number=4)
        self.assertEqual([(look.trait, look.level) for look in looks], [("flank_flames", "none")])
        laid = SiblingComparison.objects.get(egg__clutch__code="W-04", egg__number=4)
        self.assertEqual((laid.trait, laid.answer, laid.other.number), ("lightness", "more", 2))

    def test_from_one_open_hatchling_to_the_next_and_to_the_why(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-02/2/")
        page.keyboard.press("w")
        expect(page.get_by_role("heading", name="Why")).to_be_visible()
        choice = page.locator("select[name='head_stamp.shed']")
        choice.select_option("off")
        expect(page.locator(".what-if").first).to_be_visible()
        page.get_by_role("link", name="Back to the bench").click()
        expect(page.get_by_role("heading", name="Egg 2")).to_be_visible()
        page.keyboard.press("o")
        page.wait_for_url(lambda url: "/W-02/2/" not in url)
        expect(page.locator(".bench-head h1")).to_contain_text("of W-0")
