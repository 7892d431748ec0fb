"""The core's command line, in the environment where it is installed."""

from __future__ import annotations

import os
import runpy
import sys
from pathlib import Path
from typing import NoReturn

from eyot_launch.console import ROOT
from eyot_launch.machine import PYTHON, VENV, ensure_environment, ensure_packages

MODULE = "eyot_core.cli"


def core(arguments: list[str]) -> NoReturn:
    """Becomes the core: one JSON document in, one out. A launcher that runs in the environment already starts no second Python."""
    ensure_packages(printing=arguments[:1] == ["card"])
    ensure_environment()
    if Path(sys.prefix).resolve() == VENV.resolve():
        sys.argv = [MODULE, *arguments]
        runpy.run_module(MODULE, run_name="__main__", alter_sys=True)
        sys.exit(0)
    os.environ["PYTHONPATH"] = str(ROOT / "src")
    os.execv(PYTHON, [str(PYTHON), "-m", MODULE, *arguments])
