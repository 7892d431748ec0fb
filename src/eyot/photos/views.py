"""Serving pictures to members only, and their light."""

from __future__ import annotations

import re
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.http import FileResponse, Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from eyot_core.photo.light import CARDS

from eyot.collection.middleware import CollectionRequest
from eyot.photos.actions import forget_light, mark_light
from eyot.photos.files import SIZES
from eyot.photos.models import Photo

SIZE = re.compile(rf"({'|'.join(SIZES)})(-lit)?\d*")


def _photo(request: CollectionRequest, photo_id: UUID) -> Photo:
    photos = Photo.objects.filter(egg__clutch__collection=request.collection).select_related("egg__clutch")
    return get_object_or_404(photos, pk=photo_id)


def photo_file(request: CollectionRequest, photo_id: UUID, size: str) -> HttpResponseBase:
    """One size of one photo, as it was taken or in its corrected light; 404 for another collection's."""
    photo, named = _photo(request, photo_id), SIZE.fullmatch(size)
    path = Path(settings.MEDIA_ROOT) / photo.folder / f"{named[1]}{named[2] or ''}.jpg" if named else None
    if path is None or not path.is_file():
        raise Http404
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


@require_POST
def light(request: CollectionRequest, photo_id: UUID) -> HttpResponse:
    """A card is marked in the photo, or the correction is taken back; back to the bench with what went wrong."""
    photo = _photo(request, photo_id)
    card = request.POST.get("card", "")
    if card == "":
        forget_light(photo)
    elif trouble := _marked(photo, request.POST.get("x", ""), request.POST.get("y", ""), card):
        request.session["photo_troubles"] = [f"The light was not corrected: {trouble}. The photo stays as it is."]
    egg = photo.egg
    return redirect(f"{reverse('bench', args=[egg.clutch.code, egg.number])}?photo={photo.pk}")


def _marked(photo: Photo, x: str, y: str, card: str) -> str:
    if card not in CARDS:
        return f"mark one of {', '.join(CARDS)}"
    try:
        found = mark_light(photo, float(x), float(y), card)
    except ValueError:
        return "point at the card in the photo"
    return "" if found is None else found.reason
