"""Siblings laid beside one another: kept, counted once, read from both sides, taken back, refused where it can't be reckoned."""

from __future__ import annotations

from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone

from eyot.bench.live import stamp_of
from eyot.bench.models import SiblingComparison
from eyot.bench.queries import bench_view
from eyot.bench.sibling_comparisons import Laid, compare_siblings, counting_comparisons, take_apart
from eyot.bench.siblings import judged
from eyot.bench.why import why_view
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class SiblingsCompared(SeasonCase):
    code = "W-02"

    def laid(self, other: int = 2, answer: str = "more", trait: str = "lightness", stage: str = "shed") -> Laid:
        return Laid(trait, answer, other, stage, "sure", uuid4())

    def lay(self, number: int = 1, **more: object) -> SiblingComparison:
        return compare_siblings(self.egg(number, self.code), self.keeper, self.laid(**more), timezone.now())  # type: ignore[arg-type]

    def chances(self, number: int) -> list[float]:
        judgement = judged(self.clutch(self.code))
        return [line.after for line in judgement.genes(self.egg(number, self.code))]

    def words(self, number: int) -> list[str]:
        view = bench_view(judged(self.clutch(self.code)), self.egg(number, self.code), "shed", self.keeper)
        assert view.beside is not None
        return view.beside.said

    def post(self, number: int, what: str, other: object, key: object = None) -> HttpResponse:
        given = {"what": what, "other": other, "stage": "shed", "confidence": "sure", "key": key or uuid4()}
        return self.client.post(f"/clutches/W-02/{number}/beside/", given, headers={"HX-Request": "true"})

    def test_it_moves_both_hatchlings_and_reads_from_both_sides(self) -> None:
        before = self.chances(1), self.chances(2)
        self.assertEqual(self.post(1, "lightness.more", 2).status_code, 200)
        after = self.chances(1), self.chances(2)
        for old, new in zip(before, after, strict=True):
            self.assertNotEqual(old, new)
            self.assertGreater(max(abs(a - b) for a, b in zip(old, new, strict=True)), 0.001)
        self.assertEqual((self.words(1), self.words(2)), (["lighter than egg 2"], ["darker than egg 1"]))

    def test_the_last_word_of_one_person_on_a_pair_counts_whichever_way_round(self) -> None:
        self.lay()
        last = self.lay(2, other=1, answer="same")
        self.assertEqual(counting_comparisons(SiblingComparison.objects.all()), [last])
        self.assertEqual(self.words(1), ["as light as egg 2"])

    def test_sent_twice_it_counts_once(self) -> None:
        key = uuid4()
        for _ in range(2):
            self.post(1, "lightness.less", 2, key)
        self.assertEqual(SiblingComparison.objects.count(), 1)

    def test_taken_back_it_counts_no_more_and_stays_in_the_trail(self) -> None:
        before, stamp = self.chances(1), stamp_of(self.clutch(self.code))
        row = self.lay()
        self.assertNotEqual(stamp_of(self.clutch(self.code)), stamp)
        page = self.client.post(
            f"/clutches/W-02/2/beside/{row.pk}/withdraw/", {"stage": "shed"}, headers={"HX-Request": "true"}
        )
        self.assertContains(page, "Darker than egg 1, sure")
        self.assertContains(page, "taken back")
        self.assertEqual(self.chances(1), before)
        self.assertTrue(SiblingComparison.objects.filter(pk=row.pk).exists())

    def test_another_persons_comparison_cannot_be_taken_back(self) -> None:
        row = self.lay()
        with self.assertRaisesRegex(Refused, "own comparisons"):
            take_apart(self.egg(1, self.code), self.helper, row.pk, timezone.now())
        row.refresh_from_db()
        self.assertIsNone(row.withdrawn_at)

    def test_what_cannot_be_reckoned_is_refused_and_nothing_changes(self) -> None:
        self.lay()
        for message, given in (
            ("beside another open one", {"other": 1}),
            ("beside another open one", {"other": 6}),
            ("beside another open one", {"other": 99}),
            ("what is to be said", {"trait": "lobe_tone"}),
            ("what is to be said", {"answer": "prettier"}),
            ("by another look or at another stage", {"trait": "contrast", "other": 3}),
            ("by another look or at another stage", {"stage": "egg", "other": 3}),
            ("stage or how sure", {"stage": "birth", "other": 3}),
        ):
            with self.subTest(given), self.assertRaisesRegex(Refused, message):
                self.lay(**given)
        self.assertEqual(SiblingComparison.objects.count(), 1)
        refused = self.post(1, "lightness.more", "nobody")
        self.assertContains(refused, "Nothing was changed", status_code=422)

    def test_the_balance_of_a_gene_tells_by_how_much(self) -> None:
        self.lay()
        judgement = judged(self.clutch(self.code))
        message = [
            why_view(judgement, self.egg(1, self.code), gene, 1, {}).beside[0]
            for gene in judgement.model.pairing.given_genes
        ]
        self.assertTrue(
            all(words.startswith("Lighter than egg 2 (keeper, after the first shed): ") for words in message)
        )
        self.assertTrue(any("for, " in words or "against, " in words for words in message), message)
