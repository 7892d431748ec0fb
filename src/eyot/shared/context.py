"""What every template may use."""

from typing import Any

from django.http import HttpRequest


def site_context(request: HttpRequest) -> dict[str, Any]:
    """The collection in which the reader stands, if any, what he may there, and the lighting chosen on this device."""
    lighting = request.COOKIES.get("lighting", "")
    return {
        "collection": getattr(request, "collection", None),
        "membership": getattr(request, "membership", None),
        "reader": getattr(request, "user", None),
        "lighting": lighting if lighting in ("paper", "lamp") else "",
    }
