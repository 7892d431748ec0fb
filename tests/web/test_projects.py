"""Projects: sought, begun, and followed by the record; what if; whom they hold back."""

from __future__ import annotations

from unittest.mock import patch
from uuid import uuid4

from django.utils import timezone

from eyot_core.generations import search

from eyot.bench.actions import make_call
from eyot.bench.siblings import judged
from eyot.collection.history import changes_of, take_back
from eyot.collection.models import Animal, CarriedGene
from eyot.homes.models import Fate
from eyot.projects import seeking
from eyot.projects.actions import hold_for
from eyot.projects.kin import Family
from eyot.projects.models import Project, Seeking
from eyot.projects.reckoning import names_in, standing_of
from eyot.projects.serving import serving
from eyot.projects.what_if import bought, one_more_clutch, tested, uncertain_of, without, worth_buying
from eyot.season.models import Clutch, ClutchSire, Egg
from eyot.shared.refusal import Refused
from tests.jobs import do_jobs, fail_jobs
from tests.web.test_homes import HomesCase

RULES = {
    "eggs": "6",
    "hatch": "90",
    "clutches": "1",
    "female_ready": "3",
    "male_ready": "1",
    "rest": "0",
    "seasons": "8",
    "generations": "3",
    "places": "4",
    "sex": "",
    "tests": "yes",
}

SAID = {"gravel": ("sure", 1), "orange_dream": ("sure", 1), "ultramel": ("sure", 2)}


class ProjectsCase(HomesCase):
    def setUp(self) -> None:
        super().setUp()
        for name, fewer in (("FOLLOWED", 30), ("WITH_BOUGHT", 10)):
            patched = patch.object(search, name, fewer)
            patched.start()
            self.addCleanup(patched.stop)
        self.project = Project.objects.get(collection=self.collection)

    def animal(self, name: str) -> Animal:
        return self.collection.animals.get(name=name)

    def clutch_of_the_due_pairing(self, *, eggs: int, called: bool = True) -> Clutch:
        """Sedge and Bract's, hatched today; called as what is waited for, if they are."""
        clutch = Clutch.objects.create(
            collection=self.collection, code="W-09", dam=self.animal("Sedge"), laid_on=self.today
        )
        ClutchSire.objects.create(clutch=clutch, sire=self.animal("Bract"))
        for number in range(1, eggs + 1):
            Egg.objects.create(
                clutch=clutch, number=number, state=Egg.State.OUT, out_on=self.today, stage="shed", sex="female"
            )
            if called:
                self.call_in("W-09", number, SAID)
        return clutch

    def call_in(self, code: str, number: int, said: dict[str, tuple[str, int]]) -> None:
        make_call(
            judged(self.clutch(code)), self.egg(number, code), self.keeper, said, "shed", "", uuid4(), timezone.now()
        )

    def seek(self, line: str, **rules: str) -> object:
        return self.client.post("/projects/find/", RULES | {"line": line} | rules)

    def begun(self, line: str, name: str) -> Project:
        found = self.seek(line)["Location"]  # type: ignore[index]
        self.assertContains(self.client.get(found), "Begin with this plan")
        answer = self.client.post(f"{found}begin/", {"plan": "1", "name": name})
        self.assertEqual(answer.status_code, 302, answer.content[:500])
        return Project.objects.get(name=name)


