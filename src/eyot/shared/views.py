"""Pages that belong to no thing of the keeper's: alive, ready, not here, something broke."""

import sys
from collections.abc import Callable

from django.core.files.storage import storages
from django.db import InterfaceError, OperationalError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from eyot.shared.logs import request_number


def alive(request: HttpRequest) -> HttpResponse:
    """Answers without touching the database."""
    return HttpResponse("alive", content_type="text/plain")


def ready(request: HttpRequest) -> JsonResponse:
    """Can this process do its work? The database, the store of photos, and a worker heard of in the last minute; 503 where one is
    missing. Says no more than that."""
    found = {"database": _answers(_database), "store": _answers(_store), "worker": _answers(_worker)}
    return JsonResponse(found, status=200 if all(found.values()) else 503)


def _answers(asked: Callable[[], bool]) -> bool:
    try:
        return asked()
    except Exception:  # noqa: BLE001  whatever keeps it from answering
        return False


def _database() -> bool:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
        return True


def _store() -> bool:
    storages["photos"].exists("ready")
    return True


def _worker() -> bool:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM procrastinate_workers WHERE last_heartbeat > now() - interval '1 minute' LIMIT 1")
        return cursor.fetchone() is not None


def not_here(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404: also for what belongs to another collection."""
    return render(request, "shared/not_here.html", status=404)


def something_broke(request: HttpRequest) -> HttpResponse:
    """500; 503 and a calm page where only the database does not answer. Touches neither session nor database."""
    away = isinstance(sys.exc_info()[1], (OperationalError, InterfaceError))
    status = 503 if away else 500
    return HttpResponse(
        render_to_string("shared/broke.html", {"database_away": away, "number": request_number()}), status=status
    )
