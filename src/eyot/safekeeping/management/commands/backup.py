"""``django backup FILE``: the database and all photos into one file, while Eyot goes on."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from eyot.safekeeping.archive import NotWritten
from eyot.safekeeping.backups import back_up


class Command(BaseCommand):
    """Prints how much is in it; a clear line and status 1 where it could not be written."""

    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        """Where it goes."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Writes it."""
        try:
            contents = back_up(options["file"], timezone.now())
        except NotWritten as reason:
            self.stderr.write(f"eyot: {reason}")
            raise SystemExit(1) from None
        self.stdout.write(f"{options['file']}: {len(contents.files)} files, {contents.size:,} bytes")
