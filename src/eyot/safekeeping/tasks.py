"""The backup of every night, made by a worker and thinned out; how it went is kept, so that owners are told. Then what is to go."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone
from procrastinate.contrib.django import app

from eyot.collection.models import BackupRun
from eyot.safekeeping.archive import NotWritten
from eyot.safekeeping.backups import nightly
from eyot.safekeeping.removing import remove_due


@app.periodic(cron="17 3 * * *")
@app.task(name="safekeeping.nightly", queue="photos", lock="backup")
def nightly_backup(timestamp: int) -> None:
    """Makes tonight's backup, unless the setting says that somebody else does."""
    close_old_connections()
    make_nightly()


@app.periodic(cron="47 3 * * *")
@app.task(name="safekeeping.removals", queue="photos", lock="backup")
def removals(timestamp: int) -> None:
    """Removes the collections and accounts whose time to think it over has ended; after tonight's backup."""
    close_old_connections()
    remove_due(timezone.now())


def make_nightly() -> BackupRun | None:
    """Makes the backup and keeps how it went; none where none is wanted."""
    if not settings.BACKUPS:
        return None
    now, trouble, size = timezone.now(), "", 0
    try:
        size = nightly(Path(settings.BACKUPS), now, timezone.localdate(now)).size
    except (NotWritten, OSError) as reason:
        trouble = str(reason)
    return BackupRun.objects.create(at=now, size=size, trouble=trouble[:300])
