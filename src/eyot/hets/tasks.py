"""What is too much to work out while somebody waits for a page."""

from __future__ import annotations

from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.hets.reckoning import JOB, reckon


@app.task(name=JOB, queue="photos")
def figures(collection: int) -> None:
    """Where a collection's animals stand with all recessives."""
    close_old_connections()
    reckon(collection, timezone.now())
