"""The strip's page: a line drawn along the back, its quick preview, what was made of it."""

from __future__ import annotations

import io
from uuid import UUID

import numpy as np
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST
from PIL import Image

from eyot_core.photo.frame import FRAMES, framed
from eyot_core.photo.spine import BadLine, line_from
from eyot_core.photo.strip import preview_of

from eyot.collection.middleware import CollectionRequest
from eyot.photos import actions, files
from eyot.photos.models import Photo
from eyot.photos.queries import latest_strips, measure_rows, photo_of, progress_of
from eyot.photos.views.marking import points_from


def strip_page(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The photo with its line, and the strip with its measures."""
    photo = photo_of(request.collection, photo_id)
    line = photo.line or {"points": [], "from": 0.0, "to": 1.0}
    context = {
        "photo": photo,
        "egg": photo.egg,
        "clutch": photo.egg.clutch,
        "points": " ".join(f"{x:g},{y:g}" for x, y in line["points"]),
        "outline": " ".join(f"{x:g},{y:g}" for x, y in photo.outline),
        "start": line.get("from", 0.0),
        "end": line.get("to", 1.0),
        "framed": photo.kind in FRAMES,
        "kinds": Photo.Kind.choices,
        "lender": actions.lender(photo),
        "progress": progress_of([photo]),
        "rows": measure_rows(photo, latest_strips(photo.egg.clutch, photo.stage)) if photo.measures else [],
        "siblings": Photo.objects.filter(egg=photo.egg).exclude(pk=photo.pk),
    }
    return render(request, "photos/strip.html", context)


def ready(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """Asks again until there is something to draw on; then the page is asked to show itself anew."""
    photo = photo_of(request.collection, photo_id)
    if photo.has_sizes:
        return HttpResponse(headers={"HX-Refresh": "true"})
    return render(request, "photos/parts/preparing.html", {"photo": photo})


@require_POST
def preview(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """The quick strip of a line that is still being drawn, WebP; 422 with the reason where it is none yet."""
    photo = photo_of(request.collection, photo_id)
    try:
        points = points_from(request.POST.get("points", ""))
        start, end = float(request.POST.get("from") or 0), float(request.POST.get("to") or 1)
    except ValueError:
        return HttpResponse("each point is two numbers", status=422, content_type="text/plain")
    found = _quick(photo, points, start, end)
    if isinstance(found, BadLine):
        return HttpResponse(found.reason, status=422, content_type="text/plain")
    held = io.BytesIO()
    Image.fromarray(found).save(held, "WEBP", quality=80, method=0)
    return HttpResponse(held.getvalue(), content_type="image/webp")


def _quick(photo: Photo, points: list[list[float]], start: float, end: float) -> files.Pixels | BadLine:
    """Works on the size of a page, which is in its light already."""
    try:
        with files.opened(photo.folder, f"{photo.page}.jpg") as file, Image.open(file) as image:
            pixels = np.asarray(image.convert("RGB"))
    except FileNotFoundError:
        return BadLine("the photo is still being prepared")
    factor = pixels.shape[1] / photo.width
    if photo.kind in FRAMES:
        ends = np.array(points).reshape(-1, 2) * factor
        return framed(pixels, ends, photo.kind) if len(ends) > 1 else BadLine("mark two places")
    line = line_from(np.array(points).reshape(-1, 2), photo.width, photo.height, start, end)
    return line if isinstance(line, BadLine) else preview_of(pixels, line.scaled(factor))
