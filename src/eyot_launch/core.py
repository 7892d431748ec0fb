"""The core's command line, in the environment where it is installed."""

from __future__ import annotations

import os
from typing import NoReturn

from eyot_launch.console import ROOT
from eyot_launch.machine import PYTHON, ensure_environment, ensure_packages


def core(arguments: list[str]) -> NoReturn:
    """Becomes the core: one JSON document in, one out."""
    ensure_packages()
    ensure_environment()
    os.environ["PYTHONPATH"] = str(ROOT / "src")
    os.execv(PYTHON, [str(PYTHON), "-m", "eyot_core.cli", *arguments])
