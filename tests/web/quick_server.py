"""A web server of two threads with limits of less than a second, for the tests of its worker."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from eyot.config import web_worker

web_worker.HEADER_SECONDS = 0.6
web_worker.BODY_SECONDS = 0.6


def application(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
    """Answers how much it was sent."""
    come = len(environ["wsgi.input"].read())
    start_response("200 OK", [("Content-Type", "text/plain")])
    return [str(come).encode()]
