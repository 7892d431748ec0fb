"""Makes the database and the static files ready: migrations, and with the demo its accounts where there are none."""

from __future__ import annotations

import hashlib
import sys
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.staticfiles.finders import get_finders
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from eyot.collection.models import Collection

ACCOUNTS = ("keeper", "helper")
"""Of the demo collection, in the order in which their passwords are given."""


class Command(BaseCommand):
    """``django prepare [--no-demo]``, the demo's passwords on standard input (keeper's and helper's); prints how somebody gets in,
    where that is still to be said."""

    help = __doc__
    requires_system_checks = []  # "bin/eyot check" runs them; a start should not wait for them

    def add_arguments(self, parser: CommandParser) -> None:
        """The passwords of the demo's accounts come by standard input, where no list of processes shows them."""
        parser.add_argument("--no-demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Migrates, collects, loads the demo."""
        passwords = dict(zip(ACCOUNTS, sys.stdin.readline().split(), strict=False))
        with _one_at_a_time():
            executor = MigrationExecutor(connection)
            unknown = set(executor.loader.applied_migrations) - set(executor.loader.disk_migrations)
            if newer := sorted(row for row in unknown if row[0] in executor.loader.migrated_apps):
                app, name = newer[-1]
                raise CommandError(
                    f"this database was made by a newer Eyot (it knows {app} {name}); start that one. Nothing was changed."
                )
            if executor.migration_plan(executor.loader.graph.leaf_nodes()):
                self.tell("bringing the database up to date")
                call_command("migrate", verbosity=0, interactive=False)
        collect()
        if not get_user_model().objects.exists() and not options["no_demo"]:
            from eyot.demo.loading import load_demo  # drawing is slow to import, and needed once in a lifetime

            self.tell("loading the demo collection")
            load_demo(passwords, self.tell)
        self.stdout.write(way_in(passwords))

    def tell(self, line: str) -> None:
        """One line of progress."""
        self.stderr.write(f"eyot: {line}")


def collect() -> None:
    """Collects the static files, where one of them has changed since."""
    stamp, now = Path(settings.STATIC_ROOT) / "collected", _static_files()
    if stamp.exists() and stamp.read_text() == now:
        return
    call_command("collectstatic", verbosity=0, interactive=False)
    stamp.write_text(now)


def _static_files() -> str:
    """Changes with every file that is collected."""
    found = [
        f"{name} {storage.get_modified_time(name).isoformat()} {storage.size(name)}"
        for finder in get_finders()
        for name, storage in finder.list([])
    ]
    return hashlib.sha256("\n".join([settings.STORAGES["staticfiles"]["BACKEND"], *sorted(found)]).encode()).hexdigest()


@contextmanager
def _one_at_a_time() -> Iterator[None]:
    """Of several servers that start on one database at once, one migrates and the others wait for it."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(hashtext('eyot prepare'))")
        try:
            yield
        finally:
            cursor.execute("SELECT pg_advisory_unlock(hashtext('eyot prepare'))")


def way_in(passwords: Mapping[str, str]) -> str:
    """How somebody gets in: by the demo's accounts while they have the passwords that were given, or, where there is no account at
    all, by the code; empty where neither is so."""
    users: Any = get_user_model().objects
    if not users.exists():
        return f"(first visit: code {settings.CLAIM_CODE})"
    if not Collection.objects.filter(is_demo=True).exists():
        return ""
    demo = users.filter(username__in=passwords).order_by("-username")
    logins = [
        f"{user.username} / {passwords[user.username]}"
        for user in demo
        if user.check_password(passwords[user.username])
    ]
    return f"(demo logins, told this once: {' and '.join(logins)})" if logins else ""
