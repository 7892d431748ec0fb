"""What is said when something can't be done, and on which page."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import HttpResponse


class Refused(Exception):
    """Something can't be done; the message says what is wrong, where, and what still stands."""


View = Callable[..., HttpResponse]


def refusals_on(page: View) -> Callable[[View], View]:
    """A view whose refusals are told on a page: ``page`` is called as the view was, with the reason as ``refused``."""

    def decorated(view: View) -> View:
        @wraps(view)
        def told(request: Any, *args: Any, **more: Any) -> HttpResponse:
            try:
                return view(request, *args, **more)
            except Refused as reason:
                return page(request, *args, refused=str(reason), **more)

        return told

    return decorated
