"""What is too much to work out while somebody waits for a page."""

from __future__ import annotations

from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.hets.reckoning import JOB, reckon


@app.task(name=JOB, queue="photos")
def figures(collection: int, stamp: str = "") -> None:
    """Where a collection's animals stand with all recessives. ``stamp``: of the records that it was asked for, by which a failure is
    known; what was ordered by an earlier version has none. It is not tried again by itself: the next one may be ordered already, and
    of one collection only one may wait."""
    close_old_connections()
    reckon(collection, timezone.now())
