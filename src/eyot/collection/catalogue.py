"""The catalogue as a collection sees it: the built-in one under its own genes, names and opinions."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from eyot_core.catalogue import Catalogue, builtin_catalogue
from eyot_core.catalogue.overlay import FORMAT, Overlaid, overlaid
from eyot_core.parsing import Node
from eyot_core.wording.lookup import Lookup

from eyot.collection.models import CatalogueOverride, Collection


def overrides_of(collection: Collection) -> list[CatalogueOverride]:
    """What the collection holds now, oldest first."""
    return list(collection.overrides.filter(withdrawn_at=None).select_related("held_by"))


def layer_of(collection: Collection) -> dict[str, Any]:
    """The collection's layer in the open format."""
    return {"format": FORMAT, "opinions": [override.value for override in overrides_of(collection)]}


def overlaid_of(collection: Collection) -> Overlaid:
    """The catalogue under the layer, with what of it does not fit. Read once for each object of a collection."""
    overlaid: Overlaid | None = getattr(collection, "_overlaid", None)
    if overlaid is None:
        overlaid = _overlaid(json.dumps(layer_of(collection), sort_keys=True))
        collection._overlaid = overlaid  # type: ignore[attr-defined]
    return overlaid


def catalogue_of(collection: Collection) -> Catalogue:
    """The catalogue as the collection sees it; one object for one state of its layer."""
    return overlaid_of(collection).catalogue


def catalogue_without(collection: Collection, kind: str) -> Catalogue:
    """The catalogue as it were without the opinions of one kind."""
    layer = layer_of(collection)
    kept = [value for value in layer["opinions"] if value.get("kind") != kind]
    return _overlaid(json.dumps(layer | {"opinions": kept}, sort_keys=True)).catalogue


@lru_cache(maxsize=32)
def _overlaid(layer: str) -> Overlaid:
    return overlaid(builtin_catalogue(), Node(json.loads(layer)))


@lru_cache(maxsize=32)
def lookup(catalogue: Catalogue) -> Lookup:
    """The names of a catalogue, made ready once."""
    return Lookup(catalogue)
