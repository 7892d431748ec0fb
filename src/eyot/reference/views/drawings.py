"""Drawn strips of combinations, as pictures."""

from __future__ import annotations

from functools import lru_cache

from django.http import HttpResponse

from eyot_core.catalogue import Catalogue
from eyot_core.drawing.plate import strip as drawn_strip
from eyot_core.identify.looks import telling_looks

from eyot.collection.catalogue import catalogue_of
from eyot.collection.middleware import CollectionRequest
from eyot.reference.combinations import SEED
from eyot.reference.subjects import stage_from, subject_of


def strip(request: CollectionRequest, key: str) -> HttpResponse:
    """A flank strip of what a combination shows; ``key``: its genes, joined by dots, or "normal"."""
    drawn = _drawn(catalogue_of(request.collection), key, stage_from(request.GET.get("stage")))
    answer = HttpResponse(drawn, content_type="image/svg+xml")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@lru_cache(maxsize=1024)
def _drawn(catalogue: Catalogue, key: str, stage: str) -> str:
    genotype = subject_of(catalogue, key).genotype
    return drawn_strip(telling_looks(catalogue, genotype, stage), SEED, stage)
