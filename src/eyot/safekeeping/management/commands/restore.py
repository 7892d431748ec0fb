"""``django restore FILE``: a backup into an empty database and photo store."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from eyot.safekeeping.archive import Damaged, NotWritten
from eyot.safekeeping.backups import CannotRestore, restore


class Command(BaseCommand):
    """Prints what was restored; why nothing was, and status 1, where it can't be."""

    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        """From where."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Restores it."""
        try:
            contents = restore(options["file"])
        except (Damaged, CannotRestore, NotWritten) as reason:
            self.stderr.write(f"eyot: {reason}. Nothing was restored.")
            raise SystemExit(1) from None
        self.stdout.write(f"restored {len(contents.files)} files of the backup made {contents.about.get('made_at')}")
