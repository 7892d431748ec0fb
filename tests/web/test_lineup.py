"""The line-up: order, axes, drawings, older animals, one picture, and one look for several siblings."""

from __future__ import annotations

import io
import re

from PIL import Image

from eyot_core.catalogue import builtin_catalogue
from eyot_core.photo.strip import COLUMNS

from eyot.bench.models import Look
from eyot.lineup.rows import Axis, LineupRow, drawings_from, placed, sorted_rows
from eyot.photos.models import Photo
from tests.jobs import do_jobs
from tests.web.test_strips import StripCase

ROW = re.compile(r'data-row="([^"]+)"')


class Rows(StripCase):
    def test_high_comes_first_and_what_is_missing_last(self) -> None:
        rows = [LineupRow("e1", "1", ""), LineupRow("e2", "2", "", value=3.0), LineupRow("e3", "3", "", value=7.0)]
        self.assertEqual([row.id for row in sorted_rows(rows)], ["e3", "e2", "e1"])

    def test_a_keepers_order_holds_and_unnamed_rows_stay(self) -> None:
        rows = [LineupRow(name, name, "") for name in ("e1", "e2", "e3", "e4")]
        self.assertEqual([row.id for row in placed(rows, ["e4", "e9", "e1"])], ["e4", "e2", "e3", "e1"])
        self.assertEqual([row.id for row in placed(rows, [])], ["e1", "e2", "e3", "e4"])

    def test_values_stand_on_the_axis(self) -> None:
        axis = Axis("lightness", "lightness", "L*", 20, 60)
        self.assertEqual([axis.x(value) for value in (20, 40, 60, 99)], [0, 100, 200, 200])
        self.assertEqual(axis.ticks, [(0, "20"), (100, "40"), (200, "60")])

    def test_drawings_are_named_and_unknown_ones_not_found(self) -> None:
        catalogue = builtin_catalogue()
        self.assertEqual([row.id for row in drawings_from(catalogue, ["pastel", "pastel", ""])], ["dpastel"])
        self.assertEqual(self.client.get("/clutches/W-02/line-up/?draw=unicorn").status_code, 404)


class Page(StripCase):
    first: Photo
    second: Photo

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.first, cls.second = cls.photo(1, drawn=True), cls.photo(2, drawn=True)

    def order(self, query: str = "") -> list[str]:
        return ROW.findall(self.client.get(f"/clutches/W-02/line-up/?{query}").content.decode())

    def test_sorted_by_a_measure(self) -> None:
        lighter = max((self.first, self.second), key=lambda photo: photo.measures["lightness"]["value"])
        self.assertEqual(self.order("sort=lightness")[0], f"e{lighter.egg.number}")
        darker = max((self.first, self.second), key=lambda photo: photo.measures["dark_share"]["value"])
        self.assertEqual(self.order("sort=dark_share")[0], f"e{darker.egg.number}")
        self.assertEqual(self.order("sort=nonsense"), self.order("sort=lightness"))

    def test_sorted_by_the_chance_of_a_gene(self) -> None:
        page = self.client.get("/clutches/W-02/line-up/?sort=gene:fire").content.decode()
        shown = {row: page.index(f'data-row="{row}"') for row in ROW.findall(page)}
        self.assertLess(shown["e1"], shown["e5"], "egg 1 is called Fire, of egg 5 nothing is known")
        self.assertIn("chance of Fire", page)

    def test_an_order_of_ones_own_with_a_drawing_between(self) -> None:
        found = self.order("draw=fire.enchi&order=e2,dfire.enchi,e1,e3,e4,e5")
        self.assertEqual(found, ["e2", "dfire.enchi", "e1", "e3", "e4", "e5"])

    def test_older_animals_stand_with_them_and_strangers_do_not(self) -> None:
        found = self.order("with=V-09.1&with=X-01.1&with=no.such&with=V-09.99")
        self.assertIn("xV-09.1", found)
        self.assertEqual([row for row in found if row.startswith("x")], ["xV-09.1"])

    def test_how_far_two_lie_apart_is_ciede2000(self) -> None:
        page = self.client.get("/clutches/W-02/line-up/").content.decode()
        message = re.search(r'data-between="e1 e2">mean colours differ by ([\d.]+) \(CIEDE2000\)', page)
        assert message is not None
        self.assertGreater(float(message[1]), 2)

    def test_one_picture_holds_every_row(self) -> None:
        answer = self.client.get("/clutches/W-02/line-up/picture.png?draw=pastel")
        self.assertIn("W-02-line-up.png", answer["Content-Disposition"])
        image = Image.open(io.BytesIO(answer.content))
        self.assertGreater(image.width, COLUMNS)
        self.assertGreater(image.height, 6 * 161)
        darkest, lightest = image.crop((230, 64, 1430, 225)).convert("L").getextrema()
        self.assertGreater(lightest - darkest, 90)  # type: ignore[operator]

    def test_a_drawing_in_the_window_of_a_strip(self) -> None:
        answer = self.client.get("/drawings/window/mojave.png")
        self.assertEqual(Image.open(io.BytesIO(answer.content)).size, (1200, 161))
        self.assertEqual(self.client.get("/drawings/window/unicorn.png").status_code, 404)

    def test_one_look_for_several(self) -> None:
        before = list(Look.objects.values_list("pk", flat=True))
        sent = {"row": ["e1", "e2", "dpastel"], "trait": "lobe_attach", "level": "floating", "stage": "shed"}
        page = self.client.post("/clutches/W-02/line-up/tick/", {**sent, "query": "sort=contrast"}, follow=True)
        self.assertIn("floating, noted for 1, 2.", page.content.decode())
        self.assertEqual(page.redirect_chain[-1][0], "/clutches/W-02/line-up/?sort=contrast")
        found = Look.objects.filter(trait="lobe_attach", level="floating", stage="shed", egg__clutch__code="W-02")
        found = found.exclude(pk__in=before)
        self.assertEqual(sorted(found.values_list("egg__number", flat=True)), [1, 2])

    def test_a_refused_look_is_noted_for_none(self) -> None:
        before = Look.objects.count()
        sent = {"row": ["e1", "e2"], "trait": "lobe_attach", "level": "upside_down", "stage": "shed"}
        page = self.client.post("/clutches/W-02/line-up/tick/", sent, follow=True).content.decode()
        self.assertIn("is not an answer to lobe_attach", page)
        page = self.client.post("/clutches/W-02/line-up/tick/", {**sent, "row": [], "level": "floating"}, follow=True)
        self.assertIn("Pick at least one", page.content.decode())
        self.assertEqual(Look.objects.count(), before)

    def test_another_collections_clutch_is_not_there(self) -> None:
        for path in ("", "picture.png", "levels/"):
            self.assertEqual(self.client.get(f"/clutches/X-01/line-up/{path}").status_code, 404)

    def test_a_photo_whose_light_is_not_marked_says_so(self) -> None:
        self.client.post(f"/photos/{self.first.pk}/light/", {"card": ""})
        do_jobs()
        self.assertIn("light not corrected", self.client.get("/clutches/W-02/line-up/").content.decode())
