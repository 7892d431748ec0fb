"""The het ledger, marks, breedings, tests and the simulated laboratory, on the demo collection."""

from __future__ import annotations

import random
from unittest.mock import patch
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import HttpResponse
from django.test import SimpleTestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from eyot_core.catalogue import builtin_document
from eyot_core.genetics.square import square
from eyot_core.proof.kin import NOT_VISUAL, VISUAL
from eyot_core.wording.names import Naming

from eyot.animals.holdbacks import hold_back
from eyot.bench.actions import make_call
from eyot.bench.models import Look, Proof
from eyot.bench.siblings import judged
from eyot.collection.catalogue import catalogue_of
from eyot.collection.history import changes_of, take_back
from eyot.collection.models import Animal, CarriedGene
from eyot.hets import laboratory
from eyot.hets.carriers import carrier_details
from eyot.hets.explaining import explained, follows_from
from eyot.hets.kinship import gene_kin, pedigree_of, records_of
from eyot.hets.ledger import Asked, Ledger, counts_of, ledger, settles_soonest
from eyot.hets.models import GeneTest, HetMarker, LabOrder, PastBreeding
from eyot.photos.models import Photo
from eyot.season.models import Egg
from tests.web.season_data import SeasonCase


class HetsCase(SeasonCase):
    def animal(self, name: str) -> Animal:
        return self.collection.animals.get(name=name)

    def after(self, name: str, gene: str = "piebald") -> float:
        self.collection.refresh_from_db()
        self.collection.__dict__.pop("_overlaid", None)
        records = records_of(self.collection, catalogue_of(self.collection))
        standing = gene_kin(records, gene).of(self.animal(name).pk)
        assert standing is not None
        return standing.carrier

    def egg_called(self, code: str, number: int) -> Egg:
        """A hatchling that was called to show nothing; it may carry."""
        judgement, egg = judged(self.clutch(code)), self.egg(number, code)
        verdicts = dict.fromkeys(judgement.model.pairing.given_genes, ("not", 1))
        make_call(judgement, egg, self.keeper, verdicts, "shed", "", uuid4(), timezone.now())  # type: ignore[arg-type]
        return egg

    def send(self, name: str, part: str, gene: str = "piebald", **given: object) -> HttpResponse:
        return self.client.post(f"/hets/{self.animal(name).pk}/{gene}/{part}/", given)


