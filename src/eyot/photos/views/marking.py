"""What is marked in a photo: its light, its line, its outline, what it shows."""

from __future__ import annotations

import json
from collections.abc import Callable
from uuid import UUID

import numpy as np
from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from eyot_core.photo.brush import Stroke
from eyot_core.photo.light import CARDS

from eyot.collection.middleware import CollectionRequest
from eyot.photos import actions
from eyot.photos.models import Photo
from eyot.photos.queries import photo_of
from eyot.photos.tasks import order_waiting
from eyot.season.models import Egg
from eyot.shared.refusal import Refused

MOST_STROKES = 400
LONGEST_NUMBER = 10


@require_POST
def light(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """A card or a chart is marked, light is borrowed, or the correction is taken back; with what went wrong."""
    photo, sent = photo_of(request.collection, photo_id), request.POST
    card = sent.get("card", "")
    try:
        place = (float(sent.get("x", "")), float(sent.get("y", ""))) if card in CARDS else (-1.0, -1.0)
        corners = [[float(number) for number in place.split(",")] for place in sent.get("corners", "").split()]
    except ValueError:
        return _back(
            request, photo, "The light was not corrected: point at the card in the photo. The photo stays as it is."
        )
    message = actions.change_light(photo, request.member, card, timezone.now(), place=place, corners=corners)
    trouble = "" if message is None else f"The light was not corrected: {message.reason}. The photo stays as it is."
    return _back(request, photo, trouble)


@require_POST
def line(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The line along the back is kept, and the strip is ordered; or the line is taken away."""
    photo = photo_of(request.collection, photo_id)
    try:
        points, start, end = line_sent(request.POST)
    except ValueError:
        return _back(request, photo, "The line was not understood: each point is two numbers. Nothing was changed.")
    message = actions.change_line(photo, request.member, points, start, end, timezone.now())
    return _back(request, photo, message.reason[:1].upper() + message.reason[1:] + "." if message is not None else "")


def changing(change: Callable[[CollectionRequest, Photo], None]) -> Callable[[CollectionRequest, UUID], HttpResponse]:
    """A view that carries out a change of a photo, and goes back to where it was asked for, with what was refused."""

    @require_POST
    def view(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
        photo = photo_of(request.collection, photo_id)
        try:
            change(request, photo)
        except Refused as reason:
            return _back(request, photo, str(reason))
        return _back(request, photo, "")

    return view


@changing
def line_right(request: CollectionRequest, photo: Photo) -> None:
    """A line that was found is confirmed."""
    actions.confirm_line(photo, request.member, timezone.now())


@changing
def whose(request: CollectionRequest, photo: Photo) -> None:
    """Whose photo it is, where its card says another."""
    number = request.POST.get("egg", "")
    eggs = Egg.objects.filter(clutch__collection=request.collection).select_related("clutch")
    egg = eggs.filter(pk=int(number)).first() if number.isdecimal() and len(number) < LONGEST_NUMBER else None
    if egg is None:
        raise Refused("That hatchling is not here. The photo stays where it is.")
    actions.settle_whose(photo, request.member, egg, timezone.now())


@changing
def kind(request: CollectionRequest, photo: Photo) -> None:
    """What a photo shows."""
    actions.change_kind(photo, request.member, request.POST.get("kind", ""), timezone.now())


@changing
def again(request: CollectionRequest, photo: Photo) -> None:
    """What could not be made is ordered once more."""
    order_waiting(photo)


def line_sent(sent: QueryDict) -> tuple[list[list[float]] | None, float, float]:
    """The points of a line, none where it is to be taken away, and where on the body it begins and ends. ValueError for anything else."""
    points = None if "forget" in sent else points_from(sent.get("points", ""))
    return points, float(sent.get("from") or 0), float(sent.get("to") or 1)


def points_from(text: str) -> list[list[float]]:
    """Points from "x,y x,y …"; ValueError where a point is no pair of finite numbers."""
    points = [[float(number) for number in place.split(",")] for place in text.split()]
    if any(len(point) != 2 or not np.isfinite(point).all() for point in points):
        raise ValueError("each point is two numbers")
    return points


@require_POST
def brush(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """Brush strokes correct the outline, on top of those from before; or all brushing is taken back."""
    photo = photo_of(request.collection, photo_id)
    if "forget" in request.POST:
        actions.forget_brush(photo)
        return _back(request, photo, "")
    try:
        strokes = [_stroke(photo, entry) for entry in json.loads(request.POST.get("strokes", ""))[:MOST_STROKES]]
        actions.brush_outline(photo, strokes)
    except (ValueError, TypeError, KeyError, IndexError):
        return _back(request, photo, "The brush strokes were not understood. The outline stays as it was.")
    return _back(request, photo, "")


def _stroke(photo: Photo, entry: dict[str, object]) -> Stroke:
    radius = min(max(float(str(entry["radius"])), 1.0), photo.width / 4)
    return Stroke(int(str(entry["sign"])) > 0, radius, np.array(points_from(str(entry["points"]))))


@require_POST
def away(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """A photo is taken away."""
    photo = photo_of(request.collection, photo_id)
    actions.take_away(photo, request.member, timezone.now())
    messages.success(
        request,
        "The photo was taken away. It comes back with all that was marked in it by taking that back under Changes.",
    )
    return redirect("bench", photo.egg.clutch.code, photo.egg.number)


def _back(request: CollectionRequest, photo: Photo, trouble: str) -> HttpResponse:
    """To the page that the change was made on: the strip's, the line-up, or the bench with this photo."""
    if trouble:
        messages.error(request, trouble)
    if request.POST.get("from_page") == "strip":
        return redirect("strip-page", photo.pk)
    if request.POST.get("from_page") == "line-up":
        return redirect("line-up", photo.egg.clutch.code)
    return redirect(f"{reverse('bench', args=[photo.egg.clutch.code, photo.egg.number])}?photo={photo.pk}")
