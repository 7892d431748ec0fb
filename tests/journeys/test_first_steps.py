"""From a server without any account to the first call of one's own hatched clutch; and a helper who is invited."""

from __future__ import annotations

from datetime import timedelta

from django.test import override_settings
from django.utils import timezone
from playwright.sync_api import Page, expect

from eyot.bench.models import Call
from eyot.collection.models import Collection, Membership
from eyot.season.models import Egg
from tests.chromium import DESK, PHONE
from tests.journeys.browser import Journey, offences

CODE = "abcd-efgh-jkmn-pqrs"
LIST = "• Rush: pastel het clown female - $350\nSedge: enchi 66% het clown male, 900 g\n"


@override_settings(CLAIM_CODE=CODE)
class FirstSteps(Journey):
    def demo(self) -> Collection:
        return Collection()  # nothing is there yet

    def setUp(self) -> None:
        super().setUp()
        self.actions = 0

    def fill(self, page: Page, label: str, words: str) -> None:
        self.actions += 1
        page.get_by_label(label).fill(words)

    def press(self, page: Page, words: str, role: str = "button") -> None:
        self.actions += 1
        page.get_by_role(role, name=words).first.click()  # type: ignore[arg-type]

    def test_to_the_first_call_of_a_hatched_clutch_by_paste(self) -> None:
        page = self.context().new_page()
        page.goto(self.live_server_url)
        self.fill(page, "The code that the start command printed", CODE)
        self.fill(page, "Name to log in with", "rushlight")
        self.fill(page, "Password", "marsh-mallow-tea")
        self.fill(page, "What your collection is called", "Own Reach")
        self.press(page, "Begin")
        page.wait_for_url("**/in/own-reach/")
        page.set_viewport_size(PHONE["viewport"])
        steps, today = page.locator(".first-steps").bounding_box(), page.locator(".today").bounding_box()
        assert steps and today
        self.assertLess(steps["y"], today["y"], "on a phone, what to begin with stands above an empty day")
        page.set_viewport_size(DESK["viewport"])
        self.press(page, "Paste a list", "link")
        self.fill(page, "One animal a line", LIST)
        self.press(page, "Show what it says")
        expect(page.get_by_label("Genes in row 1")).to_have_value("pastel het clown female")
        self.assertEqual(offences(page, (PHONE, "dark"), (DESK, "light")), [])
        self.press(page, "Enter all 2")
        expect(page.get_by_role("status").first).to_contain_text("2 animals entered")
        self.press(page, "Season", "link")
        self.press(page, "Enter it as it stands", "link")
        now = timezone.localdate()
        self.fill(page, "Dam", "Rush")
        self.fill(page, "Sire", "Sedge")
        self.fill(page, "Laid on", (now - timedelta(days=80)).isoformat())
        self.fill(page, "Sound eggs", "3")
        self.actions += 1
        page.locator("[name=standing]").select_option("shed")
        self.fill(page, "since", (now - timedelta(days=12)).isoformat())
        self.press(page, "Enter the clutch")
        self.actions += 1
        page.locator(f"a[href*='/clutches/{Collection.objects.get().clutches.get().code}/1/']").first.click()
        page.wait_for_url("**/1/")  # with its scripts: a button pressed before them does nothing
        self.actions += 1
        page.locator(".look [data-level]").first.click()
        self.actions += 1
        expect(page.locator(".mover").first).to_be_visible()
        page.locator("#call > summary").click()
        self.press(page, "Save this call")
        expect(page.locator(".last-call")).to_be_visible()
        self.assertEqual(Call.objects.get().made_by.get_username(), "rushlight")
        self.assertLess(self.actions, 25)


class Invited(Journey):
    def test_a_helper_joins_by_a_link_cuts_on_the_phone_and_is_refused_at_closing(self) -> None:
        owner = self.member("keeper")
        self.visit(owner, "/")
        owner.locator(".whose").click()
        owner.get_by_label("For", exact=True).fill("Night helper")
        owner.locator("form[action$='/invite/'] [name=role]").select_option("helper")
        owner.get_by_role("button", name="Make a link").click()
        link = owner.get_by_label("The link for Night helper").input_value()

        helper = self.context(**PHONE).new_page()
        helper.goto(link)
        helper.get_by_label("Name to log in with").fill("rushlight")
        helper.get_by_label("Password").fill("marsh-mallow-tea")
        helper.get_by_role("button", name="Join").click()
        helper.wait_for_url("**/in/withy-bed/")
        self.assertEqual(Membership.objects.get(user__username="rushlight").role, "helper")
        self.visit(helper, "/in/withy-bed/clutches/W-04/cutting/")
        helper.locator('[data-egg="6"]').get_by_role("button", name="Cut open").tap()
        expect(helper.locator("[data-kept]")).to_have_text("everything is sent")
        self.assertEqual(Egg.objects.get(clutch__code="W-04", number=6).state, "open")
        self.visit(helper, "/in/withy-bed/clutches/W-02/closing/")
        expect(helper.get_by_role("button", name="Close the clutch")).to_have_count(0)
        status = helper.evaluate(
            """async () => {
                const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
                const answer = await fetch("/in/withy-bed/clutches/W-02/record/close/", {method: "POST", headers: {"X-CSRFToken": token}});
                return [answer.status, await answer.text()];
            }"""
        )
        self.assertEqual(status[0], 403)
        self.assertIn("This takes a keeper", status[1])
