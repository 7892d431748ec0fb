"""Side by side at one place of the body, and an animal on the table: from a photo to a claim that is doubtful for a reason."""

from __future__ import annotations

import re

from django.utils import timezone
from PIL import Image
from playwright.sync_api import Page, expect

from eyot_core.photo.picture import Picture

from eyot.bench.models import Look, SellersClaim
from eyot.collection.models import Collection
from eyot.photos.actions import draw_line, keep_picture
from eyot.photos.models import Photo
from eyot.reference.own import pin_photo
from eyot.season.queries import clutch_of, egg_of
from tests.chromium import DESK, PHONE
from tests.core.photographs import small_photo
from tests.journeys.browser import Journey, WithPhotos, level_of
from tests.journeys.test_photos import jpeg, taken

SIDE = "/clutches/W-02/2/side-by-side/"


class SideBySide(WithPhotos):
    with_drawings = True

    def add_photos(self, collection: Collection) -> None:
        """One from above and one of the belly of three hatchlings of W-02, the first's belly pinned."""
        keeper = collection.memberships.get(user__username="keeper").user
        clutch = clutch_of(collection, "W-02")
        for number in (1, 2, 3):
            shot = small_photo(number)
            for kind in (Photo.Kind.BACK, Photo.Kind.BELLY):
                picture = Picture(Image.fromarray(shot.pixels), None)
                photo = keep_picture(egg_of(clutch, number), keeper, picture, "shed", timezone.now(), kind=kind)
                Photo.objects.filter(pk=photo.pk).update(find_wanted=0)
                photo.refresh_from_db()
                draw_line(photo, shot.line.tolist())
            if number == 1:
                pin_photo(collection, keeper, photo, "fire.enchi", "tested")

    def sources(self, page: Page) -> list[str]:
        return [str(image.get_attribute("src")) for image in page.locator(".pane-view img").all()]

    def test_a_belly_is_answered_beside_a_sibling_and_a_pinned_reference_by_keys(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/2/?stage=shed")
        row = page.locator('.look[data-look="belly_edge"]')
        if not row.count():
            page.locator("#more summary").click()
        page.locator('[data-look="belly_edge"] [data-side-look]').click()
        page.wait_for_url("**/side-by-side/**")
        expect(page.locator("[data-to-place=belly_edge]")).to_have_attribute("aria-pressed", "true")
        page.get_by_label("Beside it").select_option(label="W-02, egg 1")
        expect(page.locator(".side-pane")).to_have_count(3)
        page.get_by_label("Beside it").select_option(label="Fire Enchi: W-02, egg 1, after the first shed")
        expect(page.locator(".side-pane")).to_have_count(4)
        for image in page.locator(".pane-view img").all():
            expect(image).to_have_js_property("complete", True)
            self.assertGreater(image.evaluate("image => image.naturalWidth"), 0)
        own, _, sibling, pinned = self.sources(page)
        self.assertRegex(own, r"/at/belly_edge-\d+\.jpg")
        self.assertRegex(sibling, r"/at/belly_edge-\d+\.jpg")
        self.assertRegex(pinned, r"/at/belly_edge-\d+\.jpg")
        widths = [image.bounding_box() for image in page.locator(".pane-view").all()]
        self.assertTrue(all(box and box["width"] >= 300 for box in widths))

        page.keyboard.press("b")
        expect(page.locator("[data-blink]")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("b")
        page.keyboard.press("j")
        expect(page.locator(".look.here")).to_have_attribute("data-look", "belly_edge")
        page.keyboard.press("3")
        expect(page.locator(level_of("belly_edge", "jagged"))).to_have_attribute("aria-pressed", "true")
        expect(page.locator("#judgement")).not_to_have_attribute("aria-busy", "true")
        self.assertEqual(Look.objects.get(egg__clutch__code="W-02", egg__number=2, trait="belly_edge").level, "jagged")

        page.keyboard.press("]")
        page.wait_for_url("**/clutches/W-02/3/side-by-side/**")
        expect(page.locator(".side-pane")).to_have_count(4)
        expect(page.locator("[data-to-place=belly_edge]")).to_have_attribute("aria-pressed", "true")

    def test_the_same_by_touch_and_two_panes_stand_over_one_another(self) -> None:
        page = self.member(**PHONE)
        sibling = egg_of(clutch_of(self.collection, "W-02"), 1)
        pinned = self.collection.pins.get().photo_id
        panes = f"pane=own&pane=e{sibling.pk}&pane=p{pinned}&pane=dfire"
        self.visit(page, f"{SIDE}?stage=shed&{panes}&place=crown")
        first, second, *_ = (box.bounding_box() for box in page.locator(".pane-view").all())
        assert first and second
        self.assertGreaterEqual(second["y"], first["y"] + first["height"])
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.locator("[data-to-place=belly]").tap()
        expect(page.locator(".pane-view img").last).to_have_attribute("src", re.compile("/drawings/at/belly/fire"))
        for source in self.sources(page)[:3]:
            self.assertRegex(source, r"/at/belly-\d+\.jpg")
        page.locator(level_of("belly_color", "yellow")).tap()
        expect(page.locator(level_of("belly_color", "yellow"))).to_have_attribute("aria-pressed", "true")
        expect(page.locator("#judgement")).not_to_have_attribute("aria-busy", "true")
        self.assertEqual(Look.objects.get(egg__clutch__code="W-02", egg__number=2, trait="belly_color").level, "yellow")
        before = page.locator(".pane-view img").first.evaluate("image => image.style.transform")
        page.get_by_role("button", name="Nearer").tap()
        for image in page.locator(".pane-view img").all():
            self.assertNotEqual(image.evaluate("image => image.style.transform"), before)

    def test_the_bench_leads_there_by_keys(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/2/?stage=shed")
        page.keyboard.press("n")
        asked = page.locator(".look.here").get_attribute("data-look")
        page.keyboard.press("s")
        page.wait_for_url("**/side-by-side/**")
        expect(page.locator(f'.side-look.first [data-look="{asked}"]')).to_be_visible()


class OnTheTable(Journey):
    with_worker = True

    def test_from_a_photo_to_a_claim_that_is_doubtful_for_a_reason(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/animals/new/")
        page.get_by_label("Name").fill("Teal Rail")
        page.get_by_role("button", name="Enter", exact=True).click()
        page.get_by_label("Add photos").set_input_files(
            {"name": "seller.jpg", "mimeType": "image/jpeg", "buffer": jpeg(taken(2))}
        )
        page.get_by_label("How old it is in them").select_option("adult")
        page.get_by_role("button", name="Add", exact=True).click()
        page.get_by_role("link", name="On the table").click()
        expect(page.get_by_role("heading", name="Teal Rail")).to_be_visible()
        expect(page.locator("#large-photo")).to_be_visible(timeout=120_000)
        page.get_by_label("Sold, or given, as").fill("pastel enchi, het clown")
        page.get_by_label("trusted like").select_option("80")
        page.get_by_role("button", name="Weigh this claim").click()
        expect(page.locator(".claim-rows tbody tr")).to_have_count(3)
        expect(page.locator("#claim")).to_contain_text("Ask the seller for")
        expect(page.locator(".claim-rows tr", has_text="Clown")).to_contain_text("breeding or a test tells")
        for look, level in (("eye_color", "dark"), ("banding", "normal"), ("lobe_spots", "two")):
            if not page.locator(level_of(look, level)).count():
                page.locator("#more summary").click()
            page.locator(level_of(look, level)).first.click()
            expect(page.locator(level_of(look, level)).first).to_have_attribute("aria-pressed", "true")
            expect(page.locator("#judgement")).not_to_have_attribute("aria-busy", "true")
        expect(page.locator("#claim")).to_contain_text("The claim is doubtful")
        expect(page.locator("#claim")).to_contain_text("because")
        self.assertEqual(SellersClaim.objects.get(egg__kept_as__name="Teal Rail").trust_percent, 80)
        page.reload()
        expect(page.locator(".claim-said")).to_contain_text("The claim is doubtful")
