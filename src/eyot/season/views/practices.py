"""How this collection does it: schools of pairing and of opening eggs, and thresholds of weight."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from eyot.collection.actions import Practices, change_practices
from eyot.collection.middleware import CollectionRequest
from eyot.collection.models import Opening
from eyot.season.reading import number_from
from eyot.shared.refusal import Refused

FIELDS = (
    "rounds_days",
    "opening",
    "opening_days",
    "dam_least_g",
    "sire_least_g",
    "sure_percent",
    "likely_percent",
    "not_percent",
    "label_percent",
)


def practices_page(request: CollectionRequest) -> HttpResponse:
    """The page, and its changes."""
    given = {field: getattr(request.collection, field) for field in FIELDS}
    refused = ""
    if request.method == "POST":
        given = {field: request.POST.get(field, "") for field in FIELDS}
        try:
            change_practices(request.collection, request.member, _read(given), timezone.now())
            return redirect("season")
        except Refused as reason:
            refused = str(reason)
    context = {"given": given, "refused": refused, "openings": Opening.choices, "here": "season"}
    return render(request, "season/schools.html", context, status=422 if refused else 200)


def _read(given: dict[str, str]) -> Practices:
    return Practices(
        rounds_days=given["rounds_days"],
        opening=given["opening"],
        opening_days=number_from(given["opening_days"], "Days before the due date"),
        dam_least_g=number_from(given["dam_least_g"], "Least weight of a dam"),
        sire_least_g=number_from(given["sire_least_g"], "Least weight of a sire"),
        sure_percent=number_from(given["sure_percent"], "Sure from"),
        likely_percent=number_from(given["likely_percent"], "Likely from"),
        not_percent=number_from(given["not_percent"], "Not there up to"),
        label_percent=number_from(given["label_percent"], "On a label from"),
    )
