"""``django restore FILE``: a backup into an empty database and photo store."""

from __future__ import annotations

from pathlib import Path

from eyot.safekeeping.backups import restore
from eyot.safekeeping.management.base import FileCommand


class Command(FileCommand):
    """Says what was restored."""

    help = __doc__
    refused = ". Nothing was restored."

    def carry_out(self, file: Path) -> str:
        """Restores it."""
        contents = restore(file)
        return f"restored {len(contents.files)} files of the backup made {contents.about.get('made_at')}"
