"""The re-look queue."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from eyot.bench.relook_queue import count_due, relook_queue_of
from eyot.collection.middleware import CollectionRequest


def relook_page(request: CollectionRequest) -> HttpResponse:
    """What is due, the most telling first."""
    return render(
        request,
        "bench/relook.html",
        {"queue": relook_queue_of(request.collection, timezone.localdate()), "here": "season"},
    )


def count(request: CollectionRequest) -> HttpResponse:
    """How many looks are due, for the season's page."""
    return render(request, "bench/parts/due.html", {"due": count_due(request.collection, timezone.localdate())})
