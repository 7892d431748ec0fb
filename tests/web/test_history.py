"""The record of changes: who, when, taken back and forth, and refused where somebody changed the same since."""

from __future__ import annotations

from datetime import timedelta
from importlib import import_module

from django.apps import apps
from django.utils import timezone

from eyot.animals.actions import archive, weigh
from eyot.collection.history import changes_of, recording, subject_of, take_back
from eyot.collection.models import Animal, CarriedGene
from eyot.hets.models import HetMarker
from eyot.season.models import Weighing
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class History(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now = timezone.now()
        self.marram = self.collection.animals.get(name="Marram")

    def test_a_change_keeps_who_when_and_what(self) -> None:
        archive(self.marram, self.helper, self.now)
        change = changes_of(self.collection)[0]
        self.assertEqual((change.what, change.by, change.at), ("Marram archived", self.helper, self.now))
        self.assertEqual(change.subject, subject_of(self.marram))
        self.assertEqual(change.rows[0]["before"], {"archived_on": None})

    def test_a_change_of_rows_whose_table_was_renamed_since_can_be_taken_back(self) -> None:
        """As the update of an older Eyot does it: changes name the tables of their rows."""
        migration = import_module("eyot.collection.migrations.0007_catalogue_overrides")
        with recording(self.collection, self.keeper, self.now, "marked", subject_of(self.marram)) as record:
            record.add(HetMarker(animal=self.marram, gene="piebald", trait="ringer", level="partial", seen=True))
        change = changes_of(self.collection)[0]
        change.rows = [row | {"model": "hets.mark"} for row in change.rows]
        change.save()
        migration.rename_in_changes(migration.RENAMED)(apps, None)
        take_back(changes_of(self.collection)[0], self.keeper, self.now)
        self.assertFalse(HetMarker.objects.exists())

    def test_nothing_touched_keeps_nothing(self) -> None:
        with recording(self.collection, self.keeper, self.now, "no change", "") as record:
            self.assertFalse(record.change(self.marram, name="Marram"))
        self.assertEqual(changes_of(self.collection), [])

    def test_taking_back_restores_and_can_itself_be_taken_back(self) -> None:
        archive(self.marram, self.keeper, self.now)
        back = take_back(changes_of(self.collection)[0], self.helper, self.now)
        self.marram.refresh_from_db()
        self.assertIsNone(self.marram.archived_on)
        self.assertEqual(back.what, "Taken back: Marram archived")
        take_back(back, self.keeper, self.now)
        self.marram.refresh_from_db()
        self.assertEqual(self.marram.archived_on, timezone.localdate(self.now))

    def test_the_same_change_is_not_taken_back_twice(self) -> None:
        archive(self.marram, self.keeper, self.now)
        change = changes_of(self.collection)[0]
        take_back(change, self.keeper, self.now)
        with self.assertRaisesMessage(Refused, "taken back already"):
            take_back(change, self.keeper, self.now)

    def test_a_later_change_of_the_same_field_stands_in_the_way(self) -> None:
        archive(self.marram, self.keeper, self.now)
        first = changes_of(self.collection)[0]
        archive(self.marram, self.helper, self.now, back=True)
        with self.assertRaisesMessage(Refused, "Take back the later change first"):
            take_back(first, self.keeper, self.now)
        self.marram.refresh_from_db()
        self.assertIsNone(self.marram.archived_on)

    def test_a_new_row_goes_and_comes_back_with_its_number(self) -> None:
        weigh(self.marram, self.keeper, 2010, timezone.localdate(self.now), Weighing.Source.TYPED, self.now)
        made = self.marram.weighings.get(grams=2010).pk
        back = take_back(changes_of(self.collection)[0], self.keeper, self.now)
        self.assertFalse(Weighing.objects.filter(pk=made).exists())
        take_back(back, self.keeper, self.now)
        self.assertEqual(Weighing.objects.get(pk=made).grams, 2010)

    def test_a_row_on_which_others_rest_is_not_removed(self) -> None:
        with (
            self.assertRaisesMessage(Refused, "rest on it"),
            recording(self.collection, self.keeper, self.now, "remove", "") as record,
        ):
            record.remove(self.marram)
        self.assertTrue(Animal.objects.filter(pk=self.marram.pk).exists())

    def test_what_fails_on_the_way_leaves_no_trace(self) -> None:
        with self.assertRaises(ValueError), recording(self.collection, self.keeper, self.now, "half", "") as record:
            record.change(self.marram, note="half")
            raise ValueError
        self.marram.refresh_from_db()
        self.assertNotEqual(self.marram.note, "half")
        self.assertEqual(changes_of(self.collection), [])

    def test_a_name_that_was_given_to_another_since_stands_in_the_way(self) -> None:
        alder = self.collection.animals.get(name="Alder")
        self.client.post(f"/animals/{alder.pk}/delete/")
        deleted = changes_of(self.collection)[0]
        Animal.objects.create(collection=self.collection, name="Alder")
        with self.assertRaisesMessage(Refused, "has been given to another since"):
            take_back(deleted, self.keeper, self.now)
        self.assertEqual(self.collection.animals.filter(name="Alder").count(), 1)

    def test_the_page_shows_changes_and_takes_them_back(self) -> None:
        archive(self.marram, self.helper, self.now)
        page = self.client.get("/history/")
        self.assertContains(page, "Marram archived")
        self.assertContains(page, "helper")
        change = changes_of(self.collection)[0]
        answer = self.client.post(f"/history/{change.pk}/take-back/", {"next": "https://elsewhere.example/"})
        self.assertRedirects(answer, "/history/")
        self.marram.refresh_from_db()
        self.assertIsNone(self.marram.archived_on)
        again = self.client.post(f"/history/{change.pk}/take-back/")
        self.assertContains(again, "taken back already", status_code=422)

    def test_another_collections_change_is_not_here(self) -> None:
        archive(self.marram, self.keeper, self.now)
        self.log_in_the_neighbour()
        answer = self.client.post(f"/history/{changes_of(self.collection)[0].pk}/take-back/")
        self.assertEqual(answer.status_code, 404)
        self.assertNotContains(self.client.get("/history/"), "Marram")

    def test_deleting_an_animal_can_be_taken_back_with_its_genes(self) -> None:
        alder = self.collection.animals.get(name="Alder")
        genes = list(alder.genes.values_list("gene", flat=True))
        number, weights = alder.pk, alder.weighings.count()
        self.client.post(f"/animals/{number}/delete/")
        self.assertFalse(Animal.objects.filter(pk=number).exists())
        take_back(changes_of(self.collection)[0], self.keeper, self.now + timedelta(hours=1))
        self.assertEqual(list(CarriedGene.objects.filter(animal=number).values_list("gene", flat=True)), genes)
        self.assertEqual(Weighing.objects.filter(animal=number).count(), weights)