class LedgerPage(HetsCase):
    def rows(self, **asked: str) -> dict[tuple[str, str], object]:
        return {(row.animal.name, row.gene): row for row in ledger(self.collection, Asked(**asked)).rows}

    def test_the_trades_words_stand_beside_the_chance_after_everything(self) -> None:
        page = self.client.get("/hets/")
        self.assertContains(page, "66 % possible het")
        self.assertContains(page, "50 % possible het")
        marram = next(row for row in ledger(self.collection, Asked()).rows if row.animal.name == "Marram")
        self.assertEqual((marram.trade, marram.figures[2]), ("66 % possible het", "67\u00a0%"))
        self.assertIn("Comfrey (visual): 6 hatchlings", marram.settles)

    def carrier(self, name: str) -> str:
        return f"/hets/{self.animal(name).pk}/piebald/"

    def test_a_partner_that_is_itself_open_is_not_promised_to_settle_it(self) -> None:
        Animal.objects.filter(name__in=("Comfrey", "Fathom", "Drake", "Whimbrel", "Culm")).update(
            archived_on=timezone.localdate()
        )
        for animal in self.collection.animals.filter(genes__gene="piebald", genes__chance="1", sex="male"):
            Animal.objects.filter(pk=animal.pk).update(archived_on=timezone.localdate())
        self.client.post("/animals/new/", {"line": "Tarnish: 66% het piebald male"})
        marram = next(row for row in ledger(self.collection, Asked(gene="piebald")).rows if row.animal.name == "Marram")
        self.assertEqual(marram.settles, "a DNA test of a shed")
        needed = carrier_details(self.animal("Marram"), "piebald").needed
        self.assertEqual([(row.partner.animal.name, row.five) for row in needed], [("Tarnish", None)])

    def test_breedings_and_tests_of_the_demo_part_what_the_trade_calls_alike(self) -> None:
        rows = {row.animal.name: row for row in ledger(self.collection, Asked()).rows}
        for name, after in (
            ("Thicket", 1.0),
            ("Nettle", 0.75**5 / (0.75**5 + 1)),
            ("Reed", 2 * 0.01 / (2 * 0.01 + 0.995)),
        ):
            self.assertAlmostEqual(rows[name].after, after, 2)
        self.assertEqual((rows["Thicket"].trade, rows["Reed"].trade), ("66 % possible het",) * 2)
        self.assertEqual((rows["Reed"].evidence, rows["Nettle"].evidence), ("1 test", "5 hatchlings"))

    def test_narrowed_by_gene_sex_and_who(self) -> None:
        self.assertEqual({gene for _, gene in self.rows(gene="hypo")}, {"hypo"})
        self.assertTrue(all(self.animal(name).sex == "female" for name, _ in self.rows(sex="female")))
        self.assertEqual(self.rows(role="young"), {})
        hold_back(self.egg_called("W-03", 1), self.keeper, "Sedgelet", timezone.now())
        self.assertEqual({name for name, _ in self.rows(role="young")}, {"Sedgelet"})

    def test_the_page_asks_what_its_address_says(self) -> None:
        def shown(asked: str) -> Ledger:
            return self.client.get("/hets/" + asked).context["ledger"]  # type: ignore[attr-defined,no-any-return]

        hold_back(self.egg_called("W-03", 1), self.keeper, "Sedgelet", timezone.now())
        self.assertEqual({row.animal.name for row in shown("?role=young").rows}, {"Sedgelet"})
        with patch("eyot.hets.ledger.ON_A_PAGE", 5):
            first, second = shown(""), shown("?page=2")
        self.assertEqual((first.page.number, second.page.number), (1, 2))
        self.assertEqual([*first.rows, *second.rows], ledger(self.collection, Asked()).rows[:10])

    def test_what_no_laboratory_tests_for_and_nobody_proves_is_not_settled_here(self) -> None:
        catalogue, marram = catalogue_of(self.collection), self.animal("Marram")
        self.assertEqual(settles_soonest(catalogue, "sunset", marram, 0.5, []), "no certain partner is here")
        self.assertEqual(settles_soonest(catalogue, "piebald", marram, 0.5, []), "a DNA test of a shed")
        self.assertEqual(settles_soonest(catalogue, "piebald", marram, 1.0, []), "nothing: it is certain")

    def test_sorted_by_what_is_worth_proving(self) -> None:
        rows = ledger(self.collection, Asked()).rows
        worth = [row.after * (1 - row.after) for row in rows]
        self.assertEqual(worth, sorted(worth, reverse=True))
        self.assertAlmostEqual(rows[0].after, 0.5, 2)
        by_chance = ledger(self.collection, Asked(sort="chance")).rows
        self.assertEqual([row.after for row in by_chance], sorted((row.after for row in by_chance), reverse=True))

    def test_visuals_and_archived_animals_are_no_hets(self) -> None:
        self.assertNotIn(("Comfrey", "piebald"), self.rows())
        Animal.objects.filter(name="Marram").update(archived_on=timezone.localdate())
        self.assertNotIn(("Marram", "piebald"), self.rows())

    def test_a_fixed_number_of_queries(self) -> None:
        self.client.get("/hets/")
        with CaptureQueriesContext(connection) as before:
            self.client.get("/hets/")
        for number in range(30):
            self.client.post("/animals/new/", {"line": f"Extra{number}: 66% het clown female"})
        with CaptureQueriesContext(connection) as after:
            self.assertContains(self.client.get("/hets/"), "Extra29")
        self.assertEqual(len(after), len(before))


