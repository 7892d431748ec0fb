"""Short drawn explanations of het, visual, possible het and their kin, on the reader's own animals."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render

from eyot.collection.middleware import CollectionRequest
from eyot.hets.explaining import explained


def explain_page(request: CollectionRequest) -> HttpResponse:
    """The square of gametes for a pairing; what is chosen in it changes it."""
    context = {"view": explained(request.collection, request.GET), "here": "hets"}
    part = request.htmx and not request.htmx.boosted  # type: ignore[attr-defined]
    return render(request, "hets/parts/square.html" if part else "hets/explain.html", context)