class Sought(ProjectsCase):
    def test_plans_stand_beside_one_another_and_one_is_begun(self) -> None:
        project = self.begun("Leopard Mojave Piebald", "Spotted pied")
        self.assertEqual([one["gene"] for one in project.goal["genes"]], ["leopard", "mojave", "piebald"])
        self.assertTrue(project.in_plan.exists())
        page = self.client.get(f"/projects/{project.pk}/")
        for words in ("Spotted pied", "plan-tree", "What if", "season-bars"):
            self.assertContains(page, words)
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertFalse(Project.objects.filter(name="Spotted pied").exists())

    def test_what_a_plan_rests_on_and_what_is_known_of_its_genes_is_told(self) -> None:
        others = CarriedGene.objects.filter(gene="piebald", animal__sex=self.animal("Marram").sex)
        others.exclude(animal__name="Marram").delete()
        page = self.client.get(self.seek("leopard mojave piebald")["Location"])  # type: ignore[index]
        self.assertContains(page, "Rests on Marram (2/3 Piebald), which may be none")
        self.assertNotContains(page, "It pairs")
        page = self.client.get(self.seek("spider leopard")["Location"])  # type: ignore[index]
        self.assertContains(page, "wobble")

    def test_plans_without_animals_that_show_trouble_stand_first(self) -> None:
        CarriedGene.objects.filter(gene="pastel").exclude(animal__name__in=("Coot", "Rill")).delete()
        found = self.seek("pastel orange dream")["Location"]  # type: ignore[index]
        row = Seeking.objects.get(pk=int(found.rstrip("/").rsplit("/", 1)[1]))
        coot = f"a{self.animal('Coot').pk}"
        uses = [any(coot in (step["dam"], step["sire"]) for step in plan["steps"]) for plan in row.plans]
        self.assertIn(True, uses)
        self.assertEqual(uses, sorted(uses))
        self.assertContains(self.client.get(found), "It pairs Coot (Spider)")

    def test_what_cannot_be_a_goal_is_told(self) -> None:
        for line, rules, words in (
            ("", {}, "Say which genes"),
            ("super mojave butter", {}, "room for two"),
            ("super spider", {}, "does not live"),
            ("sunburst", {}, "Not known here"),
            ("super cinnamon", {}, "known to die or to suffer"),
            ("champagne spider", {}, "known to die or to suffer"),
            ("Axanthic", {}, "Not"),
            ("Pastel", {}, "is what you want already"),
            ("Leopard Mojave", {"eggs": "0"}, "from 1 to 40"),
            ("Leopard Mojave", {"hatch": "300"}, "of 100 eggs"),
        ):
            with self.subTest(line=line, rules=rules):
                self.assertEqual(self.seek(line, **rules).status_code, 422)  # type: ignore[attr-defined]
                if words != "Not":
                    self.assertContains(self.seek(line, **rules), words, status_code=422)  # type: ignore[arg-type]

    def test_what_nobody_here_can_have_is_bought_and_put_in_its_place(self) -> None:
        found = self.seek("clown pastel")["Location"]  # type: ignore[index]
        page = self.client.get(found)
        self.assertContains(page, "visual Clown: with what is here alone no plan begins")
        self.client.post(f"{found}begin/", {"plan": "1", "name": "Clown in"})
        project = Project.objects.get(name="Clown in")
        [bought] = project.in_plan.filter(animal=None)
        sex = bought.sought["sex"]
        standing = standing_of(project, self.today)
        assert standing.outlook
        self.assertNotIn(bought.name, {step[role] for step in standing.due for role in ("dam", "sire")})
        self.assertContains(self.client.get(f"/projects/{project.pk}/"), "Still to be found: a ")
        self.assertContains(self.client.get("/projects/today/"), f"Find a {sex}")
        came = Animal.objects.create(collection=self.collection, name="Hornbeam", sex=sex)
        CarriedGene.objects.create(animal=came, gene="clown", copies=2)
        for other, words in ((came, ""), (self.animal("Sedge" if sex == "male" else "Bract"), "needs a")):
            answer = self.client.post(f"/projects/{project.pk}/put/", {"name": bought.name, "animal": str(other.pk)})
            if words:
                self.assertContains(answer, words, status_code=422)
        bought.refresh_from_db()
        self.assertEqual((bought.animal, bought.sought), (came, None))
        now = standing_of(project, self.today)
        assert now.outlook
        self.assertEqual(now.outlook.by_season, standing.outlook.by_season)
        self.assertEqual(now.to_buy, [])

    def test_a_plan_that_breeds_too_close_is_offered_with_an_outcross(self) -> None:
        """A son back to his dam breeds by a quarter; of those that have what she has, one that is no kin takes her place."""
        Animal.objects.update(archived_on=self.today)
        dam, sire = self.animal_of("Hornbeam", "female", ultramel=2), self.animal_of("Bogbean", "male", orange_dream=1)
        row = self.sought("orange dream visual ultramel")
        own = [plan for plan in row.plans if "bought" not in plan]
        family = Family.of(self.collection)
        self.assertEqual({family.kin(plan["steps"]).closest for plan in own}, {0.25})
        self.animal_of("Her sister", "female", ultramel=2, dam=dam, sire=sire)
        self.animal_of("Her daughter", "female", ultramel=2, dam=dam, sire=sire)
        stranger = self.animal_of("Wormwood", "female", ultramel=2)
        row = self.sought("orange dream visual ultramel")
        [told] = [plan for plan in row.plans if plan.get("outcross")][:1]
        self.assertEqual(told["outcross"]["taken"], "Wormwood")
        self.assertIn(f"a{stranger.pk}", {step["dam"] for step in told["steps"]})
        family = Family.of(self.collection)
        self.assertLess(family.kin(told["steps"]).closest, 0.25)
        closest = [family.kin(plan["steps"]).closest >= 0.25 for plan in row.plans if "bought" not in plan]
        self.assertEqual(closest, sorted(closest))
        self.assertContains(self.client.get(f"/projects/found/{row.pk}/"), "Wormwood in the place of")

    def test_a_pair_is_sought_of_either_sex_one(self) -> None:
        row = self.sought("leopard mojave piebald", sex="pair")
        last = [step["keep"]["sex"] for step in row.plans[0]["steps"][-2:]]
        self.assertEqual((row.goal["pair"], last), (True, ["female", "male"]))
        self.assertContains(self.seek("Pastel", sex="pair"), "ask for one of the other sex", status_code=422)  # type: ignore[arg-type]

    def test_what_only_a_test_tells_is_said_and_told_today(self) -> None:
        Animal.objects.update(archived_on=self.today)
        self.animal_of("Hornbeam", "female", ultramel=1)
        self.animal_of("Bogbean", "male", orange_dream=1)
        goal = "orange dream visual ultramel"
        self.assertTrue(all("bought" in plan for plan in self.sought(goal, tests="no").plans))
        row = self.sought(goal)
        page = self.client.get(f"/projects/found/{row.pk}/")
        self.assertContains(page, "het Ultramel (by test)")
        self.client.post(f"/projects/found/{row.pk}/begin/", {"plan": "1", "name": "By test"})
        project = Project.objects.get(name="By test")
        egg = self.egg(1, "W-02")
        Egg.objects.filter(pk=egg.pk).update(sex="male")
        egg.refresh_from_db()
        hold_for(project, project.plan[0]["keep"]["id"], egg, self.keeper, self.now)
        self.assertContains(self.client.get("/projects/today/"), "tested for Ultramel")

    def test_a_pedigree_that_goes_in_a_circle_is_told(self) -> None:
        mother, son = self.animal("Sedge"), self.animal("Bract")
        Animal.objects.filter(pk=son.pk).update(dam=mother)
        Animal.objects.filter(pk=mother.pk).update(sire=son)
        self.assertContains(
            self.client.get(f"/projects/{self.project.pk}/"), "Bract, Sedge would be their own ancestors"
        )
        self.assertEqual(self.seek("leopard mojave piebald").status_code, 302)  # type: ignore[attr-defined]

    def animal_of(
        self, name: str, sex: str, dam: Animal | None = None, sire: Animal | None = None, **genes: int
    ) -> Animal:
        animal = Animal.objects.create(collection=self.collection, name=name, sex=sex, dam=dam, sire=sire)
        for gene, copies in genes.items():
            CarriedGene.objects.create(animal=animal, gene=gene, copies=copies)
        return animal

    def sought(self, line: str, **rules: str) -> Seeking:
        found = self.seek(line, **rules)["Location"]  # type: ignore[index]
        return Seeking.objects.get(pk=int(found.rstrip("/").rsplit("/", 1)[1]))

    def test_only_a_plan_that_was_found_is_begun(self) -> None:
        found = self.seek("leopard mojave piebald")["Location"]  # type: ignore[index]
        for plan in ("", "0", "99", "x"):
            answer = self.client.post(f"{found}begin/", {"plan": plan, "name": "A"})
            self.assertContains(answer, "Choose one of the plans", status_code=422)
        answer = self.client.post(f"{found}begin/", {"plan": "1", "name": self.project.name})
        self.assertContains(answer, "There is a project", status_code=422)
        self.assertEqual(Project.objects.count(), 1)

    def test_among_many_animals_a_worker_seeks_and_tells_how_far_it_is(self) -> None:
        with patch.object(seeking, "AT_ONCE", 3):
            found = self.seek("leopard mojave piebald")["Location"]  # type: ignore[index]
        self.assertContains(self.client.get(found), "are sought: 0 %")
        do_jobs()
        self.assertContains(self.client.get(found), "Begin with this plan")
        now = self.seek("leopard mojave piebald")["Location"]  # type: ignore[index]
        first, second = (Seeking.objects.get(pk=int(one.rstrip("/").rsplit("/", 1)[1])) for one in (found, now))
        self.assertEqual(first.plans, second.plans)

    def test_where_a_worker_failed_the_page_says_so_and_asks_no_more(self) -> None:
        with patch.object(seeking, "AT_ONCE", 3):
            found = self.seek("leopard mojave piebald")["Location"]  # type: ignore[index]
        self.assertContains(self.client.get(found), "hx-trigger")
        fail_jobs()
        self.assertContains(self.client.get(found), "<b>A worker failed</b> at the plans for leopard mojave piebald")
        self.assertNotContains(self.client.get(found), "hx-trigger")
        for _ in range(2):  # as a keeper who presses twice
            self.assertRedirects(self.client.post(f"{found}again/"), found)
        self.assertContains(self.client.get(found), "are sought: 0 %")
        self.assertEqual(do_jobs(), 1)
        self.assertContains(self.client.get(found), "Begin with this plan")
        self.client.post(f"{found}again/")
        self.assertEqual(do_jobs(), 0, "its plans are there")


