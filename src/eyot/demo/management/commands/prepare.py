"""Makes the database and the static files ready: migrations, and the first accounts where there are none."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from eyot.collection.actions import found_collection
from eyot.collection.models import Collection
from eyot.demo.scenario import NAME


class Command(BaseCommand):
    """``django prepare --password WORD [--no-demo]``; prints what to say of the first logins, if they still stand."""

    help = __doc__
    requires_system_checks = []  # "bin/eyot check" runs them; a start should not wait for them

    def add_arguments(self, parser: CommandParser) -> None:
        """The password is given to the accounts that are made here."""
        parser.add_argument("--password", required=True)
        parser.add_argument("--no-demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Migrates, collects, makes accounts."""
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            self.tell("bringing the database up to date")
            call_command("migrate", verbosity=0, interactive=False)
        call_command("collectstatic", verbosity=0, interactive=False)
        if not get_user_model().objects.exists():
            self._make_accounts(options["password"], demo=not options["no_demo"])
        self.stdout.write(logins_to_tell(options["password"]))

    def _make_accounts(self, password: str, *, demo: bool) -> None:
        if demo:
            from eyot.demo.loading import load_demo  # drawing is slow to import, and needed once in a lifetime

            self.tell("loading the demo collection")
            load_demo(password, self.tell)
        else:
            found_collection("keeper", password, "My collection")

    def tell(self, line: str) -> None:
        """One line of progress."""
        self.stderr.write(f"eyot: {line}")


def logins_to_tell(password: str) -> str:
    """The accounts that still have the password of the first start, in words; empty if there are none."""
    users = get_user_model().objects.filter(username__in=["keeper", "helper"]).order_by("-username")
    names = [user.get_username() for user in users if user.check_password(password)]
    kind = "demo logins" if Collection.objects.filter(name=NAME).exists() else "login"
    return f"({kind}: {' and '.join(f'{name} / {password}' for name in names)})" if names else ""