class Breeding(HetsCase):
    def prove(self, number: int, copies: int, code: str = "W-04") -> None:
        Proof.objects.update_or_create(
            egg=self.egg(number, code),
            gene="piebald",
            defaults={"copies": copies, "how": Proof.How.AGED, "on": timezone.localdate()},
        )

    def test_a_visual_hatchling_proves_both_parents_and_moves_the_siblings_and_says_why(self) -> None:
        self.assertAlmostEqual(self.after("Marram"), 2 / 3, 2)
        self.prove(1, 2)
        self.assertAlmostEqual(self.after("Marram"), 1, 9)
        self.assertAlmostEqual(self.after("Fathom"), 1, 9)
        message = carrier_details(self.animal("Marram"), "piebald")
        self.assertIn(
            "Egg 1 of W-04 shows Piebald: it comes from both parents, so Marram and Fathom carry it.", message.reasons
        )
        self.assertEqual(message.trade, "66 % possible het", "the trade's figure stays")

    def test_what_became_certain_is_offered_to_the_record_and_never_entered_by_itself(self) -> None:
        refused = self.send("Marram", "enter")
        self.assertContains(refused, "nothing certain to enter", status_code=422)
        self.prove(1, 2)
        row = self.animal("Marram").genes.get(gene="piebald")
        self.assertEqual((row.chance, row.known), ("2/3", "possible"))
        self.assertContains(
            self.client.get(f"/hets/{self.animal('Marram').pk}/piebald/"), "Enter it: het Piebald, bred"
        )
        CarriedGene.objects.filter(pk=row.pk).update(two_chance="1/4")
        self.send("Marram", "enter")
        row.refresh_from_db()
        self.assertEqual((row.chance, row.two_chance, row.known), ("1", "", "bred"))
        self.assertEqual(carrier_details(self.animal("Marram"), "piebald").offer, "")
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        row.refresh_from_db()
        self.assertEqual((row.chance, row.known), ("2/3", "possible"))

    def test_what_a_test_settled_is_certain_and_what_is_only_said_is_as_likely_as_the_parents_make_it(self) -> None:
        hold_back(self.egg_called("W-03", 1), self.keeper, "Sedgelet", timezone.now())
        chances = {}
        for known in ("tested", "declared"):
            self.animal("Sedgelet").genes.filter(gene="hypo").update(known=known, chance="1")
            chances[known] = self.after("Sedgelet", "hypo")
        self.assertEqual(chances["tested"], 1.0)
        self.assertLess(chances["declared"], 2 / 3)

    def test_a_sibling_that_shows_it_says_what_the_dam_is(self) -> None:
        hold_back(self.egg_called("W-03", 1), self.keeper, "Sedgelet", timezone.now())
        for numbers, words in (((2,), "Egg 2 of W-03 shows Hypo"), ((2, 3), "Eggs 2, 3 of W-03 show Hypo")):
            for number in numbers:
                Proof.objects.update_or_create(
                    egg=self.egg(number, "W-03"),
                    gene="hypo",
                    defaults={"copies": 2, "how": Proof.How.AGED, "on": timezone.localdate()},
                )
            reasons = carrier_details(self.animal("Sedgelet"), "hypo").reasons
            self.assertIn(f"{words}: so Osier carries it.", reasons)

    def test_only_what_is_called_for_sure_counts_of_a_hatchling(self) -> None:
        def call(number: int, verdict: str) -> None:
            judgement = judged(self.clutch())
            verdicts = dict.fromkeys(judgement.model.pairing.given_genes, ("not", 1)) | {"piebald": (verdict, 2)}
            make_call(judgement, self.egg(number), self.keeper, verdicts, "egg", "", uuid4(), timezone.now())  # type: ignore[arg-type]

        for number, verdict in ((1, "sure"), (2, "likely"), (3, "possible"), (4, "not")):
            call(number, verdict)
        hatched = records_of(self.collection, catalogue_of(self.collection)).hatched["piebald"]
        here = {egg.number: hatched[egg.pk] for egg in self.clutch().eggs.all() if egg.pk in hatched}
        self.assertEqual(here, {1: VISUAL, 4: NOT_VISUAL})

    def test_of_a_clutch_with_two_sires_a_visual_proves_the_dam_and_raises_both_sires(self) -> None:
        clutch = self.clutch("W-03")
        before = {name: self.after(name, "piebald") if self.stands(name) else 0.0 for name in ("Osier", "Tarn", "Rill")}
        self.prove(1, 2, "W-03")
        self.assertAlmostEqual(self.after(clutch.dam.name), 1, 6)
        for name in ("Tarn", "Rill"):
            self.assertGreater(self.after(name), before[name] + 0.3)
            self.assertLess(self.after(name), 0.99)
        message = carrier_details(self.animal("Tarn"), "piebald").reasons
        self.assertIn(
            "Egg 1 of W-03 shows Piebald: it comes from Osier, who carries it, and from one of Tarn and Rill.", message
        )

    def stands(self, name: str) -> bool:
        records = records_of(self.collection, catalogue_of(self.collection))
        return gene_kin(records, "piebald").of(self.animal(name).pk) is not None

    def test_plain_hatchlings_lower_it(self) -> None:
        for number in range(1, 6):
            self.prove(number, 0)
        self.assertLess(self.after("Marram"), 0.3)

    def test_a_breeding_outside_the_record_counts_exactly(self) -> None:
        for name in ("Marram",):
            self.assertEqual(self.send(name, "breedings", partner="visual", hatchlings=6, visuals=0).status_code, 302)
        self.assertAlmostEqual(self.after("Marram"), 1 / 33, 3)

    def test_what_cannot_be_is_refused_and_nothing_is_kept(self) -> None:
        for message, given in (
            ("more visuals than hatchlings", {"partner": "het", "hatchlings": 2, "visuals": 3}),
            ("from 1 to 400", {"partner": "het", "hatchlings": 0, "visuals": 0}),
            ("normal partner gives no visual", {"partner": "normal", "hatchlings": 2, "visuals": 1}),
            ("what the partner was", {"partner": "dragon", "hatchlings": 2, "visuals": 0}),
            ("needs its chance", {"partner": "possible", "chance": "lots", "hatchlings": 2, "visuals": 0}),
            ("not a number", {"partner": "het", "hatchlings": "six", "visuals": 0}),
        ):
            with self.subTest(message):
                self.assertContains(self.send("Marram", "breedings", **given), message, status_code=422)
        self.assertFalse(PastBreeding.objects.filter(animal__name="Marram").exists())

    def test_taken_back_it_counts_no_more(self) -> None:
        before = self.after("Marram")
        self.send("Marram", "breedings", partner="visual", hatchlings=6, visuals=0)
        take_back(changes_of(self.collection)[0], self.keeper, timezone.now())
        self.assertAlmostEqual(self.after("Marram"), before, 12)


