"""What becomes of each: fates, feeding, ready to go, own labels, and where old words stand."""

from __future__ import annotations

import re
from datetime import timedelta
from decimal import Decimal
from uuid import uuid4

from django.utils import timezone

from eyot_core.wording.names import Naming

from eyot.animals.individuals import individual_of
from eyot.bench.actions import make_call
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import changes_of, take_back
from eyot.collection.models import CarriedGene
from eyot.demo.scenario import BOUGHT
from eyot.homes.actions import Decision, decide, feed, note_health, note_shed, write_label
from eyot.homes.issuing import issue
from eyot.homes.models import Fate, Issued
from eyot.homes.standing import Kept, all_kept, kept_here
from eyot.homes.staying import reasons_to_stay, within_its_kind
from eyot.homes.today import tasks_of_homes
from eyot.photos.models import Photo
from eyot.season.models import Egg, EggEvent
from eyot.shared.money import NoAmount, amount, money
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase

S = Fate.State
SURE = {"fire": ("sure", 1), "vanilla": ("not", 1), "enchi": ("not", 1), "pinstripe": ("not", 1), "banana": ("not", 1)}


class HomesCase(SeasonCase):
    def setUp(self) -> None:
        super().setUp()
        self.now, self.today = timezone.now(), timezone.localdate()

    def row(self, number: int, code: str = "W-02") -> Kept:
        return next(row for row in all_kept(self.collection) if (row.egg.clutch.code, row.egg.number) == (code, number))

    def call(self, number: int, **verdicts: tuple[str, int]) -> None:
        said = SURE | verdicts
        make_call(
            judged(self.clutch("W-02")),
            self.egg(number, "W-02"),
            self.keeper,
            said,
            "shed",
            "",
            uuid4(),
            timezone.now(),
        )

    def decide(self, number: int, state: str, code: str = "W-02", **said: object) -> None:
        decide(self.row(number, code), self.keeper, Decision(state, said.pop("on", self.today), **said), self.now)  # type: ignore[arg-type]


