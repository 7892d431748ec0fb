"""Jobs in tests: done at once in the test's own transaction, or by a real worker beside a live server."""

from __future__ import annotations

import os
import pickle
import signal
import subprocess
import sys
import traceback
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any, NoReturn
from unittest.mock import patch
from urllib.parse import urlsplit, urlunsplit

from django.conf import settings
from django.core.management import call_command
from django.db import connection, connections
from django.db.backends.base.base import BaseDatabaseWrapper
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from eyot.config.stores import photo_store
from eyot.inbox import looking as inbox_looking
from eyot.photos import processing


def stored_in(folder: str) -> dict[str, Any]:
    """The setting STORAGES with photos in a folder."""
    return {**settings.STORAGES, "photos": photo_store(folder)}


MOST_KEPT = 100
OF_PIXELS = {
    one.__name__: one
    for one in (
        processing.seen_in,
        processing.strip_of,
        processing.measures_of,
        processing.belly_of,
        processing.window_picture,
    )
}
"""What jobs work out of a photo's pixels and nothing else: most of the time that they take."""
_worked_out: dict[tuple[str, int], Any] = {}


def _once(name: str, *positional: Any, **named: Any) -> Any:
    """What comes of the same pixels, line and light is worked out once: test after test begins with the same photos."""
    key = name, hash(pickle.dumps((positional, named)))
    if key not in _worked_out:
        _worked_out[key] = OF_PIXELS[name](*positional, **named)
        if len(_worked_out) > MOST_KEPT:
            del _worked_out[next(iter(_worked_out))]
    return _worked_out[key]


@contextmanager
def _working_out_once() -> Iterator[None]:
    once = {name: partial(_once, name) for name in OF_PIXELS}
    with patch.multiple(processing, **once), patch.object(inbox_looking, "seen_in", once["seen_in"]):
        yield


def do_jobs() -> int:
    """Does every job that is waiting, in the order of the queue, as a worker would; how many."""
    jobs = list(ProcrastinateJob.objects.filter(status="todo", queue_name="photos").order_by("id"))
    for job in jobs:
        with _working_out_once(), patch.object(BaseDatabaseWrapper, "close_if_unusable_or_obsolete"):
            app.tasks[job.task_name](**job.args)
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_jobs SET status = 'succeeded' WHERE id = %s", [job.id])
    return len(jobs)


def fail_jobs() -> None:
    """Fails every job that is waiting for good, as a worker that tried it often enough."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE procrastinate_jobs SET status = 'failed' WHERE status = 'todo' AND queue_name = 'photos'"
        )


def forget_jobs() -> None:
    """Empties the queue: its tables are not among those that Django's tests flush."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")


def forget_waiting_jobs() -> None:
    """Leaves in the queue what a worker is at, which looks for its job when it is done."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs WHERE status <> 'doing'")


def start_worker(folder: str, *more: str) -> subprocess.Popen[bytes]:
    """A real worker on the test's database and on photos in a folder; the caller ends it."""
    address = urlsplit(os.environ["EYOT_DATABASE"])
    database = urlunsplit(address._replace(path=f"/{connection.settings_dict['NAME']}"))
    environment = {**os.environ, "EYOT_DATABASE": database, "EYOT_PHOTOS": folder}
    return subprocess.Popen([sys.executable, "-W", "ignore", "-m", "django", "work", *more], env=environment)


@contextmanager
def working() -> Iterator[None]:
    """A worker for as long as the block runs, on this process's settings and database: a copy of this process, in which everything is
    imported already. Begin it before there are threads."""
    connections.close_all()
    worker = os.fork() or _work()
    try:
        yield
    finally:
        os.kill(worker, signal.SIGTERM)
        os.waitpid(worker, 0)


def _work() -> NoReturn:
    """The command that workers are started by, in a process that ends with it and tidies up nothing of the tests."""
    is_well = False
    try:
        with _working_out_once():
            call_command("work")
        is_well = True
    finally:
        if not is_well:
            traceback.print_exc()
        os._exit(not is_well)
