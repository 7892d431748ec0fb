"""A clutch that is there already, entered as it stands; parents who live elsewhere; the first steps of an empty collection."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone

from eyot_core.catalogue import builtin_catalogue
from eyot_core.genetics.population import population

from eyot.animals.queries import Asked, listed, names_in
from eyot.bench.actions import make_call
from eyot.bench.models import Call
from eyot.bench.siblings import judged
from eyot.collection.history import changes_of, take_back
from eyot.collection.member_actions import new_collection
from eyot.pairing.running_actions import Running, enter_running
from eyot.season.egg_actions import all_at_once
from eyot.season.models import Clutch
from eyot.season.queries import clutch_of, pairing_document
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class RunningCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now, self.today = timezone.now(), timezone.localdate()
        self.own = new_collection(self.keeper, "Own Reach")
        self.own.animals.create(name="Rush", sex="female")

    def given(self, **other: Any) -> Running:
        usual: dict[str, Any] = {"code": "a-01", "dam": "Rush", "sire": "Rudd: pastel het clown", "eggs": 5, "slugs": 1}
        usual |= {"laid_on": self.today - timedelta(days=70), "standing": "shut"}
        return Running(**usual | other)

    def enter(self, **other: Any) -> Clutch:
        enter_running(self.own, self.keeper, self.given(**other), self.now)
        return clutch_of(self.own, "A-01")


class Entered(RunningCase):
    def states(self, **other: Any) -> list[tuple[str, str]]:
        return [(egg.state, egg.stage) for egg in self.enter(**other).eggs.all()]

    def test_one_in_the_incubator_has_its_eggs_shut(self) -> None:
        self.assertEqual(self.states(), [("shut", "egg")] * 5 + [("slug", "egg")])
        self.assertEqual(changes_of(self.own)[0].what, "A-01 entered as it stands")

    def test_one_that_is_being_cut_has_its_first_eggs_open(self) -> None:
        since = self.today - timedelta(days=10)
        self.assertEqual(
            self.states(standing="open", hatched=2, on=since)[:3], [("open", "egg")] * 2 + [("shut", "egg")]
        )
        self.assertEqual(clutch_of(self.own, "A-01").cut_on, since)

    def test_one_that_hatched_is_out_or_shed_and_what_is_not_out_did_not_hatch(self) -> None:
        out, shed = self.today - timedelta(days=12), self.today - timedelta(days=2)
        states = self.states(standing="shed", hatched=4, on=out, shed_on=shed)
        self.assertEqual(states, [("out", "shed")] * 4 + [("dead", "egg"), ("slug", "egg")])
        clutch = clutch_of(self.own, "A-01")
        self.assertEqual((clutch.out_on, clutch.shed_on), (out, shed))
        self.assertEqual((clutch.eggs.all()[0].out_on, clutch.eggs.all()[0].shed_on), (out, shed))

    def test_a_day_of_the_shed_that_nobody_knows_is_reckoned_and_never_lies_ahead(self) -> None:
        for days, expected in ((40, self.today - timedelta(days=29)), (3, self.today)):
            with self.subTest(days):
                clutch = self.enter(standing="shed", on=self.today - timedelta(days=days))
                self.assertEqual((clutch.shed_on, clutch.eggs.all()[0].shed_on), (expected, expected))
                take_back(changes_of(self.own)[0], self.keeper, self.now)

    def test_results_of_an_earlier_season_become_calls_with_the_chances_that_the_parents_gave(self) -> None:
        results = "2x pastel\nhet clown female\n\nnormal\n"
        clutch = self.enter(standing="shed", on=self.today - timedelta(days=6), results=results)
        eggs = list(clutch.eggs.all())
        self.assertEqual([egg.state for egg in eggs], ["out"] * 4 + ["dead", "slug"])
        calls = [egg.calls.get() for egg in eggs[:4]]
        self.assertEqual([call.genes.get(gene="pastel").verdict for call in calls], ["sure", "sure", "not", "not"])
        self.assertEqual(calls[2].genes.get(gene="clown").verdict, "sure")
        self.assertEqual(calls[0].genes.get(gene="pastel").chance, 0.5)
        self.assertEqual([egg.sex for egg in eggs[:4]], ["", "", "female", ""])
        take_back(changes_of(self.own)[0], self.keeper, self.now)
        self.assertFalse(Call.objects.filter(pk__in=[call.pk for call in calls]).exists())
        take_back(changes_of(self.own)[0], self.keeper, self.now)
        self.assertEqual(Call.objects.filter(pk__in=[call.pk for call in calls]).count(), 4)

    def test_a_result_that_the_parents_are_not_known_to_give_is_kept_as_possible(self) -> None:
        clutch = self.enter(standing="out", on=self.today, results="banana pastel")
        genes = dict(clutch.eggs.all()[0].calls.get().genes.values_list("gene", "verdict"))
        self.assertEqual((genes["banana"], genes["pastel"]), ("possible", "sure"))

    def test_all_sound_eggs_where_no_count_is_given(self) -> None:
        since = self.today - timedelta(days=1)
        self.assertEqual(self.states(standing="out", eggs=3, slugs=0, on=since), [("out", "wet")] * 3)
        clutch = clutch_of(self.own, "A-01")
        self.assertEqual((clutch.out_on, clutch.shed_on), (since, None))
        self.assertEqual(all_at_once(clutch, self.keeper, "first_meal_on", self.today, "rat pup", self.now), 3)

    def test_a_hatched_one_can_be_called_at_once(self) -> None:
        clutch = self.enter(standing="shed", on=self.today - timedelta(days=9))
        egg = clutch.eggs.all()[0]
        egg.clutch = clutch
        call = make_call(judged(clutch), egg, self.keeper, {"pastel": ("sure", 1)}, "shed", "", uuid4(), self.now)
        self.assertIn("Pastel", call.label)

    def test_it_is_taken_back_as_one_with_the_parent_from_elsewhere(self) -> None:
        self.enter()
        take_back(changes_of(self.own)[0], self.keeper, self.now)
        self.assertFalse(self.own.clutches.exists())
        self.assertEqual([animal.name for animal in self.own.animals.all()], ["Rush"])

    def test_what_can_not_be_is_refused_and_nothing_is_entered(self) -> None:
        later = self.today + timedelta(days=3)
        for other, words in (
            ({"code": "a b"}, "letters, digits and hyphens"),
            ({"dam": "Rsuh"}, "no animal “Rsuh” here"),
            ({"dam": ""}, "The dam is one of your animals by name"),
            ({"sire": "Rush"}, "Rush is female and can't be the sire"),
            ({"sire": "Rush: pastel"}, "There is a Rush already"),
            ({"sire": "Rudd: pastel female"}, "can't be female"),
            ({"laid_on": None}, "on which day it was laid"),
            ({"laid_on": later}, "lies ahead"),
            ({"on": later, "standing": "out"}, "before the laying or ahead"),
            (
                {"laid_on": self.today - timedelta(days=300), "on": self.today, "standing": "shed"},
                "one of them is wrong",
            ),
            ({"standing": "out"}, "since when they are out"),
            ({"standing": "out", "on": self.today, "shed_on": self.today}, "not said to have shed"),
            (
                {"standing": "shed", "on": self.today, "shed_on": self.today - timedelta(days=1)},
                "before they came out, or ahead",
            ),
            ({"results": "pastel"}, "all eggs are said to be shut"),
            ({"standing": "open", "results": "9x pastel"}, "9 hatchlings of 5 sound eggs"),
            ({"standing": "open", "hatched": 1, "results": "2x pastel"}, "2 results for 1 hatchlings"),
            ({"standing": "open", "results": "pastel\nxyzzy"}, "Result 2, “xyzzy”: Not known here: “xyzzy”. Nothing"),
            ({"eggs": 0, "slugs": 0}, "at least one egg or slug"),
            ({"eggs": 40}, "At most 25 eggs"),
            ({"standing": "gone"}, "how far the clutch is"),
            ({"hatched": 6}, "6 hatchlings of 5 sound eggs"),
        ):
            with self.subTest(words), self.assertRaisesMessage(Refused, words):
                self.enter(**other)
        self.assertEqual((self.own.clutches.count(), self.own.animals.count()), (0, 1))
        self.enter()
        with self.assertRaisesMessage(Refused, "There is a A-01 already"):
            self.enter()


class Parents(RunningCase):
    def test_one_from_elsewhere_counts_in_the_odds_and_stands_in_no_list_and_no_plan(self) -> None:
        clutch = self.enter()
        genes = [{row["gene"] for row in sire["genes"]} for sire in pairing_document(clutch)["sires"]]
        self.assertEqual(genes, [{"pastel", "clown"}])
        self.assertNotIn("Rudd", names_in(self.own, sex="female"))
        self.assertEqual([one.name for one in listed(self.own, Asked()).page], ["Rush"])
        self.assertEqual([one.name for one in listed(self.own, Asked(role="elsewhere")).page], ["Rudd"])
        self.assertNotContains(self.client.get("/in/own-reach/hets/"), "Rudd")

    def test_a_sire_that_is_not_known_may_have_her_genes_as_often_as_the_population(self) -> None:
        self.own.animals.get(name="Rush").genes.create(gene="clown", copies=1, known="declared")
        clutch = self.enter(sire="")
        among = population(builtin_catalogue())
        often = [builtin_catalogue().genes["clown"].frequency * load.times for load in builtin_catalogue().population]
        carried = float(among.weights @ [2 * clown * (1 - clown) + clown**2 for clown in often])
        [entry] = pairing_document(clutch)["sires"][0]["genes"]
        self.assertEqual(entry["gene"], "clown")
        self.assertAlmostEqual(entry["chance"], carried)
        judgement = judged(clutch)
        sums = judgement.inference.posteriors[0].prior_sums
        self.assertAlmostEqual(judgement.chance_of(sums, "clown", "shown", 2), float(among.weights @ often) / 2)
        self.assertContains(self.client.get("/in/own-reach/clutches/A-01/"), "a sire not known")

    def test_the_same_from_elsewhere_is_named_again_by_name(self) -> None:
        self.enter()
        enter_running(self.own, self.keeper, self.given(code="A-02", sire="Rudd"), self.now)
        self.assertEqual(self.own.animals.filter(elsewhere=True).count(), 1)


class FirstSteps(RunningCase):
    def send(self, **given: str) -> HttpResponse:
        return self.client.post("/in/own-reach/pairings/running/", given, follow=True)

    def test_an_empty_season_offers_its_first_steps(self) -> None:
        page = self.client.get("/in/own-reach/")
        self.assertContains(page, "/in/own-reach/pairings/running/")
        self.assertNotContains(page, "Paste a list")
        self.own.animals.all().delete()
        for page in ("", "animals/", "pairings/", "hets/"):
            self.assertContains(self.client.get(f"/in/own-reach/{page}"), "/in/own-reach/animals/paste/")

    def test_the_form_keeps_what_was_typed_and_leads_to_the_clutch(self) -> None:
        given = {"code": "A-01", "dam": "Rush", "sire": "Rudd: pastel", "laid_on": "31.05.2026", "eggs": "4"}
        page = self.send(**given, standing="shed", on="never")
        self.assertContains(page, "“never” is not a day", status_code=422)
        self.assertContains(page, 'value="Rudd: pastel"', status_code=422)
        laid = self.today - timedelta(days=80)
        page = self.send(**given | {"laid_on": laid.isoformat()}, standing="shed", on=self.today.isoformat())
        self.assertContains(page, "A-01 is entered")
        self.assertEqual(clutch_of(self.own, "A-01").eggs.count(), 4)
