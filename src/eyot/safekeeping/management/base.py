"""What the commands of backups have in common: one file, one line said of it, and why where it can't be."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from eyot.safekeeping.archive import Damaged, NotWritten
from eyot.safekeeping.backups import CannotRestore


class FileCommand(BaseCommand):
    """Prints what :meth:`carry_out` says; the reason and status 1 where it refuses. ``refused``: what stands then."""

    requires_system_checks = []
    refused = ""

    def add_arguments(self, parser: CommandParser) -> None:
        """The file."""
        parser.add_argument("file", type=Path)

    def carry_out(self, file: Path) -> str:
        """Does it; a line on what was done."""
        raise NotImplementedError

    def handle(self, *args: Any, **options: Any) -> None:
        """Carries it out and says so."""
        try:
            self.stdout.write(self.carry_out(options["file"]))
        except (Damaged, CannotRestore, NotWritten) as reason:
            self.stderr.write(f"eyot: {reason}{self.refused}")
            raise SystemExit(1) from None
