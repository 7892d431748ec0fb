"""What no page sends by accident is answered in one place, before any view or database sees it: 400, or 413, and a sentence."""

from __future__ import annotations

import codecs
import re
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import DataError
from django.http import HttpRequest, HttpResponse, UnreadablePostError
from django.shortcuts import render

from eyot_core.errors import InputError

OF_THE_DEVICE = ("/worker.js", "/manifest.webmanifest", "/offline/")
"""What a browser fetches by itself, to keep Eyot on the device."""
BY_INVITATION = ("/eye/", "/offer/")
"""Pages that check an invitation, or a link for buyers, by themselves, whoever asks."""
OPEN_TO_ALL = (
    "/login/",
    "/begin/",
    "/alive",
    "/ready",
    "/join/",
    "/new-password/",
    *OF_THE_DEVICE,
    settings.STATIC_URL,
    *BY_INVITATION,
)
"""Where whoever asks is answered without a login."""
LONGEST_FROM_STRANGERS = 64_000
LONGEST_TEXT = 1_000_000
LONGEST_NUMBER = re.compile(r"\d{300}")
STANDS = "Nothing was changed."


View = Callable[..., HttpResponse]
_own_upload: set[View] = set()


def reads_its_own_upload(view: View) -> View:
    """A view that chooses how its upload is read: what was sent with it is not looked through before."""
    _own_upload.add(view)
    return view


class Bounded:
    """Refuses what can't be kept, or is larger than anything that a page sends. Files have bounds of their own."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if "\0" in request.path_info:
            return _answer(request, "There is no such address.")
        if not _is_known(request.content_params.get("charset", "utf-8") if request.content_params else "utf-8"):
            return _answer(request, f"What was sent is written in a way that is not known here. {STANDS}")
        if request.path_info.startswith(OPEN_TO_ALL) and _length(request) > LONGEST_FROM_STRANGERS:
            return _answer(request, f"That is more than this page takes. {STANDS}", 413)
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: View, *arguments: Any) -> HttpResponse | None:
        """Looks through what was sent; strangers were sent to the login before."""
        try:
            sent = [] if view in _own_upload else list(request.POST.lists())
        except UnreadablePostError:
            return _answer(request, f"What was sent did not arrive whole. {STANDS}")
        for name, values in (*request.GET.lists(), *sent):
            for text in (name, *map(str, values)):
                if words := _trouble(text):
                    return _answer(request, f"{words} {STANDS}")
        return None

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """What the database can't hold, and what the core can't work through."""
        if isinstance(exception, DataError):
            return _answer(request, f"Something in what was sent is longer or larger than can be kept. {STANDS}")
        if isinstance(exception, InputError):
            return _answer(request, f"This can’t be worked out: {exception.message}. What was entered stands.", 422)
        return None


def _trouble(text: str) -> str:
    if "\0" in text:
        return "What was sent holds a character that can’t be kept."
    if len(text) > LONGEST_TEXT:
        return f"A text of {len(text):,} letters is longer than can be kept."
    return "A number of more than 300 digits can’t be kept." if LONGEST_NUMBER.search(text) else ""


def _is_known(charset: str) -> bool:
    try:
        return codecs.lookup(charset).name == "utf-8"
    except (LookupError, ValueError):
        return False


def _length(request: HttpRequest) -> int:
    text = str(request.META.get("CONTENT_LENGTH") or "0")
    return int(text) if len(text) < 18 and text.isdecimal() else 0


def _answer(request: HttpRequest, words: str, status: int = 400) -> HttpResponse:
    """A page with the sentence; for a script the sentence alone."""
    if request.headers.get("HX-Request"):
        return HttpResponse(words, status=status, content_type="text/plain; charset=utf-8")
    context = {"words": words, "was_typed": request.method == "POST"}
    return render(None, "shared/not_taken.html", context, status=status)  # type: ignore[arg-type]
