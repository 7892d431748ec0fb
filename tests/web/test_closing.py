"""The closing sheet: labels in two wordings, what came, luck, and what the parents are offered."""

from __future__ import annotations

from uuid import uuid4

from django.utils import timezone

from eyot.bench.actions import Answer, make_call, record_look
from eyot.bench.closing import came_rows, offers, sheet_rows
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.history import changes_of, take_back
from tests.web.season_data import SeasonCase


class Closing(SeasonCase):
    def see_saddles(self) -> None:
        for trait, level in (("white_layout", "saddles"), ("white_share", "mid")):
            record_look(self.egg(3), self.keeper, Answer(trait, level, "egg", "sure", uuid4()), timezone.now())

    def test_each_hatchling_has_its_label_in_two_wordings(self) -> None:
        clutch = self.clutch("W-02")
        egg = self.egg(2, "W-02")
        verdicts = {
            "fire": ("sure", 1),
            "vanilla": ("sure", 1),
            "enchi": ("not", 1),
            "pinstripe": ("not", 1),
            "banana": ("not", 1),
        }
        make_call(judged(clutch), egg, self.keeper, verdicts, "shed", "", uuid4(), timezone.now())
        judgement = judged(self.clutch("W-02"))
        rows = {row.egg.number: row for row in sheet_rows(judgement, filmstrip(judgement, self.clutch("W-02")))}
        self.assertEqual((rows[2].label, rows[2].trade), ("Fire Vanilla", "Vanilla cream"))
        self.assertEqual(rows[1].trade, "")
        page = self.client.get("/clutches/W-02/closing/")
        self.assertContains(page, "Vanilla cream")
        self.assertContains(page, "not called yet")
        self.assertContains(page, "an opinion, not proof")

    def test_what_came_is_counted_from_the_calls_and_luck_is_told(self) -> None:
        judgement = judged(self.clutch("V-09"))
        rows = {row.name: row for row in came_rows(judgement, filmstrip(judgement, self.clutch("V-09")))}
        self.assertEqual((rows["Ultramel"].expected, rows["Ultramel"].came), ("2.0 of 4", "2"))
        self.assertEqual(rows["Gravel"].came, "3")
        self.assertEqual(rows["Gravel"].words, "nothing out of the ordinary")
        open_rows = came_rows(judged(self.clutch()), filmstrip(judged(self.clutch()), self.clutch()))
        self.assertTrue(all("open" in row.came for row in open_rows))

    def test_what_looks_leave_in_doubt_stays_open(self) -> None:
        self.see_saddles()
        rows = {
            row.name: row for row in came_rows(judged(self.clutch()), filmstrip(judged(self.clutch()), self.clutch()))
        }
        self.assertEqual((rows["Piebald"].came, rows["Leopard"].came), ("1, 4 open", "0, 5 open"))

    def test_a_proven_parent_is_offered_not_changed(self) -> None:
        self.assertEqual(offers(judged(self.clutch()), self.clutch()), [])
        self.see_saddles()
        offered = offers(judged(self.clutch()), self.clutch())
        self.assertEqual(
            [(one.animal.name, one.before, one.after) for one in offered],
            [("Marram", "66 % het Piebald (possible)", "het Piebald (bred)")],
        )
        marram = self.collection.animals.get(name="Marram")
        self.assertEqual(marram.genes.get(gene="piebald").known, "possible")

    def test_an_offer_is_taken_over_with_its_reason_and_can_be_taken_back(self) -> None:
        self.see_saddles()
        marram = self.collection.animals.get(name="Marram")
        self.client.post("/clutches/W-04/closing/take-over/", {"animal": marram.pk, "gene": "piebald"})
        gene = marram.genes.get(gene="piebald")
        self.assertEqual((gene.known, gene.chance, gene.copies), ("bred", "1", 1))
        change = changes_of(self.collection)[0]
        self.assertIn("clutch W-04 leaves", change.what)
        take_back(change, self.keeper, timezone.now())
        self.assertEqual(marram.genes.get(gene="piebald").chance, "2/3")

    def test_what_is_not_offered_is_refused(self) -> None:
        marram = self.collection.animals.get(name="Marram")
        answer = self.client.post("/clutches/W-04/closing/take-over/", {"animal": marram.pk, "gene": "piebald"})
        self.assertContains(answer, "no longer says so", status_code=422)
        self.assertEqual(self.client.get("/clutches/X-01/closing/").status_code, 404)
