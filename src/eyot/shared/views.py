"""Pages that belong to no thing of the keeper's: alive, ready, not here, something broke."""

import errno
import sys
from collections.abc import Callable

from django.core.files.storage import storages
from django.db import InterfaceError, OperationalError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.cache import never_cache

from eyot.shared.logs import request_number

DISK_FULL, READ_ONLY = "53100", "25006"
"""PostgreSQL's numbers for a full disk, and for a database that takes no changes."""


def alive(request: HttpRequest) -> HttpResponse:
    """Answers without touching the database."""
    return HttpResponse("alive", content_type="text/plain")


def ready(request: HttpRequest) -> JsonResponse:
    """Can this process do its work? The database, the store of photos, and a worker heard of in the last minute; 503 where one is
    missing. Says no more than that."""
    found = {"database": _answers(_database), "store": _answers(_store), "worker": _answers(_worker)}
    return JsonResponse(found, status=200 if all(found.values()) else 503)


@never_cache
def token(request: HttpRequest) -> JsonResponse:
    """A fresh form token, and whose it is: for a page that was drawn before a login in another window."""
    return JsonResponse({"token": get_token(request), "person": str(request.user.pk)})


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


def not_of_this_login(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403: a form without the token of the login. Always a page, by which a device tells it from what a role does not allow."""
    words = "The page that sent this is older than your login, or not one of Eyot’s. Nothing was changed."
    return render(request, "shared/not_taken.html", {"words": words, "was_typed": True}, status=403)


def something_broke(request: HttpRequest) -> HttpResponse:
    """500; 503 and a calm page where only the database does not answer, 507 where nothing can be written. Touches neither session nor
    database."""
    raised = sys.exc_info()[1]
    no_room, away = _no_room(raised), isinstance(raised, (OperationalError, InterfaceError))
    status = 507 if no_room else 503 if away else 500
    if request.headers.get("HX-Request") and no_room:
        return HttpResponse(no_room, status=status, content_type="text/plain; charset=utf-8")
    context = {"no_room": no_room, "database_away": away, "number": request_number()}
    return HttpResponse(render_to_string("shared/broke.html", context), status=status)


def _no_room(raised: BaseException | None) -> str:
    """Why nothing can be written to the store or the database, in words; empty where that is not what went wrong."""
    while raised is not None:
        number = raised.errno if isinstance(raised, OSError) else None
        if number in (errno.ENOSPC, errno.EDQUOT) or getattr(raised, "sqlstate", "") == DISK_FULL:
            return "The disk of the machine that keeps Eyot is full."
        if number == errno.EROFS or getattr(raised, "sqlstate", "") == READ_ONLY:
            return "The machine that keeps Eyot can only be read from just now."
        raised = raised.__cause__
    return ""
