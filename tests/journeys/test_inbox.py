"""An evening's photos: dropped at once and filed by their cards; what waits is filed by thumb, or by keys."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, expect

from eyot.inbox.models import InboxPhoto
from eyot.photos.models import Photo
from eyot.season.models import Egg
from tests.chromium import DESK, PHONE
from tests.evening import Shot, animal, as_file, evening
from tests.journeys.browser import Journey, offences

EVENING = datetime(2026, 11, 20, 19, 0)  # noqa: DTZ001  a camera's clock knows no zone
DONE = 240_000


class Evening(Journey):
    with_worker = True

    def files(self, shots: list[Shot]) -> list[Path]:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        for shot in shots:
            Path(folder.name, shot.name).write_bytes(shot.jpeg)
        return [Path(folder.name, shot.name) for shot in shots]

    def no_picture(self) -> Path:
        return self.files([Shot("notes.jpg", b"no picture", "", True)])[0]

    def told(self, page: Page, count: int, words: str) -> None:
        """Waits until the page says how many are filed, wait, or are known."""
        expect(page.locator(".inbox-told div", has_text=words).locator("dt")).to_have_text(str(count), timeout=DONE)

    def test_an_evening_of_three_clutches_is_filed_and_none_to_a_wrong_hatchling(self) -> None:
        eggs = [
            Egg.objects.select_related("clutch").get(clutch__code=code, number=2) for code in ("W-02", "W-03", "W-04")
        ]
        shots = list(evening([egg.code for egg in eggs], 3, EVENING))
        before = Photo.objects.count()
        page = self.member(**DESK)
        self.visit(page, "/inbox/")
        page.locator("[data-choose]").first.set_input_files(self.files(shots))
        expect(page.locator("body")).to_have_attribute("data-sending", "sent", timeout=DONE)
        self.told(page, len(shots) - len(eggs), "filed")
        self.told(page, 0, "wait for you")
        self.told(page, 3, "cards alone")
        whose = {shot.name: shot.of for shot in shots if not shot.is_card}
        rows = InboxPhoto.objects.filter(state=InboxPhoto.State.FILED).select_related("photo__egg__clutch")
        self.assertEqual({row.name: row.photo.egg.code for row in rows if row.photo}, whose)
        self.assertEqual(Photo.objects.count() - before, len(whose))
        page.locator("[data-choose]").first.set_input_files([*self.files(shots[:2]), self.no_picture()])
        self.told(page, 2, "known already")
        self.told(page, 1, "no picture")
        self.assertEqual(Photo.objects.count() - before, len(whose))

    def test_what_waits_is_filed_by_thumb_and_by_keys(self) -> None:
        shots = [
            Shot(f"loose-{turn}.jpg", as_file(animal(3, turn, 640), EVENING.replace(minute=turn), turn), "", False)
            for turn in (1, 2, 4)
        ]
        phone = self.member(**PHONE)
        self.visit(phone, "/inbox/")
        phone.locator("[data-choose]").first.set_input_files(self.files(shots))
        self.told(phone, 3, "wait for you")
        phone.locator(".shot").first.tap()
        phone.get_by_label("Clutch").select_option("W-04")
        phone.set_viewport_size({"width": 390, "height": 640})
        phone.evaluate("scrollTo(0, 0)")
        phone.locator(".shot input").nth(1).focus()
        shot, bar = phone.locator(".shot").nth(1).bounding_box(), phone.locator(".inbox-side").bounding_box()
        assert shot is not None and bar is not None
        self.assertLess(shot["y"] + shot["height"], bar["y"] + 1)  # what has the focus lies above the bar
        phone.locator("[data-eggs-of=W-04] .egg-key", has_text="5").tap()
        phone.get_by_role("button", name="File 1 photo with egg 5 of W-04").tap()
        expect(phone.get_by_text("1 photo filed with egg 5 of W-04.")).to_be_visible()
        self.assertEqual(Photo.objects.filter(egg__clutch__code="W-04", egg__number=5).count(), 1)
        desk = self.member(**DESK)
        self.visit(desk, "/inbox/")
        desk.get_by_label("Clutch").select_option("W-02")
        desk.keyboard.press("Tab")
        desk.locator(".shot input").first.focus()
        desk.keyboard.press("Shift+ArrowRight")
        desk.keyboard.press("3")
        desk.keyboard.press("Enter")
        expect(desk.get_by_text("2 photos filed with egg 3 of W-02.")).to_be_visible()
        expect(desk.get_by_text("Nothing waits for you.")).to_be_visible()
        self.assertEqual(offences(desk, (DESK, "light")), [])
        desk.get_by_role("button", name="put back into the inbox: loose-1.jpg").click()
        expect(desk.locator(".shot")).to_have_count(1)
        self.assertFalse(Photo.objects.filter(egg__clutch__code="W-04", egg__number=5).exists())

    def test_paused_and_closed_it_goes_on_where_it_stood(self) -> None:
        egg = Egg.objects.select_related("clutch").get(clutch__code="W-02", number=2)
        shots = list(evening([egg.code], 4, EVENING))
        page = self.member(**DESK)
        self.visit(page, "/inbox/")
        page.route("**/inbox/add/", lambda route: route.abort())
        page.locator("[data-choose]").first.set_input_files(self.files(shots))
        expect(page.locator("body")).to_have_attribute("data-sending", "waiting")
        page.get_by_role("button", name="Pause").click()
        expect(page.locator("[data-sending-words]")).to_have_text("Paused: 0 of 4")
        page.unroute("**/inbox/add/")
        page.close()
        again = page.context.new_page()
        self.visit(again, "/inbox/")
        self.told(again, 3, "filed")
        self.assertEqual(Photo.objects.filter(egg=egg).count(), 3)
