"""Addresses of drawings. Each names the state of what it is drawn from, so that a browser asks once and keeps it for good."""

from __future__ import annotations

import hashlib
import json
from functools import cache, lru_cache
from pathlib import Path
from urllib.parse import urlencode

from django.urls import reverse

import eyot_core
from eyot_core.catalogue import Catalogue

from eyot.collection.catalogue import catalogue_of
from eyot.collection.models import Collection

STATE = "of"
"""Under which name an address tells the state."""


def drawing_address(collection: Collection, name: str, *args: object, stage: str = "shed") -> str:
    """The address of a drawing, by the name of its pattern and what stands in it, as the collection sees the catalogue now."""
    asked = {"stage": stage, STATE: state_of(catalogue_of(collection))}
    return f"{reverse(name, args=args)}?{urlencode(asked)}"


@lru_cache(maxsize=32)
def state_of(catalogue: Catalogue) -> str:
    """Twelve letters and digits that change with everything that a drawing hangs on: the catalogue, and how it is drawn."""
    document = json.dumps(catalogue.document, sort_keys=True).encode()
    return hashlib.sha256(document + _program()).hexdigest()[:12]


@cache
def _program() -> bytes:
    sources = sorted(Path(eyot_core.__file__).parent.rglob("*.py"))
    return hashlib.sha256(b"".join(path.read_bytes() for path in sources)).digest()
