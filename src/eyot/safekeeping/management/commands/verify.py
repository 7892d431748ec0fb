"""``django verify FILE``: is a backup whole, and can this Eyot restore it?"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from eyot.safekeeping.archive import Damaged
from eyot.safekeeping.backups import CannotRestore, checked


class Command(BaseCommand):
    """Prints when it was made and how much is in it; what is wrong with it, and status 1, where it is not whole."""

    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        """Which."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Reads all of it."""
        try:
            contents = checked(options["file"])
        except (Damaged, CannotRestore) as reason:
            self.stderr.write(f"eyot: {reason}")
            raise SystemExit(1) from None
        made = contents.about.get("made_at", "at an unknown time")
        self.stdout.write(
            f"{options['file']} is whole: {len(contents.files)} files, {contents.size:,} bytes, made {made}"
        )
