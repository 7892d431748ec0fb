"""Drawings of combinations, as pictures: strips, plates, and typical siblings.

Under an address that names the present state of the catalogue a browser keeps a drawing for good: a collection's opinions may change what
is drawn, and change the address with it. Under any other it asks again each time, and is told where nothing changed.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from django.http import Http404, HttpResponse
from django.views.decorators.http import conditional_page

from eyot_core.body_places import WHOLE
from eyot_core.catalogue import Catalogue
from eyot_core.drawing.plate import AT, at_place
from eyot_core.drawing.plate import plate as drawn_plate
from eyot_core.drawing.plate import strip as drawn_strip
from eyot_core.identify.looks import telling_looks, typical_looks

from eyot.collection.catalogue import catalogue_of
from eyot.collection.drawn import STATE, state_of
from eyot.collection.middleware import CollectionRequest
from eyot.reference.subjects import stage_from, subject_of

SEED = 11
MOST_SIBLINGS = 12


@conditional_page
def strip(request: CollectionRequest, key: str) -> HttpResponse:
    """A flank strip of what a combination shows; ``key``: its genes, joined by dots, or "normal"."""
    return _picture(request, _strip(catalogue_of(request.collection), key, stage_from(request.GET.get("stage"))))


@conditional_page
def plate(request: CollectionRequest, key: str) -> HttpResponse:
    """Its plate."""
    return _picture(request, _plate(catalogue_of(request.collection), key, stage_from(request.GET.get("stage"))))


@conditional_page
def place(request: CollectionRequest, place: str, key: str) -> HttpResponse:
    """What a combination shows at one place on the body; the whole animal as a strip."""
    catalogue, stage = catalogue_of(request.collection), stage_from(request.GET.get("stage"))
    if place == WHOLE:
        return _picture(request, _strip(catalogue, key, stage))
    if place not in AT:
        raise Http404(f"no place {place}")
    return _picture(request, at_place(_plate(catalogue, key, stage), place))


@conditional_page
def sibling(request: CollectionRequest, key: str, number: int) -> HttpResponse:
    """The strip of one of several typical animals."""
    if not 1 <= number <= MOST_SIBLINGS:
        raise Http404(f"siblings are drawn from 1 to {MOST_SIBLINGS}")
    return _picture(
        request, _sibling(catalogue_of(request.collection), key, stage_from(request.GET.get("stage")), number)
    )


def _picture(request: CollectionRequest, svg: str) -> HttpResponse:
    is_of_now = request.GET.get(STATE) == state_of(catalogue_of(request.collection))
    kept = "private, max-age=31536000, immutable" if is_of_now else "private, no-cache"
    return HttpResponse(svg, content_type="image/svg+xml", headers={"Cache-Control": kept})


@lru_cache(maxsize=1024)
def _strip(catalogue: Catalogue, key: str, stage: str) -> str:
    return drawn_strip(telling_looks(catalogue, subject_of(catalogue, key).genotype, stage), SEED, stage)


@lru_cache(maxsize=256)
def _plate(catalogue: Catalogue, key: str, stage: str) -> str:
    return drawn_plate(telling_looks(catalogue, subject_of(catalogue, key).genotype, stage), SEED, stage)


@lru_cache(maxsize=512)
def _sibling(catalogue: Catalogue, key: str, stage: str, number: int) -> str:
    random = np.random.default_rng([SEED, number])
    return drawn_strip(
        typical_looks(catalogue, subject_of(catalogue, key).genotype, stage, random), SEED + number, stage
    )
