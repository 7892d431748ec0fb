"""Why a gene stands where it stands: the balance, what would be, and that nothing is saved."""

from __future__ import annotations

from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone

from eyot.bench.actions import Answer, record_look
from eyot.bench.models import Look
from eyot.bench.why import moved_words
from tests.web.season_data import SeasonCase

HTMX = {"HX-Request": "true"}


class Why(SeasonCase):
    def look(self, trait: str, level: str, stage: str = "egg") -> None:
        record_look(self.egg(3), self.keeper, Answer(trait, level, stage, "sure", uuid4()), timezone.now())

    def why(self, gene: str, query: str = "", **headers: str) -> HttpResponse:
        return self.client.get(f"/clutches/W-04/3/why/{gene}/{query}", headers=headers)  # type: ignore[return-value]

    def test_the_strongest_cue_is_named_with_what_was_expected(self) -> None:
        self.look("white_layout", "saddles")
        page = self.why("piebald")
        view = page.context["view"]  # type: ignore[attr-defined]
        self.assertEqual(
            (view.name, view.before, view.cues[0].trait, view.cues[0].speaks_for),
            ("Piebald", "1 in 6", "white_layout", True),
        )
        self.assertContains(page, "with Piebald, in")

    def test_without_a_look_the_parents_stand(self) -> None:
        self.assertContains(self.why("leopard"), "No look speaks of it yet")

    def test_a_what_if_shows_what_would_be_and_saves_nothing(self) -> None:
        self.look("white_layout", "saddles")
        before = list(Look.objects.values_list("pk", "level", "withdrawn_at"))
        page = self.why("piebald", "?white_layout.egg=off", **HTMX)
        view = page.context["view"]  # type: ignore[attr-defined]
        self.assertTrue(view.is_changed)
        self.assertEqual(view.cues, [])
        self.assertContains(page, "nothing is saved")
        self.assertNotContains(page, "<html")
        other = self.why("piebald", "?white_layout.egg=none", **HTMX).context["view"]  # type: ignore[attr-defined]
        self.assertFalse(other.cues[0].speaks_for)
        self.assertEqual(list(Look.objects.values_list("pk", "level", "withdrawn_at")), before)

    def test_what_is_asked_of_looks_that_are_not_there_changes_nothing(self) -> None:
        self.look("white_layout", "saddles")
        view = self.why("piebald", "?head_stamp.egg=busy&white_layout.egg=green").context["view"]  # type: ignore[attr-defined]
        self.assertFalse(view.is_changed)

    def test_what_would_settle_it_names_time_and_breeding(self) -> None:
        view = self.why("yellow_belly").context["view"]  # type: ignore[attr-defined]
        self.assertTrue(any(words.startswith("after the first shed") for words in view.outlook))

    def test_what_a_comparison_moves_is_told_as_odds_each_way(self) -> None:
        """Odds of 1 to 4 become even: four times for it; and back: four times against it."""
        self.assertEqual(moved_words(0.2, 0.5), "for, 4.0 times")
        self.assertEqual(moved_words(0.5, 0.2), "against, 4.0 times")
        self.assertEqual(moved_words(0.5, 0.505), "it says nothing of it")
        self.assertEqual(moved_words(1.0, 1.0), "it makes no difference")

    def test_a_look_that_is_left_out_is_silent_and_the_gene_has_what_settles_it(self) -> None:
        self.look("white_layout", "saddles")
        view = self.why("piebald", "?white_layout.egg=off").context["view"]  # type: ignore[attr-defined]
        (row,) = view.silent
        self.assertEqual((row.trait, row.stage), ("white_layout", "egg"))
        self.assertEqual((row.trait, row.expected, row.factor, row.bar), ("white_layout", "", "", 0))
        self.assertIn("DNA test of a shed skin", " ".join(view.settles))

    def test_the_balance_of_two_copies_is_asked_for(self) -> None:
        views = [self.why("yellow_belly", asked).context["view"] for asked in ("", "?copies=2")]  # type: ignore[attr-defined]
        self.assertEqual([(view.copies, view.name) for view in views], [(1, "Yellow Belly"), (2, "Ivory")])

    def test_a_gene_these_parents_lack_and_an_egg_that_is_shut_have_no_why(self) -> None:
        self.assertEqual(self.why("clown").status_code, 404)
        self.assertEqual(self.client.get("/clutches/W-04/7/why/mojave/").status_code, 404)
        self.assertEqual(self.client.get("/clutches/X-01/1/why/mojave/").status_code, 404)
