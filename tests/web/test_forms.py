"""What is typed on forms: errors stand beside their field, and everything typed stays."""

from __future__ import annotations

import re
from datetime import date
from unittest import TestCase

from django.core.exceptions import ValidationError
from django.utils import timezone

from eyot.season.models import Clutch
from eyot.shared.csv_files import csv_of, table_in
from eyot.shared.forms import DayField, DecimalField, LineField, TodayField, WholeField
from eyot.shared.refusal import Refused
from tests.web.season_data import SeasonCase


class Fields(TestCase):
    def test_days_are_read_as_keepers_write_them(self) -> None:
        for text in ("2026-05-31", "31.05.2026", "31/05/2026", " 2026-05-31 "):
            self.assertEqual(DayField().clean(text), date(2026, 5, 31), text)
        self.assertIsNone(DayField().clean(""))
        self.assertEqual(TodayField().clean(""), timezone.localdate())
        for text in ("31 May", "2026-13-01", "31.05.26.1"):
            with self.assertRaisesRegex(ValidationError, f"“{text}” is not a day"):
                DayField().clean(text)

    def test_numbers_are_read_and_what_is_none_is_told(self) -> None:
        self.assertEqual([WholeField().clean(text) for text in ("", "0", " 12 ", "9999")], [0, 0, 12, 9999])
        grams = DecimalField(example="a number of grams", unit="g")
        self.assertEqual([grams.clean(text) for text in ("64,5", "64.5 g", "64")], [64.5, 64.5, 64.0])
        for field, text in (
            (WholeField(), "-1"),
            (WholeField(), "10000"),
            (grams, "heavy"),
            (grams, "inf"),
            (grams, ""),
        ):
            with self.assertRaisesRegex(ValidationError, f"“{text}” is not a number"):
                field.clean(text)

    def test_a_line_loses_the_space_at_its_ends_and_what_does_not_fit(self) -> None:
        self.assertEqual(LineField(5).clean("  a lobe  "), "a lob")


class Beside(SeasonCase):
    """The record of a pairing, of eggs, an animal's form, and a carrier's page."""

    def sent(self, path: str, **given: str) -> str:
        answer = self.client.post(path, given)
        self.assertEqual(answer.status_code, 422)
        return answer.content.decode()

    def field(self, page: str, name: str) -> str:
        """The input of a name that is told to be wrong, with what is said of it behind it."""
        found = re.search(
            rf'<input[^>]*name="{name}"[^>]*aria-invalid="true"[^>]*>.*?<span class="field-error"[^>]*>(.*?)</span>',
            page,
            re.S,
        )
        assert found, page
        described = re.search(r'aria-describedby="([^"]+)"', found[0])
        assert described
        self.assertIn(f'id="{described[1]}"', found[0])
        return found[0]

    def test_a_weight_that_is_none(self) -> None:
        page = self.sent("/clutches/W-02/1/record/weights/", grams="heavy", on="2026-06-01")
        self.assertIn("Weight: “heavy” is not a number of grams. Nothing was changed.", page)
        self.assertIn('value="heavy"', self.field(page, "grams"))
        self.assertIn('value="2026-06-01"', page)

    def test_a_rule_that_is_broken_is_told_at_its_field(self) -> None:
        page = self.sent("/clutches/W-02/1/record/weights/", grams="9000")
        self.assertIn("at most 400 g", self.field(page, "grams"))
        page = self.sent("/clutches/W-02/record/eggs/", number="1")
        self.assertIn("W-02 has an egg 1 already.</span>", self.field(page, "number"))

    def test_of_many_forms_only_the_one_that_was_sent_says_so(self) -> None:
        page = self.sent("/clutches/W-02/2/state/", state="dead", on="tomorrow")
        wrong = re.findall(r'aria-invalid="true"', page)
        self.assertEqual(len(wrong), 1)
        row = page[page.index('aria-label="Record of egg 2"') : page.index('aria-label="Record of egg 3"')]
        self.assertIn("“tomorrow” is not a day", row)
        self.assertRegex(row, r'<option value="dead" selected>')

    def test_a_laying_keeps_what_was_typed(self) -> None:
        clutch = Clutch.objects.filter(collection=self.collection, laid_on=None).first()
        assert clutch is not None
        page = self.sent(f"/clutches/{clutch.code}/record/laid/", on="2026-06-01", eggs="many", slugs="2")
        self.assertIn("“many” is not a number.", self.field(page, "eggs"))
        self.assertRegex(page, r'name="slugs" value="2"')

    def test_an_animals_form_keeps_every_field(self) -> None:
        given = {"line": "mojave het pied", "name": "Reedling", "code": "R-7", "sex": "female", "note": "from a friend"}
        page = self.sent("/animals/new/", **given, dam="Nobody")
        self.assertIn("there is no animal “Nobody” here.", self.field(page, "dam"))
        for kept in ("mojave het pied", "Reedling", "R-7", "from a friend"):
            self.assertIn(kept, page)
        self.assertRegex(page, r'<option value="female" selected>')
        self.assertFalse(self.collection.animals.filter(name="Reedling").exists())

    def test_how_we_do_it_keeps_what_was_typed(self) -> None:
        page = self.sent("/schools/", rounds_days="often", opening="all_on_day", dam_least_g="1500")
        self.assertIn('value="often"', self.field(page, "rounds_days"))
        self.assertIn('value="1500"', page)

    def test_whom_the_rules_refuse_stays_chosen_with_code_and_eggs(self) -> None:
        page = self.sent("/pairings/save/", dam="Marram", sire="Fescue", code="ZZ-1", eggs="9")
        self.assertIn("Fescue is female and can&#x27;t be the sire.", page)
        self.assertIn('value="ZZ-1"', page)
        self.assertRegex(page, r'name="sire" value="Fescue"')
        self.assertRegex(page, r'name="eggs"[^>]*value="9"')

    def test_a_code_that_is_taken(self) -> None:
        page = self.sent("/pairings/save/", dam="Marram", sire="Fathom", code="W-02", paired_on="2026-06-01", eggs="7")
        self.assertIn("There is a W-02 already.", self.field(page, "code"))
        self.assertIn('value="2026-06-01"', page)


class Csv(TestCase):
    def test_cells_that_a_spreadsheet_would_run_come_back_as_they_were(self) -> None:
        cells = ["=1+1", "+44", "-3", "@here", "'quoted", "plain; with, both", 'a "word"', "two\nlines"]
        table = table_in(csv_of(["name", *"abcdefg"], [cells]).encode(), most_bytes=999, most_rows=9)
        self.assertEqual(table.body, [(2, cells)])
        self.assertNotRegex(csv_of(["name"], [["=1+1"]]), r"(?m)^=")

    def test_the_first_row_says_the_separator_and_empty_rows_keep_their_numbers(self) -> None:
        for mark, word in ((",", "comma"), (";", "semicolon"), ("\t", "tab")):
            table = table_in(f"Name{mark} SEX \r\n\r\nSedge{mark}f\r\n".encode(), most_bytes=99, most_rows=9)
            self.assertEqual(
                (table.separator_name, table.heading, table.body), (word, ["name", "sex"], [(3, ["Sedge", "f"])])
            )

    def test_what_is_too_large_is_refused(self) -> None:
        for data, most_rows, words in ((b"x" * 100, 9, "at most 9e-05 MB"), (b"a\nb\nc", 2, "at most 2 rows")):
            with self.assertRaisesRegex(Refused, words):
                table_in(data, most_bytes=90, most_rows=most_rows)
