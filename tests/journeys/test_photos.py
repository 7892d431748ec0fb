"""A photo from the file to the line-up: uploaded, corrected, its line drawn by mouse, by touch and by keys, compared."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable
from typing import Any

from django.contrib.auth import get_user_model
from django.utils import timezone
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from eyot_core.drawing.camera import Taken
from eyot_core.photo.picture import Picture

from eyot.bench.models import Look
from eyot.collection.models import Collection
from eyot.photos.actions import draw_line, keep_picture, mark_light
from eyot.photos.models import Photo
from eyot.season.queries import clutch_of, egg_of
from tests.chromium import DESK, PHONE
from tests.core.photographs import small_photo
from tests.journeys.browser import NARROWEST, Journey, WithPhotos, offences, too_wide

MADE = 120_000


def taken(number: int) -> Taken:
    return small_photo(number, 800, 600)


def jpeg(photo: Taken) -> bytes:
    held = io.BytesIO()
    Image.fromarray(photo.pixels).save(held, "JPEG", quality=92)
    return held.getvalue()


def on_screen(board: Locator, places: Iterable[Iterable[float]]) -> list[tuple[float, float]]:
    """Where places in the photo, in its pixels, stand on the screen."""
    found = board.evaluate(
        "(board, places) => { const m = board.getScreenCTM(); return places.map(([x, y]) => [x * m.a + m.e, y * m.d + m.f]); }",
        [[float(number) for number in place] for place in places],
    )
    return [(x, y) for x, y in found]


class FromTheFileToTheStrip(Journey):
    with_worker = True

    def upload(self, page: Page, photo: Taken, *, by_hand: bool = True) -> Locator:
        """The drawing board of a photo that was just added to egg 3 of W-02; ``by_hand``: without the line that was found."""
        self.visit(page, "/clutches/W-02/3/?stage=shed")
        page.get_by_label("Add photos").set_input_files(
            {"name": "shed.jpg", "mimeType": "image/jpeg", "buffer": jpeg(photo)}
        )
        page.get_by_role("link", name=re.compile("^(Draw its line|Strip)$")).click()
        board = page.locator(".drawing-board")
        expect(board).to_be_visible(timeout=MADE)
        if by_hand:
            page.get_by_role("button", name="Clear line").click()
            expect(page.locator(".drawing-board circle")).to_have_count(0)
        return board

    def test_a_line_that_was_found_is_confirmed_by_a_tap_and_by_a_key(self) -> None:
        page = self.member(**PHONE)
        self.upload(page, taken(3), by_hand=False)
        expect(page.get_by_text("Line found, not checked")).to_be_visible()
        expect(page.locator(".made .kept")).to_be_visible(timeout=MADE)
        page.get_by_role("button", name="It is right").tap()
        expect(page.get_by_text("not checked")).to_have_count(0)
        self.assertFalse(Photo.objects.get().is_unchecked)
        Photo.objects.update(line_confidence=0.9)
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/3/?stage=shed")
        expect(page.locator(".photos").get_by_text("Line found, not checked")).to_be_visible()
        page.keyboard.press("y")
        expect(page.locator(".photos").get_by_text("not checked")).to_have_count(0)
        self.assertFalse(Photo.objects.get().is_unchecked)

    def test_by_mouse_with_light_brush_and_measures(self) -> None:
        photo, page = taken(3), self.member(**DESK)
        board = self.upload(page, photo)
        page.get_by_role("button", name="mark grey card").click()
        assert photo.card is not None
        (x, y), *_ = on_screen(board, [((photo.card[0] + photo.card[2]) / 2, (photo.card[1] + photo.card[3]) / 2)])
        page.mouse.click(x, y)
        expect(page.get_by_text("light corrected by grey card")).to_be_visible()
        for x, y in on_screen(board, photo.line):
            page.mouse.move(x, y)
            page.mouse.down()
            expect(page.locator(".loupe")).to_be_visible()
            page.mouse.up()
        expect(page.locator(".drawing-board circle")).to_have_count(11)
        expect(page.locator("[data-quick]")).to_be_visible()
        page.get_by_role("button", name="Make the strip").click()
        expect(page.locator(".made .kept")).to_be_visible(timeout=MADE)
        expect(page.get_by_role("row", name=re.compile("^lightness"))).to_contain_text("±")
        (x, y), *_ = on_screen(board, [photo.line[5]])
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 6, y + 3, steps=3)
        page.mouse.up()
        expect(page.locator("[data-quick]")).to_be_visible()
        page.get_by_role("button", name="Brush ground").click()
        page.mouse.move(x - 60, y - 40)
        page.mouse.down()
        page.mouse.move(x - 20, y - 40, steps=4)
        page.mouse.up()
        page.get_by_role("button", name="Correct the outline").click()
        expect(page.get_by_text("Being made")).to_have_count(0, timeout=MADE)
        kept = Photo.objects.get()
        outline = page.locator(".drawing-board .found")
        first = kept.outline[0]
        expect(outline).to_have_attribute("points", re.compile(f"^{first[0]:g},{first[1]:g} "))
        self.assertEqual((kept.brush_marks, len(kept.line["points"])), (1, 11))

    def test_by_touch_with_one_stroke_of_the_finger(self) -> None:
        photo, page = taken(3), self.member(**PHONE)
        board = self.upload(page, photo)
        board.scroll_into_view_if_needed()
        self.touch(page, on_screen(board, photo.line))
        expect(page.locator(".drawing-board circle")).to_have_count(12)
        page.get_by_role("button", name="Make the strip").click()
        expect(page.locator(".made .kept")).to_be_visible(timeout=MADE)
        page.get_by_role("button", name="Clear line").click()
        expect(page.locator(".drawing-board circle")).to_have_count(0)
        for x, y in on_screen(board, photo.line):
            page.touchscreen.tap(x, y)
        expect(page.locator(".drawing-board circle")).to_have_count(11)

    def touch(self, page: Page, places: list[tuple[float, float]]) -> None:
        """A finger drawn along places, as the browser's own protocol sends it."""
        finger = page.context.new_cdp_session(page)
        send: Any = finger.send
        for kind, at in (("touchStart", places[:1]), *(("touchMove", [place]) for place in places[1:])):
            send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": at[0][0], "y": at[0][1]}]})
            page.wait_for_timeout(30)
        expect(page.locator(".loupe")).to_be_visible()
        send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})

    def test_by_keys(self) -> None:
        page = self.member(**DESK)
        board = self.upload(page, taken(3))
        board.focus()
        for _ in range(5):
            page.keyboard.press("Shift+ArrowRight")
            page.keyboard.press("Enter")
        expect(page.locator(".drawing-board circle")).to_have_count(5)
        expect(page.locator("[data-quick]")).to_be_visible()
        page.keyboard.press(",")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Delete")
        expect(page.locator(".drawing-board circle")).to_have_count(4)


