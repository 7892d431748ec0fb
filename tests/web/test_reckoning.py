"""Hets that are too much to work out while a page is waited for: a worker's figures, and what stands until they are there."""

from __future__ import annotations

from dataclasses import replace
from random import Random
from unittest.mock import patch

from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from eyot_core.proof import kin as core

from eyot.bench.models import CalledGene, Look, Proof
from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal, CarriedGene, Sex
from eyot.hets import reckoning
from eyot.hets.actions import enter_carrier
from eyot.hets.ledger import Asked, ledger
from eyot.hets.models import GeneReckoning, GeneTest, HetMarker, PastBreeding
from eyot.hets.reckoning import order, reckon, stamp_of
from eyot.season.models import Weighing
from eyot.shared.jobs import forget_failures
from eyot.shared.refusal import Refused
from tests.jobs import do_jobs, fail_jobs
from tests.web.season_data import SeasonCase

FOUNDERS, ANIMALS, BACK = 16, 110, 50


class Waited(SeasonCase):
    def figures(self, **asked: str) -> dict[tuple[str, str], tuple[str, ...]]:
        return {
            (row.animal.name, row.gene): row.figures
            for row in ledger(self.collection, Asked(sort="name", **asked)).rows
        }

    def jobs(self) -> int:
        return ProcrastinateJob.objects.filter(task_name=reckoning.JOB, status="todo").count()

    def stamp(self) -> str:
        return stamp_of(self.collection, catalogue_of(self.collection))


