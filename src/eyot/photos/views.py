"""Serving pictures to members only."""

from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.http import FileResponse, Http404
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404

from eyot.collection.middleware import CollectionRequest
from eyot.photos.files import SIZES
from eyot.photos.models import Photo


def photo_file(request: CollectionRequest, photo_id: UUID, size: str) -> HttpResponseBase:
    """One size of one photo; 404 for another collection's."""
    photo = get_object_or_404(
        Photo.objects.select_related("egg__clutch"), pk=photo_id, egg__clutch__collection=request.collection
    )
    path = Path(settings.MEDIA_ROOT) / photo.folder / f"{size}.jpg"
    if size not in SIZES or not path.is_file():
        raise Http404
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
