"""Reads on collections."""

from django.db.models import QuerySet

from eyot.collection.models import Animal, Collection


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
