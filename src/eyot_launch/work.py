"""The commands for those who work on Eyot: test, check, shots, bench and judgement."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from eyot_launch.cluster import temporary_cluster
from eyot_launch.console import ROOT, tell
from eyot_launch.machine import (
    ASSETS,
    PYTHON,
    SCRIPT_TOOLS,
    ensure_benchmark_packages,
    ensure_environment,
    ensure_mutation_packages,
    ensure_workshop,
)
from eyot_launch.start import application_environment

BIN = PYTHON.parent
SCRIPTS = ("src/eyot/shared/static/js", "src/eyot/phone/static", "tests/scripts")


ONE_THREAD = dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"), "1")
"""Tests run in as many processes as there are cores: threads of the libraries would only wait for one another."""
MEMORY_KEPT = {"MALLOC_TRIM_THRESHOLD_": str(10**9), "MALLOC_MMAP_THRESHOLD_": str(2**25)}
"""For glibc: a picture's memory is kept for the next one, not given back and asked for again page by page."""


@contextmanager
def workshop() -> Iterator[dict[str, str]]:
    """A temporary cluster and data folder, and the environment to work in them."""
    ensure_workshop(browser=True)
    cluster = temporary_cluster()
    with tempfile.TemporaryDirectory(prefix="eyot-data-") as data:
        try:
            cluster.make()
            cluster.start()
            environment = application_environment(Path(data), cluster.url, "only-for-tests")
            environment.pop("PYTHONDONTWRITEBYTECODE", None)  # each of many processes would compile all that it imports
            yield {**environment, "PYTHONWARNINGS": "default", "PGHOST": str(cluster.home)}
        finally:
            cluster.remove()


def test(arguments: list[str], *, covered: Path | None = None) -> int:
    """Everything, browser tests included; the last line counts. ``covered``: a folder for what is told of the lines that ran."""
    with workshop() as environment:
        environment |= ONE_THREAD | MEMORY_KEPT
        environment["DJANGO_SETTINGS_MODULE"] = "eyot.config.testing"
        environment["PYTHONPATH"] += os.pathsep + str(ROOT)
        if covered:
            environment["COVERAGE_FILE"] = str(covered / "coverage")
        command = [
            str(PYTHON),
            "-W",
            "error::ResourceWarning",
            "-m",
            *(["coverage", "run", f"--rcfile={ROOT / 'pyproject.toml'}", "-m"] if covered else []),
            "django",
            "test",
            "--noinput",
            "--parallel",
            "3",
            *(arguments or ["tests"]),
        ]
        return subprocess.run(command, env=environment, cwd=ROOT).returncode


def check() -> int:
    """Lint, formatting and types of code and scripts, templates, direction of imports, migrations, the catalogue's scales, built styles."""
    ensure_workshop()
    data = tempfile.gettempdir()
    environment = application_environment(Path(data), "postgres://nobody@127.0.0.1:1/none", "only-for-checks")
    steps = {
        "types": [str(BIN / "mypy")],
        "lint": [str(BIN / "ruff"), "check", "."],
        "format": [str(BIN / "ruff"), "format", "--check", "."],
        "templates": [str(BIN / "djlint"), "src/eyot", "--lint", "--quiet"],
        "imports": [str(BIN / "lint-imports")],
        "migrations": [str(PYTHON), "-W", "ignore", "-m", "django", "makemigrations", "--check", "--dry-run"],
        "system": [str(PYTHON), "-m", "django", "check", "--fail-level", "WARNING"],
        "catalogue": [str(PYTHON), "-m", "eyot_core.identify.monotone"],
        "scripts, types": [str(SCRIPT_TOOLS / "tsc"), "-p", str(ASSETS)],
        "scripts, lint": [str(SCRIPT_TOOLS / "eslint"), "-c", str(ASSETS / "eslint.config.js"), *SCRIPTS],
        "styles": [sys.executable, "assets/current.py"],
    }

    def fails(name: str) -> bool:
        done = subprocess.run(
            steps[name], env=environment, cwd=ROOT, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        tell(f"{name}: FAILED\n{done.stdout}" if done.returncode else f"{name}: fine")
        return done.returncode != 0

    with ThreadPoolExecutor(2) as side_by_side:  # the longest first
        return int(any(list(side_by_side.map(fails, steps))))


def coverage() -> int:
    """Runs all tests and lists what of the code none of them runs, lines and branches; no gate, a list to read."""
    with tempfile.TemporaryDirectory(prefix="eyot-coverage-") as folder:
        status = test([], covered=Path(folder))
        environment = {**os.environ, "COVERAGE_FILE": f"{folder}/coverage"}
        options = [f"--rcfile={ROOT / 'pyproject.toml'}"]
        for command in ("combine", "report"):
            quiet = ["--quiet"] if command == "combine" else []
            subprocess.run([str(BIN / "coverage"), command, *options, *quiet], env=environment, cwd=ROOT)
    return status


def shots() -> int:
    """The pictures in docs/screenshots, made anew from the demo data."""
    return _module("tests.shots")


def bench() -> int:
    """The measured times and the study beside keepers, for docs/benchmarks.md and docs/catalogue.md."""
    ensure_environment(develop=True)
    ensure_benchmark_packages()
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)])}
    for name in (
        "tests.core_benchmarks",
        "tests.photo_benchmarks",
        "tests.pgmpy_comparison",
        "tests.keeper_study",
        "tests.load_benchmark",
        "tests.inbox_benchmark",
    ):
        if status := subprocess.run([str(PYTHON), "-m", name], env=environment, cwd=ROOT).returncode:
            return status
    return _module("tests.benchmarks")


def chaos(arguments: list[str]) -> int:
    """An Eyot of its own under clients that try again, killed at random for some minutes; or every field and address of the demo with
    what nobody sends. For docs/reliability.md."""
    if arguments == ["--requests"]:
        return test(["tests.hostile_requests"])
    ensure_workshop(browser=True)
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)])}
    return subprocess.run([str(PYTHON), "-m", "tests.chaos", *arguments], env=environment, cwd=ROOT).returncode


def mutants(arguments: list[str]) -> int:
    """Faults put into a room one after another, and those that no test sees; for docs/testing.md."""
    name, count = (*arguments, *("photo", "250")[len(arguments) :])[:2]
    ensure_environment(develop=True)
    ensure_mutation_packages()
    with workshop() as environment:
        environment["DJANGO_SETTINGS_MODULE"] = "eyot.config.testing"
        command = [str(PYTHON), "-m", "tests.mutants", name, count]
        return subprocess.run(command, env=environment, cwd=ROOT).returncode


def judgement(tables: list[str]) -> int:
    """The study of docs/judgement.md on standard output: all its tables, or those named."""
    ensure_workshop(browser=True)
    ensure_benchmark_packages()
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)])}
    return subprocess.run([str(PYTHON), "-m", "tests.judgement_study", *tables], env=environment, cwd=ROOT).returncode


def _module(name: str) -> int:
    """Runs one module of tests that is not among those found by themselves."""
    with workshop() as environment:
        environment["DJANGO_SETTINGS_MODULE"] = "eyot.config.testing"
        environment["PYTHONPATH"] += os.pathsep + str(ROOT)
        return subprocess.run(
            [str(PYTHON), "-m", "django", "test", "--noinput", name], env=environment, cwd=ROOT
        ).returncode
