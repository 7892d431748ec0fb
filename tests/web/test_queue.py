"""From one open question to the next; and what is said aloud."""

from __future__ import annotations

from uuid import uuid4

from django.utils import timezone

from eyot.bench.actions import make_call
from eyot.bench.next_hatchling import next_hatchling
from eyot.bench.siblings import judged
from tests.web.season_data import SeasonCase


class RelookQueue(SeasonCase):
    def call(self, number: int) -> None:
        judgement = judged(self.clutch())
        verdicts = dict.fromkeys(judgement.model.pairing.given_genes, ("not", 1))
        make_call(judgement, self.egg(number), self.keeper, verdicts, "egg", "", uuid4(), timezone.now())

    def test_a_sibling_with_the_most_telling_question_comes_first(self) -> None:
        found = next_hatchling(self.clutch(), 1)
        assert found is not None
        judgement = judged(self.clutch())
        gains = {
            egg.number: judgement.next_looks(egg, egg.stage)[0].gain
            for egg in self.clutch().eggs.all()
            if egg.is_open and egg.number != 1
        }
        self.assertEqual(gains[found.number], max(gains.values()))

    def test_when_all_siblings_are_called_the_season_goes_on(self) -> None:
        for number in (2, 3, 4, 5):
            self.call(number)
        found = next_hatchling(self.clutch(), 1)
        assert found is not None
        self.assertNotEqual(found.clutch.code, "W-04")
        answer = self.client.get("/clutches/W-04/1/next/")
        self.assertRedirects(answer, f"/clutches/{found.clutch.code}/{found.number}/", fetch_redirect_response=False)

    def test_of_another_clutch_every_egg_counts_its_first_too(self) -> None:
        self.collection.clutches.exclude(code__in=("W-04", "V-09")).delete()
        self.clutch().eggs.exclude(number=1).delete()
        found = next_hatchling(self.clutch("V-09"), 1)
        assert found is not None
        self.assertEqual((found.clutch.code, found.number), ("W-04", 1))

    def test_with_nothing_open_it_ends_at_the_closing_sheet(self) -> None:
        self.collection.clutches.exclude(code="V-09").delete()
        self.assertRedirects(
            self.client.get("/clutches/V-09/1/next/"), "/clutches/V-09/closing/", fetch_redirect_response=False
        )
        self.assertEqual(self.client.get("/clutches/X-01/1/next/").status_code, 404)

    def test_what_is_said_comes_back_as_looks_to_press(self) -> None:
        page = self.client.get("/hear/?said=floating+lobes,+wibbly+thing")
        self.assertContains(page, 'data-trait="lobe_attach" data-level="floating"')
        self.assertContains(page, "Not understood: “wibbly thing”")
        beside = self.client.get("/hear/?said=darker+than+egg+2").context["beside"]
        self.assertEqual(
            [(one["row"].answer, one["row"].than, one["words"]) for one in beside], [("less", "2", "darker than")]
        )