class WhatBecomes(HomesCase):
    def test_the_last_decision_counts_and_can_be_taken_back(self) -> None:
        self.call(2)
        self.assertEqual(self.row(2).state, S.OPEN)
        self.decide(2, S.LISTED)
        self.decide(2, S.RESERVED, who="keeper at the mill", until=self.today + timedelta(days=3))
        self.assertEqual((self.row(2).state, self.row(2).fate.who), (S.RESERVED, "keeper at the mill"))  # type: ignore[union-attr]
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual(self.row(2).state, S.LISTED)

    def test_what_cannot_be_is_refused(self) -> None:
        out = self.egg(2, "W-02").out_on
        assert out
        for state, said, words in (
            (S.SOLD, {"on": out - timedelta(days=1)}, "hatched on"),
            (S.SOLD, {"on": self.today + timedelta(days=1)}, "lies ahead"),
            (S.RESERVED, {}, "for whom"),
            (S.RESERVED, {"who": "she", "until": self.today - timedelta(days=1)}, "before it is"),
            (S.LISTED, {}, "no call yet"),
            ("eaten", {}, "Say what becomes"),
        ):
            with self.subTest(state=state, said=said), self.assertRaisesMessage(Refused, words):
                self.decide(2, state, **said)
        self.assertEqual(self.row(2).state, S.OPEN)

    def test_one_that_died_keeps_what_was_found_and_goes_nowhere(self) -> None:
        self.decide(3, "died", why="would not eat")
        egg = Egg.objects.get(clutch__code="W-02", number=3)
        self.assertEqual((egg.state, egg.events.filter(kind="state").last().note), (Egg.State.DEAD, "would not eat"))  # type: ignore[union-attr]
        with self.assertRaisesMessage(Refused, "died"):
            self.decide(3, S.SOLD)

    def test_a_holdback_that_is_sold_leaves_the_animals_and_comes_back(self) -> None:
        animal = self.row(1, "V-09").egg.kept_as
        assert animal
        self.decide(1, S.SOLD, "V-09", who="keeper at the mill", price=Decimal(400))
        animal.refresh_from_db()
        self.assertEqual(animal.archived_on, self.today)
        with self.assertRaisesMessage(Refused, "keeper at the mill already"):
            self.decide(1, S.LISTED, "V-09")
        self.decide(1, S.OPEN, "V-09")
        animal.refresh_from_db()
        self.assertIsNone(animal.archived_on)

    def test_a_gene_that_may_not_be_sold_here_is_told_before(self) -> None:
        self.collection.not_sold = ["fire"]
        self.collection.save()
        self.call(2)
        post = {"egg": [str(self.egg(2, "W-02").pk)], "state": S.LISTED, "on": self.today.isoformat()}
        self.assertContains(self.client.post("/homes/decide/", post), "not to be sold", status_code=422)
        self.assertEqual(self.row(2).state, S.OPEN)
        self.assertEqual(self.client.post("/homes/decide/", post | {"knowing": "on"}).status_code, 302)
        self.assertEqual(self.row(2).state, S.LISTED)

    def test_what_may_not_be_sold_is_ticked_and_stands_first_from_then_on(self) -> None:
        rules = {"ready_meals": "5", "ready_sheds": "2", "ready_grams": "100", "currency": "EUR"}
        self.client.post("/homes/rules/", rules | {"not_sold": ["spider", "fire"]})
        self.collection.refresh_from_db()
        self.assertEqual(set(self.collection.not_sold), {"spider", "fire"})
        ticks = re.findall(
            r'name="not_sold" value="(\w+)"[^>]*?( checked)?>', self.client.get("/homes/rules/").content.decode()
        )
        self.assertEqual(ticks[:3], [("fire", " checked"), ("spider", " checked"), ("acid", "")])
        self.assertEqual(sum(bool(ticked) for _, ticked in ticks), 2)

    def test_several_at_once_are_decided_all_or_none(self) -> None:
        self.call(2)
        eggs = [str(self.egg(number, "W-02").pk) for number in (2, 3)]
        answer = self.client.post("/homes/decide/", {"egg": eggs, "state": S.LISTED, "on": self.today.isoformat()})
        self.assertContains(answer, "no call yet", status_code=422)
        self.assertEqual({self.row(2).state, self.row(3).state}, {S.OPEN})

    def test_who_is_gone_is_not_read_where_only_those_here_count(self) -> None:
        names = [row.name for row in kept_here(self.collection)]
        self.assertEqual(names, [row.name for row in all_kept(self.collection) if row.is_here])
        self.assertNotIn("25-V05-2", names)
        self.decide(2, S.OPEN, "V-05")
        self.assertIn("25-V05-2", [row.name for row in kept_here(self.collection)], "it came back")

    def test_filters_show_who_is_so(self) -> None:
        for query, there, gone in (
            ("state=sold", "25-V05-2", "25-V05-1<"),
            ("state=died", "Nobody here is so", "25-V05"),
            ("gene=ultramel", "25-V09-3", "25-V05-1<"),
            ("clutch=V-06", "25-V06-1", "25-V05-1<"),
            ("price=200", "25-V05-6", "25-V05-1<"),
            ("price=two", "is not an amount", "25-V05-2<"),
        ):
            page = self.client.get(f"/homes/?{query}")
            self.assertContains(page, there, msg_prefix=query)
            self.assertNotContains(page, gone, msg_prefix=query)


class Fed(HomesCase):
    def test_a_rack_is_fed_at_once_and_taken_back_as_one(self) -> None:
        eggs = [self.egg(number, "W-02") for number in (1, 2, 3)]
        before = len(self.row(1).meals)
        said = {
            f"egg-{eggs[0].pk}": "took",
            f"egg-{eggs[1].pk}": "refused",
            "what": "rat pup",
            "on": self.today.isoformat(),
        }
        self.assertEqual(self.client.post("/homes/rack/fed/", said).status_code, 302)
        self.assertEqual((len(self.row(1).meals), self.row(2).refused_since), (before + 1, 1))
        self.assertEqual(self.row(3).egg.events.filter(on=self.today).count(), 0)
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertEqual((len(self.row(1).meals), self.row(2).refused_since), (before, 0))

    def test_who_has_no_id_is_named_once(self) -> None:
        bought = Egg.objects.get(kept_as__name=BOUGHT.name)
        page = self.client.get("/homes/rack/")
        self.assertContains(page, f"<b>{BOUGHT.name}</b> <span", 1)
        self.assertNotContains(page, f"<b>{BOUGHT.name}</b> {BOUGHT.name}")
        self.assertEqual(bought.code, "")

    def test_nobody_is_fed_tomorrow_or_in_the_egg(self) -> None:
        egg = self.egg(1, "W-02")
        assert egg.out_on
        for on, words in (
            (self.today + timedelta(days=1), "lies ahead"),
            (egg.out_on - timedelta(days=1), "left the egg"),
        ):
            with self.assertRaisesMessage(Refused, words):
                feed(self.collection, self.keeper, {egg: True}, "rat pup", on, self.now)
        with self.assertRaisesMessage(Refused, "Tap who"):
            feed(self.collection, self.keeper, {}, "rat pup", self.today, self.now)

    def test_ready_is_by_the_keepers_own_rule(self) -> None:
        row = self.row(1, "V-05")
        self.assertEqual(row.lacks, [])
        self.assertEqual(self.row(1).not_yet, "4 meals, 1 shed, 34.5 g to go")
        self.collection.ready_meals, self.collection.ready_sheds, self.collection.ready_grams = 1, 1, 0
        self.collection.save()
        self.assertTrue(self.row(1).is_ready)
        note_health(self.egg(1, "W-02"), self.keeper, "wheezing", self.today, self.now)
        self.assertEqual((self.row(1).lacks, self.row(1).not_yet), ([], "not sound: wheezing"))
        note_health(self.egg(1, "W-02"), self.keeper, "", self.today, timezone.now())
        self.assertTrue(self.row(1).is_ready)

    def test_sheds_after_the_first_are_counted(self) -> None:
        note_shed(self.egg(1, "W-02"), self.keeper, self.today, self.now)
        self.assertEqual(self.row(1).sheds, 2)
        page = self.client.get("/clutches/W-02/1/home/")
        self.assertContains(page, "lifeline")
        self.assertContains(page, "first shed")


