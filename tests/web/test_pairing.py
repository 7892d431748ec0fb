"""Planning: what can come, what speaks against it, goals; and from the plan to the laying."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from eyot_core.hatchery.wishes import Wish

from eyot.animals.actions import Details, enter_animal
from eyot.animals.holdbacks import hold_back
from eyot.animals.lines import line_read
from eyot.bench.actions import make_call
from eyot.bench.clutch_queries import parents_say
from eyot.bench.siblings import judged
from eyot.collection.history import changes_of
from eyot.collection.models import Animal
from eyot.pairing.forecast import forecast_of, pairing_for
from eyot.pairing.goals import goal_of
from eyot.pairing.warnings import warnings_of
from eyot.season.models import Clutch
from eyot.season.pairing_actions import introduce, lay, next_code, note_event, note_round, place_in_box, save_pairing
from eyot.season.queries import clutch_of, pairing_document
from eyot.season.record import next_round_of
from eyot.season.today import tasks_of
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase
from tests.web.test_pages import FewerThan


class Planning(SeasonCase):
    def animal(self, line: str) -> Animal:
        """An animal by name, or a new one by its line."""
        found = self.collection.animals.filter(name=line).first()
        if found:
            return found
        read = line_read(self.collection, line)
        details = Details(name=read.name, sex=read.sex)
        return enter_animal(self.collection, self.keeper, details, read.statements, timezone.now())

    def warned(self, dam: str, *sires: str) -> dict[str, str]:
        mother, fathers = self.animal(dam), [self.animal(sire) for sire in sires]
        pairing = pairing_for(self.collection, mother, fathers)
        return {one.title: f"{one.kind}: {one.words}" for one in warnings_of(self.collection, pairing, mother, fathers)}


class WhatCanCome(Planning):
    def test_outcomes_by_what_shows_then_by_what_is_carried(self) -> None:
        found = forecast_of(pairing_for(self.collection, self.animal("Osier"), [self.animal("Tarn")]), 6)
        rows = {row.label: row for row in found.rows}
        self.assertEqual((rows["Normal"].each, rows["Hypo"].each), ("19\u00a0%", "1 in 16"))
        self.assertEqual(rows["Normal"].carried, ["66 % possible het Hypo"])
        self.assertEqual(rows["Hypo"].carried, [])
        self.assertEqual(rows["Hypo"].at_least_one, "32\u00a0%")  # 1 − (15/16)⁶ = 0.321
        self.assertEqual((found.count, found.rest), (8, ""))

    def test_the_page_shows_drawings_odds_and_the_wish(self) -> None:
        page = self.client.get("/pairings/?dam=Marram&sire=Fathom&eggs=7&wish=pied+mojave")
        self.assertContains(page, "1 in 12")
        self.assertContains(page, "one or more of 7")
        self.assertContains(page, "/drawings/strip/leopard.svg?stage=shed")
        self.assertContains(page, "Not to be counted on with any number of eggs")
        part = self.client.get("/pairings/?dam=Marram&sire=Fathom&eggs=7", headers={"HX-Request": "true"})
        self.assertNotContains(part, "<html")

    def test_a_pairing_where_nothing_lives_says_so(self) -> None:
        self.animal("Ash: spider female")
        page = self.client.get("/pairings/?dam=Ash&sire=Nobody")
        self.assertContains(page, "no animal “Nobody” here")

    def test_animals_that_can_not_be_as_stated_are_named(self) -> None:
        odd = self.animal("Odd: mojave female")
        for gene in ("lesser", "butter"):
            odd.genes.create(gene=gene, known="seen")
        self.assertContains(
            self.client.get("/pairings/?dam=Odd&sire=Fathom"), "can't be worked out: No animal can be so"
        )

    def test_another_collections_animals_can_not_be_chosen(self) -> None:
        self.assertContains(self.client.get("/pairings/?dam=Rudd&sire=Fathom"), "no animal “Rudd” here")

    def test_queries_are_few(self) -> None:
        self.client.get("/pairings/?dam=Marram&sire=Fathom")
        with self.assertNumQueries(FewerThan(22)):
            self.client.get("/pairings/?dam=Marram&sire=Fathom")


class Warned(Planning):
    def test_welfare_and_a_light_dam(self) -> None:
        found = self.warned("Coot", "Dabble")
        self.assertIn("established", found["Spider"])
        self.assertIn("your own threshold for a dam is 1500 g", found["Coot is light"])

    def test_lethal_doubles_with_how_many_eggs_are_lost(self) -> None:
        self.assertIn("25\u00a0% of the eggs", self.warned("Coot", "Ash: spider male")["Eggs will be lost"])

    def test_genes_that_must_not_come_together(self) -> None:
        self.assertIn("strongly advised against", self.warned("Coot", "Ash: champagne male")["Champagne with spider"])

    def test_lines_that_do_not_complement(self) -> None:
        found = self.warned("Teasel", "Eddy")["Lines that do not complement"]
        self.assertIn("Axanthic, Sluice line with Axanthic line B", found)
        self.assertNotIn("Lines that do not complement", self.warned("Teasel", "Ash: het axanthic line a male"))

    def test_one_locus_counted_twice(self) -> None:
        found = self.warned("Ash: mojave lesser female", "Fathom")["One locus counted twice"]
        self.assertIn("every egg gets one of them", found)
        self.assertNotIn("One locus counted twice", self.warned("Marram", "Fathom"))

    def test_related_animals_with_the_inbreeding_of_their_young(self) -> None:
        self.assertIn("parent and child: inbreeding of the young 25", self.warned("Marram", "Drake")["Related animals"])
        self.assertIn("full siblings: inbreeding of the young 25", self.warned("Quillet", "Bract")["Related animals"])
        self.assertNotIn("Related animals", self.warned("Marram", "Fathom"))

    def test_desert_dams(self) -> None:
        self.assertIn("must not be bred", self.warned("Ash: desert female", "Fathom")["A desert dam"])


class Goals(Planning):
    def test_the_best_pairings_first_with_how_many_eggs(self) -> None:
        found = goal_of(self.collection, Wish((("piebald", 2), ("mojave", 1), ("leopard", 1))))
        names = [(row.dam.name if row.dam else "", row.sire.name if row.sire else "", row.each) for row in found.rows]
        self.assertEqual(names[0], ("Fescue", "Fathom", "1 in 16"))
        self.assertEqual(names[1], ("Marram", "Fathom", "1 in 24"))
        self.assertEqual(found.rows[0].needed, "36 hatchlings give one with 9 chances in 10.")

    def test_one_parent_alone_may_give_it_with_anybody(self) -> None:
        found = goal_of(self.collection, Wish((("gravel", 1),)))
        self.assertTrue(any(row.sire is None or row.dam is None for row in found.rows))

    def test_genes_that_nobody_has_are_named(self) -> None:
        self.assertEqual(goal_of(self.collection, Wish((("clown", 2),))).missing, ["clown"])
        page = self.client.get("/pairings/goal/?goal=clown")
        self.assertContains(page, "Nobody here carries Clown")

    def test_what_takes_a_generation_between_is_said(self) -> None:
        page = self.client.get("/pairings/goal/?goal=axanthic+line+b+ultramel")
        self.assertContains(page, "takes a generation between")


class FromPlanToLaying(Planning):
    def setUp(self) -> None:
        super().setUp()
        self.now, self.today = timezone.now(), timezone.localdate()

    def save(self, code: str = "W-08", dam: str = "Marram", *sires: str) -> Clutch:
        fathers = [self.animal(sire) for sire in sires or ("Fathom",)]
        return save_pairing(
            self.collection, self.keeper, code, self.animal(dam), fathers, self.today - timedelta(days=60), self.now
        )

    def test_the_next_code_continues_this_season(self) -> None:
        self.assertEqual(next_code(self.collection), "W-08")

    def test_four_sires_stand_in_a_pairing_and_no_fifth(self) -> None:
        sires = ["Fathom", "Tarn", *(self.animal(f"Sire{number}: male").name for number in range(3))]
        with self.assertRaisesMessage(Refused, "At most 4 sires"):
            self.save("W-08", "Marram", *sires)
        self.assertEqual(self.save("W-08", "Marram", *sires[:4]).clutch_sires.count(), 4)
        planned = "W-08 planned: Marram × Fathom or Tarn or Sire0 or Sire1"
        self.assertIn(planned, [change.what for change in changes_of(self.collection, most=1)])

    def test_a_plan_goes_into_the_season(self) -> None:
        answer = self.client.post("/pairings/save/", {"dam": "Marram", "sire": ["Fathom", "Tarn"], "code": "w-08"})
        self.assertRedirects(answer, "/clutches/W-08/record/")
        made = clutch_of(self.collection, "W-08")
        self.assertEqual([entry.sire.name for entry in made.clutch_sires.all()], ["Fathom", "Tarn"])
        self.assertContains(self.client.get("/"), "W-08")

    def test_what_can_not_be_a_pairing_is_refused(self) -> None:
        for code, dam, sires, words in (
            ("W-04", "Marram", ("Fathom",), "There is a W-04 already"),
            ("a b", "Marram", ("Fathom",), "letters, digits and hyphens"),
            ("W-08", "Fathom", ("Tarn",), "male and can't be the dam"),
            ("W-08", "Marram", ("Sallow",), "female and can't be the sire"),
            ("W-08", "Marram", ("Fathom", "Fathom"), "chosen twice"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                self.save(code, dam, *sires)
        self.assertFalse(self.collection.clutches.filter(code="W-08").exists())
        answer = self.client.post("/pairings/save/", {"dam": "Marram", "code": "W-08"})
        self.assertContains(answer, "at least one sire", status_code=422)
        answer = self.client.post("/pairings/save/", {"dam": "Marram", "sire": ["Fathom"], "code": "W-04"})
        self.assertContains(answer, "There is a W-04 already", status_code=422)
        for kept in ('value="Marram"', 'value="Fathom"', "What can come"):
            self.assertContains(answer, kept, status_code=422)

    def test_a_clutch_of_which_the_sire_is_not_known_can_be_kept_and_he_be_named_later(self) -> None:
        asked = {"dam": "Marram", "sire_unknown": "1"}
        self.assertContains(self.client.get("/pairings/", asked), "any of her genes, as often as animals in captivity")
        self.client.post("/pairings/save/", asked | {"code": "W-08"})
        record = "/clutches/W-08/record/"
        self.client.post(f"{record}laid/", {"on": self.today.isoformat(), "eggs": "3", "slugs": "0"})
        clutch = clutch_of(self.collection, "W-08")
        [sire] = pairing_document(clutch)["sires"]
        hers = {gene.gene for gene in clutch.dam.genes.all()}
        self.assertEqual({entry["gene"] for entry in sire["genes"]}, hers)
        self.assertEqual([one.role for one in parents_say(judged(clutch), clutch)], ["dam", "sire"])
        for page in ("/clutches/W-08/", "/"):
            self.assertContains(self.client.get(page), "Marram × a sire not known")
        self.assertContains(self.client.get("/clutches/W-08/"), "What only he can have given has no odds here")
        clutch.eggs.update(state="out", stage="shed")
        egg = clutch_of(self.collection, "W-08").eggs.all()[0]
        make_call(judged(clutch), egg, self.keeper, {"piebald": ("not", 2)}, "shed", "", uuid4(), self.now)
        self.assertIsNone(hold_back(egg, self.keeper, "Sedgelet", self.now).sire)

        self.client.post(f"{record}sire/", {"sire": "Fathom"})
        self.assertContains(self.client.get(record), "Marram × Fathom")
        self.assertContains(
            self.client.post(f"{record}sire/", {"sire": "Tarn"}), "has its sire already", status_code=422
        )

    def test_rounds_follow_the_keepers_school(self) -> None:
        clutch = self.save()
        self.assertIsNone(next_round_of(clutch, self.collection))
        introduce(clutch, self.keeper, self.animal("Fathom"), self.today - timedelta(days=20), self.now)
        clutch = clutch_of(self.collection, "W-08")
        self.assertEqual(next_round_of(clutch, self.collection), self.today - timedelta(days=8))
        page = self.client.get("/")
        self.assertContains(page, "Introduce Fathom to Marram")
        self.assertContains(page, "late")
        met = clutch.rounds.all()[0]
        note_round(met, self.keeper, "locked_on", self.today - timedelta(days=20), self.now)
        with self.assertRaisesMessage(Refused, "after"):
            note_round(met, self.keeper, "separated_on", self.today - timedelta(days=30), self.now)
        note_event(clutch, self.keeper, "ovulated_on", self.today - timedelta(days=5), self.now)
        self.assertIsNone(next_round_of(clutch_of(self.collection, "W-08"), self.collection))

    def test_a_round_is_late_from_the_second_day_on(self) -> None:
        clutch = self.save()
        introduce(clutch, self.keeper, self.animal("Fathom"), self.today - timedelta(days=20), self.now)
        for days, late in ((13, False), (14, True)):  # twelve days from round to round, late from the second day on
            clutch.rounds.update(introduced_on=self.today - timedelta(days=days))
            (task,) = (one for one in tasks_of([clutch_of(self.collection, "W-08")], self.today, {}))
            self.assertEqual((task.title, task.late), ("Introduce Fathom to Marram", late))

    def test_another_sire_at_the_rounds_joins_the_pairing(self) -> None:
        clutch = self.save()
        introduce(clutch, self.keeper, self.animal("Tarn"), self.today, self.now)
        self.assertEqual(clutch.clutch_sires.count(), 2)

    def test_the_laying_makes_the_eggs(self) -> None:
        clutch = self.save()
        lay(clutch, self.keeper, self.today, 6, 1, self.now)
        eggs = list(clutch_of(self.collection, "W-08").eggs.all())
        self.assertEqual([egg.state for egg in eggs], ["shut"] * 6 + ["slug"])
        places = [(egg.across, egg.down) for egg in eggs]
        self.assertEqual(places, [place_in_box(number, 7) for number in range(1, 8)])
        self.assertEqual(len(set(places)), 7)

    def test_no_egg_of_a_clutch_is_drawn_over_another(self) -> None:
        """Eggs are 112 wide and 86 high, with a line of 20 below, in a bed of 410 by 250 for their middles."""
        for count in range(1, 13):
            places = [place_in_box(number, count) for number in range(1, count + 1)]
            for place, (across, down) in enumerate(places):
                self.assertTrue(0 <= across <= 1 and 0 <= down <= 1)
                for other_across, other_down in places[:place]:
                    apart = abs(across - other_across) * 410, abs(down - other_down) * 250
                    self.assertTrue(apart[0] >= 112 or apart[1] >= 106, (count, place, apart))
        self.assertEqual(len({place_in_box(number, 25) for number in range(1, 26)}), 25)

    def test_a_laying_whose_pairing_nobody_saw_is_taken(self) -> None:
        clutch = self.save()
        clutch.paired_on = None
        clutch.save()
        lay(clutch, self.keeper, self.today, 3, 0, self.now)
        self.assertEqual(clutch.eggs.count(), 3)

    def test_layings_that_can_not_be_are_refused(self) -> None:
        clutch = self.save()
        for on, eggs, slugs, words in (
            (self.today - timedelta(days=90), 6, 0, "but paired only on"),
            (self.today, 40, 0, "lays up to about 16"),
            (self.today, 0, 0, "at least one egg or slug"),
            (self.today + timedelta(days=4), 6, 0, "lies ahead"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                lay(clutch, self.keeper, on, eggs, slugs, self.now)
        self.assertEqual(clutch.eggs.count(), 0)
        lay(clutch, self.keeper, self.today, 5, 0, self.now)
        with self.assertRaisesMessage(Refused, "was laid already"):
            lay(clutch, self.keeper, self.today, 5, 0, self.now)

    def test_the_page_takes_a_pairing_from_introduction_to_eggs(self) -> None:
        self.save()
        record = "/clutches/W-08/record/"
        self.client.post(f"{record}rounds/", {"sire": "Fathom", "on": self.today.isoformat()})
        number = clutch_of(self.collection, "W-08").rounds.all()[0].pk
        self.client.post(f"{record}rounds/{number}/", {"event": "locked_on", "on": self.today.isoformat()})
        self.client.post(f"{record}events/", {"event": "prelay_shed_on", "on": self.today.isoformat()})
        self.assertContains(self.client.get("/"), "Look for eggs of Marram")
        answer = self.client.post(f"{record}laid/", {"on": self.today.isoformat(), "eggs": "many"})
        self.assertContains(answer, "Eggs: “many” is not a number", status_code=422)
        self.client.post(f"{record}laid/", {"on": self.today.isoformat(), "eggs": "4", "slugs": "1"})
        self.assertContains(self.client.get(record), "Ready signs")
