"""No signal, an expired login, a stopped database: the answer is kept on the device and sent later."""

from __future__ import annotations

from unittest.mock import patch

from django.contrib.sessions.models import Session
from django.db import OperationalError
from playwright.sync_api import expect

from eyot.bench.models import Look
from tests.journeys.browser import Journey, level_of


class NothingIsLost(Journey):
    def looks(self) -> list[str]:
        return list(Look.objects.filter(egg__clutch__code="W-04", egg__number=4).values_list("level", flat=True))

    def test_without_a_signal(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.context.set_offline(True)
        page.locator(level_of("lobe_attach", "floating")).click()
        expect(page.locator("#outbox")).to_contain_text("Kept on this device")
        self.assertEqual(self.looks(), [])
        with page.expect_event("load"):
            page.context.set_offline(False)
        expect(page.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        self.assertEqual(self.looks(), ["floating"])

    def test_with_an_expired_login(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        Session.objects.all().delete()
        page.locator(level_of("lobe_attach", "floating")).click()
        expect(page.locator("#outbox")).to_contain_text("Your login has run out")
        page.wait_for_url("**/login/**")
        self.log_in(page)
        expect(page.get_by_role("heading", name="Egg 4")).to_be_visible()
        expect(page.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        self.assertEqual(self.looks(), ["floating"])

    def test_with_the_database_away(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        with patch("eyot.bench.views.hatchling.clutch_of", side_effect=OperationalError("gone")):
            page.locator(level_of("lobe_attach", "floating")).click()
            expect(page.locator("#outbox")).to_contain_text("does not answer just now")
            self.visit(page, "/clutches/W-04/4/")
            expect(page.get_by_role("heading", name="One moment")).to_be_visible()
        self.visit(page, "/clutches/W-04/4/")
        expect(page.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        self.assertEqual(self.looks(), ["floating"])
