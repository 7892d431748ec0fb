"""Cards to print, and the printed grey that one photo sets."""

from __future__ import annotations

import io
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST

from eyot_core.photo.card_sheet import card_svg, write_sheet

from eyot.collection.middleware import CollectionRequest
from eyot.photos.grey_actions import set_printed_grey
from eyot.photos.models import GreyPrint
from eyot.season.queries import recorded_clutch_of
from eyot.shared.refusal import Refused

PRINTED_GREY = "printed-grey"


def cards_page(request: CollectionRequest) -> HttpResponse:
    """What can be printed, and how a printed grey is set."""
    return render(request, "photos/cards.html", _context(request))


def _context(request: CollectionRequest, **more: Any) -> dict[str, Any]:
    return {
        "pictures": [(grey, mark_safe(card_svg("26-W02-1", printed_grey=grey))) for grey in (False, True)],  # noqa: S308  ours
        "clutches": request.collection.clutches.filter(closed_on=None).exclude(laid_on=None).order_by("laid_on"),
        "set": GreyPrint.objects.filter(collection=request.collection).select_related("set_by").last(),
        "printed_grey": PRINTED_GREY,
        "here": "inbox",
    } | more


def plain_sheet(request: CollectionRequest) -> HttpResponse:
    """Eight cards without a number, for any animal, to print."""
    return _sheet(request, [])


def cards_sheet(request: CollectionRequest, code: str) -> HttpResponse:
    """The cards of a clutch's eggs, to print."""
    return _sheet(
        request, [egg.code for egg in recorded_clutch_of(request.collection, code).eggs.select_related("clutch")]
    )


def _sheet(request: CollectionRequest, numbers: list[str]) -> HttpResponse:
    sheet = io.BytesIO()
    write_sheet(numbers, sheet, printed_grey=PRINTED_GREY in request.GET)
    return HttpResponse(sheet.getvalue(), content_type="application/pdf")


@require_POST
def set_grey(request: CollectionRequest) -> HttpResponse:
    """Sets the printed grey by a photo of it on white paper; or shows the page with what is in the way."""
    try:
        count = set_printed_grey(request.collection, request.member, request.FILES.get("photo"), timezone.now())
    except Refused as reason:
        return render(request, "photos/cards.html", _context(request, wrong=str(reason)), status=422)
    later = f" {count} photo{'s' if count > 1 else ''} with such a card get their light now." if count else ""
    messages.success(request, f"The printed grey is set.{later}")
    return redirect("cards")
