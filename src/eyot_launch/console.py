"""Progress in plain lines on standard error, and the one way to give up."""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


class CannotGoOn(Exception):
    """Something on this machine stands in the way; the message says what, and what to do."""


def tell(line: str) -> None:
    """One line of progress."""
    print(f"eyot: {line}", file=sys.stderr, flush=True)
