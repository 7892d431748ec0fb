"""The pictures in docs/screenshots, made from the demo data: ``bin/eyot shots``."""

from __future__ import annotations

import tempfile
import time
from io import BytesIO
from operator import itemgetter
from pathlib import Path
from typing import Any
from unittest.mock import patch
from uuid import uuid4

import pypdfium2
from django.contrib.auth import get_user_model
from django.utils import timezone
from PIL import Image
from playwright.sync_api import Page, expect

from eyot.bench.actions import Answer, record_look
from eyot.collection.models import Collection
from eyot.demo.loading import load_demo
from eyot.demo.scenario import BOUGHT
from eyot.homes.models import BuyersPage
from eyot.inbox.models import InboxPhoto
from eyot.photos.models import Photo
from eyot.photos.queries import progress_of
from eyot.projects.models import Project
from eyot.season.models import Egg
from eyot.season.queries import clutch_of, egg_of
from tests.chromium import DESK, PHONE
from tests.demo_rows import PASSWORDS
from tests.evening import evening
from tests.journeys.browser import Journey

FOLDER = Path(__file__).resolve().parents[1] / "docs/screenshots"
PATIENCE_SECONDS = 240
DESK_VIEWS = {
    "season": "/",
    "pairing": "/pairings/?dam=Coot&sire=Dabble",
    "bench": "/clutches/W-02/2/",
    "homes": "/homes/?sort=ready",
    "line-up": "/clutches/W-02/line-up/?draw=fire.enchi",
    "hets": "/hets/",
    "side-by-side": "/clutches/W-02/2/side-by-side/?stage=shed&place=belly_edge",
    "series": "/clutches/W-02/2/series/",
}
GAP, AROUND = 24, (226, 222, 214)
"""Between the phones of one picture, in pixels; what lies there, RGB."""


