"""Blind first: nothing is shown before a guess; then several eyes side by side. And the collection's own thresholds."""

from __future__ import annotations

from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone

from eyot.bench.actions import Answer, record_look
from eyot.bench.blind import eyes_on, guess_blind, looks_blind, switch_blind
from eyot.bench.models import CalledGene, FirstGuess
from eyot.bench.queries import proposed_verdict
from eyot.bench.siblings import judged
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase

BENCH = "/clutches/W-04/1/"


class Blind(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.post(f"{BENCH}blind/")

    def bench(self) -> HttpResponse:
        return self.client.get(BENCH)  # type: ignore[return-value]

    def test_no_chance_no_candidate_and_no_others_answer_before_the_guess(self) -> None:
        record_look(self.egg(1), self.helper, Answer("head_stamp", "busy", "egg", "sure", uuid4()), timezone.now())
        page = self.bench()
        for words in ("after looking", "helper: busy", "Make the call", "parents <span", "Piebald"):
            self.assertNotContains(page, words)
        self.assertContains(page, "I hold it to be")
        self.assertRedirects(self.client.get(f"{BENCH}why/mojave/"), BENCH)
        self.assertRedirects(self.client.get(f"{BENCH}eyes/"), BENCH)

    def test_a_look_that_is_answered_blind_shows_nothing_either(self) -> None:
        values = {
            "trait": "lobe_attach",
            "level": "floating",
            "stage": "egg",
            "confidence": "sure",
            "key": str(uuid4()),
        }
        page = self.client.post(f"{BENCH}looks/", values, headers={"HX-Request": "true"})
        self.assertNotContains(page, "after looking")
        self.assertContains(page, "I hold it to be")

    def test_after_the_guess_everything_is_shown_and_the_guess_stays(self) -> None:
        self.client.post(f"{BENCH}guess/", {"guess": "mojave", "stage": "egg"})
        self.assertContains(self.bench(), "after looking")
        self.client.post(f"{BENCH}guess/", {"guess": "leopard", "stage": "egg"})
        self.assertEqual([guess.text for guess in FirstGuess.objects.all()], ["mojave"])
        self.assertContains(self.client.get(f"{BENCH}?stage=shed"), "I hold it to be")

    def test_each_chooses_for_himself(self) -> None:
        self.assertTrue(looks_blind(self.collection, self.keeper))
        self.assertFalse(looks_blind(self.collection, self.helper))
        switch_blind(self.collection, self.keeper)
        self.assertContains(self.bench(), "after looking")

    def test_an_empty_guess_is_refused(self) -> None:
        self.assertContains(
            self.client.post(f"{BENCH}guess/", {"guess": " ", "stage": "egg"}), "needs a word", status_code=422
        )
        with self.assertRaises(Refused):
            guess_blind(self.egg(7), self.keeper, "egg", "mojave", timezone.now())


class SideBySide(SeasonCase):
    def look(self, who: object, trait: str, level: str) -> None:
        record_look(self.egg(1), who, Answer(trait, level, "egg", "sure", uuid4()), timezone.now())  # type: ignore[arg-type]

    def test_agreement_is_counted_and_differences_are_named(self) -> None:
        for trait, keepers, helpers in (("head_stamp", "busy", "busy"), ("lobe_attach", "floating", "attached")):
            self.look(self.keeper, trait, keepers)
            self.look(self.helper, trait, helpers)
        guess_blind(self.egg(1), self.keeper, "egg", "mojave leopard", timezone.now())
        guess_blind(self.egg(1), self.helper, "egg", "mojave", timezone.now())
        found = eyes_on(judged(self.clutch()), self.egg(1))
        self.assertEqual((found.people, found.guesses), (["helper", "keeper"], ["mojave", "mojave leopard"]))
        self.assertEqual((found.agreed, len(found.looks)), (1, 2))
        self.assertEqual(found.differences, ["Leopard: guessed by keeper, not by helper."])
        page = self.client.get(f"{BENCH}eyes/")
        self.assertContains(page, "1 of 2")
        self.assertEqual(self.client.get("/clutches/X-01/1/eyes/").status_code, 404)

    def test_one_person_alone_is_told_what_a_second_eye_does(self) -> None:
        self.assertContains(self.client.get("/clutches/W-02/1/eyes/"), "only one person has looked")


class Thresholds(SeasonCase):
    def test_calls_are_proposed_by_the_collections_own(self) -> None:
        verdict = CalledGene.Verdict
        self.assertEqual(proposed_verdict(0.97, self.collection), verdict.SURE)
        self.assertEqual(proposed_verdict(0.02, self.collection), verdict.NOT)
        self.collection.sure_percent, self.collection.likely_percent, self.collection.not_percent = 99, 90, 1
        for chance, wanted in (
            (0.985, verdict.LIKELY),
            (0.85, verdict.POSSIBLE),
            (0.02, verdict.POSSIBLE),
            (0.005, verdict.NOT),
        ):
            with self.subTest(chance):
                self.assertEqual(proposed_verdict(chance, self.collection), wanted)

    def test_thresholds_out_of_order_are_refused(self) -> None:
        given = {
            "rounds_days": "12",
            "opening": "never",
            "opening_days": "3",
            "dam_least_g": "1",
            "sire_least_g": "1",
            "label_percent": "10",
            "day_form": "day",
            "grade": "C",
        }
        for sure, likely, none in (("80", "90", "3"), ("100", "80", "3"), ("97", "80", "85")):
            answer = self.client.post(
                "/schools/", given | {"sure_percent": sure, "likely_percent": likely, "not_percent": none}
            )
            self.assertContains(answer, "Thresholds rise", status_code=422)
        ok = self.client.post("/schools/", given | {"sure_percent": "98", "likely_percent": "85", "not_percent": "2"})
        self.assertRedirects(ok, "/")
        self.collection.refresh_from_db()
        self.assertEqual(self.collection.sure_percent, 98)
