"""Practice by keys, by touch, and as a race on two pages."""

from __future__ import annotations

from playwright.sync_api import expect

from eyot.practice.models import Exercise
from tests.chromium import DESK, PHONE
from tests.journeys.browser import Journey, offences


class Practised(Journey):
    def test_an_animal_is_named_by_keys(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/practice/")
        self.assertEqual(offences(page, (PHONE, "dark")), [])
        page.locator("[name=picture]").first.select_option("strip")
        page.get_by_role("button", name="Show me one").first.click()
        first = page.locator("[data-gene]").first
        expect(page.locator(".practice")).to_have_attribute("data-hears", "keys")
        for word in ("hint", "likely", "sure", "no", "hint"):
            page.keyboard.press("1")
            expect(first.locator(f"input[value={word}]")).to_be_checked()
        self.assertEqual(offences(page, (DESK, "dark")), [])
        page.keyboard.press("Enter")
        expect(page.get_by_role("columnheader", name="Could be known")).to_be_visible()
        expect(page.locator(".practice")).to_have_attribute("data-hears", "keys")
        self.assertEqual(offences(page, (PHONE, "light")), [])
        address = page.url
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="That is it")).to_be_visible()
        self.assertNotEqual(page.url, address)
        self.visit(page, "/practice/")
        page.get_by_role("link", name="Go on where you left").click()
        expect(page.get_by_role("button", name="That is it")).to_be_visible()
        self.visit(page, "/practice/eye/")
        self.assertEqual(offences(page, (DESK, "light")), [])

    def test_a_look_is_read_by_touch_and_a_pair_by_a_key(self) -> None:
        phone = self.member(**PHONE)
        self.visit(phone, "/practice/")
        phone.get_by_role("button", name="On drawings").tap()
        phone.locator("[data-key='1']").tap()
        expect(phone.locator(".verdict")).to_contain_text("It is")
        self.assertEqual(offences(phone, (PHONE, "dark")), [])
        phone.get_by_role("button", name="The next", exact=True).tap()
        expect(phone.locator("[data-key='1']")).to_be_visible()
        desk = self.member(**DESK)
        self.visit(desk, "/practice/")
        desk.get_by_role("button", name="The next pair").click()
        expect(desk.get_by_role("heading", name="Which of the two is it?")).to_be_visible()
        expect(desk.locator(".practice")).to_have_attribute("data-hears", "keys")
        desk.keyboard.press("2")
        expect(desk.locator(".verdict")).to_contain_text("It is")

    def test_a_race_on_two_pages(self) -> None:
        mine, theirs = self.member("keeper", **DESK), self.member("helper", **PHONE)
        self.visit(mine, "/practice/")
        mine.get_by_label("First player").fill("keeper")
        mine.get_by_label("Second player").fill("helper")
        mine.get_by_role("button", name="Begin", exact=True).click()
        race = mine.url
        mine.get_by_role("link", name="keeper, name egg 1").click()
        mine.get_by_role("button", name="That is it").click()
        expect(mine.get_by_text("helper has not named it yet")).to_be_visible()
        theirs.goto(race)
        theirs.get_by_role("link", name="helper, name egg 1").tap()
        theirs.get_by_role("button", name="That is it").tap()
        expect(theirs.get_by_role("button", name="The next egg")).to_be_visible()
        expect(mine.get_by_role("button", name="The next egg")).to_be_visible(timeout=10_000)
        self.assertEqual(Exercise.objects.filter(race__isnull=False, said__isnull=False).count(), 2)
