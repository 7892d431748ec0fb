"""What is said when something can't be done, and on which page."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import HttpResponse

STANDS = re.compile(r" Nothing was (changed|saved|ordered)\.$")
"""What still stands: said once, above the page."""


class Refused(Exception):
    """Something can't be done; the message says what is wrong, where, and what still stands.

    ``form``: what was sent, where it came by a form; ``field``: the one of its fields that is wrong, where it is one alone.
    """

    def __init__(self, message: str, *, form: Any = None, field: str = "") -> None:
        super().__init__(message)
        self.form, self.field = form, field


class Overtaken(Refused):
    """Something was chosen on a page that is no longer true: it is asked once more. ``stands``: what is true now."""

    def __init__(self, message: str, *, stands: str) -> None:
        super().__init__(message)
        self.stands = stands


View = Callable[..., HttpResponse]


def refusals_on(page: View) -> Callable[[View], View]:
    """A view whose refusals are told on a page: ``page`` is called as the view was, with the :class:`Refused` as ``refused``."""

    def decorated(view: View) -> View:
        @wraps(view)
        def checked(request: Any, *args: Any, **more: Any) -> HttpResponse:
            try:
                return view(request, *args, **more)
            except Refused as reason:
                return page(request, *args, refused=with_form(reason, getattr(request, "entered", None)), **more)

        return checked

    return decorated


def refusals_as_text(view: View) -> View:
    """A view that answers a script, without a page: a refusal is told as plain text (422), what is asked once more as 409."""

    @wraps(view)
    def checked(request: Any, *args: Any, **more: Any) -> HttpResponse:
        try:
            return view(request, *args, **more)
        except Overtaken as reason:
            headers = {"X-Stands": reason.stands}
            return HttpResponse(str(reason), status=409, content_type="text/plain; charset=utf-8", headers=headers)
        except Refused as reason:
            return HttpResponse(str(reason), status=422, content_type="text/plain; charset=utf-8")

    return checked


def with_form(reason: Refused, form: Any) -> Refused:
    """A refusal with the form that was sent; the field that is wrong says so."""
    reason.form = reason.form or form
    if form is not None and reason.field in form.fields and not form.errors:
        form.add_error(reason.field, STANDS.sub("", str(reason)))
    return reason
