"""Serving pictures: to members, and to those whom they invited."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import cast
from uuid import UUID

from csp.constants import UNSAFE_INLINE
from csp.decorators import csp_update
from django.http import FileResponse, Http404
from django.http.response import HttpResponseBase

from eyot_core.body_places import BY_ID
from eyot_core.photo.window import shows

from eyot.collection.middleware import CollectionRequest
from eyot.photos import files
from eyot.photos.models import Photo
from eyot.photos.processing import keep_windows
from eyot.photos.queries import photo_of

SIZE = re.compile(rf"({'|'.join(files.SIZES)})-\d+")
STRIP = re.compile(r"(strip|spoilt)-\d+")
WINDOW = re.compile(rf"({'|'.join(map(files.window_name, BY_ID))})-\d+")

Serve = Callable[[str, str, re.Pattern[str], str, str], HttpResponseBase]
styled_by_the_browser = cast(Callable[[Serve], Serve], csp_update({"style-src": UNSAFE_INLINE}))
"""A photo opened by itself stands in a page that the browser makes; its own styles there fit it to the window."""


def photo_file(request: CollectionRequest, photo_id: UUID, size: str) -> HttpResponseBase:
    """One version of one size of a photo; 404 for another collection's."""
    return sized(photo_of(request.collection, photo_id), size)


def sized(photo: Photo, size: str) -> HttpResponseBase:
    """One version of one size of a photo that the reader may see."""
    return size_in(photo.folder, size)


def size_in(folder: str, size: str) -> HttpResponseBase:
    """One version of one size of the photo whose files lie in a folder."""
    return _file(folder, size, SIZE, "jpg", "image/jpeg")


def strip_file(request: CollectionRequest, photo_id: UUID, size: str) -> HttpResponseBase:
    """One version of the strip or the crop of a photo; 404 for another collection's."""
    return _file(photo_of(request.collection, photo_id).folder, size, STRIP, "png", "image/png")


def place_file(request: CollectionRequest, photo_id: UUID, place: str, version: int) -> HttpResponseBase:
    """What a photo shows at a place on the body, head to the left; 404 where it shows no such place. Photos whose strips were made before
    there were such pictures get them now, all places at once."""
    photo = photo_of(request.collection, photo_id)
    if place not in BY_ID or version != photo.strip_done or not shows(photo.line, photo.kind, BY_ID[place]):
        raise Http404
    name = f"{files.window_name(place)}-{version}"
    if not files.store().exists(f"{photo.folder}/{name}.jpg"):
        keep_windows(photo, files.original(photo.folder), version)
    return _file(photo.folder, name, WINDOW, "jpg", "image/jpeg")


@styled_by_the_browser
def _file(folder: str, name: str, known: re.Pattern[str], ending: str, kind: str) -> HttpResponseBase:
    if not known.fullmatch(name):
        raise Http404
    try:
        file = files.opened(folder, f"{name}.{ending}")
    except FileNotFoundError:
        raise Http404 from None
    answer = FileResponse(file, content_type=kind)
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
