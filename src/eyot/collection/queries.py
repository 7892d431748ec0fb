"""Reads on collections."""

from django.db.models import QuerySet

from eyot.collection.models import Animal, Collection


def animals_of(collection: Collection) -> QuerySet[Animal]:
    """All animals with their genes, by name: two queries."""
    return collection.animals.prefetch_related("genes")