class Followed(ProjectsCase):
    def test_what_was_held_back_moves_the_plan_on(self) -> None:
        standing = standing_of(self.project, self.today)
        self.assertEqual([step["keep"]["id"] for step in standing.left], ["H2"])
        self.assertEqual([(step["dam"], step["sire"]) for step in standing.due], [("A1", "H1")])
        assert standing.outlook
        chance = 1 - (1 - 0.125 * 0.9) ** 6
        self.assertAlmostEqual(standing.outlook.by_season[0], chance, places=9)
        self.project.held.all().delete()
        before = standing_of(Project.objects.get(), self.today)
        assert before.outlook
        lucky = 1 - (1 - 0.0625 * 0.9) ** 6  # a son of hers that is the goal at once, kept for being what was asked for
        self.assertLess(before.outlook.by_season[0], lucky)
        self.assertLess(before.outlook.by_season[0], standing.outlook.by_season[0])

    def test_today_names_the_pairing_that_is_due_and_a_dam_that_two_want(self) -> None:
        page = self.client.get("/projects/today/")
        self.assertContains(page, "Pair Sedge with Bract")
        other = Project.objects.get()
        held = list(other.held.all())
        plans = list(other.in_plan.all())
        other.pk, other.name = None, "The same again"
        other.save()
        for row in (*held, *plans):
            row.pk, row.project = None, other
            row.save()
        self.assertContains(self.client.get("/projects/today/"), "Sedge is wanted twice")

    def test_an_animal_that_is_not_here_any_more_is_told(self) -> None:
        Animal.objects.filter(name="Sedge").update(archived_on=self.today)
        self.assertEqual(standing_of(self.project, self.today).gone_names, ["Sedge"])
        self.assertContains(self.client.get("/projects/today/"), "has lost an animal")
        self.assertContains(self.client.get(f"/projects/{self.project.pk}/"), "is not here any more")

    def test_another_takes_the_place_of_one_that_is_gone_and_it_can_be_taken_back(self) -> None:
        other = Animal.objects.create(collection=self.collection, name="Quince", sex="female")
        for gene in CarriedGene.objects.filter(animal__name="Sedge"):
            gene.pk, gene.animal = None, other
            gene.save()
        before = standing_of(self.project, self.today).outlook
        Animal.objects.filter(name="Sedge").update(archived_on=self.today)
        page = self.client.get(f"/projects/{self.project.pk}/?instead=A1")
        self.assertContains(page, "Put it there: Quince in the place of Sedge")
        self.client.post(f"/projects/{self.project.pk}/put/", {"name": "A1", "animal": str(other.pk)})
        standing = standing_of(Project.objects.get(), self.today)
        self.assertEqual((standing.gone, standing.outlook), ([], before))
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual(standing_of(Project.objects.get(), self.today).gone_names, ["Sedge"])

    def test_a_hatchling_that_is_sold_or_died_is_waited_for_again(self) -> None:
        [row] = self.project.held.all()
        for how in ("sold", "dead"):
            with self.subTest(how=how):
                if how == "sold":
                    fate = Fate.objects.create(
                        egg=row.egg, state="sold", on=self.today, made_by=self.keeper, made_at=timezone.now()
                    )
                else:
                    Fate.objects.filter(pk=fate.pk).delete()
                    Egg.objects.filter(pk=row.egg.pk).update(state=Egg.State.DEAD)
                standing = standing_of(self.project, self.today)
                self.assertEqual([step["keep"]["id"] for step in standing.left], ["H1", "H2"])
                self.assertContains(self.client.get("/projects/today/"), f"has lost {row.egg}")
                self.assertContains(self.client.get(f"/projects/{self.project.pk}/"), "was held back and is not here")
        egg = Egg.objects.filter(clutch=row.egg.clutch, sex="male").exclude(pk=row.egg.pk).first()
        if egg is None:
            egg = Egg.objects.filter(clutch=row.egg.clutch).exclude(pk=row.egg.pk).first()
            assert egg
            Egg.objects.filter(pk=egg.pk).update(sex="male", state=Egg.State.OUT)
            egg.refresh_from_db()
        hold_for(self.project, "H1", egg, self.keeper, self.now)
        self.assertEqual([one.egg for one in self.project.held.all()], [egg])

    def test_another_plan_takes_the_place_of_one_that_stands_still(self) -> None:
        answer = self.client.post(f"/projects/{self.project.pk}/again/")
        found = answer["Location"]
        self.assertContains(self.client.get(found), "Go on with this plan")
        before = self.project.plan
        self.client.post(f"{found}begin/", {"plan": "1"})
        now = Project.objects.get()
        self.assertEqual((now.pk, now.first_year), (self.project.pk, self.today.year))
        self.assertFalse(now.held.exists())
        standing = standing_of(now, self.today)
        self.assertEqual(len(standing.left), len(now.plan))
        self.assertTrue(standing.outlook)
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual(Project.objects.get().plan, before)
        self.assertEqual([one.step for one in Project.objects.get().held.all()], ["H1"])

    def test_a_hatchling_of_the_due_pairing_brings_it_on_by_what_it_is(self) -> None:
        self.clutch_of_the_due_pairing(eggs=2, called=False)
        said = dict(SAID)
        self.call_in("W-09", 1, said)
        self.call_in("W-09", 2, said | {"gravel": ("not", 1)})
        rows = serving(self.collection, self.clutch("W-09"), list(self.clutch("W-09").eggs.all()), self.today)
        self.assertEqual([(row.egg.number, row.step, row.after) for row in rows], [(1, "H2", 1.0)])
        self.assertLess(rows[0].before, 1)
        page = self.client.get("/clutches/W-09/serves/")
        self.assertContains(page, "brings")
        self.assertContains(page, "none of its siblings fits")
        self.call_in("W-09", 2, said)
        rows = serving(self.collection, self.clutch("W-09"), list(self.clutch("W-09").eggs.all()), self.today)
        self.assertEqual([[one.egg.number for one in row.siblings] for row in rows], [[2], [1]])
        page = self.client.get("/clutches/W-09/serves/?egg=2")
        self.assertContains(page, "would do as much", count=1)
        self.client.post(f"/projects/{self.project.pk}/hold/", {"egg": str(rows[0].egg.pk), "step": "H2"})
        self.assertContains(self.client.get(f"/projects/{self.project.pk}/"), "reached")

    def test_who_can_not_be_held_is_refused(self) -> None:
        egg = self.egg(1, "W-02")
        for step, words in (("H9", "no such step"), ("H1", "has its H1 already")):
            with self.assertRaisesMessage(Refused, words):
                hold_for(self.project, step, egg, self.keeper, self.now)
        self.project.held.all().delete()
        with self.assertRaisesMessage(Refused, "has to be male"):
            hold_for(self.project, "H1", egg, self.keeper, self.now)


