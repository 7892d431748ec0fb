"""The catalogue as a collection sees it."""

from __future__ import annotations

from eyot_core.catalogue import Catalogue, builtin_catalogue

from eyot.collection.models import Collection


def catalogue_of(collection: Collection) -> Catalogue:
    """The built-in catalogue."""
    return builtin_catalogue()
