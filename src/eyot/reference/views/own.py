"""Pinning a photo, and the collection's own genes and opinions."""

from __future__ import annotations

import json
from urllib.parse import urlencode
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.html import escape
from django.views.decorators.http import require_POST

from eyot_core.wording.line import understood
from eyot_core.wording.lookup import key_of

from eyot.collection.actions import Unfit, add_override, withdraw_override
from eyot.collection.catalogue import catalogue_of, layer_of, lookup, overlaid_of, overrides_of
from eyot.collection.middleware import CollectionRequest
from eyot.photos.queries import photo_of
from eyot.reference.models import Pin
from eyot.reference.overrides import (
    INHERITANCE_CHOICES,
    STRENGTH_CHOICES,
    look_choices,
    named_only,
    opinion_from,
    override_words,
    typed_rows,
)
from eyot.reference.own import pin_photo, take_down


def pin(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """What a photo stands for, and how that is known."""
    photo = photo_of(request.collection, photo_id)
    context = {
        "photo": photo,
        "genes": request.GET.get("genes", ""),
        "choices": Pin.Confirmed.choices,
        "here": "reference",
    }
    if request.method != "POST":
        return render(request, "reference/pin.html", context)
    typed, confirmed = request.POST.get("genes", "")[:200], request.POST.get("confirmed", "")
    read = understood(lookup(catalogue_of(request.collection)), typed)
    wrong = _wrong(read.left_open, read.genes, typed, confirmed)
    if wrong:
        return render(request, "reference/pin.html", context | {"wrong": wrong, "genes": typed}, status=422)
    note = request.POST.get("note", "")
    pin_photo(request.collection, request.member, photo, key_of(read.genes), confirmed, note)
    return redirect("combination", key_of(read.genes))


def _wrong(left_open: str, genes: object, typed: str, confirmed: str) -> str:
    if not genes:
        return (
            f"“{typed}” names no gene that is known. Write the genes as you would on a label; the photo stays as it is."
        )
    if left_open:
        return f"“{typed}” does not mean one thing. {left_open} Say which, or leave the word out; the photo stays as it is."
    return "" if confirmed in Pin.Confirmed.values else "Say how it is confirmed."


@require_POST
def unpin(request: CollectionRequest, pin_id: int) -> HttpResponse:
    """Takes a pin off."""
    pin = get_object_or_404(Pin, collection=request.collection, pk=pin_id)
    take_down(pin)
    return redirect("combination", pin.key)


def overrides(request: CollectionRequest, wrong: str = "", kept: HttpRequest | None = None) -> HttpResponse:
    """The collection's layer over the catalogue: own genes, names, switched points, weights."""
    sent = kept.POST.dict() if kept else {}
    held, overlaid = overrides_of(request.collection), overlaid_of(request.collection)
    left_out = dict(overlaid.left_out)
    switched = {override.value.get("dispute") for override in held if override.value.get("kind") == "switch"}
    disputes = list(overlaid.catalogue.document.get("disputes", []))
    context = {
        "held": [
            (override, override_words(overlaid.catalogue, override.value), left_out.get(number, ""))
            for number, override in enumerate(held)
        ],
        "disputes": [(row, row["id"] in switched) for row in disputes],
        "genes": sorted(overlaid.catalogue.document["genes"], key=lambda row: str(row.get("name", row["id"])).lower()),
        "loci": [row for row in overlaid.catalogue.document["loci"] if row.get("name")],
        "looks": look_choices(overlaid.catalogue),
        "strengths": STRENGTH_CHOICES,
        "inheritances": INHERITANCE_CHOICES,
        "rows": typed_rows(sent),
        "wrong": wrong,
        "typed": {sent.get("kind", ""): sent, "another": request.GET.get("another", "")[:40]},
        "here": "reference",
    }
    return render(request, "reference/opinions.html", context, status=422 if wrong else 200)


@require_POST
def hold(request: CollectionRequest) -> HttpResponse:
    """Adds one opinion."""
    try:
        value = opinion_from(catalogue_of(request.collection), request.POST)
        add_override(request.collection, request.member, value)
    except Unfit as trouble:
        return overrides(request, f"{trouble} Nothing was changed; what you typed stands below.", request)
    return redirect("opinions")


@require_POST
def hold_by_name(request: CollectionRequest) -> HttpResponse:
    """Adds a word of an entry line as an own gene of which nothing more is known; the line is read anew."""
    word = " ".join(request.POST.get("word", "").split())[:40]
    try:
        add_override(request.collection, request.member, named_only(word))
    except Unfit as trouble:
        return HttpResponse(f'<p class="odd" role="alert">{escape(str(trouble))}</p>', status=422)
    query = urlencode({"line": request.POST.get("line", "")[:400]})
    return redirect(f"{reverse('line')}?{query}")


@require_POST
def withdraw(request: CollectionRequest, opinion_id: int) -> HttpResponse:
    """Takes one opinion back."""
    withdraw_override(get_object_or_404(request.collection.overrides, pk=opinion_id, withdrawn_at=None))
    return redirect("opinions")


def export(request: CollectionRequest) -> HttpResponse:
    """The layer in the open format, to keep or to give away."""
    text = json.dumps(layer_of(request.collection), indent=2, ensure_ascii=False)
    answer = HttpResponse(text, content_type="application/json")
    answer["Content-Disposition"] = 'attachment; filename="eyot-overlay.json"'
    return answer