class LinedUp(WithPhotos):
    """Four photos with strips."""

    def add_photos(self, collection: Collection) -> None:
        keeper: Any = get_user_model().objects.get(username="keeper")
        for number, stage in ((1, "shed"), (2, "shed"), (3, "shed"), (1, "wet")):
            photo, egg = taken(number + 1), egg_of(clutch_of(collection, "W-02"), number)
            kept = keep_picture(egg, keeper, Picture(Image.fromarray(photo.pixels), None), stage, timezone.now())
            assert photo.card is not None
            mark_light(kept, (photo.card[0] + 9) / 800, (photo.card[1] + 9) / 600, "grey card")
            draw_line(kept, photo.line.tolist())

    def rows(self, page: Page) -> list[str]:
        return page.locator("[data-row]").evaluate_all("rows => rows.map(row => row.dataset.row)")  # type: ignore[no-any-return]

    def test_sorted_dragged_compared_and_ticked(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/line-up/")
        expect(page.locator("[data-view] image")).to_have_count(3)
        by_lightness = self.rows(page)
        page.get_by_label("sort by").select_option("white_share")
        page.wait_for_url("**sort=white_share**")
        self.assertEqual(self.rows(page)[0], "e1", "the piebald is the whitest")
        page.get_by_label("sort by").select_option("lightness")
        page.wait_for_url("**sort=lightness**")
        self.assertEqual(self.rows(page), by_lightness)

        first = page.locator("[data-row]").first
        name = first.get_attribute("data-row")
        first.get_by_role("button", name="down").click()
        self.assertEqual(self.rows(page)[1], name)
        page.reload()
        self.assertEqual(self.rows(page)[1], name, "an order of one's own holds")
        grip, aim = page.locator("[data-row]").nth(2).locator(".words"), page.locator("[data-row]").first
        held = self.rows(page)[2]
        box, target = grip.bounding_box(), aim.bounding_box()
        assert box is not None
        assert target is not None
        page.mouse.move(box["x"] + box["width"] - 4, box["y"] + box["height"] - 3)
        page.mouse.down()
        page.mouse.move(target["x"] + 60, target["y"] + 10, steps=8)
        page.mouse.up()
        self.assertEqual(self.rows(page)[0], held)

        page.get_by_label("Lay a drawing between").select_option(index=1)
        page.wait_for_url("**draw=**")
        expect(page.locator(".lineup-row.drawn")).to_have_count(1)
        self.zoom_and_compare(page)
        self.tick(page)

    def test_one_stage_is_wiped_over_the_other_by_a_finger_and_by_keys(self) -> None:
        page = self.member(**PHONE)
        self.visit(page, "/clutches/W-02/1/?stage=shed")
        expect(page.locator("#own-strip [data-over]")).to_be_visible()
        expect(page.locator(".wipe-words")).to_contain_text("left of it: out, wet")
        line = page.get_by_label("How far the other stage is drawn over this strip")
        clipped = "image => getComputedStyle(image).clipPath"
        over = page.locator("[data-over]")
        line.scroll_into_view_if_needed()
        box = line.bounding_box()
        assert box is not None
        self.assertGreaterEqual(box["height"], 44)
        page.touchscreen.tap(box["x"] + box["width"] / 4, box["y"] + 20)
        share = float(line.input_value()) / 10
        self.assertAlmostEqual(share, 25, delta=4)
        right = re.fullmatch(
            r"inset\(0px calc\(100% - ([\d.]+)%\) 0px 0px\)|inset\(0px ([\d.]+)% 0px 0px\)", over.evaluate(clipped)
        )
        assert right is not None
        self.assertAlmostEqual(float(right[1] or 100 - float(right[2])), share, 3)
        line.press("End")
        self.assertEqual(line.input_value(), "1000")
        self.visit(page, "/clutches/W-02/2/?stage=shed")
        expect(page.locator("#own-strip img")).to_have_count(1)

    def zoom_and_compare(self, page: Page) -> None:
        page.keyboard.press("+")
        views = page.locator("[data-view]").evaluate_all("views => views.map(view => view.getAttribute('viewBox'))")
        self.assertEqual(len(set(views)), 1, "all go in step")
        self.assertNotEqual(views[0], "0 0 1200 161")
        page.keyboard.press("0")
        page.get_by_label("Pick 1").check()
        page.get_by_label("Pick 2").check()
        page.get_by_role("button", name="Compare two").click()
        expect(page.get_by_role("dialog")).to_contain_text("CIEDE2000")
        page.get_by_label("Wipe").fill("300")
        self.assertEqual(page.locator("#wipe rect").get_attribute("width"), "300")
        page.get_by_role("button", name="Blink").click()
        expect(page.locator("#wipe rect")).to_have_attribute("width", "1200")
        expect(page.locator("#wipe rect")).to_have_attribute("width", "0")
        page.get_by_role("button", name="Close").click()

    def tick(self, page: Page) -> None:
        page.get_by_label("Pick 3").check()
        page.locator("[name=trait]").select_option("lobe_attach")
        page.locator("#levels").get_by_label("floating").check()
        page.get_by_role("button", name="Note it for the picked").click()
        expect(page.get_by_role("status").filter(has_text="noted for 1, 2, 3")).to_be_visible()
        looks = Look.objects.filter(trait="lobe_attach", level="floating", egg__clutch__code="W-02")
        self.assertEqual(sorted(set(looks.values_list("egg__number", flat=True))), [1, 2, 3])

    def test_what_the_photo_suggests_is_accepted_with_one_key(self) -> None:
        page = self.member(**DESK)
        self.visit(page, "/clutches/W-02/line-up/")
        self.visit(page, "/clutches/W-02/1/?stage=shed")
        suggested = page.locator("[data-accept]").first
        trait = suggested.get_attribute("data-trait")
        page.keyboard.press("m")
        expect(page.locator(f'[data-accept][data-trait="{trait}"]')).to_have_count(0)
        self.assertNotEqual(
            Look.objects.get(
                egg__clutch__code="W-02", egg__number=1, trait=trait, stage="shed", measured__gt=""
            ).measured,
            "",
        )

    def test_the_new_pages_are_accessible(self) -> None:
        photo = Photo.objects.order_by("taken_at").first()
        assert photo is not None
        Photo.objects.filter(stage="shed").update(line_confidence=0.9)  # as if found
        page = self.member(**DESK)
        bench = "/clutches/W-02/1/?stage=shed"
        for view in (f"/photos/{photo.pk}/", "/clutches/W-02/line-up/?draw=pastel", "/clutches/W-02/capture/", bench):
            with self.subTest(view=view):
                self.visit(page, view)
                self.assertEqual(offences(page, (DESK, "light"), (PHONE, "dark")), [])
        page.evaluate("document.getElementById('more').open = true")
        expect(page.locator("#more .look").first).to_be_attached()
        self.assertEqual(too_wide(page, NARROWEST), "")
