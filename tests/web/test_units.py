"""Days and temperatures as a collection writes them: chosen when it is made, changed later, everywhere on its pages."""

from __future__ import annotations

from datetime import date
from unittest import TestCase

from eyot.collection.models import Collection
from eyot.season.models import Clutch
from eyot.shared import units
from eyot.shared.forms import DayField
from eyot.shared.units import CELSIUS, DAY_FIRST, FAHRENHEIT, ISO, MONTH_FIRST, use
from tests.web.season_data import SeasonCase

DAY = date(2026, 5, 3)


class Words(TestCase):
    def setUp(self) -> None:
        self.addCleanup(use, DAY_FIRST, CELSIUS)

    def test_days_by_each_form(self) -> None:
        for form, words in (
            (DAY_FIRST, ("3 May 2026", "3 May", "3 May", "j M Y, H:i", "D j F")),
            (MONTH_FIRST, ("May 3, 2026", "May 3", "May 3", "M j, Y, H:i", "D, F j")),
            (ISO, ("2026-05-03", "05-03", "05-03", "Y-m-d, H:i", "D, m-d")),
        ):
            use(form, CELSIUS)
            told = units.long_day(DAY), units.short_day(DAY), units.spelled_day(DAY)
            self.assertEqual((*told, units.form_of("j M Y, H:i"), units.form_of("D j F")), words)

    def test_a_day_with_slashes_is_read_as_the_collection_writes_days(self) -> None:
        for form, typed, expected in (
            (DAY_FIRST, "03/05/2026", DAY),
            (MONTH_FIRST, "05/03/2026", DAY),
            (MONTH_FIRST, "3.5.2026", DAY),
            (ISO, "2026-05-03", DAY),
        ):
            use(form, CELSIUS)
            self.assertEqual(DayField().clean(typed), expected)
        use(ISO, CELSIUS)
        with self.assertRaisesRegex(Exception, "is not a day"):
            DayField().clean("03/05/2026")

    def test_temperatures(self) -> None:
        self.assertEqual(units.temperature(31.5), "31.5 °C")
        use(DAY_FIRST, FAHRENHEIT)
        self.assertEqual((units.temperature(31.5), units.temperature(33, 0)), ("88.7 °F", "91 °F"))


class OnPages(SeasonCase):
    def practices(self, **other: str) -> dict[str, str]:
        page = self.client.get("/schools/")
        return {name: str(page.context["form"][name].value()) for name in page.context["form"].fields} | other

    def test_a_collection_chooses_when_it_is_made(self) -> None:
        given = {"collection": "Far Reach", "time_zone": "", "day_form": "month", "grade": "F"}
        self.client.post("/collections/new/", given)
        made = Collection.objects.get(key="far-reach")
        self.assertEqual((made.day_form, made.grade), ("month", "F"))
        page = self.client.post("/collections/new/", given | {"collection": "X", "grade": "K"})
        self.assertContains(page, "in what temperatures are told", status_code=422)

    def test_and_otherwise_later_on_every_page_of_it_and_on_no_other(self) -> None:
        clutch = Clutch.objects.get(collection=self.collection, code="W-04")
        assert clutch.laid_on
        long, changed = f"{clutch.laid_on:%-d %B %Y}", f"{clutch.laid_on:%B %-d, %Y}"
        record = "/clutches/W-04/record/"
        self.assertContains(self.client.get(record), long)
        self.assertContains(self.client.get(record), "31 °C to 32 °C")
        page = self.client.post("/schools/", self.practices(day_form="never"))
        self.assertContains(page, "Choose how days are written", status_code=422)
        self.client.post("/schools/", self.practices(day_form="month", grade="F", time_zone="Europe/Paris"))
        page = self.client.get(record)
        self.assertContains(page, changed)
        self.assertNotContains(page, long)
        self.assertContains(page, "88 °F to 90 °F")
        self.assertNotContains(page, "°C</text>")
        self.assertEqual(units.long_day(DAY), "3 May 2026", "nothing of it is left for the next request")
