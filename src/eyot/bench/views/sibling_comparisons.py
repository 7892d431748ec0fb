"""A hatchling laid beside a sibling."""

from __future__ import annotations

from uuid import uuid4

from django.http import HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.bench.sibling_comparisons import Laid, compare_siblings, take_apart
from eyot.bench.views.hatchling import carried_out
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of, egg_of
from eyot.shared.devices import key_from


@require_POST
def lay(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """What was said of the two is kept."""
    clutch = clutch_of(request.collection, code)
    egg, given = egg_of(clutch, number), request.POST
    trait, _, answer = given.get("what", "").partition(".")
    other = given.get("other", "")
    laid = Laid(
        trait=trait,
        answer=answer,
        other=int(other) if other.isdecimal() else 0,
        stage=given.get("stage", ""),
        confidence=given.get("confidence", "sure"),
        key=key_from(given.get("key", "")) or uuid4(),
    )
    return carried_out(request, clutch, egg, lambda member: compare_siblings(egg, member, laid, timezone.now()))


@require_POST
def apart(request: CollectionRequest, code: str, number: int, row: int) -> HttpResponse:
    """One's own comparison is taken back."""
    clutch = clutch_of(request.collection, code)
    egg = egg_of(clutch, number)
    return carried_out(request, clutch, egg, lambda member: take_apart(egg, member, row, timezone.now()))