class Shots(Journey):
    is_seen = with_drawings = True
    with_worker = True

    def demo(self) -> Collection:
        """With its photos."""
        return load_demo(PASSWORDS, lambda line: None)

    def visit(self, page: Page, path: str) -> None:
        """With patience: server, browser and drawings share one process and two cores here."""
        page.goto(self.live_server_url + path, timeout=60_000)

    def shoot(self, page: Page, name: str) -> None:
        page.wait_for_load_state("networkidle")
        page.screenshot(path=FOLDER / f"{name}.png")

    def test_shots(self) -> None:
        FOLDER.mkdir(parents=True, exist_ok=True)
        self.look_at_egg_three()
        self.wait_for_photos()
        strip = Photo.objects.get(egg=egg_of(clutch_of(self.collection, "W-02"), 1), stage="shed", kind="back")
        desk = self.member(**DESK, color_scheme="light")
        self.visit(desk, f"/photos/{strip.pk}/")
        self.shoot(desk, "strip")
        for name, path in DESK_VIEWS.items():
            self.visit(desk, path)
            self.shoot(desk, name)
        self.fill_inbox(desk)
        table = Egg.objects.get(kept_as__name=BOUGHT.name)
        self.visit(desk, f"/clutches/{table.clutch.code}/{table.number}/")
        self.shoot(desk, "table")
        self.plan(desk)
        self.practise(desk)
        self.print(desk)
        self.shoot_phones()

    def shoot_phones(self) -> None:
        """What is used in the hand, in one picture: cutting and bench by lamp, the list as buyers see it."""
        phone = self.member(**PHONE, color_scheme="dark")
        self.visit(phone, "/clutches/W-04/cutting/#egg-3")
        phone.wait_for_load_state("networkidle")
        seen = [phone.screenshot()]
        self.visit(phone, "/clutches/W-04/3/")
        phone.get_by_role("button", name="All looks").tap()
        phone.wait_for_load_state("networkidle")
        seen.append(phone.screenshot())
        outside = self.context(**PHONE, color_scheme="light").new_page()
        outside.goto(f"{self.live_server_url}/offer/{BuyersPage.objects.get().token}/")
        outside.wait_for_load_state("networkidle")
        seen.append(outside.screenshot())
        pictures = [Image.open(BytesIO(one)) for one in seen]
        width = sum(one.width + GAP for one in pictures) + GAP
        whole = Image.new("RGB", (width, max(one.height for one in pictures) + 2 * GAP), AROUND)
        for number, one in enumerate(pictures):
            whole.paste(one, (GAP + sum(before.width + GAP for before in pictures[:number]), GAP))
        whole.save(FOLDER / "phones.png")

    def plan(self, desk: Page) -> None:
        """Plans beside one another, and a project in its second season."""
        self.visit(desk, f"/projects/{Project.objects.get().pk}/?clutch=yes")
        self.shoot(desk, "project")
        self.visit(desk, "/projects/")
        desk.get_by_label("What it is to be, as breeders write it").fill("leopard mojave piebald")
        desk.get_by_role("button", name="Find plans").click()
        expect(desk.get_by_role("heading", name="Plans for")).to_be_visible()
        self.shoot(desk, "plans")

    def practise(self, desk: Page) -> None:
        """An animal named, a look-alike to be told, and the keeper's own eye; the same animals every time."""
        self.visit(desk, "/practice/eye/")
        self.shoot(desk, "own-eye")
        with patch("eyot.practice.making.secrets.randbits", return_value=23), patch("secrets.choice", itemgetter(0)):
            self.visit(desk, "/practice/")
            desk.locator("[name=picture]").first.select_option("head")
            desk.get_by_role("button", name="Show me one").first.click()
            desk.keyboard.press("1")
            desk.get_by_role("button", name="That is it").click()
            expect(desk.get_by_role("button", name="The next one")).to_be_visible()
            self.shoot(desk, "practice")
            self.visit(desk, "/practice/")
            desk.get_by_role("button", name="The next pair").click()
            expect(desk.get_by_role("heading", name="Which of the two is it?")).to_be_visible()
            self.shoot(desk, "look-alikes")

    def print(self, desk: Page) -> None:
        """Cards and a paper, as they come from the printer."""
        sheet = desk.request.get(f"{self.live_server_url}/clutches/W-02/cards.pdf").body()
        pypdfium2.PdfDocument(sheet)[0].render(scale=1.5).to_pil().save(FOLDER / "cards.png")
        self.visit(desk, "/clutches/V-05/1/home/")
        with desk.expect_download() as paper:
            desk.get_by_role("button", name="As PDF").click()
        document = pypdfium2.PdfDocument(Path(paper.value.path()).read_bytes())
        document[0].render(scale=1.5).to_pil().save(FOLDER / "paper.png")

    def fill_inbox(self, desk: Page) -> None:
        """Beside the demo's evening photos of one whose card is missing."""
        shots = list(evening(["W-02"], 5, timezone.localtime().replace(tzinfo=None), 1000))
        with tempfile.TemporaryDirectory() as folder:
            for shot in shots:
                Path(folder, shot.name).write_bytes(shot.jpeg)
            self.visit(desk, "/inbox/")
            desk.locator("[data-choose]").first.set_input_files(sorted(Path(folder).iterdir()))
            waits = desk.locator(".inbox-told div", has_text="wait").locator("dt").first
            expect(waits).to_have_text("4", timeout=PATIENCE_SECONDS * 1000)
            expect(desk.locator(".inbox-told")).not_to_contain_text("to be looked at", timeout=PATIENCE_SECONDS * 1000)
        desk.locator(".shot input").first.check()
        desk.keyboard.press("5")
        self.shoot(desk, "inbox")

    def wait_for_photos(self) -> None:
        """Until the worker has filed the demo's evening and made every size, strip and measure."""
        end = time.monotonic() + PATIENCE_SECONDS
        unsettled = InboxPhoto.objects.filter(state__in=(InboxPhoto.State.SENT, InboxPhoto.State.WAITS))
        while time.monotonic() < end and unsettled.exists():
            time.sleep(1)
        while (left := progress_of(list(Photo.objects.all()))).is_under_way and time.monotonic() < end:
            time.sleep(1)
        self.assertEqual((left.done, left.stuck), (left.total, []))

    def look_at_egg_three(self) -> None:
        """The keeper has just seen the white in egg 3."""
        keeper: Any = get_user_model().objects.get(username="keeper")
        egg = egg_of(clutch_of(self.collection, "W-04"), 3)
        record_look(egg, keeper, Answer("white_layout", "saddles", "egg", "sure", uuid4()), timezone.now())