class Tests(HetsCase):
    def test_a_clear_test_lowers_and_a_carrier_test_raises(self) -> None:
        self.send("Marram", "tests", result="clear", laboratory="Sedge Bench", sensitivity="0.99", specificity="0.995")
        clear = self.after("Marram")
        self.assertAlmostEqual(clear, 2 / 3 * 0.01 / (2 / 3 * 0.01 + 1 / 3 * 0.995), 3)
        self.send("Marram", "tests", result="carrier", laboratory="Sedge Bench")
        self.assertGreater(self.after("Marram"), clear)

    def test_a_test_against_what_is_certain_is_refused(self) -> None:
        message = self.send(
            "Fathom", "tests", result="clear", laboratory="Sedge Bench", sensitivity="1", specificity="1"
        )
        self.assertContains(message, "can’t be, with what is certain", status_code=422)
        self.assertFalse(GeneTest.objects.filter(animal__name="Fathom").exists())

    def test_rates_that_are_no_shares_are_refused(self) -> None:
        for given in ({"sensitivity": "1.2"}, {"specificity": "high"}, {"result": "maybe"}, {"laboratory": " "}):
            full = {"result": "clear", "laboratory": "Sedge Bench"} | given
            self.assertContains(self.send("Marram", "tests", **full), "Nothing was changed", status_code=422)

    def file(self, text: str) -> HttpResponse:
        return self.client.post("/hets/tests/", {"file": SimpleUploadedFile("results.csv", text.encode())}, follow=True)

    def test_a_laboratorys_file_is_taken_as_a_whole_or_not_at_all(self) -> None:
        head = "animal;gene;result;date;laboratory;sensitivity\n"
        good = (
            head + "Marram;Piebald;clear;2026-05-31;Sedge Bench;0.98\nIris;ultramel;Carrier;31.05.2026;Sedge Bench;\n"
        )
        self.assertContains(self.file(good), "2 results taken from the file")
        rows = {row.animal.name: row for row in GeneTest.objects.filter(laboratory="Sedge Bench")}
        self.assertEqual({name: row.result for name, row in rows.items()}, {"Marram": "clear", "Iris": "carrier"})
        self.assertEqual(rows["Marram"].sensitivity, 0.98)
        self.assertEqual(changes_of(self.collection)[0].subject, "collection")
        bad = (
            head
            + "Marram;Piebald;clear;2026-05-31;Sedge Bench;\nNobody;Piebald;maybe;2026-05-31;;\nMarram;Mojave;clear;2026-05-31;;\n"
        )
        page = self.file(bad)
        self.assertContains(page, "row 3: there is no animal “Nobody”", status_code=422)
        self.assertContains(page, "row 4: “Mojave” is no recessive gene", status_code=422)
        self.assertEqual(GeneTest.objects.filter(laboratory="Sedge Bench").count(), 2)
        self.assertContains(
            self.file("animal,gene\nMarram,Piebald\n"), "missing: result, date, laboratory", status_code=422
        )
        self.assertContains(self.file(""), "must name the columns", status_code=422)


