"""Pages that belong to no thing of the keeper's: alive, not here, something broke."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string


def alive(request: HttpRequest) -> HttpResponse:
    """Answers without touching the database."""
    return HttpResponse("alive", content_type="text/plain")


def not_here(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404: also for what belongs to another collection."""
    return render(request, "shared/not_here.html", status=404)


def something_broke(request: HttpRequest) -> HttpResponse:
    """500; 503 and a calm page where only the database does not answer. Touches neither session nor database."""
    away = isinstance(sys.exc_info()[1], (OperationalError, InterfaceError))
    status = 503 if away else 500
    return HttpResponse(render_to_string("shared/broke.html", {"database_away": away}), status=status)