class OwnWords(HomesCase):
    def save(self, number: int, **said: str) -> object:
        return self.client.post(f"/clutches/W-02/{number}/home/label/", {"text": "", "price": "", **said})

    def test_more_than_the_call_is_refused_unless_the_keeper_stands_for_it(self) -> None:
        self.call(2)
        answer = self.save(2, text="Super Fire")
        self.assertContains(answer, "promises more than the call", status_code=422)  # type: ignore[arg-type]
        self.assertEqual(self.row(2).label, "Fire")
        self.save(2, text="Super Fire", knowing="on")
        own = self.row(2).own_label
        assert own
        self.assertEqual((own.text, own.made_by), ("Super Fire", self.keeper))
        self.assertEqual(own.overruled, ["says Super fire; the call holds Fire"])
        self.assertContains(self.client.get("/clutches/W-02/2/home/"), "stands for what goes beyond")

    def test_what_is_written_as_called_follows_the_call(self) -> None:
        self.call(2)
        self.save(2, text="Fire", price="180")
        self.assertEqual((self.row(2).own_label.text, self.row(2).price), ("", Decimal(180)))  # type: ignore[union-attr]
        self.call(2, vanilla=("sure", 1))
        self.assertEqual(self.row(2).label, "Fire Vanilla")

    def test_a_price_is_in_the_keepers_currency(self) -> None:
        self.call(2)
        self.collection.currency = "JPY"
        self.collection.save()
        self.assertContains(self.save(2, price="1200.50"), "JPY has no parts", status_code=422)  # type: ignore[arg-type]
        self.save(2, price="12,000")
        self.assertContains(self.client.get("/homes/?clutch=W-02"), "JP¥12,000")

    def test_amounts_are_read_and_written(self) -> None:
        self.assertEqual(
            [amount(text, "EUR") for text in ("", "2,50", "1,250", "1250.5")],
            [None, Decimal("2.50"), 1250, Decimal("1250.5")],
        )
        for text, currency in (
            ("-1", "EUR"),
            ("abc", "EUR"),
            ("1e99", "EUR"),
            ("1.005", "EUR"),
            ("0.5", "JPY"),
            ("NaN", "EUR"),
        ):
            with self.assertRaises(NoAmount, msg=text):
                amount(text, currency)
        self.assertEqual(money(Decimal("1250.5"), "EUR"), "€1,250.50")

    def test_a_call_that_changes_marks_where_its_old_words_stand(self) -> None:
        self.call(2)
        issue([self.row(2)], Issued.Kind.LABEL, self.keeper, self.now)
        issue([self.row(2)], Issued.Kind.LABEL, self.keeper, self.now)
        self.assertEqual(Issued.objects.filter(egg=self.egg(2, "W-02")).count(), 1, "the same again is kept once")
        self.assertEqual(self.row(2).outdated, [])
        self.call(2, vanilla=("likely", 1))
        (old,) = self.row(2).outdated
        self.assertEqual(old.text, "Fire")
        self.assertIn(
            "Old words stand on 26-W02-2", [task.title for task in tasks_of_homes(self.collection, self.today)]
        )
        self.client.post(f"/clutches/W-02/2/home/out/{old.pk}/")
        self.assertEqual(self.row(2).outdated, [])

    def test_a_label_printed_anew_settles_the_old_one(self) -> None:
        self.call(2)
        issue([self.row(2)], Issued.Kind.LABEL, self.keeper, self.now)
        self.call(2, vanilla=("likely", 1))
        issue([self.row(2)], Issued.Kind.LABEL, self.keeper, timezone.now())
        self.assertEqual(self.row(2).outdated, [])

    def test_a_call_that_was_disproven_since_is_told(self) -> None:
        page = self.client.get("/clutches/V-05/1/home/")
        self.assertContains(page, "It promises more than is known now")
        self.assertContains(page, "proven by a test")
        answer = self.client.post("/clutches/V-05/1/home/label/", {"text": "Pinstripe, possible Fire", "price": "320"})
        self.assertContains(answer, "promises more than the call", status_code=422)
        self.client.post("/clutches/V-05/1/home/label/", {"text": "Pinstripe Mojave", "price": "320"})
        self.assertEqual(self.row(1, "V-05").label, "Pinstripe Mojave")

    def test_a_grown_animals_label_is_what_its_record_states(self) -> None:
        animal = self.collection.animals.get(name="Fescue")
        egg = individual_of(animal)
        row = next(row for row in all_kept(self.collection) if row.egg.pk == egg.pk)
        self.assertEqual(row.label, "Mojave, het Piebald (proven)")

    def test_without_a_call_there_is_no_label(self) -> None:
        self.assertContains(self.save(3, text="Banana"), "no call yet", status_code=422)  # type: ignore[arg-type]

    def test_too_long_a_text_is_told(self) -> None:
        self.call(2)
        with self.assertRaisesMessage(Refused, "at most 300"):
            write_label(self.row(2), self.keeper, "Fire " * 70, None, (), self.now, knowing=False)


