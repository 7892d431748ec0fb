"""No signal, an expired login, a stopped database: the answer is kept on the device and sent later."""

from __future__ import annotations

from typing import Any
from unittest.mock import patch
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.db import OperationalError
from django.utils import timezone
from playwright.sync_api import expect

from eyot.bench.actions import Answer, record_look
from eyot.bench.models import Call, Look
from eyot.photos.models import Photo
from eyot.season.models import Egg
from tests.journeys.browser import Journey, level_of
from tests.web.test_photos import encoded

ARRIVED = """
    document.body.addEventListener("htmx:beforeSend", ({ detail: { target, xhr } }) => {
        if (target.id === "judgement") xhr.addEventListener("loadend", () => { document.body.dataset.arrived = ""; });
    });
    document.dispatchEvent(new CustomEvent("eyot:changed"));
"""
"""The bench is asked for anew; says when the answer has come."""


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

    def test_photos_of_the_bench_wait_for_the_signal_too(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.context.set_offline(True)
        pictures: Any = [{"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": encoded()} for name in "ab"]
        page.locator("#photos").set_input_files(pictures)
        expect(page.locator("label[for=photos]")).to_have_text("2 kept on this device")
        self.assertFalse(Photo.objects.exists())
        page.context.set_offline(False)
        self.wait_until_sent(page)
        self.assertEqual([(photo.egg.number, photo.stage) for photo in Photo.objects.all()], [(4, "egg")] * 2)
        expect(page.locator(".stages .stage")).to_have_count(2)

    def test_a_press_during_which_the_page_would_be_drawn_anew(self) -> None:
        """What comes just then, here another's look, waits until the button is let go."""
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        page.get_by_text("Make the call", exact=True).click()
        page.get_by_role("group", name="Leopard").get_by_label("likely").check()
        page.get_by_role("button", name="Save this call").hover()
        egg = Egg.objects.get(clutch__code="W-04", number=4)
        helper = get_user_model().objects.get(username="helper")
        record_look(egg, helper, Answer("head_stamp", "busy", "egg", "sure", uuid4()), timezone.now())
        page.mouse.down()
        page.evaluate(ARRIVED)
        expect(page.locator("body[data-arrived]")).to_be_visible()
        page.mouse.up()
        expect(page.locator(".last-call")).to_contain_text("Leopard")
        expect(page.locator('[data-look="head_stamp"]')).to_contain_text("helper: busy")
        self.assertEqual(Call.objects.filter(egg=egg).count(), 1)

    def test_two_windows_send_each_entry_once(self) -> None:
        first = self.member()
        self.visit(first, "/clutches/W-04/4/")
        second = first.context.new_page()
        self.visit(second, "/clutches/W-04/5/")
        sent: list[str] = []
        first.context.on("request", lambda request: sent.append(request.url) if request.method == "POST" else None)
        first.context.set_offline(True)
        first.locator(level_of("lobe_attach", "floating")).click()
        expect(first.locator("#outbox")).to_contain_text("Kept on this device")
        sent.clear()
        first.context.set_offline(False)
        self.wait_until_sent(first)
        self.wait_until_sent(second)
        self.assertEqual(self.looks(), ["floating"])
        self.assertEqual(len([url for url in sent if "/4/looks/" in url]), 1)

    def test_who_logs_out_hears_what_waits_and_another_login_sends_none_of_it(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        with patch("eyot.bench.views.hatchling.clutch_of_any", side_effect=OperationalError("gone")):
            page.locator(level_of("lobe_attach", "floating")).click()
            expect(page.locator("#outbox")).to_contain_text("does not answer just now")
            leave = page.locator("form.leave button")
            leave.click()
            expect(page.locator("#outbox")).to_contain_text("1 entry waits on this device")
            leave.click()
            page.wait_for_url("**/login/**")
        self.log_in(page, "helper")
        expect(page.locator("body")).to_have_attribute("data-unsent", "0")
        self.assertEqual(self.looks(), [])
        page.locator("form.leave button").click()
        page.wait_for_url("**/login/**")
        self.log_in(page)
        self.wait_until_sent(page)
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

    def test_a_form_that_is_sent_when_the_login_has_ended(self) -> None:
        page = self.member()
        self.visit(page, "/animals/new/")
        page.get_by_label("Name", exact=True).fill("Rush Mat")
        page.get_by_label("Notes").fill("Bought in spring, eats well.")
        Session.objects.all().delete()
        page.get_by_role("button", name="Enter", exact=True).click()
        expect(page.get_by_text("Your login had ended before that was sent.")).to_be_visible()
        self.log_in(page)
        expect(page.get_by_text("stands in its form again, and is not saved yet")).to_be_visible()
        expect(page.get_by_label("Notes")).to_have_value("Bought in spring, eats well.")
        page.get_by_role("button", name="Enter", exact=True).click()
        expect(page.get_by_role("heading", name="Rush Mat")).to_be_visible()

    def test_with_the_database_away(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/4/")
        with patch("eyot.bench.views.hatchling.clutch_of_any", side_effect=OperationalError("gone")):
            page.locator(level_of("lobe_attach", "floating")).click()
            expect(page.locator("#outbox")).to_contain_text("does not answer just now")
            self.visit(page, "/clutches/W-04/4/")
            expect(page.get_by_role("heading", name="One moment")).to_be_visible()
        self.visit(page, "/clutches/W-04/4/")
        expect(page.locator(level_of("lobe_attach", "floating"))).to_have_attribute("aria-pressed", "true")
        self.assertEqual(self.looks(), ["floating"])
