"""The strip's page: a line drawn along the back, its quick preview, what was made of it."""

from __future__ import annotations

import io
from uuid import UUID

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST
from PIL import Image

from eyot_core.photo.frame import is_framed
from eyot_core.photo.spine import BadLine

from eyot.collection.middleware import CollectionRequest
from eyot.photos import actions
from eyot.photos.models import Photo
from eyot.photos.preview import quick_strip
from eyot.photos.queries import Progress, latest_strips, measure_rows, other_on_card, photo_of, progress_of
from eyot.photos.views.marking import line_sent


def strip_page(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The photo with its line, and the strip with its measures."""
    photo = photo_of(request.collection, photo_id)
    line = photo.line or {"points": [], "from": 0.0, "to": 1.0}
    progress = progress_of([photo])
    context = {
        "photo": photo,
        "can_be_drawn_on": _can_be_drawn_on(photo, progress),
        "egg": photo.egg,
        "clutch": photo.egg.clutch,
        "points": " ".join(f"{x:g},{y:g}" for x, y in line["points"]),
        "outline": " ".join(f"{x:g},{y:g}" for x, y in photo.outline),
        "start": line.get("from", 0.0),
        "end": line.get("to", 1.0),
        "framed": is_framed(photo.kind, len(line["points"])),
        "kinds": Photo.Kind.choices,
        "lender": actions.lender(photo),
        "on_card": other_on_card(photo),
        "progress": progress,
        "rows": measure_rows(photo, latest_strips(photo.egg.clutch, photo.stage)) if photo.measures else [],
        "siblings": Photo.objects.filter(egg=photo.egg).exclude(pk=photo.pk),
    }
    return render(request, "photos/strip.html", context)


def _can_be_drawn_on(photo: Photo, progress: Progress) -> bool:
    """Is there something to draw on, and is nobody looking for the line who would get in the way?"""
    return photo.has_sizes and not (photo.is_sought and progress.is_under_way)


def ready(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """Asks again until there is something to draw on; then the page is asked to show itself anew."""
    photo = photo_of(request.collection, photo_id)
    if _can_be_drawn_on(photo, progress_of([photo])):
        return HttpResponse(headers={"HX-Refresh": "true"})
    return render(request, "photos/parts/preparing.html", {"photo": photo})


@require_POST
def preview(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The quick strip of a line that is still being drawn, WebP; 422 with the reason where it is none yet."""
    photo = photo_of(request.collection, photo_id)
    try:
        points, start, end = line_sent(request.POST)
    except ValueError:
        return HttpResponse("each point is two numbers", status=422, content_type="text/plain")
    strip = quick_strip(photo, points or [], start, end)
    if isinstance(strip, BadLine):
        return HttpResponse(strip.reason, status=422, content_type="text/plain")
    held = io.BytesIO()
    Image.fromarray(strip).save(held, "WEBP", quality=80, method=0)
    return HttpResponse(held.getvalue(), content_type="image/webp")
