"""The proving desk: who shows a new trait, its ways, the next pairing, the catalogue; and look-alikes bred together."""

from __future__ import annotations

from unittest.mock import patch

from django.http import HttpResponse
from django.utils import timezone

from eyot_core.proof.elimination import TooTangled

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Animal
from eyot.hets.desk import desk_of
from eyot.hets.desk_actions import open_trait
from eyot.hets.models import NewTrait, Showing
from eyot.season.models import Egg
from tests.web.season_data import SeasonCase


class Desk(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.trait = self.collection.new_traits.get(name="Tidemark")

    def ways(self, trait: NewTrait | None = None) -> dict[str, str]:
        return {row.name: row.chance for row in desk_of(trait or self.trait).ways}

    def add(self, who: str, shows: str = "yes", trait: NewTrait | None = None) -> HttpResponse:
        return self.client.post(f"/proving/{(trait or self.trait).pk}/who/", {"who": who, "shows": shows})

    def test_the_demos_trait_is_inherited_and_who_shows_it_carries_it(self) -> None:
        desk = desk_of(self.trait)
        self.assertEqual(self.ways()["not inherited"], "<1\u00a0%")
        by_name = {node.name: node for node in desk.nodes}
        self.assertTrue(by_name["Ramson"].is_proband)
        self.assertIn("one copy", by_name["Teal"].copies)
        self.assertIn("none", by_name["Moss"].copies)
        page = self.client.get(f"/proving/{self.trait.pk}/")
        self.assertContains(page, "Pedigree of Tidemark: ")
        self.assertContains(page, "an unrelated normal")

    def test_a_new_trait_from_its_name_to_its_ways(self) -> None:
        self.client.post("/proving/", {"name": "Reedlight", "note": "pale head"})
        trait = self.collection.new_traits.get(name="Reedlight")
        self.assertContains(self.client.get(f"/proving/{trait.pk}/"), "Say who shows it")
        self.add("Culm", "yes", trait)
        self.add("W-04", trait=trait)
        self.add("W-04 3", "no", trait)
        hatched = sum(egg.is_open or egg.state == Egg.State.DEAD for egg in self.clutch("W-04").eggs.all())
        self.assertEqual(trait.showings.filter(egg__clutch__code="W-04").count(), hatched)
        self.assertEqual(trait.showings.get(egg=self.egg(3)).shows, "no")
        trait.refresh_from_db()
        self.assertEqual(trait.proband and trait.proband.animal and trait.proband.animal.name, "Culm")
        self.assertIn(
            "Bulrush", {node.name for node in desk_of(trait).nodes}, "forebears of the record stand in it too"
        )

    def test_what_is_seen_is_changed_for_all_at_once_and_moves_the_ways(self) -> None:
        before = self.ways()
        rows = {row.animal.name: row for row in self.trait.showings.all() if row.animal}
        self.client.post(f"/proving/{self.trait.pk}/shows/", {f"shows-{rows['Teal'].pk}": "strong"})
        self.assertNotEqual(self.ways(), before)
        message = self.client.post(f"/proving/{self.trait.pk}/shows/", {f"shows-{rows['Teal'].pk}": "maybe"})
        self.assertContains(message, "Nothing was changed", status_code=422)
        self.assertEqual(Showing.objects.get(pk=rows["Teal"].pk).shows, "strong")

    def test_what_cannot_be_is_refused(self) -> None:
        for who, message in (
            ("Nobody", "no animal “Nobody”"),
            ("", "Say who"),
            ("W-04 x", "W-04 has no egg “x”"),
            ("W-04 99", "no egg “99”"),
        ):
            self.assertContains(self.add(who), message, status_code=422)
        for name, message in (("", "needs a name"), ("tidemark", "on the desk already")):
            page = self.client.post("/proving/", {"name": name, "note": "first seen on egg two"})
            self.assertContains(page, message, status_code=422)
            self.assertContains(page, "first seen on egg two", status_code=422)
        self.assertEqual(len(open_trait(self.collection, self.keeper, "x" * 90, "", timezone.now()).name), 60)

    def test_a_pedigree_that_is_too_tangled_is_drawn_and_says_why_nothing_is_reckoned(self) -> None:
        with patch("eyot.hets.desk.ways_of", side_effect=TooTangled("2,600 animals")):
            desk = desk_of(self.trait)
            page = self.client.get(f"/proving/{self.trait.pk}/")
        self.assertTrue(desk.nodes)
        self.assertEqual((desk.ways, desk.pairs, desk.may_enter), ([], [], False))
        self.assertContains(page, "can&#x27;t be reckoned exactly: 2,600 animals")

    def test_of_a_large_pedigree_only_some_dams_are_tried_and_it_is_said(self) -> None:
        with patch("eyot.hets.desk.MOST_SUMMED", 1):
            desk = desk_of(self.trait)
            page = self.client.get(f"/proving/{self.trait.pk}/")
        looked_at, there = desk.dams
        self.assertEqual(looked_at, 1)
        self.assertGreater(there, 1)
        self.assertContains(page, f"Of {there} dams here the first 1 were looked at")

    def test_only_a_proven_gene_enters_the_catalogue_and_with_its_evidence(self) -> None:
        self.collection.overrides.all().delete()
        refused = self.client.post(f"/proving/{self.trait.pk}/enter/")
        self.assertContains(refused, "95 % or more", status_code=422)
        trait = self.family()
        self.assertEqual(self.client.post(f"/proving/{trait.pk}/enter/").status_code, 302)
        self.collection.__dict__.pop("_overlaid", None)
        catalogue = catalogue_of(self.collection)
        self.assertEqual(catalogue.genes["reedlight"].inheritance, "incomplete_dominant")
        note = next(row for row in catalogue.document["genes"] if row["id"] == "reedlight")["note"]
        self.assertIn("16 of 21 relatives that were seen show it", note)
        self.assertContains(self.client.post(f"/proving/{trait.pk}/enter/"), "there is a gene", status_code=422)

    def family(self) -> NewTrait:
        """Three generations: half of a single's young show it, two singles give strong ones, a strong one gives it to all."""
        made: dict[str, Animal] = {}

        def animal(name: str, shows: str, dam: str = "", sire: str = "", sex: str = "") -> None:
            made[name] = Animal.objects.create(
                collection=self.collection, name=name, sex=sex, dam=made.get(dam), sire=made.get(sire)
            )
            Showing.objects.create(trait=trait, animal=made[name], shows=shows)

        trait = NewTrait.objects.create(collection=self.collection, name="Reedlight")
        animal("R0", "yes", sex="female")
        animal("R1", "no", sex="male")
        for name, shows, sex in (
            ("R2", "yes", "female"),
            ("R3", "yes", "male"),
            ("R4", "no", "female"),
            ("R5", "no", "male"),
        ):
            animal(name, shows, "R0", "R1", sex)
        for number, shows in enumerate(("strong", "strong", "yes", "yes", "no", "yes")):
            animal(f"S{number}", shows, "R2", "R3", ("female", "male")[number % 2])
        animal("T", "no", sex="male")
        for number in range(8):
            animal(f"U{number}", "yes", "S0", "T")
        trait.proband = trait.showings.get(animal__name="R0")
        trait.save()
        return trait


class OneGeneOrTwo(SeasonCase):
    def test_visuals_that_complement_are_two_genes(self) -> None:
        given = {"first": "visual", "second": "visual", "hatchlings": 4, "visuals": 0}
        self.assertContains(
            self.client.post("/proving/together/", given), "Two genes that make good for each other: &gt;99"
        )
        message = self.client.post("/proving/together/", given | {"visuals": 4})
        self.assertContains(message, "One gene, or two alleles of one: &gt;99")

    def test_a_new_gene_at_the_place_of_a_known_one(self) -> None:
        message = self.client.post("/proving/place/", {"both": "0", "one": "12", "neither": "0"})
        self.assertContains(message, "allelic to it: &gt;99")
        apart = self.client.post("/proving/place/", {"both": "3", "one": "5", "neither": "4"})
        self.assertContains(apart, "Elsewhere: &gt;99")
        self.assertContains(self.client.post("/proving/place/", {"both": "x"}), "not a number", status_code=422)
        self.assertContains(self.client.post("/proving/place/", {}), "Count the young", status_code=422)

    def test_more_than_hatched_is_refused_and_what_was_typed_stands(self) -> None:
        message = self.client.post(
            "/proving/together/", {"first": "het", "second": "visual", "hatchlings": 2, "visuals": 5}
        )
        self.assertContains(message, "not more than hatched", status_code=422)
        self.assertContains(message, 'value="5"', status_code=422)
