"""Who reads, and in which collection: settled once for every request."""

from collections.abc import Callable
from urllib.parse import urlencode

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from eyot.collection.models import Collection

BY_INVITATION = "/eye/"
"""Pages that check an invitation by themselves, whoever asks."""


class CollectionRequest(HttpRequest):
    """A request of a member: ``collection`` is where he stands, ``member`` who he is."""

    collection: Collection
    member: AbstractBaseUser


class MembersOnly:
    """Sends strangers to the login, and gives every other request its collection."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        open_to_all = (reverse("login"), reverse("alive"), settings.STATIC_URL, BY_INVITATION)
        if request.path.startswith(open_to_all):
            return self.get_response(request)
        if not request.user.is_authenticated:
            return _to_login(request)
        collection = Collection.objects.filter(members=request.user).order_by("pk").first()
        if collection is None and request.path != reverse("logout"):
            return render(request, "collection/no_collection.html", status=403)
        request.collection = collection  # type: ignore[attr-defined]
        request.member = request.user  # type: ignore[attr-defined]
        return self.get_response(request)


def _to_login(request: HttpRequest) -> HttpResponse:
    """A redirect; for a part of a page a plain 401, so that what was answered is kept on the device until after the login."""
    if request.headers.get("HX-Request"):
        return HttpResponse("Please log in again.", status=401, content_type="text/plain")
    following = request.get_full_path() if request.method == "GET" else reverse("season")
    return HttpResponse(status=302, headers={"Location": f"{reverse('login')}?{urlencode({'next': following})}"})
