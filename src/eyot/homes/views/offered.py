"""What a buyer sees who has the link: the hatchlings on it, a form to ask for one, and nothing else of the collection."""

from __future__ import annotations

from collections.abc import Callable
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.wording.names import Naming

from eyot.collection.catalogue import catalogue_of
from eyot.homes.buyers import ask, offered_on, page_of
from eyot.homes.forms import ReservationForm
from eyot.homes.label_words import welfare_of
from eyot.homes.models import BuyersPage, Fate
from eyot.homes.standing import Kept
from eyot.photos import files
from eyot.photos.models import Photo
from eyot.photos.views.serving import sized
from eyot.shared.forms import as_sent, entered
from eyot.shared.refusal import Refused, refusals_on

Page = Callable[..., HttpResponseBase]
SIZES = ("thumb-", "page-")
assert all(f"{size[:-1]}" in files.SIZES for size in SIZES)


def by_link(view: Page) -> Page:
    """Lets a view through for a page that is open; anybody else reads that it has ended."""

    def guarded(request: HttpRequest, token: str, **more: object) -> HttpResponseBase:
        page = page_of(token, timezone.now())
        if page is None:
            return render(request, "homes/offered/ended.html", status=404)
        return view(request, page, **more)

    return guarded


def _row(page: BuyersPage, number: int) -> Kept:
    found = next((row for row in offered_on(page) if row.egg.pk == number), None)
    if found is None:
        raise Http404("not on this page")
    return found


@by_link
def offered_page(request: HttpRequest, page: BuyersPage) -> HttpResponse:
    """All that are on the page."""
    context = {"page": page, "rows": offered_on(page), "reserved": Fate.State.RESERVED}
    return render(request, "homes/offered/page.html", context)


@by_link
def one_page(request: HttpRequest, page: BuyersPage, number: int) -> HttpResponse:
    """One of them, with the form."""
    return _one(request, page, number)


def _one(
    request: HttpRequest, page: BuyersPage, number: int, refused: Refused | None = None, *, sent: bool = False
) -> HttpResponse:
    row = _row(page, number)
    context = {
        "page": page,
        "row": row,
        "photos": [photo for photo in _photos(row) if photo.has_sizes][:8],
        "welfare": welfare_of(row, Naming(catalogue_of(page.collection))),
        "reserved": row.state == Fate.State.RESERVED,
        "form": as_sent(refused, ReservationForm),
        "refused": refused,
        "sent": sent,
    }
    return render(request, "homes/offered/one.html", context, status=422 if refused else 200)


def _photos(row: Kept) -> list[Photo]:
    return list(Photo.objects.filter(egg=row.egg).exclude(kind=Photo.Kind.VENT).order_by("-taken_at"))


@require_POST
@by_link
@refusals_on(_one)
def asked(request: HttpRequest, page: BuyersPage, number: int) -> HttpResponse:
    """Somebody asks for it."""
    values = entered(request, ReservationForm)
    ask(page, _row(page, number), values["name"], values["answer_to"], values["text"], timezone.now())
    return _one(request, page, number, sent=True)


@by_link
def photo(request: HttpRequest, page: BuyersPage, photo_id: UUID, size: str) -> HttpResponseBase:
    """A photo of somebody on the page, made small: without the data of place and camera that its file carries."""
    eggs = [row.egg.pk for row in offered_on(page)]
    found = Photo.objects.filter(pk=photo_id, egg__in=eggs).exclude(kind=Photo.Kind.VENT).first()
    if found is None or not size.startswith(SIZES):
        raise Http404("no such photo on this page")
    return sized(found, size)
