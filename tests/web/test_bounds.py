"""What no page sends is answered in one place, in a sentence, before anything is kept."""

from __future__ import annotations

import errno
from unittest.mock import patch

from django.core.exceptions import ValidationError
from django.db import DataError, OperationalError

from eyot.collection.models import valid_chance
from tests.web.season_data import SeasonCase


class Bounds(SeasonCase):
    def test_what_can_not_be_kept_is_refused_in_a_sentence_and_nothing_is_changed(self) -> None:
        changes = self.collection.changes.count()
        for value, words in (
            ("a\0b", "a character that can’t be kept"),
            ("é" * 1_000_001, "1,000,001 letters"),
            ("9" * 5000, "more than 300 digits"),
        ):
            answer = self.client.post("/clutches/W-04/record/place/", {"note": value})
            self.assertContains(answer, words, status_code=400)
            self.assertContains(answer, "Nothing was changed.", status_code=400)
        self.assertEqual(self.collection.changes.count(), changes)

    def test_a_pairing_that_is_too_large_to_be_worked_through_says_so_on_every_page_of_it(self) -> None:
        with patch("eyot_core.identify.effort.MOST_STEPS", 1):
            for path in ("/clutches/W-04/", "/clutches/W-04/3/", "/clutches/W-04/closing/"):
                answer = self.client.get(path)
                self.assertContains(answer, "times too much at once", status_code=422)
        with patch("eyot_core.genetics.pairing.MOST_HYPOTHESES", 0):
            plan = self.client.get("/pairings/?dam=Marram&sire=Bulrush")
        self.assertContains(plan, "at most 0 can be told apart")

    def test_a_script_hears_the_sentence_alone(self) -> None:
        answer = self.client.post("/clutches/W-04/3/cut/guess/", {"note": "a\0b"}, headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer["Content-Type"]), (400, "text/plain; charset=utf-8"))
        self.assertTrue(answer.content.decode().startswith("What was sent holds a character"))

    def test_addresses_and_charsets_that_are_none(self) -> None:
        for path in ("/eye/%00/", "/in/withy-bed/clutches/%00/", "/login/%00"):
            self.assertContains(self.client.get(path), "no such address", status_code=400)
        answer = self.client.generic(
            "POST", "/clutches/W-04/record/place/", b"note=x", content_type="text/plain; charset=none"
        )
        self.assertContains(answer, "not known here", status_code=400)

    def test_strangers_send_little(self) -> None:
        self.client.logout()
        for path in ("/login/", "/eye/none/1/answer/", "/in/withy-bed/login/"):
            answer = self.client.post(path, {"login": "x" * 70_000})
            self.assertContains(answer, "more than this page takes", status_code=413)

    def test_what_the_database_can_not_hold_and_where_nothing_can_be_written(self) -> None:
        self.client.raise_request_exception = False
        full = OSError(errno.ENOSPC, "No space left on device")
        for raised, status, words in (
            (DataError("value too long"), 400, "longer or larger than can be kept"),
            (OperationalError("gone"), 503, "does not answer just now"),
            (full, 507, "is full"),
            (OSError(errno.EROFS, "Read-only file system"), 507, "can only be read from"),
        ):
            with patch("eyot.season.views.record.set_up", side_effect=raised):
                answer = self.client.post("/clutches/W-04/record/place/", {"place": "shelf"})
            self.assertContains(answer, words, status_code=status)

    def test_days_that_are_slips_are_asked_about(self) -> None:
        for typed, words in (
            ("0026-05-31", "did you mean 2026?"),
            ("1899-12-31", "lies before 1950"),
            ("2199-01-01", "lies ahead"),
        ):
            answer = self.client.post("/animals/new/", {"line": "Own: pastel", "hatched_on": typed})
            self.assertContains(answer, words, status_code=422)

    def test_a_chance_is_read_only_in_as_many_digits_as_it_bears(self) -> None:
        valid_chance("2/3")
        for text in ("1e-40000000", "1/0", "0", "3/2", "x", "1/" + "9" * 40):
            with self.assertRaises(ValidationError, msg=text):
                valid_chance(text)

    def test_what_broke_once_is_refused(self) -> None:
        ticked = self.client.post("/clutches/W-02/line-up/tick/", {"row": "e²", "trait": "head_stamp", "level": "busy"})
        self.assertEqual(ticked.status_code, 302)
        self.assertEqual(self.client.post(f"/hets/marks/{'a' * 300}/take-over/").status_code, 404)

    def test_pages_are_kept_by_nobody_between(self) -> None:
        for path in ("/", "/animals/", "/season.ics", "/clutches/W-04/"):
            self.assertEqual(self.client.get(path)["Cache-Control"], "private, no-store", path)

    def test_a_fresh_form_token_says_whose_it_is(self) -> None:
        answer = self.client.get("/token/").json()
        self.assertEqual((answer["person"], len(answer["token"])), (str(self.keeper.pk), 64))
        self.client.logout()
        self.assertEqual(self.client.get("/token/", headers={"HX-Request": "true"}).status_code, 401)