class WhatIf(ProjectsCase):
    def test_one_more_clutch_helps_and_a_visual_bought_helps_more(self) -> None:
        standing = standing_of(self.project, self.today)
        more = one_more_clutch(standing)
        assert more.outlook and standing.outlook
        self.assertAlmostEqual(more.outlook.by_season[0], 1 - (1 - 0.125 * 0.9) ** 12, places=9)
        best = bought(self.project, "gravel orange dream visual ultramel", "male", self.today)
        self.assertEqual(best.note, "then the goal is there already")
        with self.assertRaisesMessage(Refused, "No gene was understood"):
            bought(self.project, "sunburst", "male", self.today)

    def test_what_one_bought_animal_would_save_is_sought_gene_by_gene(self) -> None:
        self.assertIn("none would bring it sooner", worth_buying(self.project, self.today)[0].note)
        project = self.begun("leopard mojave piebald", "Spotted pied")
        CarriedGene.objects.filter(gene="piebald", copies=2).delete()
        best = worth_buying(project, self.today)
        own = without(project, "nobody", self.today).outlook
        assert own and best[0].outlook
        self.assertLess(-sum(best[0].outlook.by_season), -sum(own.by_season))
        self.assertLessEqual(best[0].outlook.median or 0, own.median or 99)
        self.assertIn("visual Piebald", best[0].words)

    def test_without_an_animal_another_plan_is_sought(self) -> None:
        gone = without(self.project, f"a{self.animal('Bract').pk}", self.today)
        self.assertIn("without Bract", gone.words)
        assert gone.outlook
        page = self.client.get(f"/projects/{self.project.pk}/?without=a{self.animal('Bract').pk}&clutch=yes")
        self.assertContains(page, "without Bract")
        self.assertContains(page, "one more clutch")

    def test_a_het_tested_first_is_worth_what_both_answers_lead_to(self) -> None:
        CarriedGene.objects.filter(animal__name="Sedge", gene="ultramel").update(chance="1/2", known="possible")
        standing = standing_of(self.project, self.today)
        self.assertEqual(
            [(one.name, gene, str(chance)) for one, gene, chance in uncertain_of(standing)],
            [("Sedge", "ultramel", "1/2")],
        )
        assert standing.outlook
        there, absent = tested(standing, "A1", "ultramel", self.today)
        assert there.outlook
        self.assertAlmostEqual(standing.outlook.by_season[0], there.outlook.by_season[0] / 2, places=9)
        self.assertIn("is not there (1/2)", absent.words)
        self.assertIn("season", there.note)
        with self.assertRaisesMessage(Refused, "not open in this plan"):
            tested(standing, "A1", "gravel", self.today)


class Kinship(ProjectsCase):
    def test_the_limit_is_the_keepers(self) -> None:
        self.client.post(f"/projects/{self.project.pk}/limit/", {"kin_percent": "30"})
        self.assertNotContains(self.client.get(f"/projects/{self.project.pk}/"), "Closer than your limit")
        answer = self.client.post(f"/projects/{self.project.pk}/limit/", {"kin_percent": "none"})
        self.assertContains(answer, "from 1 to 100 %", status_code=422)

    def test_back_to_the_dam_is_a_quarter_and_the_blood_is_counted(self) -> None:
        kin = Family.of(self.collection, names_in(self.project)).kin(self.project.plan)
        self.assertEqual((kin.inbreeding["H1"], kin.inbreeding["H2"]), (0, 0.25))
        self.assertEqual(kin.founders, [("Sedge", 0.75), ("Bittern", 0.25)])
        self.assertEqual(kin.paths, {"H2": ["Sedge – H1 (25\xa0%)"]})
        self.assertContains(self.client.get(f"/projects/{self.project.pk}/"), "Closer than your limit of 25 %: H2")
