"""The schema of a collection that was taken away, made from the models; docs/formats/collection.schema.json holds it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import models

from eyot.safekeeping.kinds import ADDED, FORMAT, KINDS, SETTINGS, referred

NUMBER = {"type": "integer", "minimum": 1}


def of_field(field: models.Field[Any, Any]) -> dict[str, Any]:
    """What a column holds."""
    words = {"description": str(field.help_text)} if field.help_text else {}
    if label := referred(field):
        other = "people" if label == "auth.user" else next(kind.name for kind in KINDS if kind.label == label)
        return {**_or_null(field, NUMBER), "description": f"the number of a row in {other}"}
    if isinstance(field, models.JSONField):
        return {"type": ["object", "array", *(["null"] if field.null else [])], **words}
    kinds: dict[Any, dict[str, Any]] = {
        models.BooleanField: {"type": "boolean"},
        models.IntegerField: {"type": "integer"},
        models.FloatField: {"type": "number"},
        models.DateTimeField: {"type": "string", "format": "date-time"},
        models.DateField: {"type": "string", "format": "date"},
        models.UUIDField: {"type": "string", "format": "uuid"},
    }
    found = next((kind for cls, kind in kinds.items() if isinstance(field, cls)), {"type": "string"})
    return {**_or_null(field, found), **words}


def _or_null(field: models.Field[Any, Any], kind: dict[str, Any]) -> dict[str, Any]:
    return {**kind, "type": [kind["type"], "null"]} if field.null else kind


def of_rows(properties: dict[str, Any], added: Sequence[str] = ()) -> dict[str, Any]:
    """A row with all of its columns. ``added``: those that rows of an earlier Eyot lack."""
    required = [name for name in properties if name not in added]
    return {"type": "object", "properties": properties, "required": required, "additionalProperties": False}


def schema() -> dict[str, Any]:
    """The manifest, and under ``$defs`` a row of each kind."""
    rows = {
        kind.name: of_rows({"id": NUMBER, **{f.name: of_field(f) for f in kind.fields}}, ADDED.get(kind.label, ()))
        for kind in KINDS
    }
    from eyot.collection.models import Collection

    settings = {name: of_field(Collection._meta.get_field(name)) for name in SETTINGS}
    file = of_rows(
        {
            "name": {"type": "string"},
            "size": {"type": "integer", "minimum": 0},
            "sha256": {"type": "string", "pattern": "^[0-9a-f]{64}$"},
        }
    )
    manifest = of_rows(
        {
            "format": {"const": FORMAT},
            "made_at": {"type": "string", "format": "date-time"},
            "collection": {"type": "string"},
            "counts": {"type": "object", "additionalProperties": {"type": "integer", "minimum": 0}},
            "files": {"type": "array", "items": file},
        }
    )
    people = of_rows({"id": NUMBER, "name": {"type": "string"}, "role": {"type": "string"}})
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A collection taken away: its manifest, and a row of each kind",
        **manifest,
        "$defs": {"people": people, "collection": of_rows(settings), **rows},
    }
