"""``django backup FILE``: the database and all photos into one file, while Eyot goes on."""

from __future__ import annotations

from pathlib import Path

from django.utils import timezone

from eyot.safekeeping.backups import back_up
from eyot.safekeeping.management.base import FileCommand


class Command(FileCommand):
    """Says how much is in it."""

    help = __doc__

    def carry_out(self, file: Path) -> str:
        """Writes it."""
        contents = back_up(file, timezone.now())
        return f"{file}: {len(contents.files)} files, {contents.size:,} bytes"
