"""What is entered on the pages of keeping."""

from __future__ import annotations

from eyot.shared.forms import EntryForm, LineField


class RemovalForm(EntryForm):
    """A collection is to be removed."""

    typed = LineField(80, label="Its name, typed by you", called="Name")
