"""The test runner: counts, and prints ``N passed, N failed`` as the last line whatever happens."""

from __future__ import annotations

import gc
import unittest
from collections.abc import Sequence
from typing import Any
from unittest.mock import patch

from django.db import connection
from django.test.runner import DiscoverRunner, ParallelTestSuite


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

    They must be tests without the database, whose order Django leaves free.
    """

    def __init__(self, subsuites: Sequence[unittest.TestSuite], *args: Any, **kwargs: Any) -> None:
        super().__init__(sorted(subsuites, key=lambda suite: not _takes_long(suite)), *args, **kwargs)


def _takes_long(suite: unittest.TestSuite) -> bool:
    return any(getattr(test, "takes_long", False) for test in suite)


class CountingRunner(DiscoverRunner):
    """Django's runner, with the counts as the last line; the demo is loaded once for all processes."""

    parallel_test_suite = LongFirst
    last: CountingResult | None = None

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        gc.set_threshold(50_000, 20, 20)  # as often as is usual, it took a sixth of each process's time

    def setup_databases(self, **kwargs: Any) -> Any:
        if self.parallel < 2:
            return super().setup_databases(**kwargs)
        create = connection.creation.create_test_db

        def create_and_keep(*args: Any, **how: Any) -> str:
            """Between the making of the database and of its copies."""
            from tests.demo_rows import keep_demo  # needs the applications

            name = create(*args, **how)
            keep_demo()
            return name

        with patch.object(connection.creation, "create_test_db", create_and_keep):
            return super().setup_databases(**kwargs)

    def get_resultclass(self) -> type[unittest.TextTestResult] | None:
        return CountingResult

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> CountingResult:
        """What is loaded by now stays to the end, and is not looked over again for what could be freed."""
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
