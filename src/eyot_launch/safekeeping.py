"""``bin/eyot backup``, ``verify`` and ``restore``: a whole data folder in one file, and back."""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from eyot_launch.cluster import passable_home
from eyot_launch.console import ROOT, CannotGoOn
from eyot_launch.machine import PYTHON, compiled, ensure_environment, ensure_packages
from eyot_launch.start import PRIVATE, application_environment, cluster_of, keep, kept_settings, only_one


def backup(file: Path, data: Path) -> int:
    """The database and photos of a data folder into one file, whether Eyot runs on it or not."""
    _ensure()
    if not (data / "settings.json").exists():
        raise CannotGoOn(f"there is no Eyot in {data}; name its folder with --data")
    with _database_of(data) as environment:
        return _django(environment, "backup", str(file))


def verify(file: Path) -> int:
    """Is a backup whole?"""
    _ensure()
    data = Path(tempfile.gettempdir())
    return _django(application_environment(data, "postgres://nobody@127.0.0.1:1/none", "none"), "verify", str(file))


def restore(file: Path, data: Path) -> int:
    """A backup into a data folder that is not there yet, or empty."""
    _ensure()
    if data.exists() and any(data.iterdir()):
        raise CannotGoOn(f"{data} is not empty; a backup is restored into a folder of its own. Nothing was restored")
    if status := verify(file):
        return status
    with only_one(data):
        settings = kept_settings(data)
        cluster = cluster_of(passable_home(data), settings)
        cluster.make()
        cluster.start()
        try:
            keep(data, {**settings, "database_port": str(cluster.port)})
            return _django(application_environment(data, cluster.url, settings["secret_key"]), "restore", str(file))
        finally:
            cluster.stop()


def _ensure() -> None:
    ensure_packages(printing=False)
    ensure_environment()
    os.umask(PRIVATE)


@contextmanager
def _database_of(data: Path) -> Iterator[dict[str, str]]:
    """The environment of a data folder with its database up: the one that runs, else started for as long as this takes."""
    settings = kept_settings(data)
    cluster = cluster_of(passable_home(data), settings)
    if cluster.is_up():
        yield application_environment(data, cluster.url, settings["secret_key"])
        return
    with only_one(data):
        cluster.start()
        try:
            yield application_environment(data, cluster.url, settings["secret_key"])
        finally:
            cluster.stop()


def _django(environment: dict[str, str], *arguments: str) -> int:
    return subprocess.run([str(PYTHON), "-m", "django", *arguments], env=compiled(environment), cwd=ROOT).returncode