class Staying(HomesCase):
    def test_the_only_one_of_its_sex_with_a_gene_is_told(self) -> None:
        self.call(4)
        CarriedGene.objects.filter(gene="fire").delete()
        naming = Naming(catalogue_of(self.collection))
        animals = self.collection.animals.filter(archived_on=None, elsewhere=False)
        CarriedGene.objects.create(animal=animals.filter(sex="female")[0], gene="fire", known="seen")
        self.assertIn(
            "The only male here with Fire", [one.words for one in reasons_to_stay(self.collection, self.row(4), naming)]
        )
        CarriedGene.objects.create(animal=animals.filter(sex="male")[0], gene="fire", known="seen")
        self.assertEqual(reasons_to_stay(self.collection, self.row(4), naming), [])

    def test_a_possible_het_is_worth_proving_where_a_visual_of_the_other_sex_is_here(self) -> None:
        row, naming = self.row(6, "V-05"), Naming(catalogue_of(self.collection))
        self.assertIn("possible het Piebald", row.label)
        Egg.objects.filter(pk=row.egg.pk).update(sex="female")
        CarriedGene.objects.filter(gene="piebald").delete()
        male = self.collection.animals.filter(archived_on=None, elsewhere=False, sex="male")[0]
        CarriedGene.objects.create(animal=male, gene="piebald", copies=2, known="seen")
        reasons = reasons_to_stay(self.collection, self.row(6, "V-05"), naming)
        found = next(one for one in reasons if "Piebald, worth proving" in one.words)
        self.assertEqual(found.ground, f"{male.name} shows it and could prove it")

    def test_the_lightest_of_its_kind_with_its_uncertainty(self) -> None:
        for number in (1, 2, 3):
            self.call(number)
        values = {1: 40.0, 2: 62.0, 3: 61.5}
        for number, light in values.items():
            Photo.objects.create(
                egg=self.egg(number, "W-02"),
                stage="shed",
                taken_at=self.now,
                added_at=self.now,
                added_by=self.keeper,
                width=10,
                height=10,
                line={"points": [[0, 0], [1, 1]]},
                strip_done=1,
                sizes_done=1,
                measures={"lightness": {"value": light, "sd": 1.0}},
            )
        (reason,) = within_its_kind(self.collection, self.row(2))
        self.assertEqual(reason.words, "The lightest of its kind")
        self.assertIn("of 3 like it", reason.ground)
        self.assertIn("not told apart from the next for sure", reason.ground)
        self.assertEqual(within_its_kind(self.collection, self.row(3)), [])


class Today(HomesCase):
    def test_what_is_ready_and_what_is_reserved_no_longer(self) -> None:
        fate = Fate.objects.get(state=S.RESERVED, egg__clutch__collection=self.collection)
        fate.until = self.today - timedelta(days=1)
        fate.save()
        titles = [task.title for task in tasks_of_homes(self.collection, self.today)]
        self.assertIn(f"{fate.egg.code} is reserved no longer", titles)
        self.assertTrue(any(title.endswith("ready to go") for title in titles))
        page = self.client.get("/homes/today/")
        self.assertContains(page, "Somebody at the ferry asks for")
        self.assertContains(self.client.get("/"), 'hx-get="/in/withy-bed/homes/today/"')
        self.assertEqual(EggEvent.objects.filter(kind=EggEvent.Kind.AILING).count(), 1)
