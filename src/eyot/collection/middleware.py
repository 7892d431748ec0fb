"""Who reads, and in which collection: settled once for every request, from the address.

An address such as ``/in/withy-bed/clutches/W-04/`` means one collection for good. The prefix is taken off before the address is
resolved and put before every address that is made meanwhile (Django's script prefix), so that no page knows of it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any
from urllib.parse import urlencode, urlsplit

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import get_script_prefix, reverse, set_script_prefix
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme

from eyot.collection.models import Collection, Membership
from eyot.collection.rights import WORDS, may, needed_for
from eyot.shared.bounds import BY_INVITATION, OF_THE_DEVICE, OPEN_TO_ALL
from eyot.shared.units import CELSIUS, DAY_FIRST, use

PREFIX = re.compile(r"/in/([-\w]+)(?=/)")
LAST = "collection"
"""Where the session keeps the key of the collection that was looked at last."""
OUTSIDE = ("logout", "collections", "new-collection", "join", "new-password", "token")
"""Addresses of a person, not of a collection."""


class CollectionRequest(HttpRequest):
    """A request of a member: ``collection`` is where he stands, ``member`` who he is, ``membership`` what he may."""

    collection: Collection
    member: AbstractBaseUser
    membership: Membership


class InCollection:
    """Takes the collection's prefix off the address, and puts it before those that are made meanwhile."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        prefix = PREFIX.match(request.path_info)
        request.collection_key = prefix[1] if prefix else ""  # type: ignore[attr-defined]
        if prefix is None:
            return self.get_response(request)
        request.path_info = request.path_info[prefix.end() :]
        with _prefixed(get_script_prefix().rstrip("/") + prefix[0] + "/"):
            return self.get_response(request)


@contextmanager
def _prefixed(prefix: str) -> Iterator[None]:
    before = get_script_prefix()
    set_script_prefix(prefix)
    try:
        yield
    finally:
        set_script_prefix(before)


def outside(name: str, *args: Any) -> str:
    """The address of a page that belongs to no collection, from wherever it is asked for."""
    with _prefixed("/"):
        return reverse(name, args=args)


def inside(collection: Collection, name: str = "season", *args: Any) -> str:
    """The address of a page in a collection, from wherever it is asked for."""
    return f"/in/{collection.key}{outside(name, *args)}"


class MembersOnly:
    """Sends strangers to the login, and gives every other request its collection; refuses what the role does not allow. Nothing that
    is answered is kept by whoever stands between, unless its view says how."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        answer = self._answer(request)
        answer.headers.setdefault("Cache-Control", "private, no-store")
        return answer

    def _answer(self, request: HttpRequest) -> HttpResponse:
        if request.path_info.startswith(OPEN_TO_ALL):
            return self.get_response(request)
        if not request.user.is_authenticated:
            return _to_login(request)
        try:
            return self.get_response(request)
        finally:
            timezone.deactivate()
            use(DAY_FIRST, CELSIUS)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: tuple[Any, ...], more: dict[str, Any]
    ) -> HttpResponse | None:
        """The collection of the address, and whether the reader may do there what is asked."""
        name = request.resolver_match.url_name or "" if request.resolver_match else ""
        if not request.user.is_authenticated:
            return None  # a page that is open to all: the others went to the login before
        request.member = request.user  # type: ignore[attr-defined]
        key = request.collection_key  # type: ignore[attr-defined]
        memberships = request.user.memberships.select_related("collection__removal")
        if not key:
            return None if _is_outside(name, request) else _to_collection(request, memberships.first())
        own = memberships.filter(collection__key=key).first()
        if own is None:
            raise Http404
        request.collection, request.membership = own.collection, own  # type: ignore[attr-defined]
        use(own.collection.day_form, own.collection.grade)
        if own.collection.time_zone:
            timezone.activate(own.collection.time_zone)
        if request.session.get(LAST) != key:
            request.session[LAST] = key
        return (
            None if _is_outside(name, request) or may(own.role, name, request.method or "") else _refused(request, own)
        )


def _is_outside(name: str, request: HttpRequest) -> bool:
    return name in OUTSIDE or request.path_info.startswith(
        ("/login/", "/account/", "/begin/", "/alive", "/ready", *OF_THE_DEVICE, *BY_INVITATION)
    )


def _to_collection(request: HttpRequest, first: Membership | None) -> HttpResponse:
    """An address without a collection: the way in leads to the one looked at last; any other stems from when there was one
    only, and means the oldest."""
    if first is None:
        return HttpResponseRedirect(outside("collections"))
    key = first.collection.key
    if request.path_info == "/" and request.method == "GET":
        last = request.session.get(LAST)
        if last and request.user.memberships.filter(collection__key=last).exists():  # type: ignore[union-attr]
            key = last
    return HttpResponseRedirect(
        f"/in/{key}{request.get_full_path()}", preserve_request=request.method not in ("GET", "HEAD")
    )


def _refused(request: HttpRequest, own: Membership) -> HttpResponse:
    """What the role does not allow: a page that says so; for a part of a page its words."""
    name = request.resolver_match.url_name or "" if request.resolver_match else ""
    needed = needed_for(name, request.method or "")
    words = f"You are {own.role} here: {WORDS[own.as_role]}."
    words += f" This takes a {needed}. Nothing was changed." if needed else " Nobody may do this. Nothing was changed."
    if request.headers.get("HX-Request"):
        return HttpResponse(words, status=403, content_type="text/plain")
    return render(request, "collection/not_allowed.html", {"words": words}, status=403)


def _to_login(request: HttpRequest) -> HttpResponse:
    """A redirect; for a part of a page a plain 401, so that what was answered is kept on the device until after the login. Whoever
    sent a form comes back to the page that it stands on, where the browser enters again what was typed."""
    if request.headers.get("HX-Request"):
        return HttpResponse("Please log in again.", status=401, content_type="text/plain")
    if not get_user_model().objects.exists():
        return HttpResponseRedirect(outside("begin"))
    query = (
        {"next": request.get_full_path()} if request.method == "GET" else {"next": _came_from(request), "ended": "yes"}
    )
    return HttpResponseRedirect(f"{outside('login')}?{urlencode(query)}")


def _came_from(request: HttpRequest) -> str:
    """The page of ours from which a form was sent; the way in where the browser does not say."""
    page = request.headers.get("Referer", "")
    if url_has_allowed_host_and_scheme(page, {request.get_host()}, require_https=request.is_secure()):
        parts = urlsplit(page)
        if PREFIX.match(parts.path):
            return f"{parts.path}?{parts.query}" if parts.query else parts.path
    return reverse("season")
