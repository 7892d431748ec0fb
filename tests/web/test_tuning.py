"""Own proven animals tune how strongly a look tells: offered above a floor, shown before and after, taken back."""

from __future__ import annotations

from unittest.mock import patch

from eyot.bench.models import Look, Proof
from eyot.bench.siblings import judged
from eyot.bench.tuning import take_over, tuned_looks, tuning_rows
from eyot.collection.catalogue import catalogue_of
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class Tuning(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = "/scores/tuning/"

    def enough(self) -> str:
        """A look with another factor than 1, the floor being lowered to what the demo has."""
        self.enterContext(patch("eyot_core.identify.tuning.LEAST_HATCHLINGS", 8))
        return next(row.trait for row in tuning_rows(self.collection) if row.is_offered)

    def push_of(self, trait: str) -> float:
        effects = catalogue_of(self.collection).document["effects"]
        own = [one for one in effects if one["trait"] == trait]
        pushes = sum(abs(push) for one in own for push in one.get("push", {}).values())
        return pushes + sum(abs(one.get("shift", 0.0)) for one in own)

    def fresh(self) -> None:
        self.collection.__dict__.pop("_overlaid", None)

    def test_counts_are_those_of_proven_hatchlings_with_looks(self) -> None:
        proven = set(Proof.objects.values_list("egg", flat=True))
        for row in tuned_looks(self.collection):
            looked = Look.objects.filter(trait=row.trait, egg__in=proven, withdrawn_at=None).exclude(level="unseen")
            self.assertLessEqual(row.hatchlings, looked.values("egg").distinct().count())
            self.assertGreaterEqual(row.after + 1e-12, row.before if row.times != 1 else row.after)

    def test_taken_over_it_counts_in_every_clutch_and_taken_back_it_does_not(self) -> None:
        trait = self.enough()
        before, row = self.push_of(trait), next(r for r in tuning_rows(self.collection) if r.trait == trait)
        self.assertEqual(self.client.post(f"{self.page}{trait}/", {"use": "proven"}).status_code, 302)
        self.fresh()
        self.assertAlmostEqual(self.push_of(trait), before * row.times)
        self.assertIs(judged(self.clutch()).model.catalogue, catalogue_of(self.clutch().collection))
        self.assertContains(self.client.get(self.page), "take back")
        self.assertContains(self.client.get("/reference/opinions/"), f"{row.times:g} times as strongly")
        again = next(r for r in tuning_rows(self.collection) if r.trait == trait)
        self.assertEqual((again.times, again.is_offered), (row.times, False), "reckoned against the catalogue itself")
        self.client.post(f"{self.page}{trait}/", {"use": "catalogue"})
        self.fresh()
        self.assertAlmostEqual(self.push_of(trait), before)

    def test_below_the_floor_nothing_is_offered_and_nothing_can_be_taken_over(self) -> None:
        rows = tuning_rows(self.collection)
        self.assertFalse(any(row.is_offered for row in rows))
        few = rows[0]
        with self.assertRaisesRegex(Refused, f"20 proven animals or more; there are {few.hatchlings}"):
            take_over(self.collection, self.keeper, few.trait)
        self.assertContains(self.client.get(self.page), f"too few to say: {few.hatchlings} of 20")
        response = self.client.post(f"{self.page}{few.trait}/", {"use": "proven"})
        self.assertContains(response, "Nothing was changed", status_code=422)
        self.assertEqual(self.collection.overrides.filter(value__kind="trust").count(), 0)

    def test_nothing_proven_says_how_to_prove(self) -> None:
        Proof.objects.all().delete()
        self.assertContains(self.client.get(self.page), "takes what breeding, a test or age has shown")

    def test_a_look_that_is_not_known_changes_nothing(self) -> None:
        before = self.collection.overrides.count()
        self.assertEqual(self.client.post(f"{self.page}shoe_size/", {"use": "proven"}).status_code, 422)
        self.assertEqual(self.client.post(f"{self.page}shoe_size/", {"use": "catalogue"}).status_code, 302)
        self.assertEqual(self.collection.overrides.count(), before)
