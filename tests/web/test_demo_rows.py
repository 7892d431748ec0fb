"""The demo's rows in tests: put back without asking for keys, which what a test writes is asked for all the same."""

from __future__ import annotations

from django.db import IntegrityError, connection, transaction

from tests.web.season_data import SeasonCase

NOBODYS = 10**6


class Keys(SeasonCase):
    def test_a_row_of_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(IntegrityError, "season_egg"), transaction.atomic():
            self.clutch().eggs.update(clutch_id=NOBODYS)
            connection.check_constraints()