class Marks(HetsCase):
    def test_marks_move_the_keepers_figure_and_never_the_trades(self) -> None:
        self.send("Marram", "marks", **{"ringer.partial": "seen", "belly_marks.tracks": "unseen"})
        message = carrier_details(self.animal("Marram"), "piebald")
        ratios = {row["trait"]: row for row in builtin_document()["markers"] if row["when"][0]["gene"] == "piebald"}
        odds = 2 * ratios["ringer"]["ratio_seen"] * ratios["belly_marks"]["ratio_unseen"]
        self.assertEqual(message.figures[:2], ("67\u00a0%", f"{100 * odds / (1 + odds):.0f}\u00a0%"))
        self.send("Marram", "marks", **{"ringer.partial": ""})
        self.assertEqual(HetMarker.objects.count(), 0)

    def test_what_was_answered_on_the_bench_counts_before_a_call_and_once(self) -> None:
        """A ringer of an open egg of W-04, whose parents may carry piebald."""
        egg = Egg.objects.get(clutch__code="W-04", number=5)
        before = gene_kin(records_of(self.collection, catalogue_of(self.collection)), "piebald")
        self.assertNotIn(("egg", egg.pk), before.names)
        now = timezone.now()
        Look.objects.create(egg=egg, trait="ringer", level="partial", stage="egg", seen_by=self.keeper, seen_at=now)
        names, kin = pedigree_of(records_of(self.collection, catalogue_of(self.collection)), "piebald")
        ratio = next(row["ratio_seen"] for row in builtin_document()["markers"] if row["trait"] == "ringer")
        marks = kin[names["egg", egg.pk]].marks
        self.assertAlmostEqual(marks[1] / marks[0], ratio)
        self.client.post("/hets/markers/")
        self.collection.refresh_from_db()
        off = gene_kin(records_of(self.collection, catalogue_of(self.collection)), "piebald")
        self.assertNotIn(("egg", egg.pk), off.names)

    def test_marks_off_then_nothing_but_genetics_counts(self) -> None:
        self.send("Marram", "marks", **{"ringer.partial": "seen"})
        self.assertGreater(self.after("Marram"), 0.7)
        self.client.post("/hets/markers/")
        self.assertEqual(changes_of(self.collection)[0].what, "marks of hets don’t count any more")
        self.assertAlmostEqual(self.after("Marram"), 2 / 3, 2)
        self.assertNotContains(self.client.get("/hets/"), "with marks")
        self.assertEqual(HetMarker.objects.count(), 1, "what was answered is kept")
        self.client.post("/hets/markers/")
        self.assertGreater(self.after("Marram"), 0.7)

    def test_marks_that_other_genes_hide_are_not_asked_for_and_say_why(self) -> None:
        """Marram is a mojave, which washes out the head: clown's mark on the head is not asked for."""
        self.assertContains(
            self.client.get(f"/hets/{self.animal('Marram').pk}/clown/"), "Not asked: dark and mojave-like"
        )
        self.assertNotContains(self.client.get(f"/hets/{self.animal('Drake').pk}/clown/"), "Not asked")

    def test_photos_of_the_place_stand_beside_a_mark(self) -> None:
        quillet = self.animal("Quillet")
        photo = Photo.objects.create(
            egg=quillet.hatched_from, stage="shed", kind="tail", taken_at=timezone.now(), sizes_done=1,
            width=40, height=30, added_by=self.keeper,
        )  # fmt: skip
        rows = {row.trait: row for row in carrier_details(quillet, "piebald").marks}
        self.assertEqual((rows["tail_pattern"].photos, rows["belly_marks"].photos), ((photo,), ()))

    def test_an_answer_that_is_none_changes_nothing(self) -> None:
        message = self.send("Marram", "marks", **{"ringer.partial": "perhaps"})
        self.assertContains(message, "Nothing was changed", status_code=422)
        self.assertFalse(HetMarker.objects.exists())

    def test_marks_are_counted_among_proven_animals_and_own_ratios_taken_over_above_a_floor(self) -> None:
        for number in range(13):
            for kind, line in (("Yes", "het piebald (bred)"), ("No", "")):
                self.client.post("/animals/new/", {"line": f"{kind}{number}: {line} female"})
                name = f"{kind}{number}"
                if kind == "No":
                    self.send(name, "tests", result="clear", laboratory="Sedge Bench", sensitivity="1", specificity="1")
                self.send(name, "marks", **{"ringer.partial": "seen" if (number < 10) == (kind == "Yes") else "unseen"})
        row = next(one for one in counts_of(self.collection, "piebald") if one.trait == "ringer")
        self.assertEqual((row.carriers.right, row.carriers.count, row.others.right, row.others.count), (10, 13, 3, 13))
        self.assertAlmostEqual(row.own_seen, (10.5 / 14) / (3.5 / 14), 12)
        page = self.client.post("/hets/marks/piebald/take-over/", {"mark": "belly_marks.tracks"})
        self.assertContains(page, "12 proven carriers", status_code=422)
        self.client.post("/hets/marks/piebald/take-over/", {"mark": "ringer.partial"})
        self.send("Marram", "marks", **{"ringer.partial": "seen"})
        self.assertAlmostEqual(self.after("Marram"), 6 / 7, 2)
        self.assertContains(self.client.get("/reference/opinions/"), "mark of carriers: ringer partial 3 times if seen")


