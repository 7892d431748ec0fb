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
from eyot_core.photo.light import CARDS, CHART, NoLight

from eyot.collection.middleware import CollectionRequest
from eyot.photos import actions
from eyot.photos.models import Photo
from eyot.photos.queries import photo_of

MOST_STROKES = 400


@require_POST
def light(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """A card or a chart is marked, light is borrowed, or the correction is taken back; with what went wrong."""
    photo = photo_of(request.collection, photo_id)
    card = request.POST.get("card", "")
    with actions.kept_as_change(photo, request.member, "light", timezone.now()):
        trouble = "" if card else _done(actions.forget_light, photo)
        if card == "borrowed":
            trouble = _reason(actions.borrow_light(photo))
        elif card:
            trouble = _marked(photo, request.POST, card)
    return _back(request, photo, trouble and f"The light was not corrected: {trouble}. The photo stays as it is.")


def _done(change: Callable[[Photo], None], photo: Photo) -> str:
    change(photo)
    return ""


def _reason(found: NoLight | None) -> str:
    return "" if found is None else found.reason


def _marked(photo: Photo, sent: QueryDict, card: str) -> str:
    try:
        if card == CHART:
            corners = [[float(number) for number in place.split(",")] for place in sent.get("corners", "").split()]
            return _reason(actions.mark_chart(photo, corners))
        if card not in CARDS:
            return f"mark one of {', '.join([*CARDS, CHART])}"
        return _reason(actions.mark_light(photo, float(sent.get("x", "")), float(sent.get("y", "")), card))
    except ValueError:
        return "point at the card in the photo"


@require_POST
def line(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The line along the back is kept, and the strip is ordered; or the line is taken away."""
    photo = photo_of(request.collection, photo_id)
    if "forget" in request.POST:
        with actions.kept_as_change(photo, request.member, "line", timezone.now()):
            actions.forget_line(photo)
        return _back(request, photo, "")
    try:
        points = points_from(request.POST.get("points", ""))
        start, end = (float(request.POST.get(key) or default) for key, default in (("from", 0.0), ("to", 1.0)))
    except ValueError:
        return _back(request, photo, "The line was not understood: each point is two numbers. Nothing was changed.")
    with actions.kept_as_change(photo, request.member, "line", timezone.now()):
        found = actions.draw_line(photo, points, start, end)
    return _back(request, photo, found.reason[:1].upper() + found.reason[1:] + "." if found is not None else "")


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
def kind(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """What a photo shows."""
    photo = photo_of(request.collection, photo_id)
    wanted = request.POST.get("kind", "")
    if wanted not in Photo.Kind.values:
        return _back(request, photo, f"A photo shows one of {', '.join(Photo.Kind.values)}. Nothing was changed.")
    with actions.kept_as_change(photo, request.member, "kind", timezone.now()):
        actions.set_kind(photo, wanted)
    return _back(request, photo, "")


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


@require_POST
def again(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """What could not be made is ordered once more."""
    photo = photo_of(request.collection, photo_id)
    actions.try_again(photo)
    return _back(request, photo, "")


def _back(request: CollectionRequest, photo: Photo, trouble: str) -> HttpResponse:
    """To the page that the change was made on: the strip's, or the bench with this photo."""
    if trouble:
        messages.error(request, trouble)
    if request.POST.get("from_page") == "strip":
        return redirect("strip-page", photo.pk)
    return redirect(f"{reverse('bench', args=[photo.egg.clutch.code, photo.egg.number])}?photo={photo.pk}")
