"""Logs as lines of JSON, each with its request's number: no names, no addresses of pages, no pictures.

Of an address only its pattern is told (``clutches/<slug:code>/``), of other programs' messages only their template, and of an exception its
kind and where it came up, never its words: these may hold what a keeper wrote.
"""

from __future__ import annotations

import json
import logging
import re
import secrets
import time
import traceback
from collections.abc import Callable
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse

GIVEN = re.compile(r"[\w-]{8,64}")
"""A request's number as a proxy of ours may give it."""
OWN = "eyot."
_number: ContextVar[str] = ContextVar("request's number", default="")
logger = logging.getLogger("eyot.requests")


def request_number() -> str:
    """The number of the request under way, empty outside of one: for whoever tells what went wrong."""
    return _number.get()


class NumberedRequests:
    """Gives every request a number, says it in the answer, and logs one line when it is done."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        token = _number.set(_number_of(request))
        began = time.monotonic()
        try:
            response = self.get_response(request)
            response["X-Request-Id"] = request_number()
            matched = request.resolver_match
            told = {"method": request.method, "status": response.status_code, "page": matched.route if matched else ""}
            logger.info("request", extra={"told": told | {"ms": round((time.monotonic() - began) * 1000)}})
            return response
        finally:
            _number.reset(token)


def _number_of(request: HttpRequest) -> str:
    given = str(request.headers.get("X-Request-Id", ""))
    return given if settings.BEHIND_PROXY and GIVEN.fullmatch(given) else secrets.token_hex(6)


class JsonLines(logging.Formatter):
    """One JSON object a line."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        own = record.name.startswith(OWN)
        line: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "from": record.name,
            "what": record.getMessage() if own else str(record.msg),
        }
        if number := request_number():
            line["request"] = number
        line |= getattr(record, "told", {})
        if record.exc_info and record.exc_info[0]:
            kind, _, where = record.exc_info
            line["exception"] = kind.__name__
            line["where"] = [f"{step.filename}:{step.lineno} {step.name}" for step in traceback.extract_tb(where)]
        return json.dumps(line, ensure_ascii=False)