class Laboratory(HetsCase):
    def order(self, **given: object) -> HttpResponse:
        return self.client.post("/laboratory/order/", {"animal": "Marram", "genes": ["piebald"]} | given, follow=True)

    def test_from_the_order_to_a_result_that_counts_and_is_marked_as_simulated(self) -> None:
        self.assertContains(self.order(), "The shed is in")
        order = LabOrder.objects.get()
        self.assertContains(self.client.post(f"/laboratory/{order.pk}/report/"), "not the next step", status_code=422)
        self.client.post(f"/laboratory/{order.pk}/received/")
        self.assertContains(self.client.post(f"/laboratory/{order.pk}/report/"), "The report comes on", status_code=422)
        before = self.after("Marram")
        self.client.post(f"/laboratory/{order.pk}/pass/")
        result = GeneTest.objects.get(animal__name="Marram")
        self.assertTrue(result.simulated)
        self.assertNotAlmostEqual(self.after("Marram"), before, 2)
        self.assertContains(self.client.get("/laboratory/"), f"Piebald: {result.result}")
        self.assertContains(self.client.post(f"/laboratory/{order.pk}/pass/"), "not the next step", status_code=422)

    def test_each_order_shows_its_own_results_and_what_comes_next(self) -> None:
        def rows() -> dict[str, tuple[str, list[str]]]:
            return {
                row.genes: (row.step, row.results)
                for row in laboratory.order_rows(self.collection, timezone.localdate())
            }

        self.order()
        self.assertEqual(rows(), {"Piebald": ("received", [])})
        first = LabOrder.objects.get()
        self.client.post(f"/laboratory/{first.pk}/received/")
        self.assertEqual(rows(), {"Piebald": ("report", [])})
        self.client.post(f"/laboratory/{first.pk}/pass/")
        self.order(genes=["clown"])
        self.client.post(f"/laboratory/{LabOrder.objects.latest('pk').pk}/received/")
        found = rows()
        self.assertEqual((found["Piebald"][0], found["Clown"]), ("", ("report", [])))
        self.assertEqual(found["Piebald"][1], [f"Piebald: {GeneTest.objects.get(animal__name='Marram').result}"])
        self.client.post(f"/laboratory/{LabOrder.objects.latest('pk').pk}/pass/")
        self.assertEqual([len(results) for _, results in rows().values()], [1, 1])
        self.assertContains(self.client.get("/laboratory/"), '<option value="Marram"')

    def test_only_what_is_offered_can_be_ordered(self) -> None:
        for given in ({"genes": []}, {"genes": ["mojave"]}, {"animal": "Nobody"}, {"animal": ""}):
            self.assertEqual(
                self.client.post("/laboratory/order/", {"animal": "Marram", "genes": ["piebald"]} | given).status_code,
                422,
            )
        self.assertFalse(LabOrder.objects.exists())

    def test_the_stand_in_errs_as_often_as_it_says(self) -> None:
        chooser = random.Random(3)
        found = [laboratory.drawn_result(1.0, chooser) for _ in range(4000)]
        self.assertAlmostEqual(found.count("carrier") / 4000, laboratory.SENSITIVITY, 2)
        with patch.object(laboratory, "SPECIFICITY", 0.8):
            wrong = [laboratory.drawn_result(0.0, chooser) for _ in range(4000)]
        self.assertAlmostEqual(wrong.count("carrier") / 4000, 0.2, 1)


