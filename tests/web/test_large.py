"""Large collections: the same number of queries as a small one, so that pages stay fast.

Times are measured by the bench, never by a test.
"""

from __future__ import annotations

import re

from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.jobs import do_jobs
from tests.web.large import a_thousand_hets, fill
from tests.web.season_data import SeasonCase

PAGES = (
    *(
        "/",
        "/animals/",
        "/animals/?q=mojave&role=dam",
        "/animals/?q=fathom",
        "/pairings/",
        "/history/",
        "/relook/count/",
        "/season.ics",
        "/hets/",
    ),
    *("/homes/", "/homes/list/", "/homes/rack/", "/homes/today/", "/homes/labels/", "/papers/"),
    *(
        "/pairings/?dam=Marram&sire=Fathom",
        "/clutches/W-04/",
        "/clutches/W-04/record/",
        "/clutches/W-04/cutting/",
        "/clutches/W-02/2/",
    ),
)
STAMPED = 13
"""Queries of the ledger where a worker's figures are shown: what they rest on is looked at, and they are read."""


class Large(SeasonCase):
    def queries(self, page: str) -> int:
        self.client.get(page)
        with CaptureQueriesContext(connection) as captured:
            self.assertEqual(self.client.get(page).status_code, 200, page)
        return len(captured)

    def test_queries_do_not_grow_with_the_collection(self) -> None:
        small = {page: self.queries(page) for page in PAGES}
        fill(self.collection, self.keeper.pk, share=10)
        self.client.get("/hets/")
        do_jobs()
        for page in PAGES:
            with self.subTest(page):
                self.assertLessEqual(self.queries(page), small[page] + (STAMPED if page == "/hets/" else 1))

    def test_a_ledger_of_a_thousand_possible_hets_of_four_generations(self) -> None:
        a_thousand_hets(self.collection)
        page = self.client.get("/hets/?sort=name")
        self.assertContains(page, 'class="ledger-bar"', 60)
        count = re.search(r"(\d+) in all, page 1 of", page.content.decode())
        assert count is not None
        self.assertGreater(int(count[1]), 1000)

    def test_a_goal_over_all_animals(self) -> None:
        fill(self.collection, self.keeper.pk, share=4)
        goal = "/pairings/goal/?goal=pastel+mojave+leopard"
        self.assertContains(self.client.get(goal), "pairings can; the best 12")
