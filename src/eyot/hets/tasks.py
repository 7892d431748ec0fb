"""What is too much to work out while somebody waits for a page."""

from __future__ import annotations

from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.hets.reckoning import JOB, reckon
from eyot.shared.jobs import RETRY


@app.task(name=JOB, queue="photos", retry=RETRY)
def figures(collection: int, stamp: str = "") -> None:
    """Where a collection's animals stand with all recessives. ``stamp``: of the records that it was asked for, by which a failure is
    known; what was ordered by an earlier version has none."""
    close_old_connections()
    reckon(collection, timezone.now())