class Explained(HetsCase):
    def test_the_square_of_a_pairing_at_hand(self) -> None:
        page = self.client.get("/explain/?dam=Comfrey&sire=Fathom&gene=piebald")
        self.assertContains(page, "2 in 4 show Piebald")
        self.assertContains(page, "All others carry it: 100 % het.")
        other = self.client.get(
            "/explain/?dam=Comfrey&sire=Fathom&gene=piebald&sire_state=normal", headers={"HX-Request": "true"}
        )
        self.assertContains(other, "All others carry it")
        self.assertNotContains(other, "show Piebald:")

    def test_the_other_terms_are_drawn_on_genes_of_this_collection(self) -> None:
        view = explained(self.collection, {})
        self.assertEqual(view.terms["maker"].cells[0][0], ("sons show Banana", 2))
        self.assertEqual(self.animal(view.maker).genes.get(gene="banana").on_chromosome, "Y")
        first, second = view.terms["allelic"].dam_gives
        catalogue = catalogue_of(self.collection)
        loci = {Naming(catalogue).gene(gene.id): gene.locus for gene in catalogue.genes.values()}
        self.assertEqual(loci[first], loci[second])
        self.assertContains(self.client.get("/explain/"), "double het, looks normal")


class Squares(SimpleTestCase):
    def test_what_follows_from_each_square_in_words(self) -> None:
        said = {
            (1, 1): "2 in 3 carry it. Nobody sees which: each is called 66 %",
            (1, 0): "2 in 4 carry it",
            (0, 0): "None gets G.",
            (2, 1): "All others carry it: 100 % het.",
        }
        for (dam, sire), words in said.items():
            self.assertIn(words, " ".join(follows_from(square(dam, sire), "G")))