class Tangled(Waited):
    """A family in which everybody is related to everybody in many ways."""

    def setUp(self) -> None:
        super().setUp()
        chosen, made = Random(4), list[Animal]()
        for place in range(ANIMALS):
            around = made[-BACK:]
            dam = chosen.choice([one for one in around if one.sex == Sex.FEMALE]) if place >= FOUNDERS else None
            sire = chosen.choice([one for one in around if one.sex == Sex.MALE]) if place >= FOUNDERS else None
            sex = (Sex.FEMALE, Sex.MALE)[place % 2]
            made.append(
                Animal.objects.create(collection=self.collection, name=f"T{place:03}", sex=sex, dam=dam, sire=sire)
            )
        self.made = made
        for one in made[:FOUNDERS]:
            CarriedGene.objects.create(animal=one, gene="clown", known="possible", chance="1/2")
        bred = {"gene": "clown", "partner": "visual", "on": timezone.localdate()}
        PastBreeding.objects.create(animal=made[-1], hatchlings=6, visuals=3, **bred)
        self.parent = made[-1].dam
        assert self.parent is not None

    def page(self, number: int) -> str:
        return self.client.get(f"/hets/{number}/clown/").content.decode()

    def test_relatives_are_counted_by_a_worker_and_drawn(self) -> None:
        page = self.client.get("/hets/?gene=clown")
        self.assertContains(page, "A worker is counting")
        self.assertContains(page, "by each animal’s parents and its own evidence")
        self.assertIn("its own, until relatives are counted", self.page(self.parent.pk))
        self.assertEqual(self.jobs(), 1, "asked for once, however many look")
        before = ledger(self.collection, Asked("clown")).page.object_list[0].kin.of(self.parent.pk)
        do_jobs()

        page = self.client.get("/hets/?gene=clown")
        self.assertNotContains(page, "A worker is counting")
        self.assertContains(page, "They are drawn")
        self.assertContains(page, "± ")
        self.assertIn("everything, of all relatives, drawn", self.page(self.parent.pk))
        after = ledger(self.collection, Asked("clown")).page.object_list[0].kin.of(self.parent.pk)
        assert before is not None and after is not None
        self.assertEqual((before.basis, before.error, after.basis), ("own", 0.0, "drawn"))
        self.assertGreater(after.carrier, before.carrier + 3 * after.error, "a certain carrier is her young")
        self.assertEqual(self.jobs(), 0)

    def test_after_a_change_the_earlier_figures_stand_until_the_worker_is_through(self) -> None:
        reckon(self.collection.pk, timezone.now())
        earlier = self.figures(gene="clown")
        self.assertEqual(self.jobs(), 0)
        test = {
            "gene": "clown",
            "sensitivity": 0.99,
            "specificity": 0.99,
            "on": timezone.localdate(),
            "laboratory": "x",
        }
        GeneTest.objects.create(animal=self.made[40], result="clear", **test)
        page = self.client.get("/hets/?gene=clown")
        self.assertContains(page, "as it stood on")
        self.assertContains(self.client.get(f"/hets/{self.parent.pk}/clown/"), "These are of")
        self.assertEqual((self.figures(gene="clown"), self.jobs()), (earlier, 1))
        do_jobs()
        self.assertNotEqual(self.figures(gene="clown"), earlier)
        self.assertEqual(self.jobs(), 0)

    def test_what_nobody_knows_yet_is_not_entered_as_certain(self) -> None:
        with self.assertRaisesMessage(Refused, "A worker is at the figures of this gene"):
            enter_carrier(self.made[-1], self.keeper, "clown", timezone.now())
        do_jobs()
        enter_carrier(self.made[-1], self.keeper, "clown", timezone.now())
        self.assertTrue(CarriedGene.objects.filter(animal=self.made[-1], gene="clown", chance="1").exists())

    def test_where_a_worker_failed_pages_say_so_and_ask_again_once_a_record_changes(self) -> None:
        self.client.get("/hets/?gene=clown")
        fail_jobs()
        page = self.client.get("/hets/?gene=clown")
        self.assertContains(page, "A worker failed")
        self.assertContains(page, "Clown by each animal’s parents and its own evidence")
        self.assertNotContains(page, "A worker is counting")
        self.assertNotContains(page, 'hx-trigger="load')
        carrier = self.page(self.parent.pk)
        self.assertIn("its own; what relatives say is not counted", carrier)
        self.assertNotIn("A worker is counting", carrier)
        with self.assertRaisesMessage(Refused, "A worker failed at the figures of this gene"):
            enter_carrier(self.made[-1], self.keeper, "clown", timezone.now())
        self.assertEqual(self.jobs(), 0)
        Animal.objects.filter(pk=self.made[20].pk).update(dam=None)
        self.assertContains(self.client.get("/hets/?gene=clown"), "A worker is counting")
        self.assertEqual(self.jobs(), 1)
        fail_jobs()
        self.assertContains(self.client.get("/hets/?gene=clown"), "A worker failed")
        forget_failures()  # as a worker does that is started
        self.assertContains(self.client.get("/hets/?gene=clown"), "A worker is counting")

    def test_a_family_that_is_too_much_for_the_worker_too_stands_by_its_own_and_says_so(self) -> None:
        with patch.object(reckoning, "PATIENT", replace(core.PATIENT, animals=0, drawn=0)):
            reckon(self.collection.pk, timezone.now())
        page = self.client.get("/hets/?gene=clown")
        self.assertNotContains(page, "A worker is counting")
        self.assertContains(page, "what is known of relatives is left out")
        self.assertIn("too tangled to count what relatives say", self.page(self.parent.pk))

    def test_records_that_contradict_one_another_are_told_when_the_worker_finds_them(self) -> None:
        CarriedGene.objects.filter(animal__in=self.made[:2]).update(copies=2, known="seen", chance="1")
        Animal.objects.filter(pk=self.made[20].pk).update(dam=self.made[0], sire=self.made[1])  # and does not show it
        self.assertContains(self.client.get("/hets/?gene=clown"), "A worker is counting")
        do_jobs()
        self.assertContains(
            self.client.get("/hets/?gene=clown"), "Clown: what the records say of these animals can’t all be"
        )


