"""``django verify FILE``: is a backup whole, and can this Eyot restore it?"""

from __future__ import annotations

from pathlib import Path

from eyot.safekeeping.backups import checked
from eyot.safekeeping.management.base import FileCommand


class Command(FileCommand):
    """Says when it was made and how much is in it."""

    help = __doc__

    def carry_out(self, file: Path) -> str:
        """Reads all of it."""
        contents = checked(file)
        made = contents.about.get("made_at", "at an unknown time")
        return f"{file} is whole: {len(contents.files)} files, {contents.size:,} bytes, made {made}"
