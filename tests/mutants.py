"""Do the tests see a fault? mutmut puts small faults into functions, one after another, and runs the tests that reach them.

``bin/eyot mutants [photo|app] [count]``: as many faults of a room, drawn at random with a fixed seed; a table, and what no test saw.
Works in a copy of the repository, so nothing here is changed. A quarter of an hour for 250 faults.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter, defaultdict
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SEED = 17
NOTHING = "no such fault*"
"""mutmut lists its faults only when it is asked to try some; of this one it says that there is none."""
SURVIVED, UNREACHED = 0, 33
"""What mutmut keeps as the exit status of a fault that all tests passed, and of one that no test reaches."""
IGNORED = (".git", "var", "node_modules", "__pycache__", ".mypy_cache", ".ruff_cache")
DATABASE = '''"""One database for all runs: made in the first process, its connections left before others part from it."""

import django

django.setup()

from django.db import connections
from django.test.utils import setup_databases, setup_test_environment


def pytest_sessionstart(session):
    if not getattr(django, "is_ready_for_tests", False):
        setup_test_environment()
        setup_databases(verbosity=0, interactive=False)
        django.is_ready_for_tests = True


def pytest_sessionfinish(session, exitstatus):
    connections.close_all()
'''


@dataclass(frozen=True)
class Room:
    """What faults are put into, as patterns below ``src``, and the tests that should see them."""

    patterns: tuple[str, ...]
    tests: tuple[str, ...]
    with_database: bool = False


def web(*names: str) -> tuple[str, ...]:
    """Modules of ``tests/web``."""
    return tuple(f"tests/web/test_{name}.py" for name in names)


ROOMS = {
    "photo": Room(
        ("eyot_core/photo/*",),
        (
            *(f"tests/core/test_{name}.py" for name in ("light", "brush", "picture", "reckoning", "strip", "measures")),
            "tests/core/test_formats.py::Formats::test_a_measured_photo_is_as_the_examples_and_schemas_say",
        ),
    ),
    "app": Room(
        ("eyot/bench/*", "eyot/season/*", "eyot/hets/*"),
        web(
            "as_it_reads",
            "looks_and_calls",
            "blind",
            "invitations",
            "closing",
            "queue",
            "scores",
            "sibling_comparisons",
        )
        + web(
            "tuning",
            "why",
            "season",
            "settling",
            "record",
            "pairing",
            "forms",
            "cutting",
            "hets",
            "desk",
            "pages",
            "strips",
        ),
        with_database=True,
    ),
}


def main(name: str, count: int) -> int:
    """Runs one room; 1 where a fault was not tried."""
    room = ROOMS[name]
    with tempfile.TemporaryDirectory(prefix="eyot-mutants-") as folder:
        copy = Path(folder) / "eyot"
        shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(*IGNORED))
        with (copy / "pyproject.toml").open("a") as settings:
            settings.write(_settings(room))
        if room.with_database:
            (copy / "tests/conftest.py").write_text(DATABASE)
        told = _mutmut(copy, NOTHING)
        chosen = sorted(_kept(copy))
        if not chosen:
            print(f"no fault could be put in:\n{told}", file=sys.stderr)
            return 1
        random.Random(SEED).shuffle(chosen)
        _mutmut(copy, *chosen[:count])
        return _report(copy, chosen[:count], len(chosen))


def _settings(room: Room) -> str:
    values = {
        "source_paths": ["src"],
        "only_mutate": [f"src/{pattern}" for pattern in room.patterns],
        "do_not_mutate": ["*/migrations/*"],
        "also_copy": ["docs", "assets", "requirements"],
        "pytest_add_cli_args_test_selection": list(room.tests),
        "track_dependencies": False,
        "use_git_change_detection": False,
        "timeout_multiplier": 5.0,
    }
    return "\n[tool.mutmut]\n" + "".join(f"{key} = {json.dumps(value)}\n" for key, value in values.items())


def _mutmut(copy: Path, *faults: str) -> str:
    """Tries faults; what mutmut said of its own trouble."""
    paths = os.pathsep.join([str(copy / "src"), str(copy), "."])
    command = [str(Path(sys.executable).parent / "mutmut"), "run", "--max-children", "1", *faults]
    environment = {**os.environ, "PYTHONPATH": paths}
    return subprocess.run(command, cwd=copy, env=environment, capture_output=True, text=True).stderr


def _kept(copy: Path) -> dict[str, int | None]:
    """Every fault with the exit status of its tests, none where it was not tried."""
    found: dict[str, int | None] = {}
    for path in (copy / "mutants/src").rglob("*.meta"):
        found |= json.loads(path.read_text())["exit_code_by_key"]
    return found


def _report(copy: Path, chosen: list[str], total: int) -> int:
    status, counts = _kept(copy), defaultdict[str, Counter[str]](Counter)
    words = {SURVIVED: "survived", UNREACHED: "not reached", None: "not tried"}
    for fault in chosen:
        counts[fault.split(".")[1]][words.get(status[fault], "seen")] += 1
    for part, row in counts.items():
        tried = row.total() - row["not tried"]
        print(f"{part}: {row['seen']} of {tried} seen ({row['seen'] / max(1, tried):.0%}), {dict(row)}")
    print(f"drawn from {total:,}; not seen:")
    print(*sorted(fault for fault in chosen if status[fault] in (SURVIVED, UNREACHED)), sep="\n")
    return int(any(status[fault] is None for fault in chosen))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], int(sys.argv[2])))
