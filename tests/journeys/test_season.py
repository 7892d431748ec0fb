"""The season in the browser: from the pairing to the shed; seven eggs cut on the phone while the signal drops; two people at one box."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import cv2
from django.contrib.auth import get_user_model
from django.utils import timezone
from PIL import Image
from playwright.sync_api import FilePayload, Page, expect

from eyot.bench.actions import Answer, record_look
from eyot.bench.models import Look
from eyot.photos.models import Photo
from eyot.season.egg_actions import set_state
from eyot.season.models import Clutch, Egg, EggEvent
from tests.chromium import PHONE
from tests.core.photographs import small_photo
from tests.journeys.browser import Journey
from tests.web.test_photos import encoded


def picture_of(pixels: Any) -> FilePayload:
    """A photo as the camera of a phone hands it over."""
    return {"name": "egg.jpg", "mimeType": "image/jpeg", "buffer": encoded(image=Image.fromarray(pixels), quality=92)}


class FromPairingToShed(Journey):
    def test_on_the_desktop(self) -> None:
        page = self.member()
        self.plan(page)
        self.meet_and_lay(page)
        self.hatch(page)
        clutch = Clutch.objects.get(code="W-08")
        egg = clutch.eggs.get(number=1)
        self.assertEqual((egg.state, egg.stage, egg.sex, egg.sexed_by), ("out", "shed", "male", "popped"))
        self.assertEqual(egg.weighings.get().source, "scale")
        self.assertEqual(egg.kept_as, None)

    def plan(self, page: Page) -> None:
        self.visit(page, "/")
        page.get_by_role("link", name="Pairings").click()
        page.get_by_label("Dam", exact=True).fill("Fescue")
        page.get_by_label("Sire", exact=True).fill("Fathom")
        page.get_by_label("Wanted").fill("pied mojave leopard")
        page.get_by_label("Wanted").press("Tab")
        expect(page.locator("#planned")).to_contain_text("1 in 16")
        expect(page.locator("#planned")).to_contain_text("36 hatchlings")
        slider = page.get_by_role("slider", name="Eggs")
        slider.focus()
        slider.press("ArrowRight")
        expect(page.locator("#planned")).to_contain_text("one or more of 7")
        page.locator("[name=paired_on]").fill((timezone.localdate() - timedelta(days=80)).isoformat())
        page.get_by_role("button", name="Put into the season").click()
        expect(page.get_by_role("heading", name="Record of W-08")).to_be_visible()

    def meet_and_lay(self, page: Page) -> None:
        day = (timezone.localdate() - timedelta(days=75)).isoformat()
        introducing = page.locator("form", has=page.get_by_role("button", name="Introduced"))
        introducing.locator("[name=on]").fill(day)
        introducing.get_by_role("button").click()
        page.get_by_label("locked on").fill(day)
        page.get_by_role("button", name="seen locked").click()
        laying = page.locator("form", has=page.get_by_role("button", name="The eggs are there"))
        laying.locator("[name=on]").fill((timezone.localdate() - timedelta(days=60)).isoformat())
        laying.get_by_label("eggs").fill("5")
        laying.get_by_role("button").click()
        expect(page.get_by_role("heading", name="Ready signs")).to_be_visible()
        sign = page.get_by_role("button", name="veins on the shell have receded", exact=True)
        sign.click()
        expect(sign).to_have_attribute("aria-pressed", "true")

    def hatch(self, page: Page) -> None:
        self.visit(page, "/clutches/W-08/1/record/")
        page.get_by_label("Stands as").select_option("out")
        page.get_by_label("since").fill((timezone.localdate() - timedelta(days=12)).isoformat())
        page.get_by_role("button", name="Save", exact=True).first.click()
        page.get_by_label("first shed on").fill(timezone.localdate().isoformat())
        page.locator("form", has=page.get_by_label("first shed on")).get_by_role("button").click()
        page.get_by_label("Sex", exact=True).select_option("male")
        page.get_by_label("How it was determined").select_option("popped")
        page.locator("form", has=page.get_by_label("How it was determined")).get_by_role("button").click()
        scale = page.get_by_role("button", name="Weight from the scale")
        page.set_viewport_size({"width": 1280, "height": 280})
        scale.evaluate("button => button.scrollIntoView({block: 'center'})")
        before = scale.bounding_box()
        scale.click()
        expect(page.get_by_role("heading", name="Weight")).to_contain_text("by the simulated scale")
        expect(scale).to_be_focused()
        after = scale.bounding_box()
        assert before and after
        self.assertAlmostEqual(after["y"], before["y"], delta=2)  # the page came back where it was
        page.get_by_role("link", name="Changes").click()
        page.get_by_role("button", name="Take back: W-08, egg 1: male, popped").click()
        expect(page.locator(".withdrawn").first).to_contain_text("male, popped")
        self.assertEqual(Egg.objects.get(clutch__code="W-08", number=1).sex, "")
        page.get_by_role("button", name="Take back: Taken back: W-08, egg 1: male, popped").click()
        expect(page.locator(".changes li").first).to_contain_text("Taken back: Taken back")


class Cutting(Journey):
    def setUp(self) -> None:
        super().setUp()
        eggs = Egg.objects.filter(clutch__code="W-04")
        eggs.update(state="shut", first_guess="", note="")
        Look.objects.filter(egg__in=eggs).delete()
        EggEvent.objects.filter(egg__in=eggs).delete()

    def cut(self, page: Page, number: int, *, photo: bool = False) -> None:
        egg = page.locator(f'[data-egg="{number}"]')
        expect(egg).to_be_visible()
        egg.get_by_role("button", name="Cut open").tap()
        if photo:
            egg.locator("[data-camera]").set_input_files(picture_of(small_photo(3).pixels))
            expect(egg.locator("[data-photos]")).to_have_text("1")
        egg.locator('[data-trait="head_stamp"] [data-level="busy"]').tap()
        egg.get_by_role("button", name="Mojave").tap()
        egg.get_by_role("button", name="Leopard").tap()
        egg.get_by_role("button", name="Leopard").tap()
        if number < 7:
            egg.get_by_role("button", name="Next egg").tap()

    def test_seven_eggs_by_touch_while_the_signal_drops(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-04/cutting/")
        for number in (1, 2):
            self.cut(page, number, photo=number == 2)
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        page.context.set_offline(True)
        for number in (3, 4, 5):
            self.cut(page, number, photo=number == 4)
        expect(page.locator("[data-kept]")).to_contain_text("kept on this phone")
        self.assertEqual(set(self.states()), {(1, "open"), (2, "open"), *((number, "shut") for number in range(3, 8))})
        page.context.set_offline(False)
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        for number in (6, 7):
            self.cut(page, number)
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        page.get_by_role("link", name="All eggs").tap()
        expect(page.get_by_role("heading", name="All eggs of W-04")).to_be_visible()
        expect(page.locator("tr", has=page.get_by_role("link", name="7", exact=True))).to_contain_text(
            "Mojave Leopard?"
        )
        self.everything_is_there_once()

    def states(self) -> list[tuple[int, str]]:
        return list(Egg.objects.filter(clutch__code="W-04").values_list("number", "state"))

    def everything_is_there_once(self) -> None:
        for egg in Egg.objects.filter(clutch__code="W-04"):
            with self.subTest(egg=egg.number):
                self.assertEqual((egg.state, egg.first_guess), ("open", "Mojave Leopard?"))
                self.assertEqual(egg.events.filter(value="open").count(), 1)
                self.assertEqual([look.level for look in egg.looks.all()], ["busy"])
                self.assertEqual(egg.photos.count(), 1 if egg.number in (2, 4) else 0)

    def test_slips_of_the_finger_are_put_right_on_the_page(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-04/cutting/")
        egg = page.locator('[data-egg="1"]')
        egg.get_by_role("button", name="Slug").tap()
        egg.get_by_role("button", name="Cut open").tap()
        egg.locator('[data-trait="head_stamp"] [data-level="busy"]').tap()
        self.wait_until_sent(page)
        stored = Egg.objects.get(clutch__code="W-04", number=1)
        self.assertEqual((stored.state, stored.looks.count()), ("open", 1))
        egg.get_by_role("button", name="Not cut after all").tap()
        self.wait_until_sent(page)
        expect(egg.get_by_role("button", name="Cut open")).to_be_visible()
        self.assertEqual(Egg.objects.get(pk=stored.pk).state, "shut")

    def test_what_was_kept_outlives_the_page(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-04/cutting/")
        page.context.set_offline(True)
        self.cut(page, 1, photo=True)
        expect(page.locator("[data-kept]")).to_contain_text("kept on this phone")
        page.context.set_offline(False)
        self.visit(page, "/animals/")
        self.wait_until_sent(page)
        egg = Egg.objects.get(clutch__code="W-04", number=1)
        self.assertEqual((egg.state, egg.looks.count(), egg.photos.count()), ("open", 1, 1))


class TwoPeople(Journey):
    def test_each_sees_what_the_other_does_within_seconds(self) -> None:
        keeper, helper = self.member(), self.member("helper")
        self.visit(keeper, "/clutches/W-04/")
        self.visit(helper, "/clutches/W-04/record/")
        expect(keeper.locator(".box-drawing")).to_contain_text("shut, sound")
        row = helper.locator("tr", has=helper.get_by_role("link", name="Record of egg 7"))
        row.get_by_label("Egg 7 stands as").select_option("slug")
        row.get_by_role("button").click()
        expect(helper.locator(".changes")).to_contain_text("egg 7: slug")
        expect(keeper.locator(".box-drawing")).not_to_contain_text("shut, sound")

    def test_a_page_that_is_open_shows_within_seconds_what_another_did(self) -> None:
        """The cutting page, the bench and the record; a form that is being filled in is not taken away."""
        phone, bench, record = self.member(**PHONE), self.member(), self.member()
        self.visit(phone, "/clutches/W-04/cutting/#egg-3")
        self.visit(bench, "/clutches/W-04/3/")
        self.visit(record, "/clutches/W-04/record/")
        bench.locator("[name=other]").select_option("5")
        bench.get_by_role("group", name="How sure").get_by_label("a hint").check()
        egg = Egg.objects.get(clutch__code="W-04", number=3)
        helper, at = get_user_model().objects.get(username="helper"), timezone.now()
        set_state(egg, helper, "wrapped", timezone.localdate(at), "", at)
        record_look(egg, helper, Answer("head_stamp", "busy", "egg", "sure", uuid4()), at)
        expect(phone.locator("[data-egg='3'] [data-stands]")).to_contain_text("wrapped")
        expect(phone.locator("[data-to='3']")).to_have_class("wrapped")
        expect(bench.locator('[data-look="head_stamp"]')).to_contain_text("helper: busy")
        expect(bench.locator("[name=other]")).to_have_value("5")
        expect(bench.get_by_role("group", name="How sure").get_by_label("a hint")).to_be_checked()
        expect(record.locator(".changes")).to_contain_text("egg 3: open, cord or yolk wrapped")
        typed = record.locator("input[name=number]").last
        typed.fill("9")
        record.get_by_role("heading", level=2).first.click()
        self.assertEqual(record.evaluate("document.activeElement.tagName"), "BODY")
        set_state(egg, helper, "open", timezone.localdate(at), "", timezone.now())
        expect(record.locator("[data-offered]")).to_contain_text("Somebody has changed something here")
        expect(typed).to_have_value("9")

    def test_a_photo_with_a_fault_is_told_at_once_and_kept_all_the_same_or_taken_anew(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-04/cutting/#egg-7")
        egg = page.locator('[data-egg="7"]')
        egg.get_by_role("button", name="Cut open").tap()
        blurred, good = (picture_of(cv2.GaussianBlur(small_photo(3).pixels, (0, 0), blur)) for blur in (4.0, 0.3))
        egg.locator("[data-camera]").set_input_files(blurred)
        told = page.get_by_role("dialog", name="The photo that was taken")
        expect(told).to_contain_text("Blurred")
        expect(told).to_contain_text("Hold still, tap focus")
        with page.expect_file_chooser() as camera:
            told.get_by_role("button", name="Take another").tap()
        camera.value.set_files(good)
        expect(egg.locator("[data-photos]")).to_have_text("1")
        egg.locator("[data-camera]").set_input_files(blurred)
        told.get_by_role("button", name="Keep it all the same").tap()
        expect(egg.locator("[data-photos]")).to_have_text("2")
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        self.assertEqual(Photo.objects.filter(egg__clutch__code="W-04", egg__number=7).count(), 2)

    def test_a_photo_whose_check_is_not_answered_in_time_simply_goes_off(self) -> None:
        page = self.member(**PHONE)
        page.add_init_script("AbortSignal.timeout = () => AbortSignal.abort()")
        self.visit(page, "/clutches/W-04/cutting/#egg-7")
        egg = page.locator('[data-egg="7"]')
        egg.get_by_role("button", name="Cut open").tap()
        egg.locator("[data-camera]").set_input_files(picture_of(cv2.GaussianBlur(small_photo(3).pixels, (0, 0), 4.0)))
        expect(egg.locator("[data-photos]")).to_have_text("1")
        expect(page.get_by_role("dialog", name="The photo that was taken")).to_have_count(0)
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        self.assertEqual(Photo.objects.filter(egg__clutch__code="W-04", egg__number=7).count(), 1)

    def test_what_was_chosen_on_an_older_page_is_asked_once_more(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-04/cutting/#egg-7")
        page.context.set_offline(True)
        egg = page.locator('[data-egg="7"]')
        egg.get_by_role("button", name="Cut open").tap()
        stored, at = Egg.objects.get(clutch__code="W-04", number=7), timezone.now()
        set_state(stored, get_user_model().objects.get(username="helper"), "slug", timezone.localdate(at), "", at)
        page.context.set_offline(False)
        aside = page.locator("#aside")
        expect(aside).to_contain_text("Cutting W-04, egg 7: cut open")
        expect(aside).to_contain_text("since then it was set to slug (helper")
        expect(egg).to_have_attribute("data-state", "slug")
        expect(page.locator("[data-kept]")).to_have_text("1 not taken, see above")
        page.reload()
        page.get_by_role("button", name="Set it all the same").tap()
        expect(page.locator("[data-kept]")).to_have_text("everything is sent")
        expect(aside).to_be_hidden()
        self.assertEqual(Egg.objects.get(pk=stored.pk).state, "open")

    def test_eggs_are_dragged_and_nudged_to_where_they_lie(self) -> None:
        page = self.member()
        self.visit(page, "/clutches/W-04/")
        page.get_by_role("button", name="Arrange the eggs").click()
        egg = page.locator('[data-place][data-number="7"]')
        frame = egg.locator(".shell").bounding_box()
        assert frame
        x, y = frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 160, y - 20, steps=5)
        page.mouse.up()
        self.wait_until_sent(page)
        moved = Egg.objects.get(clutch__code="W-04", number=7)
        self.assertGreater(moved.across, 0.6)
        page.get_by_label("written on it").fill("×")
        page.get_by_label("lies on others").check()
        egg.focus()
        page.keyboard.press("ArrowUp")
        self.wait_until_sent(page)
        nudged = Egg.objects.get(clutch__code="W-04", number=7)
        self.assertLess(nudged.down, moved.down)
        self.assertEqual((nudged.mark, nudged.on_top), ("×", True))
