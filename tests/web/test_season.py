"""The season: tasks of the day, places on the timeline, days of a clutch, and the rules of rows."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from eyot.bench.actions import Answer, record_look
from eyot.bench.clutch_queries import gene_rows, welfare_notes
from eyot.bench.day_line import day_line
from eyot.bench.siblings import filmstrip, judged
from eyot.collection.models import CarriedGene, valid_chance
from eyot.season.models import Clutch, Egg
from eyot.season.queries import clutches_of, clutches_of_season, open_calls_by_clutch
from eyot.season.timeline import timeline_of
from eyot.season.today import tasks_of
from tests.web.season_data import SeasonCase


class Today(SeasonCase):
    def tasks(self) -> dict[str, str]:
        clutches = list(clutches_of(self.collection))
        found = tasks_of(clutches, timezone.localdate(), open_calls_by_clutch(self.collection))
        return {task.title: task.why for task in found}

    def test_each_clutch_has_its_task(self) -> None:
        found = self.tasks()
        self.assertIn("Cut eggs 6 and 7", found)
        self.assertIn("Call 4 hatchlings of W-02", found)
        self.assertIn("in the blue", found["Leave W-03 alone"])
        self.assertIn("in 13 days", found["Leave W-06 alone"])
        self.assertIn("locked 5 times", found["Look in on Coot"])

    def test_a_closed_clutch_asks_for_nothing(self) -> None:
        self.assertFalse(any("V-09" in text for row in self.tasks().items() for text in row))

    def test_calls_that_are_made_are_not_asked_for(self) -> None:
        self.assertEqual(open_calls_by_clutch(self.collection)[self.clutch("W-02").pk], 4)
        self.assertNotIn(self.clutch("V-09").pk, open_calls_by_clutch(self.collection))

    def test_a_closed_clutch_waits_for_no_call(self) -> None:
        Clutch.objects.filter(code="W-02").update(closed_on=timezone.localdate())
        self.assertNotIn(self.clutch("W-02").pk, open_calls_by_clutch(self.collection))

    def test_one_hatchling_is_one(self) -> None:
        self.clutch("W-02").eggs.exclude(number=2).delete()
        self.assertIn("Call 1 hatchling of W-02", self.tasks())

    def test_two_are_two(self) -> None:
        self.clutch("W-02").eggs.exclude(number__in=(2, 3)).delete()
        self.assertTrue({"Call 2 hatchlings of W-02"} & self.tasks().keys(), self.tasks())


class Lines(SeasonCase):
    def test_days_lie_in_order_and_those_to_come_after_today(self) -> None:
        clutches = list(clutches_of_season(self.collection, None))
        timeline = timeline_of(clutches, timezone.localdate())
        self.assertEqual([row.clutch.code for row in timeline.rows], ["W-02", "W-03", "W-04", "W-06", "W-07"])
        for row in timeline.rows:
            places = [glyph.x for glyph in row.glyphs]
            self.assertEqual(places, sorted(places), row.clutch.code)
            for glyph in row.glyphs:
                self.assertEqual(glyph.ahead, glyph.on > timezone.localdate(), (row.clutch.code, glyph.kind))
            self.assertTrue(min(places) > 0 and max(places) < timeline.width)

    def test_a_cut_that_has_not_been_made_lies_ahead_though_its_day_has_come(self) -> None:
        today = timezone.localdate()
        Clutch.objects.filter(code="W-06").update(laid_on=today - timedelta(days=59))
        (row,) = timeline_of([self.clutch("W-06")], today).rows
        cut = next(glyph for glyph in row.glyphs if glyph.kind == "cut")
        self.assertEqual((cut.on <= today, cut.ahead), (True, True))

    def test_the_days_of_a_clutch_being_cut(self) -> None:
        line = day_line(self.clutch(), timezone.localdate())
        assert line is not None
        self.assertEqual([mark.name for mark in line.marks], ["laid", "cut", "out", "blue", "shed"])
        self.assertEqual([mark.ahead for mark in line.marks], [False, False, True, True, True])
        self.assertEqual(line.day, 58)
        self.assertNotEqual(line.marks[1].name_y, line.marks[2].name_y)

    def test_a_pairing_that_has_not_laid_has_no_days(self) -> None:
        self.assertIsNone(day_line(self.clutch("W-07"), timezone.localdate()))

    def test_a_closed_clutch_ends_after_its_shed(self) -> None:
        line = day_line(self.clutch("V-09"), timezone.localdate())
        assert line is not None
        self.assertTrue(line.is_over)
        self.assertGreater(line.marks[-1].x, 500)


class GenesByEggs(SeasonCase):
    def test_expected_is_the_parents_chance_times_the_eggs(self) -> None:
        clutch = self.clutch()
        judgement = judged(clutch)
        rows = {row.name: row for row in gene_rows(judgement, filmstrip(judgement, clutch))}
        self.assertEqual(rows["Mojave"].expected, "3.5")
        self.assertEqual(rows["Piebald"].expected, "1.2")
        self.assertEqual([cell.mark for cell in rows["Mojave"].cells[-2:]], ["unlooked", "unlooked"])

    def test_a_call_stands_in_the_table_as_it_was_made(self) -> None:
        clutch = self.clutch("V-09")
        judgement = judged(clutch)
        rows = {row.name: row for row in gene_rows(judgement, filmstrip(judgement, clutch))}
        self.assertEqual([cell.mark for cell in rows["Ultramel"].cells], ["two", "none", "two", "none"])
        self.assertEqual(rows["Gravel"].found, "3")

    def test_before_the_laying_each_egg_has_its_chance(self) -> None:
        judgement = judged(self.clutch("W-07"))
        self.assertEqual({row.expected for row in gene_rows(judgement, [])}, {"1 in 2"})
        self.assertEqual(len(judgement.what_can_come(99)), 16)

    def test_welfare_is_named_where_it_can_come(self) -> None:
        self.assertEqual(self.welfare("W-07"), ["Spider", "Woma"])
        self.assertNotIn("Mojave", self.welfare("W-04"))

    def welfare(self, code: str) -> list[str]:
        judgement = judged(self.clutch(code))
        return [name for name, *_ in welfare_notes(judgement.model.pairing, judgement.naming)]


class Rows(SeasonCase):
    def test_a_chance_is_a_fraction_above_nothing(self) -> None:
        valid_chance("2/3")
        for bad in ("often", "0", "5/4", "1/0"):
            with self.subTest(bad), self.assertRaises(ValidationError):
                valid_chance(bad)

    def test_one_statement_a_gene_and_one_egg_a_number(self) -> None:
        marram = self.clutch().dam
        with self.assertRaises(IntegrityError), transaction.atomic():
            CarriedGene.objects.create(animal=marram, gene="mojave", known="seen")
        with self.assertRaises(IntegrityError), transaction.atomic():
            Egg.objects.create(clutch=self.clutch(), number=1)

    def test_an_id_is_year_clutch_and_egg(self) -> None:
        laid = timezone.localdate() - timedelta(days=58)
        self.assertEqual(self.egg(3).code, f"{laid:%y}-W04-3")


class FirstGuess(SeasonCase):
    def guess(self, number: int) -> str:
        judgement = judged(self.clutch())
        return next(frame.words for frame in filmstrip(judgement, self.clutch()) if frame.egg.number == number)

    def test_what_is_sure_is_named_and_the_rest_left_open(self) -> None:
        self.assertEqual(self.guess(3), "no idea yet")
        record_look(self.egg(3), self.keeper, Answer("white_layout", "saddles", "egg", "sure", uuid4()), timezone.now())
        self.assertEqual(self.guess(3), "Piebald")

    def test_an_egg_that_is_shut_says_so(self) -> None:
        self.assertEqual(self.guess(6), "shut, dented")
