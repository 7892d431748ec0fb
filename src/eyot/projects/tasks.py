"""What is too much to seek while somebody waits for a page."""

from __future__ import annotations

from django.db import close_old_connections
from procrastinate.contrib.django import app

from eyot.projects.seeking import JOB, sought
from eyot.shared.jobs import RETRY


@app.task(name=JOB, queue="photos", retry=RETRY)
def plans_sought(number: int) -> None:
    """Plans for a goal."""
    close_old_connections()
    sought(number)
