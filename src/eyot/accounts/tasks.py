"""What is kept of logins goes when it is old."""

from __future__ import annotations

from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.accounts.actions import forget_old_logins


@app.periodic(cron="37 3 * * *")
@app.task(name="accounts.logins", queue="photos", lock="logins")
def old_logins(timestamp: int) -> None:
    """Every night."""
    close_old_connections()
    forget_old_logins(timezone.now())
