"""What is too much to print while somebody waits for a page."""

from __future__ import annotations

from django.db import close_old_connections
from procrastinate.contrib.django import app

from eyot.homes.list_pages import JOB, write
from eyot.shared.jobs import RETRY


@app.task(name=JOB, queue="photos", retry=RETRY)
def list_written(number: int) -> None:
    """A list as PDF."""
    close_old_connections()
    write(number)