class ManyAnimals(Waited):
    """A collection of more animals than are worked out at once."""

    def setUp(self) -> None:
        super().setUp()
        self.at_once = self.figures()
        limit = patch.object(reckoning, "MOST_AT_ONCE", 3)
        limit.start()
        self.addCleanup(limit.stop)

    def test_what_the_worker_finds_is_what_a_small_collection_shows_at_once(self) -> None:
        self.assertEqual((self.figures(), self.jobs()), ({}, 1))
        do_jobs()
        self.assertEqual(self.figures(), self.at_once)
        self.assertGreater(len(self.at_once), 10)

    def test_until_then_pages_say_what_is_missing(self) -> None:
        page = self.client.get("/hets/")
        self.assertContains(page, "Piebald not listed yet")
        self.assertNotContains(page, "Nobody here is stated to carry a recessive")
        marram = self.collection.animals.get(name="Marram")
        carrier = self.client.get(f"/hets/{marram.pk}/piebald/")
        self.assertContains(carrier, "A worker is counting")
        self.assertNotContains(carrier, "After breeding and tests")
        do_jobs()
        self.assertContains(self.client.get(f"/hets/{marram.pk}/piebald/"), "everything, of all relatives")

    def test_of_a_collection_that_is_gone_nothing_is_worked_out(self) -> None:
        reckon(0, timezone.now())
        self.assertFalse(GeneReckoning.objects.exists())

    def test_a_gene_that_nobody_has_any_more_is_forgotten(self) -> None:
        reckon(self.collection.pk, timezone.now())
        self.assertTrue(GeneReckoning.objects.filter(gene="piebald").exists())
        CarriedGene.objects.filter(gene="piebald").delete()
        Proof.objects.filter(gene="piebald").delete()
        CalledGene.objects.filter(gene="piebald").delete()
        for model in (HetMarker, GeneTest, PastBreeding):
            model.objects.filter(gene="piebald").delete()
        reckon(self.collection.pk, timezone.now())
        self.assertFalse(GeneReckoning.objects.filter(gene="piebald").exists())


class Stamps(Waited):
    def test_a_stamp_changes_with_what_a_reckoning_rests_on_and_with_nothing_else(self) -> None:
        one, egg, day = self.collection.animals.get(name="Marram"), self.egg(5, "W-04"), timezone.localdate()
        stamps = [self.stamp()]
        Weighing.objects.create(animal=one, grams=900, on=day)
        Animal.objects.filter(pk=one.pk).update(code="sheds-well")
        Look.objects.create(
            egg=egg, trait="lobe_attach", level="floating", stage="egg", seen_by=self.keeper, seen_at=timezone.now()
        )
        self.assertEqual(self.stamp(), stamps[0])
        changes = (
            lambda: Animal.objects.filter(pk=one.pk).update(dam=self.collection.animals.get(name="Comfrey")),
            lambda: Animal.objects.filter(pk=one.pk).update(dam=None, sire=self.collection.animals.get(name="Fathom")),
            lambda: CarriedGene.objects.create(animal=one, gene="clown", known="possible", chance="1/2"),
            lambda: one.marks.create(gene="clown", trait="x", level="y", seen=True),
            lambda: Look.objects.create(
                egg=egg, trait="ringer", level="partial", stage="egg", seen_by=self.keeper, seen_at=timezone.now()
            ),
            lambda: self.client.post("/hets/markers/"),
        )
        for change in changes:
            change()
            self.collection.refresh_from_db()
            stamps.append(self.stamp())
        self.assertEqual(len(set(stamps)), len(changes) + 1)

    def test_what_did_not_change_is_not_worked_out_again(self) -> None:
        reckon(self.collection.pk, timezone.now())
        at = set(GeneReckoning.objects.values_list("reckoned_at"))
        reckon(self.collection.pk, timezone.now())
        self.assertEqual(set(GeneReckoning.objects.values_list("reckoned_at")), at)
        order(self.collection, self.stamp())
        order(self.collection, self.stamp())
        self.assertEqual(self.jobs(), 1)
