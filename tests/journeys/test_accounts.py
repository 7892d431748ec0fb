"""The second factor as a keeper sets it up and meets it at the next login: an authenticator app, and a passkey."""

from __future__ import annotations

from django.core.cache import cache
from playwright.sync_api import Page, expect

from tests.chromium import DESK, PHONE
from tests.demo_rows import PASSWORD
from tests.journeys.browser import Journey, offences
from tests.web.test_accounts import code_for

AUTHENTICATOR = {
    "protocol": "ctap2",
    "transport": "internal",
    "hasResidentKey": True,
    "hasUserVerification": True,
    "isUserVerified": True,
    "automaticPresenceSimulation": True,
}
"""A device's own authenticator, simulated by the browser."""


class SecondFactor(Journey):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()

    def opened(self, page: Page) -> None:
        """The page of the account, by somebody who proves once more that it is he."""
        self.visit(page, "/login/")
        self.log_in(page)
        self.visit(page, "/account/")

    def again(self, page: Page) -> None:
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Go on").click()

    def test_by_an_app_on_the_phone_and_a_recovery_code_when_it_is_lost(self) -> None:
        page = self.context(**PHONE).new_page()
        self.opened(page)
        self.assertEqual(offences(page, (PHONE, "dark"), (DESK, "light")), [])
        page.get_by_role("link", name="Add it").tap()
        self.again(page)
        self.assertEqual(offences(page, (PHONE, "light")), [])
        secret = page.locator("code.print").inner_text()
        page.get_by_label("Code", exact=True).fill(code_for(secret))
        page.get_by_role("button", name="Add it").tap()
        expect(page.locator(".codes code")).to_have_count(10)
        codes = page.locator(".codes code").all_inner_texts()

        lost = self.context().new_page()
        self.visit(lost, "/login/?next=/in/withy-bed/animals/")
        lost.get_by_label("Name").fill("keeper")
        lost.get_by_label("Password").fill(PASSWORD)
        lost.get_by_role("button", name="Log in").click()
        expect(lost.get_by_role("heading", name="And the second factor")).to_be_visible()
        lost.get_by_label("Code", exact=True).fill(codes[3])
        lost.get_by_role("button", name="Log in").click()
        lost.wait_for_url("**/in/withy-bed/animals/")

    def test_by_a_passkey(self) -> None:
        context = self.context()
        page = context.new_page()
        browser = context.new_cdp_session(page)
        browser.send("WebAuthn.enable")
        browser.send("WebAuthn.addVirtualAuthenticator", {"options": AUTHENTICATOR})
        self.opened(page)
        page.get_by_role("link", name="Add one").click()
        self.again(page)
        page.get_by_label("What it is called").fill("the desk in the snake room")
        page.get_by_role("button", name="Add it").click()
        expect(page.get_by_role("heading", name="Recovery codes")).to_be_visible()
        page.get_by_role("link", name="Back to your account").click()
        expect(page.get_by_text("the desk in the snake room")).to_be_visible()
        page.get_by_role("button", name="log out", exact=True).click()
        self.visit(page, "/login/")
        page.get_by_label("Name").fill("keeper")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Log in").click()
        page.get_by_role("button", name="By a passkey instead").click()
        page.wait_for_url("**/in/withy-bed/")
