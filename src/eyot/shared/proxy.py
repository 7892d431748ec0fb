"""Where a request came from, for slowing down who guesses passwords."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """The address that asked. Behind a proxy of ours what the proxy wrote, the last entry, which nobody else can write; the
    header of others is not listened to."""
    if settings.BEHIND_PROXY:
        forwarded = str(request.headers.get("X-Forwarded-For", "")).split(",")[-1].strip()
        if forwarded:
            return forwarded
    return str(request.META.get("REMOTE_ADDR", ""))
