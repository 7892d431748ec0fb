"""The report of a season, looked at and as PDF."""

from __future__ import annotations

import io
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone

from eyot.collection.middleware import CollectionRequest
from eyot.homes.label_pages import write_pdf
from eyot.homes.report import report_of
from eyot.season.queries import seasons_of
from eyot.shared.money import money


def _context(request: CollectionRequest, year: int) -> dict[str, Any]:
    if year not in seasons_of(request.collection):
        raise Http404(f"nothing was laid or paired in {year}")
    report = report_of(request.collection, year, timezone.now())
    return {"report": report, "earned": money(report.earned, request.collection.currency), "here": "season"}


def report_page(request: CollectionRequest, year: int) -> HttpResponse:
    """The report."""
    return render(request, "homes/report.html", _context(request, year))


def report_pdf(request: CollectionRequest, year: int) -> HttpResponse:
    """The same to print."""
    context = {**_context(request, year), "collection": request.collection, "on": timezone.localdate()}
    file = io.BytesIO()
    write_pdf(render_to_string("homes/pdf/report.html", context), file)
    answer = HttpResponse(file.getvalue(), content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="season-{year}.pdf"'
    return answer
