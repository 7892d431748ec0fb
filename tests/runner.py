"""The test runner: counts, and prints ``N passed, N failed`` as the last line whatever happens."""

from __future__ import annotations

import gc
import os
import unittest
from collections.abc import Sequence
from importlib import import_module
from typing import Any
from unittest.mock import patch

from django.core.management import call_command
from django.db import connection
from django.test.runner import DiscoverRunner, ParallelTestSuite

from eyot_core.photo.card_sheet import printer

LATE = ("scipy.interpolate", "scipy.optimize", "scipy.signal", "scipy.stats", "skimage.morphology")
"""What the first strip or interval of a process imports; its first printed page imports WeasyPrint."""


class CountingResult(unittest.TextTestResult):
    """Counts distinct tests: a test with three failing subtests fails once."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.passed = 0

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1

    @property
    def failed(self) -> int:
        """Tests with an error or a failure, each once; a class that could not be set up counts as one."""
        tests: Sequence[Any] = [test for test, _ in (*self.failures, *self.errors)]
        return len({getattr(test, "test_case", test).id() for test in tests}) + len(self.unexpectedSuccesses)


class LongFirst(ParallelTestSuite):
    """Begins with the classes that say ``takes_long``, so that no process is left with one of them at the end.

    They must be tests that change nothing in the database, whose order Django leaves free.
    """

    def __init__(self, subsuites: Sequence[unittest.TestSuite], *args: Any, **kwargs: Any) -> None:
        super().__init__(sorted(subsuites, key=lambda suite: not _takes_long(suite)), *args, **kwargs)


def _takes_long(suite: unittest.TestSuite) -> bool:
    return any(getattr(test, "takes_long", False) for test in suite)


class CountingRunner(DiscoverRunner):
    """Django's runner, with the counts as the last line. The tables come from the models, in a tenth of the time that all migrations take
    (that these lead to the same is tested where the start command made its database); the demo is loaded once for all processes."""

    parallel_test_suite = LongFirst
    last: CountingResult | None = None

    def setup_databases(self, **kwargs: Any) -> Any:
        create = connection.creation.create_test_db
        connection.settings_dict["HOST"] = os.environ["PGHOST"]  # by its socket a question takes a third less

        def create_and_keep(*args: Any, **how: Any) -> str:
            """Between the making of the database and of its copies."""
            name = create(*args, **how)
            call_command("migrate", "procrastinate", verbosity=0)  # whose tables and functions are SQL
            call_command("migrate", fake=True, verbosity=0)
            if self.parallel > 1:
                from tests.demo_rows import keep_demo  # needs the applications

                keep_demo()
            return name

        with patch.object(connection.creation, "create_test_db", create_and_keep):
            return super().setup_databases(**kwargs)

    def get_resultclass(self) -> type[unittest.TextTestResult] | None:
        return CountingResult

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> CountingResult:
        """What the processes would each load later is loaded before they begin; it stays to the end, and is not looked over again for what
        could be freed."""
        if self.parallel > 1:
            for name in LATE:
                import_module(name)
            printer()
        gc.collect()
        gc.freeze()
        self.last = super().run_suite(suite, **kwargs)
        return self.last

    def run_tests(self, *args: Any, **kwargs: Any) -> int:
        try:
            return super().run_tests(*args, **kwargs)
        finally:
            result = self.last
            passed, failed, skipped = (result.passed, result.failed, len(result.skipped)) if result else (0, 1, 0)
            line = f"{passed} passed, {failed} failed"
            print(f"{line}, {skipped} skipped" if skipped else line, flush=True)
