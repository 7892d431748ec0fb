"""Whoever guesses passwords is held up: after some wrong ones by an account, and by an address, each time for longer.

axes counts and refuses (settings ``AXES_…``); here stands by what it counts, and for how long it holds up. A browser in which
somebody has logged in before is counted by itself, so that no stranger holds up who is known, not even from behind the same
proxy; a signed cookie says that it is.
"""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from axes.models import AccessFailureLog
from django.conf import settings
from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from eyot.shared.proxy import client_address

COOKIE = "eyot_known"
KNOWN_FOR = timedelta(days=365)
MOST_NAMES = 8
TRIES, TRIES_OF_KNOWN = 8, 40
LONGEST = 15
"""Minutes. The first pause is one of them, and each in the same day is twice as long as the one before."""


def name_tried(request: HttpRequest, credentials: dict[str, Any] | None = None) -> str:
    """Whose login is tried: for whoever counts the tries."""
    return str((credentials or {}).get("username") or request.POST.get("login", ""))


def known_in(request: HttpRequest) -> list[str]:
    """Who has logged in with this browser before."""
    try:
        names = signing.loads(request.COOKIES.get(COOKIE, ""), salt=COOKIE, max_age=KNOWN_FOR)
    except signing.BadSignature:
        return []
    return [str(name) for name in names]


def remember(request: HttpRequest, response: HttpResponse, name: str) -> None:
    """Marks a browser in which somebody has just logged in."""
    names = [name, *(other for other in known_in(request) if other != name)][:MOST_NAMES]
    response.set_cookie(
        COOKIE,
        signing.dumps(names, salt=COOKIE),
        max_age=KNOWN_FOR,
        secure=settings.SESSION_COOKIE_SECURE,
        httponly=True,
        samesite="Lax",
    )


def _is_known(request: Any, credentials: dict[str, Any] | None) -> bool:
    return isinstance(request, HttpRequest) and name_tried(request, credentials) in known_in(request)


def counted_by(request: Any, credentials: dict[str, Any] | None = None) -> list[str | list[str]]:
    """What axes counts wrong passwords by."""
    if _is_known(request, credentials):
        return [["username", "ip_address", "user_agent"]]
    return ["username", "ip_address"]


def tries(request: HttpRequest, credentials: dict[str, Any] | None = None) -> int:
    """How many wrong passwords are let pass before a pause."""
    return TRIES_OF_KNOWN if _is_known(request, credentials) else TRIES


def pause(request: HttpRequest | None) -> timedelta:
    """How long to wait: the longer, the more wrong passwords there were in a day, by account or by address."""
    if request is None:
        return timedelta(minutes=LONGEST)
    lately = AccessFailureLog.objects.filter(attempt_time__gte=timezone.now() - timedelta(days=1))
    wrong = max(
        lately.filter(username=name_tried(request)).count(), lately.filter(ip_address=client_address(request)).count()
    )
    pauses = max(0, wrong // TRIES - 1)
    return timedelta(minutes=min(LONGEST, 2 ** min(pauses, 10)))
