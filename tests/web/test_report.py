"""The season's report: every figure against the record."""

from __future__ import annotations

import pypdfium2
from django.utils import timezone

from eyot.bench.models import Call, Proof
from eyot.homes.report import report_of
from eyot.season.models import Egg
from tests.web.test_homes import HomesCase


class Report(HomesCase):
    def report(self, back: int = 0) -> object:
        return report_of(self.collection, self.clutch("W-02").laid_on.year - back, self.now)  # type: ignore[union-attr]

    def test_eggs_and_losses_are_those_of_the_record(self) -> None:
        report = self.report()
        rows = {row.clutch.code: row for row in report.clutches}  # type: ignore[attr-defined]
        self.assertEqual(set(rows), {"W-02", "W-03", "W-04", "W-06"})
        one = rows["W-02"]
        self.assertEqual((one.eggs, one.out, one.slugs, one.in_the_egg, one.days), (6, 5, 1, 0, 60))
        self.assertEqual((rows["W-04"].eggs, rows["W-04"].in_the_egg), (7, 7), "five are cut, and two are shut")
        self.assertEqual([str(loss.egg) for loss in report.losses], ["W-02, egg 6"])  # type: ignore[attr-defined]
        self.decide(3, "died", why="kinked, would not eat")
        loss = next(one for one in self.report().losses if one.egg.number == 3)  # type: ignore[attr-defined]
        self.assertEqual((loss.what, loss.found), ("died as a hatchling", "kinked, would not eat"))

    def test_last_seasons_calls_are_held_against_what_was_proven(self) -> None:
        rows = {row.verdict: row for row in self.report().verdicts}  # type: ignore[attr-defined]
        year = self.clutch("W-02").laid_on.year - 1  # type: ignore[union-attr]
        last = {}
        for call in Call.objects.filter(egg__clutch__laid_on__year=year, egg__clutch__collection=self.collection):
            last[call.egg_id] = call
        proofs = {(one.egg_id, one.gene): one.copies for one in Proof.objects.all()}
        held = [
            proofs[call.egg_id, one.gene] >= one.copies
            for call in last.values()
            for one in call.genes.all()
            if one.verdict == "sure" and (call.egg_id, one.gene) in proofs
        ]
        self.assertGreater(len(held), 10)
        self.assertTrue(rows["sure"].before.startswith(f"{sum(held)} of {len(held)} proven right"), rows["sure"].before)

    def test_what_became_of_them_and_what_was_earned(self) -> None:
        report = self.report(1)
        self.assertEqual(report.earned, 330)  # type: ignore[attr-defined]
        self.assertEqual(dict(report.fates)["sold"], 2)  # type: ignore[attr-defined]
        self.assertIn("25-V09-1", [row.name for row in report.held])  # type: ignore[attr-defined]

    def test_what_the_next_season_needs_names_who_is_too_light(self) -> None:
        self.collection.dam_least_g = 9000
        self.collection.save()
        self.assertTrue(any(words.startswith("0 dams of 9000 g") for words in self.report().needs))  # type: ignore[attr-defined]

    def test_as_page_and_as_pdf_it_says_the_same(self) -> None:
        year = self.clutch("W-02").laid_on.year  # type: ignore[union-attr]
        page = self.client.get(f"/season/{year}/report/")
        answer = self.client.get(f"/season/{year}/report.pdf")
        text = " ".join(
            " ".join(part.get_textpage().get_text_bounded().split()) for part in pypdfium2.PdfDocument(answer.content)
        )
        for words in (
            "W-02",
            "Sallow × Culm",
            "Expected, and what came",
            "What the next season needs",
            "not called yet",
        ):
            self.assertContains(page, words)
            self.assertIn(words, text)
        self.assertEqual(self.client.get("/season/1999/report/").status_code, 404)

    def test_it_reads_the_record_and_changes_nothing(self) -> None:
        before = list(Egg.objects.order_by("pk").values())
        self.report()
        self.assertEqual(list(Egg.objects.order_by("pk").values()), before)
        self.assertEqual(self.collection.changes.filter(at__gte=self.now, at__lte=timezone.now()).count(), 0)
