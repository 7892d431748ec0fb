"""Makes the database and the static files ready: migrations, and the demo collection where the database is empty."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from eyot.demo.loading import load_demo


class Command(BaseCommand):
    """``django prepare [--demo-password WORD]``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Without a password for its accounts the demo is not loaded."""
        parser.add_argument("--demo-password", default="")

    def handle(self, *args: Any, **options: Any) -> None:
        """Migrates, collects, loads."""
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            self.tell("bringing the database up to date")
            call_command("migrate", verbosity=0, interactive=False)
        call_command("collectstatic", verbosity=0, interactive=False)
        if options["demo_password"] and not get_user_model().objects.exists():
            self.tell("loading the demo collection")
            load_demo(options["demo_password"], self.tell)

    def tell(self, line: str) -> None:
        """One line of progress."""
        self.stderr.write(f"eyot: {line}")
