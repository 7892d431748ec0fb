"""Reads on collections, and on the server's backups."""

from datetime import datetime, timedelta

from django.db.models import QuerySet

from eyot.collection.models import Animal, BackupRun, Collection
from eyot.shared.units import short_day

BACKUP_IS_LATE = timedelta(hours=36)


def own_animals(collection: Collection) -> QuerySet[Animal]:
    """The animals that are here: neither archived nor living elsewhere."""
    return collection.animals.filter(archived_on=None, elsewhere=False)


def animals_of(collection: Collection) -> QuerySet[Animal]:
    """All animals with their genes, by name: two queries."""
    return collection.animals.prefetch_related("genes")


def animal_named(collection: Collection, name: str) -> Animal | None:
    """An animal of the collection by its name, or by its ID."""
    animals = collection.animals
    return animals.filter(name__iexact=name).first() or animals.filter(code=name).first()


def backup_trouble(now: datetime) -> str:
    """What an owner is to be told of the nightly backups: that the last failed, or is old; empty where neither is so. One query."""
    last = BackupRun.objects.first()
    if last is None:
        return ""
    if last.trouble:
        return f"The backup of {short_day(last.at)} was not made: {last.trouble}"
    if now - last.at > BACKUP_IS_LATE:
        return f"The last backup is of {short_day(last.at)}: no worker has made one since."
    return ""
