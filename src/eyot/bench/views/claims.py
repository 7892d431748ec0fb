"""What an animal on the table is claimed to be."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot.bench.claim_actions import make_claim
from eyot.bench.forms import ClaimForm
from eyot.bench.views.hatchling import bench_page
from eyot.collection.middleware import CollectionRequest
from eyot.season.queries import clutch_of_any, egg_of
from eyot.shared.forms import entered
from eyot.shared.refusal import refusals_on


@require_POST
@refusals_on(bench_page)
def claimed(request: CollectionRequest, code: str, number: int) -> HttpResponse:
    """A claim is kept, or taken off."""
    egg, given = egg_of(clutch_of_any(request.collection, code), number), entered(request, ClaimForm)
    make_claim(egg, request.member, given["line"], given["trust"], timezone.now())
    return redirect("bench", code, number)
