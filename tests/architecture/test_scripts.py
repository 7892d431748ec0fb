"""The scripts' own tests, by Node's test runner: counted here as one, told in full where one fails."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]


class Scripts(TestCase):
    def test_what_has_arithmetic_or_order(self) -> None:
        done = subprocess.run(
            ["node", "--test", "--test-reporter=tap", "tests/scripts/all.js"], cwd=ROOT, text=True, capture_output=True
        )
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        count = re.search(r"^# pass (\d+)$", done.stdout, re.MULTILINE)
        assert count, done.stdout
        self.assertGreaterEqual(int(count[1]), 100, "the runner found the tests")
