"""Reads on collections."""

from django.db.models import QuerySet

from eyot.collection.models import Animal, Collection


def animals_of(collection: Collection) -> QuerySet[Animal]:
    """All animals with their genes, by name: two queries."""
    return collection.animals.prefetch_related("genes")


def animal_named(collection: Collection, name: str) -> Animal | None:
    """An animal of the collection by its name, or by its ID."""
    animals = collection.animals
    return animals.filter(name__iexact=name).first() or animals.filter(code=name).first()
