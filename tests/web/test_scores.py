"""Calls against later proof: scores by gene and verdict, the calibration, and proofs as they are entered."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from eyot.bench.actions import make_call, prove
from eyot.bench.models import Proof
from eyot.bench.scores import scored, scores_of
from eyot.bench.siblings import judged
from eyot.collection.history import changes_of, take_back
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class Scoring(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        Proof.objects.all().delete()
        self.now, self.today = timezone.now(), timezone.localdate()

    def call(self, **verdicts: tuple[str, int]) -> None:
        judgement = judged(self.clutch("W-02"))
        every = {gene: verdicts.get(gene, ("not", 1)) for gene in judgement.model.pairing.given_genes}
        make_call(judgement, self.egg(2, "W-02"), self.keeper, every, "shed", "", uuid4(), self.now)

    def prove(self, **copies: int | None) -> None:
        prove(self.egg(2, "W-02"), self.keeper, copies, "tested", self.today, self.now)

    def test_claims_are_over_calls_denials_under_calls(self) -> None:
        self.call(fire=("sure", 1), vanilla=("likely", 1), enchi=("possible", 1))
        self.prove(fire=1, vanilla=0, enchi=1, pinstripe=1)
        rows = {row.gene: row for row in scores_of(self.collection).rows}
        self.assertEqual((rows["Fire"].right, rows["Fire"].over, rows["Fire"].under), (1, 0, 0))
        self.assertEqual((rows["Vanilla"].right, rows["Vanilla"].over), (0, 1))
        self.assertEqual((rows["Pinstripe"].right, rows["Pinstripe"].under), (0, 1))
        self.assertEqual((rows["Enchi"].right, rows["Enchi"].over, rows["Enchi"].under), (0, 0, 0))

    def test_two_copies_called_and_one_proven_is_not_there(self) -> None:
        egg = self.egg(1, "V-09")
        prove(egg, self.keeper, {"ultramel": 1}, "bred", self.today, self.now)
        self.assertEqual([(row.gene, row.there) for row in scored(self.collection)], [("ultramel", False)])

    def test_a_recessive_that_is_denied_and_only_carried_was_rightly_denied(self) -> None:
        prove(self.egg(2, "V-09"), self.keeper, {"ultramel": 1}, "tested", self.today, self.now)
        row = scored(self.collection)[0]
        self.assertEqual((row.verdict, row.there), ("not", False))

    def test_each_word_says_how_it_held_with_its_interval(self) -> None:
        self.call(fire=("sure", 1), vanilla=("sure", 1))
        self.prove(fire=1, vanilla=0)
        words = {row.verdict: row.words for row in scores_of(self.collection).verdicts}
        self.assertTrue(words["Sure"].startswith("1 of 2 were there ("))
        self.assertEqual(words["Likely"], "none proven yet")

    def test_scores_of_one_member_count_only_his_calls(self) -> None:
        self.call(fire=("sure", 1))
        self.prove(fire=1)
        self.assertEqual(scores_of(self.collection, self.keeper.pk).count, 1)
        self.assertEqual(scores_of(self.collection, self.helper.pk).count, 0)

    def test_proofs_are_changed_taken_away_and_taken_back(self) -> None:
        self.prove(fire=1, vanilla=0)
        self.prove(fire=2, vanilla=None)
        self.assertEqual([(row.gene, row.copies) for row in Proof.objects.all()], [("fire", 2)])
        take_back(changes_of(self.collection)[0], self.keeper, self.now)
        self.assertEqual({(row.gene, row.copies) for row in Proof.objects.all()}, {("fire", 1), ("vanilla", 0)})

    def test_what_can_not_be_is_refused(self) -> None:
        egg = self.egg(2, "W-02")
        for copies, how, on, words in (
            (1, "guessed", self.today, "How it was proven"),
            (1, "bred", self.today + timedelta(days=2), "lies ahead"),
            (5, "bred", self.today, "none, one or two"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                prove(egg, self.keeper, {"fire": copies}, how, on, self.now)

    def test_the_pages(self) -> None:
        self.assertContains(self.client.get("/scores/"), "Nothing is proven yet")
        self.call(fire=("sure", 1))
        self.client.post("/clutches/W-02/2/proof/", {"copies-fire": "1", "copies-vanilla": "", "how": "tested"})
        self.assertEqual([(row.gene, row.copies) for row in Proof.objects.all()], [("fire", 1)])
        page = self.client.get("/scores/?who=keeper")
        self.assertContains(page, "1 called genes with later proof")
        self.assertContains(page, "1 of 1 were so")
        self.assertEqual(self.client.get("/clutches/X-01/1/proof/").status_code, 404)


class Demo(SeasonCase):
    def test_last_years_clutches_were_called_by_their_looks_and_tested(self) -> None:
        found = scores_of(self.collection)
        self.assertGreater(found.count, 60)
        sure = next(row.words for row in found.verdicts if row.verdict == "Sure")
        self.assertNotEqual(sure, "none proven yet")
        self.assertGreaterEqual(len(found.plot), 4)
